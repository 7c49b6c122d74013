#!/usr/bin/python3
"""Takes every library of a prefix in place, attaches all of them to one project, and prints what is objected to in lanes of this
machine's own compilers. What a system ships fits the system: each line is a false alarm, or a fault worth knowing.

usage: check_silence.py PATH_OF_FIBULA [PREFIX]
"""
import collections
import glob
import json
import os
import pathlib
import subprocess
import sys
import tempfile

fibula = os.path.abspath(sys.argv[1])
prefix = sys.argv[2] if len(sys.argv) > 2 else "/usr"
LANES = {"gcc": "g++", "clang": "clang++"}


def names():
    """Libraries that a linker finds under the prefix: those with a development link."""
    links = (path for pattern in ("lib/*.so", "lib/*/*.so") for path in glob.glob(os.path.join(prefix, pattern)))
    return sorted({os.path.basename(path)[3:-3] for path in links if os.path.islink(path) and os.path.basename(path).startswith("lib")})


def main():
    os.environ.pop("LIBRARY_PATH", None)
    with tempfile.TemporaryDirectory() as folder:
        os.environ.update(FIBULA_SHELF=os.path.join(folder, "shelf"))
        taken = [name for name in names()
                 if subprocess.run([fibula, "take", prefix, "--library", name, "--in-place"], capture_output=True).returncode == 0]
        lines = ['[[output]]\nname = "harbour"\nsources = ["main.cpp"]\nstandard = "c++17"\n']
        lines += [f'[library."{name}"]' for name in taken]
        lines += [f'[lane.{lane}]\ncompiler = "{compiler}"' for lane, compiler in LANES.items()]
        work = pathlib.Path(folder, "work")
        work.mkdir()
        (work / "fibula.toml").write_text("\n".join(lines) + "\n")
        (work / "main.cpp").write_text("int main() { return 0; }\n")
        fit = json.loads(subprocess.run([fibula, "-C", work, "--json", "fit"], capture_output=True, text=True).stdout)
        objections, notes = collections.Counter(), collections.Counter()
        for lane in fit["lanes"]:
            for library in lane["libraries"]:
                for said in library["misfits"]:
                    objections[said["rule"]] += 1
                    print(f"{lane['lane']}: {library['library']}: {said['verdict']} ({said['rule']}): {'; '.join(said['evidence'])}")
                notes.update(f"{note['verdict']} {note['rule']}" for note in library["notes"])
        print(f"{len(taken)} libraries of {len(names())} names in {len(LANES)} lanes: {sum(objections.values())} objections {dict(objections)}")
        print(f"notes: {dict(notes)}")


if __name__ == "__main__":
    main()
