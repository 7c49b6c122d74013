"""Each folder of src/ uses only itself and the folders above it in the list, and of the public headers only those of its own and of lower
layers; the command-line tool and the examples use public headers alone. Every public header belongs to one layer."""
import pathlib
import re
import sys

LAYERS = ["base", "ids", "os", "binary", "facts", "toolchain", "headers", "loader", "card", "shelf", "making", "take", "project", "match", "index", "link",
          "choose", "fit", "emit", "stage", "jobs", "build", "commands", "diagnose", "compare", "parcel", "report",
          "answers"]
PUBLIC = {
    "base": "export linkage progress result target version words",
    "ids": "ids",
    "os": "cache",
    "binary": "need pic symbols",
    "facts": "device_memory fact fact_value facts",
    "toolchain": "toolchain",
    "loader": "closure",
    "card": "card source_code variant",
    "shelf": "keys shelf",
    "take": "folder take",
    "project": "lane project project_change trust",
    "match": "misfit",
    "index": "locate",
    "link": "link",
    "choose": "attach begin chosen_library judge prune",
    "fit": "fit gather lock why",
    "emit": "emit",
    "build": "build run",
    "stage": "stage",
    "diagnose": "explain trial",
    "compare": "compare",
    "parcel": "parcel",
    "report": "report",
    "answers": "answers",
}
LAYER_OF = {header: layer for layer, headers in PUBLIC.items() for header in headers.split()}
INCLUDE = re.compile(r'^\s*#include ["<]([^">]+)[">]', re.M)

root = pathlib.Path(sys.argv[1])
faults = []


def check(path, own):
    for include in INCLUDE.findall(path.read_text(encoding="utf-8")):
        folder, _, name = include.partition("/")
        if folder == "fibula":
            used = LAYER_OF.get(name.removesuffix(".hpp"), "answers")  # the umbrella is above everything
        elif name and folder in LAYERS:
            used = folder
        else:
            continue
        if LAYERS.index(used) > LAYERS.index(own):
            faults.append(f"{path.relative_to(root)} includes {include}: {own} stands below {used}")


for path in sorted((root / "src").rglob("*.[ch]pp")):
    own = path.relative_to(root / "src").parts[0]
    if own in LAYERS:
        check(path, own)
    else:
        faults.append(f"{path.relative_to(root)} is in no layer")
for path in sorted((root / "include" / "fibula").glob("*.hpp")):
    if path.stem == "fibula":
        continue
    if path.stem in LAYER_OF:
        check(path, LAYER_OF[path.stem])
    else:
        faults.append(f"{path.relative_to(root)} is in no layer: add it to PUBLIC")
for folder in ("cli", "examples", "include"):
    for path in sorted((root / folder).rglob("*.[ch]pp")):
        for include in re.findall(r'^\s*#include "([^"]+)"', path.read_text(encoding="utf-8"), re.M):
            if "/" in include or not (path.parent / include).exists():
                faults.append(f"{path.relative_to(root)} includes {include}, which is not public")
print("\n".join(faults) if faults else "every layer uses only those below it")
sys.exit(bool(faults))
