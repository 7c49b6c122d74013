#!/usr/bin/python3
"""Builds beside ninja with the same commands, on trees that are made for it: nothing to do, everything, and one changed source; and the
sample project beside an empty C++ program; a library that comes as source beside its compiles, and a second project with it beside one
without. Each pair is measured in turn, so that both see the same machine.

usage: builds.py FIBULA [--only none|full|one|sample|library] [--sources N]
"""
import argparse
import json
import os
import pathlib
import resource
import shutil
import statistics
import subprocess
import tempfile
import time

parser = argparse.ArgumentParser()
parser.add_argument("fibula", type=os.path.abspath)
parser.add_argument("--only", choices=["none", "full", "one", "sample", "library"])
parser.add_argument("--sources", type=int)
options = parser.parse_args()
root = pathlib.Path(__file__).resolve().parent.parent
scratch = tempfile.TemporaryDirectory(prefix="fibula-bench-")
home = pathlib.Path(scratch.name)
environment = dict(os.environ, XDG_CACHE_HOME=str(home / "cache"), FIBULA_SHELF=str(home / "shelf"), CCACHE_DISABLE="1")


def run(*command, cwd=None):
    done = subprocess.run(command, cwd=cwd, env=environment, capture_output=True, text=True)
    assert done.returncode == 0, (command, done.stdout[-2000:], done.stderr[-2000:])
    return done.stdout


def timed(*command, cwd=None):
    began = time.perf_counter()
    subprocess.run(command, cwd=cwd, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, check=True)
    return time.perf_counter() - began


def tree(name, count, cxx=False):
    """A program of `count` sources in folders of 100, which share three headers; 200 C++ ones use the standard library."""
    folder = home / name
    ending, prefix = ("cpp", 'extern "C" ') if cxx else ("c", "")
    (folder / "include").mkdir(parents=True)
    for header in ("tide.h", "pier.h", "moon.h"):
        (folder / "include" / header).write_text(f"#pragma once\n#define {header[:-2].upper()} 1\nstatic inline int {header[:-2]}_(int x) {{ return x + 1; }}\n")
    for i in range(count):
        part = folder / "src" / f"part{i // 100}"
        part.mkdir(parents=True, exist_ok=True)
        more = "#include <string>\n#include <vector>\n#include <map>\nstatic std::map<std::string, std::vector<int>> kept;\n" if cxx else ""
        (part / f"file{i}.{ending}").write_text(
            f'#include "tide.h"\n#include "pier.h"\n#include "moon.h"\n{more}{prefix}int value{i}(int x) {{ return tide_(x) + pier_(x) * {i}; }}\n')
    (folder / "src" / f"main.{ending}").write_text(f"{prefix}int value0(int);\nint main(void) {{ return value0(0) & 0; }}\n")
    compiler = "g++" if cxx else "gcc"
    (folder / "fibula.toml").write_text(
        f'[[output]]\nname = "whole"\nsources = ["src/**/*.{ending}"]\nheaders = ["include"]\n[lane.desk]\ncompiler = "{compiler}"\n')
    return folder


def ninja_twin(folder):
    """The same commands for ninja, with objects of its own."""
    built = json.loads(run(options.fibula, "--json", "build", cwd=folder))["lanes"][0]
    twin = folder / "ninja"
    twin.mkdir()
    text = ["rule compile", "  command = $words", "  depfile = $out.d", "  deps = gcc", "rule link", "  command = $words @$out.rsp", "  rspfile = $out.rsp",
            "  rspfile_content = $in"]
    objects = []
    escape = lambda words: " ".join(word.replace("$", "$$") for word in words)
    for step in built["steps"]:
        words = step["command"]
        if step["kind"] == "compile":
            source, old = words[words.index("-c") + 1], words[words.index("-o") + 1]
            new = str(twin / "objects" / os.path.relpath(old, folder / ".fibula/desk/objects"))
            objects.append((old, new))
            text += [f"build {new}: compile {source}", "  words = " + escape([word.replace(old, new) for word in words])]
        elif step["kind"] == "link":
            old = {old for old, _ in objects}
            product = words[words.index("-o") + 1]
            rest = [word.replace(product, str(twin / "whole")) for word in words if word not in old]
            text += [f"build {twin / 'whole'}: link " + " ".join(new for _, new in objects), "  words = " + escape(rest)]
    (twin / "build.ninja").write_text("\n".join(text) + "\n")
    run("ninja", cwd=twin)
    return twin


