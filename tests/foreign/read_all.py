#!/usr/bin/python3
"""Reads meshes that nobody here wrote: the CalculiX test suite and the tutorials of the mesher Gmsh, from Debian's packages.

    apt-get install -y --no-install-recommends calculix-ccx-test gmsh gmsh-doc python3-meshio
    tests/foreign/read_all.py build/release/bordado [FOLDER]

The tutorials are meshed and saved in every format that Gmsh writes and Bordado reads, orders 1 to 3, in FOLDER (made where it is not
there; a temporary one without). Each file goes through `bordado surface --json`; its area and its shells are compared with those that meshio,
an independent reader, finds in it. Prints a line for every file that does not agree, and counts by format. Nothing here is kept in the
repository."""
import collections, contextlib, glob, gzip, io, json, os, re, shutil, subprocess, sys, tempfile

import meshio
import numpy as np

program = os.path.abspath(sys.argv[1])
folder = sys.argv[2] if len(sys.argv) > 2 else tempfile.mkdtemp()
SHELLS = {"triangle": 3, "quad": 4, "triangle6": 3, "quad8": 4, "quad9": 4, "triangle10": 3, "quad16": 4, "triangle7": 3}
FORMATS = {"msh1": "msh", "msh2": "msh", "msh22": "msh", "msh3": "msh", "msh40": "msh", "msh41": "msh", "inp": "inp", "bdf": "bdf", "vtk": "vtk", "stl": "stl"}


def fetch():
    """All files, by the name of their format."""
    os.makedirs(folder, exist_ok=True)
    files = collections.defaultdict(list)
    for path in sorted(glob.glob("/usr/share/doc/calculix-ccx-test/examples/**/*.inp*", recursive=True)):
        target = os.path.join(folder, os.path.basename(path).removesuffix(".gz"))
        with (gzip.open if path.endswith(".gz") else open)(path, "rb") as source, open(target, "wb") as out:
            shutil.copyfileobj(source, out)
        files["keywords, CalculiX suite"].append(target)
    for geo in sorted(glob.glob("/usr/share/doc/gmsh*/**/*.geo*", recursive=True)):
        stem = os.path.basename(geo).split(".")[0]
        text = gzip.open(geo, "rt", errors="replace").read() if geo.endswith(".gz") else open(geo, errors="replace").read()
        if re.search(r"^\s*(Merge|Include|Plugin)", text, re.M):
            continue
        own = os.path.join(folder, stem + ".geo")
        open(own, "w").write(text)
        for name, ending in FORMATS.items():
            for order in (1, 2, 3) if name in ("msh22", "msh41") else (1, 2) if name in ("inp", "bdf", "msh40") else (1,):
                for binary in (0, 1) if name in ("msh22", "msh40", "msh41", "stl", "vtk") else (0,):
                    out = os.path.join(folder, f"{stem}-{name}-{order}{'b' if binary else ''}.{ending}")
                    if not os.path.exists(out) and not os.path.exists(out + ".none"):
                        call = ["gmsh", own, "-2", "-nopopup", "-v", "0", "-order", str(order), "-format", name, "-o", out] + (["-bin"] if binary else [])
                        with contextlib.suppress(subprocess.TimeoutExpired):
                            subprocess.run(call, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, timeout=20)
                    if not os.path.exists(out):
                        open(out + ".none", "w").close()  # meshing it failed or took too long: not tried again
                    if os.path.exists(out) and os.path.getsize(out) < 30_000_000:
                        files[name].append(out)
    return files


def area_of(points, corners):
    p = points[corners]
    if corners.shape[1] == 3:
        return 0.5 * np.linalg.norm(np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]), axis=1).sum()
    a, w = 1 / np.sqrt(3), 0.0
    for xi in (-a, a):
        for eta in (-a, a):
            dx = 0.25 * ((p[:, 1] - p[:, 0]) * (1 - eta) + (p[:, 2] - p[:, 3]) * (1 + eta))
            dy = 0.25 * ((p[:, 3] - p[:, 0]) * (1 - xi) + (p[:, 2] - p[:, 1]) * (1 + xi))
            w += np.linalg.norm(np.cross(dx, dy), axis=1).sum()
    return w


def independent(path):
    """Shells and their area by corners, or nothing where meshio cannot read the file."""
    try:
        with contextlib.redirect_stdout(io.StringIO()), contextlib.redirect_stderr(io.StringIO()):
            mesh = meshio.read(path)
    except BaseException:
        return None
    if mesh.points.ndim != 2:
        return None
    points = mesh.points if mesh.points.shape[1] == 3 else np.pad(mesh.points, ((0, 0), (0, 1)))
    count, area = 0, 0.0
    for block in mesh.cells:
        if block.type in SHELLS and len(block.data):
            corners = block.data[:, : SHELLS[block.type]]
            if corners.max() >= len(points):
                return None
            count += len(block.data)
            area += area_of(points, corners)
    return count, area


def main():
    tally = collections.defaultdict(collections.Counter)
    for name, files in fetch().items():
        for path in files:
            run = subprocess.run([program, "surface", path, "--json"], capture_output=True, text=True, timeout=120)
            try:
                answer = json.loads(run.stdout)
            except ValueError:
                answer = None
            if run.returncode not in (0, 1) or answer is None:
                tally[name]["CRASHED"] += 1
                print(f"{path}: ended with {run.returncode}: {run.stderr[:200]}")
                continue
            theirs = independent(path)
            if theirs is None or theirs[0] == 0:  # meshio does not read this kind: the same mesh in a format that it reads
                theirs = independent(re.sub(r"-[a-z0-9]+-(\d)b?\.[a-z]+$", r"-msh41-\1.msh", path)) if re.search(r"-\d", path) else theirs
            if run.returncode == 1:
                codes = {finding["code"] for finding in answer["findings"] if finding["severity"] == "error"}
                if codes == {"mesh.no-shells"} or (theirs and theirs[0] == 0):
                    tally[name]["no shells in it"] += 1
                else:
                    tally[name]["refused"] += 1
                    print(f"{path}: refused: {[f['what'] for f in answer['findings'] if f['severity'] == 'error'][0][:150]}")
                continue
            shells = answer["triangles"] + answer["quadrilaterals"]
            if theirs is None or theirs[0] == 0:
                tally[name]["read, no independent answer"] += 1
            elif abs(answer["area"] - theirs[1]) <= (0.05 if answer["quadratic"] else 1e-4 if path.endswith(".bdf") else 1e-6) * max(theirs[1], 1e-300):
                tally[name]["read, area agrees"] += 1
            else:
                tally[name]["DIFFERS"] += 1
                print(f"{path}: {shells} shells of area {answer['area']:.6g}; meshio has {theirs[0]} of {theirs[1]:.6g}")
    columns = ["read, area agrees", "read, no independent answer", "no shells in it", "refused", "DIFFERS", "CRASHED"]
    print(f"\n{'format':28}" + "".join(f"{column:>30}" for column in columns))
    for name, counts in tally.items():
        print(f"{name:28}" + "".join(f"{counts[column]:>30}" for column in columns))
    return 1 if any(counts["CRASHED"] for counts in tally.values()) else 0


sys.exit(main())
