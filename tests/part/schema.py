"""Holds part files against the schema that the program wrote, with Debian's python3-jsonschema: every example and the file with every key
must pass, and files with one slip each must not."""
import json, os, sys, tomllib

import jsonschema

schema = json.load(open(sys.argv[1]))
source = sys.argv[2]
jsonschema.Draft7Validator.check_schema(schema)
validator = jsonschema.Draft7Validator(schema)
failures = []

good = [os.path.join(source, "data/every-key.toml")]
for name in sorted(os.listdir(os.path.join(source, "examples"))):
    path = os.path.join(source, "examples", name, name + ".toml")
    if os.path.exists(path):
        good.append(path)
for path in good:
    for error in list(validator.iter_errors(tomllib.load(open(path, "rb"))))[:3]:
        failures.append(f"{path}: {'/'.join(map(str, error.absolute_path))}: {error.message[:200]}")

panel = open(os.path.join(source, "examples/panel/panel.toml")).read()
slips = {  # each turned into another text of the panel
    "unknown table": ("[layup]", "[lay-up]"),
    "unknown key of the part": ('surface = "bottom"', 'surfaces = "bottom"'),
    "unknown face": ('surface = "bottom"', 'surface = "below"'),
    "number for a name": ('name = "Panel"', "name = 3"),
    "unknown key of a material": ("nu12 = 0.3", "nu = [0.3]"),
    "list for a number": ("nu12 = 0.3", "nu12 = [0.3]"),
    "unknown key of a frame": ("vector = [1, 0, 0]", "vektor = [1, 0, 0]"),
    "vector of two": ("vector = [1, 0, 0]", "vector = [1, 0]"),
    "unknown key of a zone": ("box = {", "bocks = {"),
    "unknown key of a box": ("from = [0, -200, 0]", "form = [0, -200, 0]"),
    "unknown key of a ply": ("angle = 0", "angel = 0"),
    "unknown key of a support": ('hold = "clamped"', 'held = "clamped"'),
    "unknown key of a load": ("force = [0, 0, -20]", "forces = [0, 0, -20]"),
}
for name, (old, new) in slips.items():
    if old not in panel:
        failures.append(f"{name}: '{old}' is not in the panel")
        continue
    if validator.is_valid(tomllib.loads(panel.replace(old, new, 1))):
        failures.append(f"{name}: passes")
print("\n".join(failures))
print(f"{len(good)} part files, {len(slips)} slips, {len(failures)} failures")
sys.exit(1 if failures else 0)