def ratio(ours, theirs, rounds):
    a, b = [], []
    for _ in range(rounds):
        b.append(theirs())
        a.append(ours())
    return statistics.median(a), statistics.median(b)


def say(what, a, b, other="ninja"):
    print(f"{what}: {a * 1000:.1f} ms, {other} {b * 1000:.1f} ms: {a / b:.2f} times", flush=True)


def memory():
    command = [options.fibula, "build"]
    pid = os.fork()
    if pid == 0:
        os.execve(command[0], command, environment)
    _, _, usage = os.wait4(pid, 0)
    return usage.ru_maxrss / 1024


def nothing_to_do(count):
    folder = tree(f"none{count}", count)
    twin = ninja_twin(folder)
    run(options.fibula, "build", cwd=folder)
    run(options.fibula, "build", cwd=folder)
    a, b = ratio(lambda: timed(options.fibula, "build", cwd=folder), lambda: timed("ninja", cwd=twin), 15)
    say(f"nothing to do, {count} sources", a, b)
    os.chdir(folder)
    print(f"  peak memory {memory():.0f} MB")
    os.chdir(root)
    return folder, twin


def one_changed(count):
    folder, twin = nothing_to_do(count)
    source = folder / "src/part3/file300.c"

    def edited(*command, cwd):
        text = source.read_text().split("int more")[0]
        source.write_text(f"{text}int more{time.monotonic_ns()};\n")
        time.sleep(0.05)
        return timed(*command, cwd=cwd)

    a, b = ratio(lambda: edited(options.fibula, "build", cwd=folder), lambda: edited("ninja", cwd=twin), 7)
    say(f"one changed source of {count}", a, b)
    words = next(line for line in (twin / "build.ninja").read_text().split("\n") if "file300.c " in line and "words" in line)
    compile_it = statistics.median(timed("sh", "-c", words.split("=", 1)[1], cwd=folder) for _ in range(5))
    link = (twin / "build.ninja").read_text().rsplit("words =", 1)[1].strip().split()
    objects = [str(path) for path in sorted((twin / "objects").rglob("*.o"))]
    link_it = statistics.median(timed(*link, *objects, cwd=folder) for _ in range(3))
    print(f"  its compile {compile_it * 1000:.0f} ms and link {link_it * 1000:.0f} ms: {(a - compile_it - link_it) * 1000:.0f} ms more")


def everything(count, cxx):
    folder = tree(f"full{count}{cxx}", count, cxx)
    twin = ninja_twin(folder)

    def ours():
        shutil.rmtree(folder / ".fibula")
        return timed(options.fibula, "build", cwd=folder)

    def theirs():
        shutil.rmtree(twin / "objects")
        for name in (".ninja_deps", ".ninja_log", "whole"):
            (twin / name).unlink(missing_ok=True)
        return timed("ninja", "-j", str(os.cpu_count()), cwd=twin)

    a, b = ratio(ours, theirs, 3)
    say(f"everything, {count} {'C++' if cxx else 'C'} sources", a, b)


