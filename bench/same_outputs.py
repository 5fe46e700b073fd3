#!/usr/bin/env python3
"""Whether two programs make the same of all examples: every command, its tables, JSON and files, byte by byte.

    bench/same_outputs.py OTHER_PROGRAM [PROGRAM] [--keep FOLDER] [--without-solver]

OTHER_PROGRAM is the one before a change. Says each output that differs, and ends with 1 where one does.
"""
import argparse
import concurrent.futures
import filecmp
import pathlib
import shutil
import subprocess
import sys
import tempfile

ROOT = pathlib.Path(__file__).resolve().parent.parent
PLACES = {"skiff": "2600,200,60", "rudder": "90,0,300", "spar": "400,0,0", "panel": "100,100,0", "hatch": "100,100,0",
          "draped": "2600,200,60"}
LINES = {"skiff": ("2600,150,40", "2600,420,60"), "draped": ("2600,150,40", "2600,420,60")}


def of_part(name, part):
    """Commands on one part, each a list of words; OUT stands for the folder that files go to."""
    at = PLACES[name]
    steps = [["check"], ["zones"], ["plies"], ["frames"], ["fields"], ["drape"], ["ramps"], ["stack", "--point", at],
             ["at", "--point", at]]
    steps += [step + ["--json"] for step in steps]
    steps += [["plies", "--from-top", "--write", "OUT/plies.csv"], ["plies", "--draw", "OUT/plies.svg"],
              ["frames", "--write", "OUT/frames.vtu"],
              ["fields", "--plies", "--write", "OUT/fields.vtu", "--edges", "OUT/edges.vtu"],
              ["drape", "-o", "OUT/drape.vtu"], ["drape", "--patterns", "OUT/cut.dxf"],
              ["drape", "--rolls", "OUT/rolls.svg"], ["ramps", "-o", "OUT/ramps.svg"],
              ["stack", "--point", at, "-o", "OUT/stack.svg"], ["cut", "-o", "OUT/cut.msh"],
              ["cut", "-o", "OUT/cut.vtu", "--json"], ["check", "--most-sections", "40"],
              ["at", "--point", at, "--force", "10,-20,5", "--moment", "1,2,3", "--discount", "--json"],
              ["review", "-o", "OUT/review.html"]]
    if name in LINES:
        start, end = LINES[name]
        steps += [["profile", "--from", start, "--to", end, "-o", "OUT/profile.svg"],
                  ["profile", "--from", start, "--to", end, "--json"]]
    for number, more in enumerate([[], ["--real-plies"], ["--solids", "ply"], ["--solids", "2"], ["--laminate-only"]]):
        steps.append(["deck", *more, "--folder", f"OUT/calculix-{number}"])
        if more != ["--real-plies"]:
            steps.append(["deck", *more, "--format", "bulk-data", "--folder", f"OUT/bulk-{number}"])
    return [[step[0], part, *step[1:]] for step in steps]


def with_answers(part):
    """Commands on answers of the solver, one after the other."""
    return [["solve", part, "--folder", "OUT/solved"],
            ["stress", part, "--folder", "OUT/solved"],
            ["stress", part, "--folder", "OUT/solved", "--json", "--write", "OUT/stress.csv"],
            ["stress", part, "--folder", "OUT/solved", "--write", "OUT/stress.vtu", "--draw", "OUT/through.svg"],
            ["summary", part, "--folder", "OUT/solved", "-o", "OUT/summary.html"],
            ["summary", part, "--folder", "OUT/solved", "--json"],
            ["runs", part, part, "--folder", "OUT/solved", "--write", "OUT/runs.vtu"],
            ["runs", part, part, "--folder", "OUT/solved", "--json"],
            ["review", part, "--results", "OUT/solved", "-o", "OUT/results.html"]]


def run_all(program, folder, solver):
    """Runs everything on a copy of the examples below a folder; what each said is kept beside what it wrote."""
    shutil.copytree(ROOT / "examples", folder / "examples")
    others = [["schema", "-o", "OUT/schema.json"], ["explain"], ["explain", "--json"], ["material", "list"],
              ["laminate", "[0/45/90]s", "--material", "carbon-epoxy-standard-60"],
              ["laminate", "[0/45/90]s", "--material", "carbon-epoxy-standard-60", "--force", "10,0,5", "--json"]]
    failed = []
    for name in ["", *PLACES]:
        out = folder / "out" / (name or "alone")
        out.mkdir(parents=True)
        steps = of_part(name, f"examples/{name}/{name}.toml") if name else others
        if name and solver:
            steps += with_answers(f"examples/{name}/{name}.toml")
        for number, step in enumerate(steps):
            words = [word.replace("OUT", str(out.relative_to(folder))) for word in step]
            if "--folder" in words:
                (folder / words[words.index("--folder") + 1]).mkdir(exist_ok=True)
            done = subprocess.run([program, *words], cwd=folder, capture_output=True)
            said = out / f"{number:03d}-{step[0]}.said"
            said.write_bytes(" ".join(words).encode() + b"\n" + done.stdout + done.stderr +
                             f"\nexit {done.returncode}\n".encode())
            if done.returncode < 0:
                failed.append(" ".join(words))
    return failed


def files_below(folder):
    return {path.relative_to(folder) for path in folder.rglob("*") if path.is_file()}


def main():
    options = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    options.add_argument("other")
    options.add_argument("program", nargs="?", default=str(ROOT / "build/release/bordado"))
    options.add_argument("--keep", help="a folder for the outputs, that does not exist yet")
    options.add_argument("--without-solver", action="store_true")
    given = options.parse_args()
    top = pathlib.Path(given.keep) if given.keep else pathlib.Path(tempfile.mkdtemp(prefix="bordado-same-"))
    folders = [top / "before", top / "after"]
    for folder in folders:
        folder.mkdir(parents=True)
    programs = [str(pathlib.Path(program).resolve()) for program in (given.other, given.program)]
    with concurrent.futures.ThreadPoolExecutor(2) as both:
        crashed = sum(both.map(run_all, programs, folders, [not given.without_solver] * 2), [])
    names = [files_below(folder / "out") for folder in folders]
    differ = [str(name) for name in sorted(names[0] & names[1])
              if not filecmp.cmp(folders[0] / "out" / name, folders[1] / "out" / name, shallow=False)]
    only = [f"{name} (before only)" for name in sorted(names[0] - names[1])]
    only += [f"{name} (after only)" for name in sorted(names[1] - names[0])]
    for line in differ + only:
        print(line)
    for words in crashed:
        print("crashed:", words)
    print(f"{len(names[0] | names[1])} outputs, {len(differ) + len(only)} differ")
    if not given.keep:
        shutil.rmtree(top)
    sys.exit(bool(differ or only or crashed))


if __name__ == "__main__":
    main()
