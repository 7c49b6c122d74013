#!/usr/bin/python3
"""Links the whole of every static library under the given folders into a program, with a real linker and in rehearsal, and compares the
sets of undefined symbols, archive by archive. Prints each difference.

usage: compare_links.py PATH_OF_REHEARSE_WHOLE [--compiler g++] [--linker bfd|lld] [FOLDER...]
"""
import argparse
import collections
import concurrent.futures
import glob
import os
import pathlib
import re
import subprocess
import sys
import tempfile

parser = argparse.ArgumentParser()
parser.add_argument("tool")
parser.add_argument("--compiler", default="g++")
parser.add_argument("--linker", default="bfd")
parser.add_argument("folders", nargs="*", default=["/usr/lib/x86_64-linux-gnu"])
options = parser.parse_args()
os.environ.pop("LIBRARY_PATH", None)
BFD = re.compile(r"undefined reference to `([^']*)'")
LLD = re.compile(r"undefined symbol: (\S+)")


def is_windows():
    return "mingw" in options.compiler


def is_archive(path):
    with open(path, "rb") as file:
        return file.read(8) == b"!<arch>\n" and not os.path.islink(path)


def linker_says(archive, folder):
    """The undefined names, or what else went wrong."""
    command = [options.compiler, f"-fuse-ld={options.linker}", "-Wl,--no-demangle", "-Wl,--allow-multiple-definition",
               *([] if is_windows() else ["-no-pie"]), folder / "main.o",
               "-Wl,--whole-archive", archive, "-Wl,--no-whole-archive", "-o", folder / (os.path.basename(archive) + ".out")]
    if options.linker == "lld":
        command.append("-Wl,--error-limit=0")
    ran = subprocess.run([str(word) for word in command], capture_output=True, text=True, errors="replace", timeout=600)
    names = set((LLD if options.linker == "lld" else BFD).findall(ran.stderr))
    # LLD names hidden and versioned symbols in other words.
    names |= set(re.findall(r"undefined (?:hidden|protected|internal) symbol: (\S+)", ran.stderr))
    if ran.returncode != 0 and not names:
        return None, ran.stderr.strip().splitlines()[-1] if ran.stderr.strip() else "failed"
    return names, ""


def main():
    archives = sorted({path for folder in options.folders for path in glob.glob(os.path.join(folder, "*.a")) if is_archive(path)})
    rehearsed = collections.defaultdict(set)
    problems = {}
    ran = subprocess.run([options.tool, options.compiler, *archives], capture_output=True, text=True, check=True)
    for line in ran.stdout.splitlines():
        path, name = line.split("\t", 1)
        rehearsed[path]
        if name.startswith("!"):
            problems[path] = name[1:]
        elif name:
            rehearsed[path].add(name)
    equal = differ = unlinkable = symbols = 0
    with tempfile.TemporaryDirectory() as name:
        folder = pathlib.Path(name)
        (folder / "main.c").write_text("int main(void) { return 0; }\n")
        subprocess.run([options.compiler, "-x", "c", "-c", "main.c"], cwd=folder, check=True)
        with concurrent.futures.ThreadPoolExecutor(2) as pool:
            answers = list(pool.map(lambda archive: linker_says(archive, folder), archives))
    for archive, (names, problem) in zip(archives, answers):
        if archive in problems or names is None:
            unlinkable += 1
            print(f"{archive}: linker: {problem or 'links'}; rehearsal: {problems.get(archive, 'no problem')}")
            continue
        symbols += len(names)
        if names == rehearsed[archive]:
            equal += 1
            continue
        differ += 1
        for title, some in (("only the linker", names - rehearsed[archive]), ("only the rehearsal", rehearsed[archive] - names)):
            if some:
                print(f"{archive}: {title}: {len(some)}: {', '.join(sorted(some)[:5])}")
    print(f"{len(archives)} archives with {options.linker}: {equal} equal ({symbols} undefined names), {differ} differ, {unlinkable} neither links")
    return int(differ > 0 or equal == 0)


if __name__ == "__main__":
    sys.exit(main())
