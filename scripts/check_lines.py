#!/usr/bin/python3
"""Proves derived link lines: for each library of a list of Debian packages a program is generated that refers to functions of it, Fibula
is given the library's name and nothing else, and the program is linked and started; once static, once shared. Beside it stands what the
linker makes of the bare name. With --minimal every input of a derived line is left out in turn, which must not link.

usage: check_lines.py FIBULA LIST... [--only NAME] [--minimal] [--all-start] [--linkage static|shared]
  --all-start: a library that is refused is a failure too
"""
import argparse
import collections
import concurrent.futures
import json
import os
import pathlib
import re
import subprocess
import sys
import tempfile

parser = argparse.ArgumentParser()
parser.add_argument("fibula", type=lambda path: os.path.abspath(path))
parser.add_argument("lists", nargs="+")
parser.add_argument("--only", action="append")
parser.add_argument("--minimal", action="store_true")
parser.add_argument("--all-start", action="store_true")
parser.add_argument("--linkage", action="append", choices=["static", "shared"])
options = parser.parse_args()
os.environ.pop("LIBRARY_PATH", None)
FOLDERS = ["/usr/lib/x86_64-linux-gnu", "/usr/lib"]
FUNCTIONS = 6


def archives_of(lists):
    """Each static library in the compiler's own folders that the packages bring."""
    packages = [word for name in lists for line in open(name) if not line.startswith("#") for word in line.split()]
    found = []
    for package in packages:
        listed = subprocess.run(["dpkg", "-L", package], capture_output=True, text=True)
        for path in listed.stdout.split("\n"):
            if os.path.dirname(path) in FOLDERS and re.fullmatch(r"lib.*\.a", os.path.basename(path)) and not os.path.islink(path):
                with open(path, "rb") as file:
                    if file.read(8) == b"!<arch>\n":
                        found.append((package, path))
    return sorted(set(found))


