#!/usr/bin/python3
"""Builds a project through the compiler caches and compile farms of Debian's packages, with their daemons on this machine: ccache, first
with an empty cache and then after `build --clean`; ccache with a Redis server as its shared store, seen from a second machine, which is
a second cache folder; distcc and icecc, whose daemons' logs must show the compiles. What each makes is compared with what the compiler
makes alone.

usage: check_farms.py FIBULA      needs ccache, redis-server, distcc and icecc
"""
import filecmp
import os
import pathlib
import re
import shutil
import socket
import subprocess
import sys
import tempfile
import time

fibula = os.path.abspath(sys.argv[1])
scratch = tempfile.TemporaryDirectory(prefix="fibula-farms-")
home = pathlib.Path(scratch.name)
home.chmod(0o777)  # daemons have users of their own
work = home / "work"
SOURCES = 12
daemons, failures = [], []


def free_port():
    with socket.socket() as s:
        s.bind(("127.0.0.1", 0))
        return s.getsockname()[1]


def start(*command, **more):
    daemons.append(subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, cwd=home, **more))
    return daemons[-1]


def write_project(through):
    (work / "src").mkdir(parents=True, exist_ok=True)
    for i in range(SOURCES):
        (work / f"src/part{i}.cpp").write_text(f"#include <string>\nstd::string part{i}(int n) {{ return std::to_string(n + {i}); }}\n")
    (work / "src/main.cpp").write_text("#include <string>\nstd::string part0(int);\nint main() { return part0(0) == \"0\" ? 0 : 1; }\n")
    first = f'compile-through = ["{through}"]\n' if through else ""
    (work / "fibula.toml").write_text(first + '[[output]]\nname = "log"\nsources = ["src/*.cpp"]\n[lane.desk]\ncompiler = "g++"\n')


def build(name, **environment):
    values = dict(os.environ, XDG_CACHE_HOME=str(home / "cache"), FIBULA_SHELF=str(home / "shelf"), **environment)
    values.pop("CCACHE_DISABLE", None)
    subprocess.run([fibula, "build", "--clean"], cwd=work, env=values, capture_output=True)
    done = subprocess.run([fibula, "build", "--run"], cwd=work, env=values, capture_output=True, text=True)
    if done.returncode != 0:
        failures.append(name)
        print(f"{name}: not built\n{done.stdout}{done.stderr}")
    return done


def compare(name):
    """Objects are the same bytes as without it."""
    ours, theirs = work / ".fibula/desk/objects", home / "plain"
    other = [p for p in theirs.rglob("*.o") if not (ours / p.relative_to(theirs)).exists() or not filecmp.cmp(p, ours / p.relative_to(theirs), shallow=False)]
    if other:
        failures.append(name)
    return "the same objects" if not other else f"OTHER objects: {[p.name for p in other]}"


def statistics(folder):
    text = subprocess.run(["ccache", "--print-stats"], env=dict(os.environ, CCACHE_DIR=str(folder)), capture_output=True, text=True).stdout
    return dict(re.findall(r"(\w+)\t(\d+)", text))


def hits(folder):
    s = statistics(folder)
    return int(s.get("direct_cache_hit", 0)) + int(s.get("preprocessed_cache_hit", 0))


def ccache_alone():
    write_project("ccache")
    folder = home / "ccache"
    build("ccache", CCACHE_DIR=str(folder))
    before = hits(folder)
    build("ccache", CCACHE_DIR=str(folder))
    found = hits(folder) - before
    if found != SOURCES + 1:
        failures.append("ccache")
    print(f"ccache: {found} of {SOURCES + 1} compiles were hits in the second build; {compare('ccache')}")


def ccache_with_redis():
    port = free_port()
    start("redis-server", "--port", str(port), "--save", "", "--appendonly", "no")
    time.sleep(1)
    write_project("ccache")
    first, second = home / "first-machine", home / "second-machine"
    shared = {"CCACHE_REMOTE_STORAGE": f"redis://127.0.0.1:{port}", "CCACHE_SECONDARY_STORAGE": f"redis://127.0.0.1:{port}"}
    build("ccache with Redis", CCACHE_DIR=str(first), **shared)
    build("ccache with Redis", CCACHE_DIR=str(second), **shared)
    s = statistics(second)
    found = max(int(s.get("remote_storage_hit", 0)), int(s.get("secondary_storage_hit", 0)))
    missed = int(s.get("cache_miss", 0))
    if missed or hits(second) != SOURCES + 1:
        failures.append("ccache with Redis")
    print(f"ccache with Redis: the second machine had {hits(second)} of {SOURCES + 1} hits, {missed} misses, {found} answers from Redis;"
          f" {compare('ccache with Redis')}")


def with_distcc():
    port, log = free_port(), home / "distccd.log"
    start("distccd", "--no-detach", "--daemon", "--port", str(port), "--listen", "127.0.0.1", "--allow", "127.0.0.1", "--jobs", "6",
          "--log-file", str(log), "--enable-tcp-insecure", *(["--user", "distccd"] if os.getuid() == 0 else []))
    time.sleep(1)
    write_project("distcc")
    (home / "distcc").mkdir()
    build("distcc", DISTCC_HOSTS=f"127.0.0.1:{port}/6", DISTCC_FALLBACK="0", DISTCC_DIR=str(home / "distcc"))
    compiled = len(re.findall(r"COMPILE_OK", log.read_text() if log.exists() else ""))
    if compiled < SOURCES + 1:
        failures.append("distcc")
    print(f"distcc: {compiled} of {SOURCES + 1} compiles in the daemon's log; {compare('distcc')}")


def with_icecc():
    """A machine compiles for itself without its own daemon's help, so there are two of them."""
    user = ["-u", "icecc"] if os.getuid() == 0 else []
    log, scheduler = home / "helper.log", home / "scheduler.log"
    port = free_port()
    start("icecc-scheduler", "-p", str(port), "-n", "fibula", "-l", str(scheduler), "-vvv", *user)
    time.sleep(2)
    for name, more in (("own", ["--no-remote", "-l", str(home / "own.log")]), ("helper", ["-p", str(free_port()), "-l", str(log)])):
        start("iceccd", "-s", f"127.0.0.1:{port}", "-n", "fibula", "-N", name, "-m", "4", "-vvv", "-b", str(home / f"envs-{name}"), *more, *user,
              env=dict(os.environ, ICECC_TEST_SOCKET=str(home / name)))
    for _ in range(200):
        if scheduler.exists() and scheduler.read_text(errors="replace").count("login") >= 2:
            break
        time.sleep(0.1)
    write_project("icecc")
    build("icecc", ICECC_TEST_SOCKET=str(home / "own"), ICECC_TEST_REMOTEBUILD="1", ICECC_PREFERRED_HOST="helper")
    compiled = len(re.findall(r"Remote compilation completed with exit code 0", log.read_text(errors="replace") if log.exists() else ""))
    if compiled < SOURCES + 1:
        failures.append("icecc")
    print(f"icecc: {compiled} of {SOURCES + 1} compiles in the helper's log; {compare('icecc')}")


try:
    write_project("")
    build("alone", CCACHE_DISABLE="1")
    shutil.copytree(work / ".fibula/desk/objects", home / "plain")
    for tool, check in (("ccache", ccache_alone), ("redis-server", ccache_with_redis), ("distccd", with_distcc), ("iceccd", with_icecc)):
        if shutil.which(tool, path=os.environ["PATH"] + ":/usr/sbin"):
            check()
        else:
            failures.append(tool)
            print(f"{tool} is not installed")
finally:
    for daemon in daemons:
        daemon.terminate()
sys.exit(bool(failures))
