"""Each folder of src/ uses only itself and the folders above it in the list; the command-line tool and the examples use public headers alone."""
import pathlib
import re
import sys

LAYERS = ["base", "binary", "facts", "toolchain", "shelf", "take", "project", "match", "fit", "emit", "build", "runtime", "diagnose", "index", "report"]
INCLUDE = re.compile(r'^\s*#include "([^"]+)"', re.M)

root = pathlib.Path(sys.argv[1])
faults = []
for path in sorted((root / "src").rglob("*.[ch]pp")):
    own = path.relative_to(root / "src").parts[0]
    for include in INCLUDE.findall(path.read_text(encoding="utf-8")):
        used = include.split("/")[0]
        if used not in LAYERS or LAYERS.index(used) > LAYERS.index(own):
            faults.append(f"{path.relative_to(root)} includes {include}: {own} stands above {used}")
for folder in ("cli", "examples", "include"):
    for path in sorted((root / folder).rglob("*.[ch]pp")):
        for include in INCLUDE.findall(path.read_text(encoding="utf-8")):
            if "/" in include or not (path.parent / include).exists():
                faults.append(f"{path.relative_to(root)} includes {include}, which is not public")
print("\n".join(faults) if faults else "every layer uses only those above it")
sys.exit(bool(faults))
