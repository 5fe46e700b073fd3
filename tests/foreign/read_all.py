#!/usr/bin/python3
"""Reads meshes that nobody here wrote: the CalculiX test suite and the tutorials of the mesher Gmsh, from Debian's packages.

    ./run foreign                                        all of them; what was refused, and why
    tests/foreign/read_all.py PROGRAM --sample 100       a fixed sample, as ./run test takes
    tests/foreign/read_all.py PROGRAM --folder FOLDER    keeps the meshes there

The tutorials are meshed and saved in every format that Gmsh writes and Bordado reads, orders 1 to 3. Each file goes through
`bordado surface --json`; its area and its shells are compared with those that meshio, an independent reader, finds in it, quadratic ones
integrated here over their curved faces. Prints a line for every file that does not agree or is refused, and counts by format; fails where
one does not agree or the program crashes. Nothing here is kept in the repository."""
import argparse, collections, contextlib, glob, gzip, io, json, os, re, shutil, subprocess, sys, tempfile
from concurrent.futures import ThreadPoolExecutor

import meshio
import numpy as np

arguments = argparse.ArgumentParser()
arguments.add_argument("program")
arguments.add_argument("--sample", type=int, default=0)
arguments.add_argument("--folder")
chosen = arguments.parse_args()
program = os.path.abspath(chosen.program)
folder = chosen.folder or tempfile.mkdtemp()
SHELLS = {"triangle": 3, "quad": 4, "triangle6": 6, "quad8": 8, "quad9": 8, "triangle10": 3, "quad16": 4, "triangle7": 6}  # nodes that are kept
FORMATS = {"msh1": "msh", "msh2": "msh", "msh22": "msh", "msh3": "msh", "msh40": "msh", "msh41": "msh", "inp": "inp", "bdf": "bdf", "vtk": "vtk", "stl": "stl"}


def unpacked(path):
    target = os.path.join(folder, os.path.basename(path).removesuffix(".gz"))
    with (gzip.open if path.endswith(".gz") else open)(path, "rb") as source, open(target, "wb") as out:
        shutil.copyfileobj(source, out)
    return target


def variants(name):
    """Orders and ways of writing of a format."""
    orders = (1, 2, 3) if name in ("msh22", "msh41") else (1, 2) if name in ("inp", "bdf", "msh3", "msh40") else (1,)
    return [(order, binary) for order in orders for binary in ((0, 1) if name in ("msh22", "msh3", "msh40", "msh41", "stl", "vtk") else (0,))]


def meshed(call):
    """Meshed once for each order; from that mesh all other formats."""
    geo, out, name, order, binary = call
    base = re.sub(r"-[a-z0-9]+-(\d)b?\.[a-z]+$", r"-msh41-\1.msh", out)
    if not os.path.exists(out) and not os.path.exists(out + ".none"):
        begins = [geo, "-2", "-order", str(order)] if out == base else [base, "-save"]
        command = ["gmsh", *begins, "-nopopup", "-v", "0", "-format", name, "-o", out] + (["-bin"] if binary else [])
        with contextlib.suppress(subprocess.TimeoutExpired):
            if out == base or os.path.exists(base):
                subprocess.run(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, timeout=20)
        if not os.path.exists(out):
            open(out + ".none", "w").close()  # meshing it failed or took too long: not tried again
    return name, out