def functions_of(path, shared):
    """Functions that the library gives, a few from all over it."""
    # Of a shared library only default versions serve those who name no version: nm writes "@@" before them.
    command = ["nm", "-D", "--defined-only", path] if shared else ["nm", "-g", "--defined-only", path]
    text = subprocess.run(command, capture_output=True, text=True, errors="replace").stdout
    hidden = set()
    if not shared:
        table = subprocess.run(["readelf", "-sW", path], capture_output=True, text=True, errors="replace").stdout
        hidden = set(re.findall(r"(?:HIDDEN|INTERNAL)\s+\S+ (\S+)$", table, re.M))
    names = sorted({m.group(1) for m in re.finditer(r"^[0-9a-f]+ T ([^@\s]+)(?:@@\S+)?$", text, re.M)} - {"main", "_init", "_fini"} - hidden)
    if len(names) <= FUNCTIONS:
        return names
    return [names[i * (len(names) - 1) // (FUNCTIONS - 1)] for i in range(FUNCTIONS)]


def program(names):
    declared = "\n".join(f'extern void function_{i}(void) __asm__("{name}");' for i, name in enumerate(names))
    taken = ", ".join(f"function_{i}" for i in range(len(names)))
    return f"{declared}\nvoid (*volatile taken[])(void) = {{{taken}}};\nint main(void) {{ return taken[0] == 0; }}\n"


def run(command, folder, **more):
    return subprocess.run(command, cwd=folder, capture_output=True, text=True, errors="replace", timeout=300, **more)


def starts(folder, path):
    return run([path], folder).returncode == 0


def bare(folder, path, linkage):
    """What the name alone gives: -lname, or the archive."""
    stem = pathlib.Path(path).name[3:-2]
    word = path if linkage == "static" else "-l" + stem
    return run(["g++", "main.o", word, "-o", "bare"], folder).returncode == 0 and starts(folder, "./bare")


def leave_out(folder, inputs):
    """Inputs without which the program still links."""
    spare = []
    for i, gone in enumerate(inputs):
        rest = [word for j, other in enumerate(inputs) if j != i for word in other["arguments"]]
        grouped = ["-Wl,--start-group", *rest, "-Wl,--end-group"] if any(other["group"] for other in inputs) else rest
        if run(["g++", "main.o", *grouped, "-o", "fewer"], folder).returncode == 0:
            spare.append(" ".join(gone["arguments"]))
    return spare


def check(job):
    package, path, linkage = job
    stem = pathlib.Path(path).name[3:-2]
    shared = path[:-2] + ".so"
    if linkage == "shared" and not os.path.exists(shared):
        return None
    names = functions_of(shared if linkage == "shared" else path, linkage == "shared")
    if not names:
        return None
    with tempfile.TemporaryDirectory() as name:
        folder = pathlib.Path(name)
        (folder / "main.c").write_text(program(names))
        if run(["gcc", "-c", "main.c"], folder).returncode != 0:
            return None
        result = {"package": package, "library": stem, "linkage": linkage, "bare": bare(folder, path, linkage)}
        os.environ["FIBULA_SHELF"] = ""
        environment = dict(os.environ, FIBULA_SHELF=str(folder / "shelf"))
        (folder / "fibula.toml").write_text(
            f'[[output]]\nname = "trial"\nkind = "program"\nsources = ["main.c"]\n\n[library."{stem}"]\nlinkage = "{linkage}"\n\n'
            '[lane.here]\ncompiler = "g++"\n')
        taken = run([options.fibula, "take", "/usr", "--library", stem, "--in-place"], folder, env=environment)
        if taken.returncode != 0:
            return result | {"outcome": "not taken", "detail": (taken.stderr or taken.stdout).strip()}
        built = run([options.fibula, "build"], folder, env=environment)
        answer = json.loads(run([options.fibula, "fit", "--json"], folder, env=environment).stdout or "{}")
        if "lanes" not in answer:
            return result | {"outcome": "error", "detail": json.dumps(answer)[:300]}
        lane = answer["lanes"][0]
        words = [m for m in lane.get("misfits", []) if m["verdict"] == "misfit"]
        words += [m for library in lane["libraries"] for m in library["misfits"] if m["verdict"] == "misfit"]
        made = sorted(folder.glob(".fibula/here/**/trial"))
        if built.returncode == 0 and made and starts(folder, made[0]):
            spare = leave_out(folder, lane["link_inputs"]) if options.minimal else []
            return result | {"outcome": "starts", "spare": spare}
        if words:
            told = "; ".join(f"{m['rule']}: {' / '.join(m['evidence'])} -> {m['remedy']}" for m in words)
            return result | {"outcome": "refused", "detail": told}
        return result | {"outcome": "WRONG LINE", "detail": (built.stdout + built.stderr).strip()}


def main():
    jobs = [(package, path, linkage) for package, path in archives_of(options.lists) for linkage in options.linkage or ["static", "shared"]
            if not options.only or pathlib.Path(path).name[3:-2] in options.only]
    with concurrent.futures.ThreadPoolExecutor(2) as pool:
        results = [result for result in pool.map(check, jobs) if result]
    for result in results:
        if result["outcome"] != "starts":
            print(f"{result['library']} ({result['package']}), {result['linkage']}: {result['outcome']}: {result['detail'][:900]}\n")
        elif result.get("spare"):
            print(f"{result['library']} ({result['package']}), {result['linkage']}: not needed: {', '.join(result['spare'])}\n")
    for linkage in options.linkage or ["static", "shared"]:
        these = [result for result in results if result["linkage"] == linkage]
        outcomes = collections.Counter(result["outcome"] for result in these)
        alone = sum(result["bare"] for result in these)
        print(f"{linkage}: {len(these)} libraries of {len({r['package'] for r in these})} packages: bare name {alone} start;"
              f" derived: {', '.join(f'{count} {outcome}' for outcome, count in outcomes.most_common())}"
              + (f"; {sum(bool(r.get('spare')) for r in these)} lines have an input too many" if options.minimal else ""))
    accepted = {"starts"} if options.all_start else {"starts", "refused"}
    sys.exit(not results or any(result["outcome"] not in accepted or result.get("spare") for result in results))


if __name__ == "__main__":
    main()
