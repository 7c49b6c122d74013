#!/usr/bin/python3
"""Edits a project at random and builds it after each edit; compares every product with one of a clean build of the same state, byte by
byte. Edits: sources and the names that they define and need, headers, definitions, flags, response files, libraries and their versions,
linkage, lanes' flags; touched, renamed, removed, added, hidden by new headers, changed without another size or time, with times of the
past and of the future, saved while the compiler reads; products and objects cut, damaged, removed; builds killed at any moment. What a
clean build refuses must be refused.

usage: check_builds.py FIBULA [--edits N] [--seed N] [--verbose]
"""
import argparse
import filecmp
import json
import os
import pathlib
import random
import shutil
import signal
import subprocess
import sys
import tempfile
import time

parser = argparse.ArgumentParser()
parser.add_argument("fibula", type=os.path.abspath)
parser.add_argument("--edits", type=int, default=300)
parser.add_argument("--seed", type=int, default=1)
parser.add_argument("--verbose", action="store_true")
options = parser.parse_args()
chance = random.Random(options.seed)
scratch = tempfile.TemporaryDirectory(prefix="fibula-builds-")
home = pathlib.Path(scratch.name)
work, clean = home / "work", home / "gone"
environment = dict(os.environ, XDG_CACHE_HOME=str(home / "cache"), FIBULA_SHELF=str(home / "shelf"))
for name in ("LIBRARY_PATH", "CPATH"):
    environment.pop(name, None)

SOURCES = ["src/log/tide.c", "src/log/gauge.c", "src/log/text.cpp", "src/moon/phase.c", "src/moon/table.c", "src/main.c", "src/extra.cpp", "top.c"]
HEADERS = ["include/tide.h", "include/harbour/gauge.h", "include/harbour/table.h", "src/log/inner.h"]
FIRST = "first"  # searched before include/


# What a source can show linkers beside its function: names that nobody else speaks of, that others need, that others have too.
SHOWN = ["", "int more_one;", "int more_two(void) { return 2; }", "int more_same;", "int pier_depth(int n) { return n; }", "int puts(const char* s) { return !s; }",
         "double sin(double); double more_sin(double x) { return sin(x); }", "int getpid(void); int more_need(void) { return getpid(); }",
         "__attribute__((weak)) int more_weak(void) { return 1; }", "static int more_hidden(void) { return 3; } int (*more_pointer)(void) = more_hidden;",
         "__attribute__((section(\"kept\"), used)) static int more_kept = 1;",
         "extern char __start_kept[] __attribute__((weak)); int more_start(void) { return !__start_kept; }", "__thread int more_local;"]


class State:
    """What the project file says, and which sources and headers there are."""

    def __init__(self):
        self.numbers = {path: chance.randrange(100, 999) for path in SOURCES + HEADERS}
        self.shown = {}
        self.definitions = []
        self.flags = []
        self.lane_flags = {"desk": ["-g0"], "quick": []}
        self.version, self.linkage = "1.0", "any"
        self.kind = "static-library"
        self.broken = None
        self.forgotten = False


def text_of(state, path):
    number = state.numbers[path]
    name = "f_" + path.replace("/", "_").replace(".", "_")
    if path.endswith(".h"):
        guard = name.upper()
        more = '#include "harbour/table.h"\n' if path == "include/tide.h" else ""
        return f"#ifndef {guard}\n#define {guard}\n{more}#define V_{name} {number}\nstatic int {name}(void) {{ return V_{name}; }}\n#endif\n"
    lines = ['#include "tide.h"', '#include <harbour/gauge.h>']
    if "log" in path:
        lines.append('#include "inner.h"')
    lines.append('#include <pier.h>')
    prefix = 'extern "C" ' if path.endswith(".cpp") else ""
    lines.append(f"{prefix}int {name}(int x) {{ return x * {number} + V_f_include_tide_h + f_include_harbour_gauge_h() + PIER; }}")
    if "/log/" in path:
        lines.append(f"{prefix}int {name}_inner(void) {{ return V_f_src_log_inner_h; }}")
    shown = state.shown.get(path, "")
    lines.append('extern "C" {\n' + shown + "\n}" if prefix and shown else shown)
    lines.append(f"#ifdef DEEP\n{prefix}int {name}_deep(void) {{ return DEEP + {number}; }}\n#endif")
    if path == "src/main.c":
        callees = [p for p in state.numbers if p != path and not p.endswith(".h")]
        for other in callees:
            lines.append(f"extern int f_{other.replace('/', '_').replace('.', '_')}(int);")
        calls = " + ".join(f"f_{other.replace('/', '_').replace('.', '_')}(n)" for other in callees) or "0"
        lines.append(f"int main(int n, char** v) {{ (void)v; return (({calls}) + pier_depth(n) + f_src_main_c(n)) & 63; }}")
    return "\n".join(lines) + "\n"


