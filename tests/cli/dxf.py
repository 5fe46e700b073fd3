"""The DXF files of bordado drape, opened by an independent reader (Debian's python3-ezdxf).

    dxf.py PROGRAM SOURCE-FOLDER
"""
import json, os, subprocess, sys, tempfile

import ezdxf

program, source = sys.argv[1:3]
out = tempfile.mkdtemp()
part = os.path.join(source, "examples/draped/draped.toml")
cut, rolls = os.path.join(out, "cut.dxf"), os.path.join(out, "rolls.dxf")


def drape(*choices):
    run = subprocess.run([program, "drape", part, *choices, "--json"], capture_output=True, text=True)
    assert run.returncode == 0, run.stderr
    return json.loads(run.stdout)["plies"]


drawn = {cut: drape("--patterns", cut), rolls: drape("--ply", "D1", "--rolls", rolls)}


def area(points):
    return 0.5 * sum(a[0] * b[1] - a[1] * b[0] for a, b in zip(points, points[1:] + points[:1]))


for path, plies in drawn.items():
    drawing = ezdxf.readfile(path)
    assert not drawing.audit().has_errors, path
    assert drawing.header["$INSUNITS"] == 4, "millimetres"
    space = drawing.modelspace()
    names = {layer.dxf.name for layer in drawing.layers}
    assert {"OUTLINE", "HOLE", "SEED", "ZERO", "NOTCH", "TEXT"} <= names, names
    outlines = space.query('POLYLINE[layer=="OUTLINE"]')
    assert len(outlines) >= len(plies)
    total = 0.0
    for line in [*outlines, *space.query('POLYLINE[layer=="HOLE"]')]:
        assert line.is_closed
        total += area([(v.dxf.location.x, v.dxf.location.y) for v in line.vertices])
    # All cloth that lies on the part, in square millimetres: the part's unit is the millimetre.
    wanted = sum(ply["cloth_area"] for ply in plies)
    assert abs(total / wanted - 1.0) < 0.01, (path, total, wanted)
    words = [text.dxf.text for text in space.query("TEXT")]
    for ply in plies:
        assert any(ply["ply"] in word for word in words), ply["ply"]
    assert len(space.query('POLYLINE[layer=="SEED"]')) >= 2
print("the drawings hold", *(len(plies) for plies in drawn.values()), "plies")