def sample():
    run("sh", str(root / "demo/run.sh"), options.fibula)
    project = root / "demo/work/harbourlog"
    environment["FIBULA_SHELF"] = str(root / "demo/work/shelf")
    (home / "empty.cpp").write_text("#include <iostream>\nint main() {}\n")
    run("g++", "-O2", "empty.cpp", "-o", "empty", cwd=home)
    for _ in range(3):
        run(options.fibula, "build", cwd=project)
    a, b = ratio(lambda: timed(options.fibula, "build", cwd=project), lambda: timed(str(home / "empty")), 41)
    say("the sample, nothing to do", a, b, "an empty C++ program")


def library_of_sources(count):
    """As it came: a header, and sources of which each has one function."""
    folder = home / "hawser-1.0"
    (folder / "src").mkdir(parents=True)
    (folder / "include").mkdir()
    (folder / "include/hawser.h").write_text("#pragma once\n" + "".join(f"int hawser{i}(int x);\n" for i in range(count)))
    for i in range(count):
        (folder / f"src/hawser{i}.c").write_text(f'#include "hawser.h"\n#include <string.h>\nint hawser{i}(int x) {{ return x * {i}; }}\n')
    run(options.fibula, "take", str(folder))
    users = []
    for name, use, more in (("first", '#include <hawser.h>\nint main(void) { return hawser7(0); }\n', "[library.hawser]\n"), ("without", "int main(void) { return 0; }\n", "")):
        user = home / name
        user.mkdir()
        (user / "main.c").write_text(use)
        (user / "fibula.toml").write_text(f'[[output]]\nname = "user"\nsources = ["main.c"]\n{more}[lane.desk]\ncompiler = "gcc"\n')
        users.append(user)
    return users


def library(count):
    user, without = library_of_sources(count)
    steps = json.loads(run(options.fibula, "--json", "build", cwd=user))["lanes"][0]["steps"]
    twin = home / "twin"
    twin.mkdir()
    text = ["rule compile", "  command = cd $folder && $words", "  depfile = $out.d", "  deps = gcc", "rule archive", "  command = rm -f $out && ar rcs $out $in"]
    objects = []
    for step in steps:
        words = step["command"]
        if step["kind"] != "compile" or "hawser" not in " ".join(words):
            continue
        new = str(twin / f"{len(objects)}.o")
        old = words[words.index("-o") + 1]
        words = [word.replace(old, new) for word in words]
        text += [f"build {new}: compile", f"  folder = {user}", "  words = " + " ".join("'" + word.replace("$", "$$") + "'" for word in words)]
        objects.append(new)
    assert len(objects) >= count, len(objects)
    (twin / "build.ninja").write_text("\n".join([*text, f"build whole.a: archive {' '.join(objects)}"]) + "\n")

    def clean(folder, *more):
        for name in (folder / ".fibula", *more):
            subprocess.run(["chmod", "-R", "u+w", str(name)], check=False, capture_output=True)
            shutil.rmtree(name, ignore_errors=True)

    def ours():
        clean(user, home / "shelf/.built")
        return timed(options.fibula, "build", cwd=user)

    def theirs():
        for path in [*twin.glob("*.o"), *twin.glob(".ninja_*"), twin / "whole.a"]:
            path.unlink(missing_ok=True)
        return timed("ninja", "-j", str(os.cpu_count()), cwd=twin)

    a, b = ratio(ours, theirs, 5)
    say(f"a library of {count} sources, with a program, its compiles and archive", a, b)

    def second(folder):
        clean(folder)
        return timed(options.fibula, "build", cwd=folder)

    a, b = ratio(lambda: second(user), lambda: second(without), 15)
    say("the first build of a second project with it", a, b, "without a library")
    print(f"  {(a - b) * 1000:.0f} ms more")


if options.only in (None, "none"):
    for count in [options.sources] if options.sources else [1000, 10000]:
        nothing_to_do(count)
if options.only in (None, "full"):
    everything(options.sources or 2000, False)
    everything(200, True)
if options.only in (None, "one"):
    one_changed(options.sources or 10000)
if options.only in (None, "sample"):
    sample()
if options.only in (None, "library"):
    library(options.sources or 200)