def every(items, count):
    """So many of them, evenly over the list."""
    return items if count <= 0 or len(items) <= count else [items[i * len(items) // count] for i in range(count)]


def fetch():
    """All files, or a sample, half of each source, by the name of their format."""
    os.makedirs(folder, exist_ok=True)
    files = collections.defaultdict(list)
    suite = sorted(glob.glob("/usr/share/doc/calculix-ccx-test/examples/**/*.inp*", recursive=True))
    tutorials = sorted(glob.glob("/usr/share/doc/gmsh*/**/*.geo*", recursive=True))
    if not suite or not tutorials or not shutil.which("gmsh"):
        sys.exit("install calculix-ccx-test, gmsh and gmsh-doc: ./run test and ./run foreign do")
    def has_shells(path):  # most of the suite are solids
        return re.search(rb"TYPE\s*=\s*(S[3468]|M3D|CPS|CPE)", (gzip.open if path.endswith(".gz") else open)(path, "rb").read(), re.I)

    if chosen.sample:
        suite = [path for path in suite if has_shells(path)]
    for path in every(suite, chosen.sample // 2):
        files["keywords, CalculiX suite"].append(unpacked(path))
    calls = []
    for geo in tutorials:
        text = (gzip.open if geo.endswith(".gz") else open)(geo, "rt", errors="replace").read()
        # Of a sample those that are meshed at once.
        if re.search(r"^\s*(Merge|Include|Plugin)", text, re.M) or (chosen.sample and not re.fullmatch(r"t([1-6]|1[0-2])\.geo(\.gz)?", os.path.basename(geo))):
            continue
        own = unpacked(geo)
        stem = os.path.basename(own).split(".")[0]
        for name, ending in FORMATS.items():
            for order, binary in variants(name):
                calls.append((own, os.path.join(folder, f"{stem}-{name}-{order}{'b' if binary else ''}.{ending}"), name, order, binary))
    # The same tutorial in a format that meshio reads stands in for those that it does not.
    reference = [c for c in calls if c[2] == "msh41" and not c[4]]
    picked = every(calls, max(chosen.sample - len(files["keywords, CalculiX suite"]), 0))
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        list(pool.map(meshed, [c for c in reference if any(c[0] == p[0] and c[3] == p[3] for p in picked)]))
        for name, out in pool.map(meshed, picked):
            if os.path.exists(out) and 0 < os.path.getsize(out) < 30_000_000:
                files[name].append(out)
    return files


def shapes(nodes, xi, eta):
    """Derivatives of the shape functions of triangles (0 to 1) and quadrilaterals (-1 to 1), linear and of second order."""
    z = 1 - xi - eta
    if nodes == 3:
        return np.array([-1, 1, 0.0]), np.array([-1, 0, 1.0])
    if nodes == 6:
        return (np.array([1 - 4 * z, 4 * xi - 1, 0, 4 * (z - xi), 4 * eta, -4 * eta]),
                np.array([1 - 4 * z, 0, 4 * eta - 1, -4 * xi, 4 * xi, 4 * (z - eta)]))
    sx, sy = np.array([-1, 1, 1, -1]), np.array([-1, -1, 1, 1])
    if nodes == 4:
        return 0.25 * sx * (1 + sy * eta), 0.25 * sy * (1 + sx * xi)
    by_xi = np.concatenate([0.25 * sx * (1 + sy * eta) * (2 * sx * xi + sy * eta), [-xi * (1 - eta), 0.5 * (1 - eta**2), -xi * (1 + eta), -0.5 * (1 - eta**2)]])
    by_eta = np.concatenate([0.25 * sy * (1 + sx * xi) * (sx * xi + 2 * sy * eta), [-0.5 * (1 - xi**2), -eta * (1 + xi), 0.5 * (1 - xi**2), -eta * (1 - xi)]])
    return by_xi, by_eta


def straightened(points, cells):
    """Of second order by its corners where a middle node lies further from its edge than an arc would: half a circle goes half as far as it is long."""
    corners = 3 if cells.shape[1] == 6 else 4
    points = points.copy()
    for k in range(corners if cells.shape[1] > 4 else 0):
        a, b, middle = points[cells[:, k]], points[cells[:, (k + 1) % corners]], cells[:, corners + k]
        far = np.linalg.norm(points[middle] - 0.5 * (a + b), axis=1) > 0.75 * np.linalg.norm(b - a, axis=1)
        points[middle[far]] = 0.5 * (a + b)[far]
    return points


def area_of(points, cells):
    """By 2 x 2 points where sides are straight (what bilinear faces have in both programs), else by 12 x 12."""
    p, nodes = points[cells], cells.shape[1]
    # What runs the other way round than the corners counts against the rest.
    second, third = (p[:, 2] - p[:, 0], p[:, 3] - p[:, 1]) if nodes in (4, 8) else (p[:, 1] - p[:, 0], p[:, 2] - p[:, 0])
    normal = np.cross(second, third)
    places, weights = np.polynomial.legendre.leggauss(2 if nodes == 4 else 12)
    out = np.zeros(len(p))
    for u, wu in zip(places, weights):
        for v, wv in zip(places, weights):
            xi, eta, weight = u, v, wu * wv
            if nodes in (3, 6):  # a square folded onto a triangle
                xi, weight = 0.5 * (1 + u), wu * wv * 0.25 * (1 - 0.5 * (1 + u))
                eta = 0.5 * (1 + v) * (1 - xi)
            a, b = (np.einsum("i,eik->ek", d, p) for d in shapes(nodes, xi, eta))
            across = np.cross(a, b)
            out += weight * np.linalg.norm(across, axis=1) * np.where((across * normal).sum(axis=1) < 0, -1, 1)
    return np.abs(out).sum()


def of_keywords(path):
    """Shells of a deck and their area, read line by line; nothing where it generates or includes."""
    text = open(path, errors="replace").read()
    if re.search(r"^\*(INCLUDE|NGEN|NFILL|ELGEN|SYSTEM|NCOPY|ELCOPY|NMAP)|^\*NODE.*(SYSTEM|INPUT)", text, re.M | re.I):
        return None
    points, shells, block, nodes, row = {}, collections.defaultdict(list), None, 0, []
    for line in text.splitlines():
        line = line.strip()
        if not line or line.startswith("**"):
            continue
        if line.startswith("*"):
            words = [w.strip().upper() for w in line.split(",")]
            block = words[0][1:].strip()
            kind = next((w.split("=")[1].strip() for w in words if w.startswith("TYPE") and "=" in w), "")
            flat = re.fullmatch(r"(S|M3D|CPS|CPE)([3468])R?", kind)
            nodes, row = (int(flat[2]) if flat else 0), []
        elif block == "NODE":
            fields = [f.strip() for f in line.split(",")]
            points[int(fields[0])] = [float(f.upper().replace("D", "E")) if f else 0.0 for f in (fields[1:] + ["", "", ""])[:3]]
        elif block == "ELEMENT" and nodes:
            row += [int(f) for f in line.split(",") if f.strip()]
            if len(row) > nodes:
                shells[nodes].append(row[1:])
                row = []
    index = {name: i for i, name in enumerate(points)}
    if any(n not in index for rows in shells.values() for r in rows for n in r):
        return None
    places = np.array(list(points.values()))
    cells = [np.array([[index[n] for n in r] for r in rows]) for rows in shells.values()]
    return sum(map(len, cells)), sum(area_of(straightened(places, c), c) for c in cells)


def independent(path):
    """Shells and their area, or nothing where meshio cannot read the file."""
    try:
        with contextlib.redirect_stdout(io.StringIO()), contextlib.redirect_stderr(io.StringIO()):
            mesh = meshio.read(path)
    except BaseException:
        return None
    if mesh.points.ndim != 2:
        return None
    points = mesh.points if mesh.points.shape[1] == 3 else np.pad(mesh.points, ((0, 0), (0, 1)))
    count, area, known = 0, 0.0, {}
    groups = mesh.cell_data.get("gmsh:physical", [np.zeros(len(block.data), int) for block in mesh.cells])
    for block, group in zip(mesh.cells, groups):
        if block.type in SHELLS and len(block.data):
            corners = block.data[:, : SHELLS[block.type]]
            if corners.max() >= len(points):
                return None
            # An old format has an element again for each further group that it is in; here it is one. Without a group it is a twin.
            fresh = [g == 0 or known.setdefault(frozenset(row), g) == g for row, g in zip(corners.tolist(), group)]
            corners = corners[np.array(fresh)]
            if not len(corners):
                continue
            count += len(corners)
            area += area_of(straightened(points, corners), corners)
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
            theirs = of_keywords(path) if path.endswith(".inp") and name.startswith("keywords") else independent(path)
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
            elif abs(answer["area"] - theirs[1]) <= (2e-3 if answer["quadratic"] else 1e-4 if path.endswith(".bdf") else 1e-6) * theirs[1]:
                tally[name]["read, area agrees"] += 1
            else:
                tally[name]["DIFFERS"] += 1
                print(f"{path}: {shells} shells of area {answer['area']:.6g}; meshio has {theirs[0]} of {theirs[1]:.6g}")
    columns = ["read, area agrees", "read, no independent answer", "no shells in it", "refused", "DIFFERS", "CRASHED"]
    print(f"\n{'format':28}" + "".join(f"{column:>30}" for column in columns))
    for name, counts in tally.items():
        print(f"{name:28}" + "".join(f"{counts[column]:>30}" for column in columns))
    read = sum(counts["read, area agrees"] for counts in tally.values())
    if read < (chosen.sample or 200) // 4:
        print(f"only {read} files were read and agree: the sample tells nothing")
        return 1
    return 1 if any(counts["CRASHED"] or counts["DIFFERS"] for counts in tally.values()) else 0


sys.exit(main())
