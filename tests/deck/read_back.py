"""Reads a deck with meshio, an independent reader, and prints its nodes and elements as JSON.

meshio takes element cards for connectivity only, so four things it does not know are put its way in a copy: the material angle behind
the nodes of a bulk data shell is cut off, shells in large fields stand in small ones, the solver's 6-node shell is called by the other
name of that shape, and sets of several runs of ids go, of which it reads one only."""
import json, os, re, sys, tempfile

import meshio

meshio._mesh.topological_dimension.setdefault("wedge15", 3)  # missing there, though its readers make it

path = sys.argv[1]
text = open(path).read()
def small(found):
    first, second = found.group(2), found.group(3)
    fields = [first[k : k + 16].strip() for k in range(0, 64, 16)] + [second[k : k + 16].strip() for k in range(0, 32, 16)]
    return f"{found.group(1):<8}" + "".join(f"{field:<8}" for field in fields[: 6 if found.group(1) == "CQUAD4" else 5])


text = re.sub(r"^(CQUAD4|CTRIA3)\* (.*)\n\*       (.*)$", small, text, flags=re.M)
text = re.sub(r"^(CQUAD4  .{48}|CTRIA3  .{40}).*$", lambda found: found.group(1).rstrip(), text, flags=re.M)
text = text.replace("TYPE=S6,", "TYPE=STRI65,")
text = re.sub(r"^\*(NSET|ELSET), .*, GENERATE\n([0-9].*\n)*", "", text, flags=re.M)
copy = os.path.join(tempfile.mkdtemp(), os.path.basename(path))
open(copy, "w").write(text)
mesh = meshio.read(copy)
cells = [{"type": block.type, "nodes": block.data.tolist()} for block in mesh.cells]
print(json.dumps({"points": mesh.points.tolist(), "cells": cells}))
