#!/usr/bin/python3
"""Compares the run-time files that Fibula finds with what the system's own loader lists, for every program and shared library below
folders: the same names, each led to the same file or to none. Loaders list without starting
anything, as ldd asks them to.

usage: compare_closures.py FIBULA [PLACE...] [--speed]
With --speed also: one program with more than 130 libraries, and all files in one call, beside ldd on each, as ratios in one run.
"""
import argparse
import json
import os
import re
import statistics
import struct
import subprocess
import sys
import time

parser = argparse.ArgumentParser()
parser.add_argument("fibula", type=os.path.abspath)
parser.add_argument("places", nargs="*", default=["/usr/bin", "/usr/sbin", "/usr/lib", "/usr/libexec"])
parser.add_argument("--speed", action="store_true")
options = parser.parse_args()
for name in ("LD_LIBRARY_PATH", "LD_PRELOAD"):
    os.environ.pop(name, None)
LOADERS = {(2, 62): "/lib64/ld-linux-x86-64.so.2", (1, 3): "/lib/ld-linux.so.2"}


def loader_for(path):
    """The loader that reads a dynamic file of this machine; nothing for other files."""
    with open(path, "rb") as file:
        head = file.read(64)
        if head[:4] != b"\x7fELF" or head[5] != 1 or len(head) < 52:
            return None
        wide = head[4] == 2
        kind, machine = struct.unpack("<HH", head[16:20])
        if kind not in (2, 3):
            return None
        offset = struct.unpack("<Q", head[32:40])[0] if wide else struct.unpack("<I", head[28:32])[0]
        size, count = struct.unpack("<HH", head[54:58] if wide else head[42:46])
        file.seek(offset)
        kinds = [struct.unpack("<I", file.read(size)[:4])[0] for _ in range(count)]
    return LOADERS.get((head[4], machine)) if 2 in kinds else None


def files_below(places):
    found = {}
    for place in places:
        for folder, _, names in os.walk(place):
            for name in sorted(names):
                path = os.path.join(folder, name)
                if os.path.islink(path) or not os.path.isfile(path):
                    continue
                loader = loader_for(path)
                if loader and os.path.exists(loader):
                    found[path] = loader
    return found


def listed(path, loader):
    """What the loader says: names and real paths; and its complaints."""
    environment = {"LC_ALL": "C", "PATH": "/usr/bin", "LD_TRACE_LOADED_OBJECTS": "1", "LD_WARN": "yes"}
    ran = subprocess.run([loader, path], capture_output=True, text=True, errors="replace", env=environment)
    needs = {}
    for line in ran.stdout.splitlines():
        match = re.match(r"\t(\S.*) => (not found|/.*?)(?: \(0x[0-9a-f]+\))?$", line)
        if match:
            needs[match[1]] = None if match[2] == "not found" else os.path.realpath(match[2])
        elif match := re.match(r"\t(/.*) \(0x", line):
            needs[match[1]] = os.path.realpath(match[1])
    return needs, (ran.stderr + ran.stdout if ran.returncode else "").strip()


def is_loader(name):
    return "ld-linux" in name or name.startswith("linux-vdso") or name == "linux-gate.so.1"


def said_by_fibula(paths):
    ran = subprocess.run([options.fibula, "inspect", "--needs", "--json", *paths], capture_output=True, text=True)
    said = {}
    for file in json.loads(ran.stdout)["files"]:
        needs, lucky = {}, set()
        for entry in file.get("closure", []):
            # What is found by luck is missing to the loader; Fibula follows what it would need.
            if entry["asked_by"] and all(user in lucky for user in entry["asked_by"]):
                lucky.add(entry["path"])
                continue
            if entry["status"] == "by-luck":
                lucky.add(entry["path"])
            served = entry["status"] in ("found", "system", "lacks-version")
            name = entry["name"].replace("$ORIGIN", os.path.dirname(entry["needed_by"]))  # loaders print names expanded
            needs[name] = os.path.realpath(entry["path"]) if served else None
        said[file["path"]] = needs
    return said


def median(command, rounds):
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        subprocess.run(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        times.append(time.perf_counter() - start)
    return statistics.median(times)


def measure(paths, said):
    largest = max(said, key=lambda path: len(said[path]))
    one, ldd = [], []
    for _ in range(9):  # in turn, so that what else the machine does falls on both
        one.append(median([options.fibula, "inspect", "--needs", largest], 1))
        ldd.append(median(["ldd", largest], 1))
    one, ldd = statistics.median(one), statistics.median(ldd)
    print(f"{largest}, {len(said[largest])} needs: {one * 1000:.1f} ms, ldd {ldd * 1000:.1f} ms: {one / ldd:.2f} of its time")
    everything = median([options.fibula, "inspect", "--needs", *paths], 3)
    start = time.perf_counter()
    for path in paths:
        subprocess.run(["ldd", path], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    each = time.perf_counter() - start
    print(f"{len(paths)} files in one call: {everything * 1000:.0f} ms, ldd on each {each:.1f} s: {each / everything:.0f} times as fast")


def main():
    files = files_below(options.places)
    paths = sorted(files)
    said = {}
    for i in range(0, len(paths), 500):
        said |= said_by_fibula(paths[i : i + 500])
    same = different = needs = 0
    for path in paths:
        wanted, complaint = listed(path, files[path])
        wanted = {name: real for name, real in wanted.items() if not is_loader(name)}
        got = {name: real for name, real in said.get(path, {}).items() if not is_loader(name)}
        needs += len(wanted)
        if wanted == got:
            same += 1
            continue
        different += 1
        print(path)
        for name in sorted(wanted.keys() | got.keys()):
            if wanted.get(name, "no such need") != got.get(name, "no such need"):
                print(f"    {name}: loader {wanted.get(name, 'no such need')}, Fibula {got.get(name, 'no such need')}")
        if complaint:
            print("    loader: " + complaint.replace("\n", " / ")[:300])
    print(f"{len(paths)} files, {needs} needs: {same} alike, {different} different")
    if options.speed:
        measure(paths, said)
    return int(different > 0 or same == 0)


if __name__ == "__main__":
    sys.exit(main())
