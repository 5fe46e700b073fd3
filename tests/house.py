"""The house as docs/house.md says: no include upwards, no private header in another room, no umbrella in a source of ours.

    house.py SOURCE-FOLDER
"""
import os, re, sys

source = sys.argv[1]
text = lambda path: open(os.path.join(source, path), encoding="utf-8").read()
# The order of the rooms is that of the library's own list.
ROOMS = re.search(r"foreach\(room ([a-z_ ]+)\)", text("CMakeLists.txt")).group(1).split()
UMBRELLAS = {"base.hpp", "mesh.hpp", "review.hpp", "bordado.hpp"}
# They wrap libraries that a user of ours need not have.
FOR_ALL = {"base/toml_table.hpp", "base/csv.hpp", "base/arena.hpp", "base/base64.hpp", "material/library.hpp"}
# Headers that stand beside those of their room.
TOPICS = {"loads": "part", "laminate": "laminate", "strength": "laminate", "panel": "sizing", "sandwich": "sizing", "margins": "sizing", "walls": "sizing", "column": "sizing", "curved": "sizing", "curved_margins": "sizing", "strips": "sizing", "sensitivity": "sizing", "sweep": "sizing", "bar_margins": "sizing", "hand_sheets": "drawing", "picture": "drawing", "pattern": "drape", "seeds": "drape", "design": "section", "inclusions": "material",
          "warmth": "model", "solids": "model", "solid_shapes": "model", "fields": "model", "recovery": "result", "zone_panels": "result"}

files = {}
for top in ("include", "src", "cli", "tests", "bench", "examples"):
    for folder, _, names in os.walk(os.path.join(source, top)):
        for name in names:
            if name.endswith((".cpp", ".hpp")):
                path = os.path.relpath(os.path.join(folder, name), source)
                files[path] = text(path)


def room_of(path):
    parts = path.split("/")
    if parts[0] == "src" and len(parts) > 2:
        return parts[1]
    if parts[:2] == ["include", "bordado"]:
        name = parts[2].removesuffix(".hpp")
        return TOPICS.get(name, name)
    return None


failures = []
for path, body in sorted(files.items()):
    room = room_of(path)
    for public, private in re.findall(r'^#include (?:<bordado/([^>]+)>|"([^"]+)")', body, re.M):
        if public:
            if public in UMBRELLAS and not path.startswith("include/") and "consumer" not in path and path.split("/")[0] != "examples":
                failures.append(f"{path} includes the umbrella <bordado/{public}>")
            other = room_of("include/bordado/" + public)
            if room in ROOMS and other not in ROOMS and public not in UMBRELLAS:
                failures.append(f"<bordado/{public}> is of no room")
            elif room in ROOMS and other in ROOMS and ROOMS.index(other) > ROOMS.index(room):
                failures.append(f"{path} includes upwards: <bordado/{public}>")
            continue
        found = os.path.normpath(os.path.join(os.path.dirname(path), private))
        if found.startswith("src/") and path.startswith(("src/", "include/")) and room_of(found) != room:
            if found.removeprefix("src/") not in FOR_ALL:
                failures.append(f"{path} includes {found}, which is private to its room")
for room in ROOMS:
    listed = set(re.findall(r"(\w+\.cpp)", text(f"src/{room}/CMakeLists.txt")))
    there = {name for name in os.listdir(os.path.join(source, "src", room)) if name.endswith(".cpp")} - {"no_page.cpp"}
    for name in sorted(listed ^ there):
        failures.append(f"src/{room}/{name} is not both there and listed")
if len(files) < 300 or len(ROOMS) < 15:
    failures.append("the house was not found")
print("\n".join(failures))
print(f"{len(files)} files, {len(ROOMS)} rooms, {len(failures)} failures")
sys.exit(1 if failures else 0)