def project_text(state):
    quote = lambda words: "[" + ", ".join(f'"{word}"' for word in words) + "]"
    lanes = "".join(f'[lane.{lane}]\ncompiler = "g++"\nconfiguration = "{"debug" if lane == "desk" else "release"}"\nflags = {quote(flags)}\n'
                    for lane, flags in state.lane_flags.items())
    return f"""[[output]]
name = "log"
kind = "{state.kind}"
sources = ["src/log/*.c", "src/log/*.cpp"]
headers = ["{FIRST}", "include"]
uses = ["pier"]
flags = {quote(state.flags)}
[[output]]
name = "moon"
kind = "shared-library"
sources = ["src/moon/**/*.c"]
uses = ["pier"]
definitions = {quote(state.definitions)}
[[output]]
name = "main"
sources = ["src/*.c", "src/*.cpp", "*.c"]
uses = ["log", "moon", "pier"]
[library.pier]
version = "={state.version}"
linkage = "{state.linkage}"
{lanes}"""


def write(path, text, root=None):
    path = (root or work) / path
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text(text)


def write_all(state):
    for path in state.numbers:
        write(path, text_of(state, path))
    write("fibula.toml", project_text(state))


def run(*arguments, cwd=work, kill_after=None):
    process = subprocess.Popen([options.fibula, *arguments], cwd=cwd, env=environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
    try:
        out, _ = process.communicate(timeout=kill_after or 120)
    except subprocess.TimeoutExpired:
        if not kill_after:
            raise
        process.send_signal(signal.SIGKILL)
        out, _ = process.communicate()
        return None, out
    return process.returncode, out


def make_library(version, number):
    folder = home / f"pier-{version}"
    shutil.rmtree(folder, ignore_errors=True)
    write("include/pier.h", f"#define PIER {number}\n#ifdef __cplusplus\nextern \"C\"\n#endif\nint pier_depth(int);\n", folder)
    write("p.c", f"int pier_depth(int n) {{ return n + {number}; }}\n", folder)
    (folder / "lib").mkdir()
    subprocess.run("gcc -fPIC -c p.c -o p.o && ar rcs lib/libpier.a p.o && gcc -shared -Wl,-soname,libpier.so.1 p.o -o lib/libpier.so.1 && "
                   "ln -s libpier.so.1 lib/libpier.so && rm p.c p.o", shell=True, check=True, cwd=folder)
    status, out = run("take", str(folder), "--name", "pier", "--version", version, "--replace", cwd=home)
    assert status == 0, out


# Each edit changes files, and says what it did. -----------------------------------------------------------------------------

def pick(state, headers=None):
    paths = [p for p in state.numbers if headers is None or p.endswith(".h") == headers]
    return chance.choice(sorted(paths))


def edit_number(state):
    path = pick(state)
    state.numbers[path] = chance.randrange(100, 99999)
    write(path, text_of(state, path))
    return f"edit {path}"


def edit_what_is_shown(state):
    path = pick(state, headers=False)
    state.shown[path] = chance.choice(SHOWN) if chance.random() < 0.7 else ""
    write(path, text_of(state, path))
    return f"edit {path}: {state.shown[path]}"


def show_nothing(state):
    for path in state.shown:
        state.shown[path] = ""
        if path in state.numbers and path != state.broken:
            write(path, text_of(state, path))


def edit_quietly(state):
    path = pick(state)
    if not (work / path).exists():  # an edit before this one renamed or removed it, and no build came in between
        return edit_number(state)
    before = (work / path).stat()
    state.numbers[path] = chance.randrange(100, 999) if state.numbers[path] < 1000 else state.numbers[path] + 1
    write(path, text_of(state, path))
    os.utime(work / path, ns=(before.st_atime_ns, before.st_mtime_ns))
    return f"edit {path} without another time"


def touch(state):
    path = pick(state)
    if not (work / path).exists():
        return edit_number(state)
    when = time.time() + chance.choice([0, -100000, 100000])
    os.utime(work / path, (when, when))
    return f"touch {path}"


def edit_by_rename(state):
    path = pick(state)
    state.numbers[path] = chance.randrange(100, 999)
    write(path + "~", text_of(state, path))
    os.rename(work / (path + "~"), work / path)
    return f"save {path} by rename"


def definitions(state):
    state.definitions = chance.choice([[], ["DEEP=1"], ["DEEP=2"], ["OTHER"]])
    write("fibula.toml", project_text(state))
    return f"definitions {state.definitions}"


def flags(state):
    state.flags = chance.choice([[], ["-O1"], ["-DDEEP=9"], ["@options.rsp"], ["-fno-inline"]])
    write("fibula.toml", project_text(state))
    return f"flags {state.flags}"


def response_file(state):
    write("options.rsp", chance.choice(["-O1\n", "-O0\n", "-DDEEP=5\n", "-DDEEP=6\n"]))
    return "another response file"


def lane_flags(state):
    lane = chance.choice(["desk", "quick"])
    state.lane_flags[lane] = (["-g0"] if lane == "desk" else []) + chance.choice([[], ["-Os"], ["-O1"]])
    write("fibula.toml", project_text(state))
    return f"flags of lane {lane}: {state.lane_flags[lane]}"


def kind(state):
    state.kind = chance.choice(["static-library", "shared-library"])
    write("fibula.toml", project_text(state))
    return f"log is a {state.kind}"


def version(state):
    state.version = chance.choice(["1.0", "1.1"])
    write("fibula.toml", project_text(state))
    return f"version {state.version}"


def linkage(state):
    state.linkage = chance.choice(["any", "static", "shared"])
    write("fibula.toml", project_text(state))
    return f"linkage {state.linkage}"


def add_source(state):
    path = chance.choice(["src/log/new_a.c", "src/log/new_b.cpp", "src/moon/deep/new_c.c", "src/new_d.c", "top_new_e.c"])
    state.numbers.setdefault(path, chance.randrange(100, 999))
    write(path, text_of(state, path))
    write("src/main.c", text_of(state, "src/main.c"))
    return f"add {path}"


def remove_source(state):
    removable = [p for p in state.numbers if "new_" in p]
    if not removable:
        return add_source(state)
    path = chance.choice(sorted(removable))
    del state.numbers[path]
    (work / path).unlink()
    write("src/main.c", text_of(state, "src/main.c"))
    return f"remove {path}"


def rename_source(state):
    removable = [p for p in state.numbers if "new_" in p and not p.endswith("2.c")]
    if not removable:
        return add_source(state)
    path = chance.choice(sorted(removable))
    other = path.rsplit(".", 1)[0] + "2.c"
    if other in state.numbers or path.endswith(".cpp"):
        return edit_number(state)
    state.numbers[other] = state.numbers.pop(path)
    os.rename(work / path, work / other)
    write(other, text_of(state, other))
    write("src/main.c", text_of(state, "src/main.c"))
    return f"rename {path} to {other}"


def hide(state):
    path = chance.choice(["include/tide.h", "include/harbour/gauge.h", "include/harbour/table.h"])
    hidden = work / FIRST / path.split("/", 1)[1]
    if hidden.exists():
        hidden.unlink()
        return f"no longer hide {path}"
    number, state.numbers[path] = state.numbers[path], chance.randrange(100, 999)
    write(hidden.relative_to(work), text_of(state, path))
    state.numbers[path] = number
    return f"hide {path}"


def break_it(state):
    if state.broken:
        mend(state)
        return "mend"
    state.broken = pick(state)
    write(state.broken, "this is no C\n")
    return f"break {state.broken}"


def mend(state):
    if state.broken not in state.numbers:
        state.broken = None
        return
    write(state.broken, text_of(state, state.broken))
    state.broken = None


def remove_header(state):
    path = pick(state, headers=True)
    if (work / path).exists():
        (work / path).unlink()
        state.broken = state.broken or path
        return f"remove {path}"
    write(path, text_of(state, path))
    return f"write {path}"


def made_files():
    return sorted(p for p in (work / ".fibula").rglob("*") if p.is_file() and not p.is_symlink() and
                  ("objects" in p.parts or "bin" in p.parts or p.suffix == ".a"))


def damage(state):
    files = made_files()
    if not files:
        return "nothing to damage"
    path = chance.choice(files)
    way = chance.choice(["cut", "empty", "flip", "remove", "strip"])
    if way == "remove":
        path.unlink()
    else:
        data = path.read_bytes()
        os.chmod(path, 0o755)
        data = {"cut": data[: len(data) // 2], "empty": b"", "strip": data + b"\0", "flip": data[:80] + b"??" + data[82:]}[way]
        path.write_bytes(data)
    return f"{way} {path.relative_to(work)}"


def damage_record(state):
    lane = chance.choice(["desk", "quick"])
    path = work / ".fibula" / lane / "record"
    if path.exists():
        data = path.read_bytes()
        path.write_bytes(data[: chance.randrange(len(data) + 1)])
        # Only what a record says is ever removed: products that the project no longer has may stay.
        state.forgotten = True
    return f"cut the record of {lane}"


def replace_library(state):
    make_library(state.version, chance.randrange(10, 99))
    return f"another pier {state.version}"


def killed(state):
    said = edit_number(state) + ", " + edit_number(state)
    status, _ = run("build", kill_after=chance.uniform(0.005, 0.35))
    return said + (", build killed" if status is None else ", built")


def killed_then_edited(state):
    run("build", kill_after=chance.uniform(0.005, 0.35))
    return "killed, then " + chance.choice([edit_number, edit_quietly, definitions])(state)


def saved_while_building(state):
    edit_number(state)
    process = subprocess.Popen([options.fibula, "build"], cwd=work, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    time.sleep(chance.uniform(0.0, 0.25))
    said = chance.choice([edit_number, edit_by_rename, edit_quietly, add_source, remove_source, hide, definitions, version])(state)
    process.wait()
    return said + " while it builds"


def two_at_once(state):
    first = subprocess.Popen([options.fibula, "build"], cwd=work, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    time.sleep(chance.uniform(0.0, 0.1))
    said = edit_number(state)
    run("build")
    first.wait()
    return said + " between two builds at once"


def one_lane_only(state):
    said = edit_number(state)
    run("build", "--lane", chance.choice(["desk", "quick"]))
    return said + ", one lane built"


def fit_between(state):
    said = edit_number(state)
    run("fit")
    return said + ", fit"


def write_again(state):
    path = pick(state)
    write(path, text_of(state, path))
    return f"write {path} again"


EDITS = [edit_number, edit_number, edit_what_is_shown, edit_what_is_shown, edit_what_is_shown, edit_quietly, edit_quietly, touch, edit_by_rename, definitions, flags, response_file, lane_flags, kind, version,
         linkage, add_source, remove_source, rename_source, hide, hide, break_it, break_it, remove_header, damage, damage, damage, damage_record,
         replace_library, killed, killed, killed_then_edited, saved_while_building, two_at_once, one_lane_only, fit_between, write_again]


def products(root):
    found = {}
    for path in (root / ".fibula").rglob("*"):
        if path.is_file() and ("bin" in path.parts or path.suffix == ".a") and "making" not in path.parts:
            found[str(path.relative_to(root))] = path
    return found


def differences():
    """Compares with a clean build of the same state."""
    shutil.rmtree(clean, ignore_errors=True)
    shutil.copytree(work, clean, ignore=shutil.ignore_patterns(".fibula"), symlinks=True)
    status, out = run("build")
    clean_status, clean_out = run("build", cwd=clean)
    if (status == 0) != (clean_status == 0):
        return f"built: {status}, clean: {clean_status}\n--- built\n{out}\n--- clean\n{clean_out}", status
    if status != 0:
        return "", status
    ours, theirs = products(work), products(clean)
    if set(theirs) - set(ours) or (set(ours) != set(theirs) and not state.forgotten):
        return f"only built: {sorted(set(ours) - set(theirs))}, only clean: {sorted(set(theirs) - set(ours))}", status
    other = [name for name in theirs if not filecmp.cmp(ours[name], theirs[name], shallow=False)]
    if other:
        return f"differ: {other}\n{out}", status
    status, out = run("--json", "build")
    again = [f"{lane['lane']} {step['kind']} {step['subject']}: {step['cause']}" for lane in json.loads(out)["lanes"] for step in lane["steps"]]
    return (f"not settled: {again}" if again else ""), status


state = State()
(work / FIRST).mkdir(parents=True)
write("options.rsp", "-O1\n")
make_library("1.0", 11)
make_library("1.1", 22)
write_all(state)
failures, refused, before = 0, 0, time.time()
for number in range(options.edits + 1):
    edits = chance.choice([1, 1, 1, 2]) if number else 0
    if state.broken and chance.random() < 0.5:
        mend(state)
    if number and status != 0 and state.shown and chance.random() < 0.7:
        show_nothing(state)
    said = [chance.choice(EDITS)(state) for _ in range(edits)]
    different, status = differences()
    refused += status != 0
    if options.verbose:
        print(f"{number}: {'; '.join(said)}: {'same' if not different else 'DIFFERENT'} ({status})", flush=True)
    if different:
        failures += 1
        print(f"edit {number} ({'; '.join(said)}): {different}", flush=True)
        shutil.rmtree(work / ".fibula", ignore_errors=True)
print(f"{options.edits} rounds of edits, seed {options.seed}: {failures} differ from a clean build; {refused} states were refused by both; "
      f"{time.time() - before:.0f} s")
sys.exit(failures != 0)
