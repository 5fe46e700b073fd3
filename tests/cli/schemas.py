"""Every command's JSON on the examples against its schema in docs/json, by an independent validator (python3-jsonschema).

    schemas.py PROGRAM SOURCE-FOLDER
"""
import json, os, subprocess, sys, tempfile

import jsonschema

program, source = sys.argv[1:3]
out = tempfile.mkdtemp()
examples = {name: os.path.join(source, "examples", name, name + ".toml") for name in ("panel", "skiff", "rudder", "spar", "hatch")}
load = ["--force", "50,0,0", "--moment", "1,0,0", "--shear", "1,0.5", "--warmed", "-60", "--moisture", "0.01", "--discount"]

calls = [["surface", os.path.join(source, "examples/skiff/skiff.msh")],
         ["surface", os.path.join(source, "examples/skiff/skiff.msh"), "--from", "0,0,85", "--to", "4200,0,625"],
         ["stack", examples["skiff"], "--point", "2600,200,60"],
         ["at", examples["skiff"], "--point", "2600,200,60", *load],
         ["at", examples["panel"], "--point", "50,0,500"],
         ["at", examples["rudder"], "--element", "1", "--from-top", *load],
         ["diff", examples["rudder"], examples["rudder"], "--variant-after", "training"],
         ["diff", examples["panel"], examples["panel"]],
         ["laminate", "[0/±45/90]s", "--material", "carbon-ud", *load],
         ["laminate", "[0/45]", "--material", "carbon-ud", "--from-top", *load],
         ["laminate", "[20/-35/70]", "--material", "glass-ud"],
         ["panel", "[0/±45/90]s", "--material", "carbon-ud", "--size", "400,300", "--force", "-50,0,10"],
         ["panel", "[0/90]s", "--material", "carbon-ud", "--size", "400,300", "--force", "-50,0,0"],
         ["panel", "[0/90]s", "--material", "carbon-ud", "--size", "400,300"],
         ["panel", os.path.join(source, "examples/sizing/daggerboard-case.toml")],
         ["panel", os.path.join(source, "examples/sizing/daggerboard-case.toml"), "--force", "10,0,0"],
         ["panel", os.path.join(source, "examples/sizing/daggerboard-case.toml"), "--sensitivities", "--against", "core=5:15:3"],
         ["panel", "[0/90]s", "--material", "carbon-ud", "--size", "400,300", "--force", "-5,0,0", "--against", "angle:1=0:90:3", "--against", "count:2=0:3"],
         ["panel", "[±45/0/90]s", "--material", "carbon-ud", "--size", "600", "--radius", "150", "--force", "-40,0,8", "--pressure", "-0.01", "--sensitivities", "--against", "radius=100:200:3"],
         ["panel", "[45/0{pvc-foam-80}/45]", "--material", "glass-twill", "--material", "pvc-foam-80", "--thickness", "6", "--size", "300,200", "--radius", "250", "--force", "-20,0,0"],
         ["column", os.path.join(source, "examples/sizing/boom.toml"), "--sensitivities", "--against", "length=1000:3000:3"],
         ["column", os.path.join(source, "examples/sizing/wing-rack.toml")],
         ["column", "[0/90]s", "--material", "carbon-ud", "--shape", "box", "--size", "40,30", "--length", "500"],
         ["material list"], ["material list", "--kind", "foam"],
         ["material show", "carbon-ud"], ["material show", "carbon-twill-yarns", "--sheared"], ["material show", "pvc-foam-80"],
         ["material compare", "carbon-ud", "glass-ud"],
         ["material compute", "--fibre", "carbon-fibre-standard", "--matrix", "epoxy-hot-cured"],
         ["solve", examples["panel"], "--folder", out],
         ["panel", examples["panel"], "--zone", "root-end", "--folder", out],
         ["stress", examples["panel"], "--folder", out],
         ["stress", examples["panel"], "--folder", out, "--point", "50,0,500"],
         ["runs", examples["panel"], examples["panel"], "--folder", out],
         ["summary", examples["panel"], "--folder", out],
         ["deck", examples["panel"], "--solids", "2", "--format", "calculix", "--folder", out],
         ["picture", examples["panel"], "--of", "thickness", "--of", "reserve", "--of", "displacement", "--folder", out, "-o", os.path.join(out, "p.svg")],
         ["explain"], ["explain", "mesh"]]
for name, part in examples.items():
    calls += [["check", part], ["zones", part], ["frames", part], ["plies", part], ["plies", part, "--from-top"], ["fields", part],
              ["ramps", part], ["drape", part], ["cut", part, "-o", os.path.join(out, name + "-cut.msh")], ["deck", part, "--folder", out], ["review", part, "-o", os.path.join(out, name + ".html")]]
calls.append(["profile", examples["rudder"], "--from", "85,10,-330", "--to", "85,10,-420"])
draped = os.path.join(source, "examples/draped/draped.toml")
calls += [["drape", draped], ["drape", draped, "--ply", "D1", "--directions", "2"], ["at", draped, "--point", "2600,200,60"]]
calls.append(["check", "no-such.toml"])
calls.append(["deck", "no-such.toml"])

met, failures = set(), []
for call in calls:
    run = subprocess.run([program, *call[0].split(), *call[1:], "--json"], capture_output=True, text=True)
    where = " ".join(call)
    try:
        document = json.loads(run.stdout)
    except ValueError as trouble:
        failures.append(f"{where}: no JSON: {trouble}: {run.stderr[:300]}")
        continue
    if run.stderr:
        failures.append(f"{where}: speaks beside its JSON: {run.stderr[:300]}")
    if document["command"] != call[0]:
        failures.append(f"{where}: says it is '{document['command']}'")
    met.add(call[0])
    path = os.path.join(source, "docs/json", call[0].replace(" ", "-") + ".schema.json")
    schema = json.load(open(path))
    jsonschema.Draft202012Validator.check_schema(schema)
    for error in list(jsonschema.Draft202012Validator(schema).iter_errors(document))[:3]:
        failures.append(f"{where}: {'/'.join(map(str, error.absolute_path))}: {error.message[:200]}")

schemas = {name.removesuffix(".schema.json").replace("-", " ", 1) if name.startswith("material") else name.removesuffix(".schema.json")
           for name in os.listdir(os.path.join(source, "docs/json"))}
for name in schemas - met:
    failures.append(f"no call for docs/json of '{name}'")
print("\n".join(failures))
print(f"{len(calls)} calls of {len(met)} commands, {len(failures)} failures")
sys.exit(1 if failures else 0)
