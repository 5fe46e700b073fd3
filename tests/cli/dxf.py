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
# Where plies end, in space: the same curves as in JSON.
for name, per_mm in (("rudder", 1.0), ("skiff", 1.0)):
    part = os.path.join(source, f"examples/{name}/{name}.toml")
    ends = os.path.join(out, name + "-ends.dxf")
    run = subprocess.run([program, "ramps", part, "--lines", ends, "--json"], capture_output=True, text=True)
    assert run.returncode == 0, run.stderr
    told = json.loads(run.stdout)["lines"]
    drawing = ezdxf.readfile(ends)
    assert not drawing.audit().has_errors, ends
    lines = list(drawing.modelspace().query("POLYLINE"))
    words = [text.dxf.text for text in drawing.modelspace().query("TEXT")]
    assert len(lines) == len(told) == len(words) > 5
    plies = [ply["ply"] for ply in json.loads(subprocess.run([program, "plies", part, "--json"], capture_output=True, text=True).stdout)["plies"]]
    for line, one, word in zip(lines, told, words):
        assert line.is_3d_polyline and line.is_closed == one["closed"]
        assert line.dxf.layer == f"PLY-{plies.index(one['ply']) + 1}", (line.dxf.layer, one["ply"])
        points = [tuple(v.dxf.location) for v in line.vertices]
        assert len(points) == len(one["points"])
        for a, b in zip(points, one["points"]):
            assert all(abs(x - per_mm * y) < 1e-4 for x, y in zip(a, b)), (a, b)
        around = points + points[:1] if one["closed"] else points
        length = sum(sum((x - y) ** 2 for x, y in zip(a, b)) ** 0.5 for a, b in zip(around, around[1:]))
        assert abs(length / one["length"] - 1.0) < 1e-3
        assert word.split(",")[0] == one["ply"]
        for at in one["ramps"]:
            assert f"{at['ramp']} {at['line']}" in word
print("the drawings hold", *(len(plies) for plies in drawn.values()), "plies")
