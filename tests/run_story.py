#!/usr/bin/env python3
"""Runs one story: commands as a person types them, and what must be said.

usage: run_story.py FIBULA DEMO STORY

A story is a text. `$ ` begins a command for a shell, which goes on over lines that begin with two spaces. What follows
is expected of it: `> ` a text that its output has, `! ` one that it has not, `? ` its exit status (0 when left out).
All commands of a story run in one folder, with a shelf and a cache of their own; $DEMO is the folder of the samples.
"""
import os
import pathlib
import shutil
import subprocess
import sys
import tempfile

LIMIT = 240  # seconds for one command; the first start of an emulator takes long


def steps_of(text):
    steps = []
    for number, line in enumerate(text.split("\n"), 1):
        if line.startswith("$ "):
            steps.append({"line": number, "command": line[2:], "has": [], "lacks": [], "status": 0})
        elif line.startswith("  ") and steps:
            steps[-1]["command"] += "\n" + line[2:]
        elif line.startswith("> "):
            steps[-1]["has"].append(line[2:])
        elif line.startswith("! "):
            steps[-1]["lacks"].append(line[2:])
        elif line.startswith("? "):
            steps[-1]["status"] = int(line[2:])
        elif line and not line.startswith("#"):
            sys.exit(f"line {number} is neither a command nor an expectation: {line}")
    return steps


def faults_of(step, status, output):
    faults = [f"wanted: {text}" for text in step["has"] if text not in output]
    faults += [f"not wanted: {text}" for text in step["lacks"] if text in output]
    if status != step["status"]:
        faults.append(f"status {status}, wanted {step['status']}")
    return faults


def run(fibula, demo, story):
    fibula, demo = os.path.abspath(fibula), os.path.abspath(demo)
    place = pathlib.Path(tempfile.mkdtemp(prefix="fibula-story-"))
    environment = {key: value for key, value in os.environ.items()
                   if key not in ("CPATH", "LIBRARY_PATH", "LD_LIBRARY_PATH", "FIBULA_SHELF", "MAKEFLAGS")}
    environment.update(FIBULA_SHELF=str(place / "shelf"), FIBULA_CACHE=str(place / "cache"), DEMO=demo,
                       XDG_STATE_HOME=str(place / "state"), XDG_CONFIG_HOME=str(place / "config"), NO_COLOR="1",
                       LC_ALL="C.UTF-8", PATH=str(pathlib.Path(fibula).parent) + ":" + os.environ["PATH"])
    (place / "work").mkdir()
    try:
        for step in steps_of(pathlib.Path(story).read_text(encoding="utf-8")):
            ran = subprocess.run(["bash", "-c", step["command"]], cwd=place / "work", env=environment, text=True,
                                 stdin=subprocess.DEVNULL, stdout=subprocess.PIPE, stderr=subprocess.STDOUT,
                                 timeout=LIMIT, errors="replace")
            faults = faults_of(step, ran.returncode, ran.stdout)
            if faults:
                print(f"{story}:{step['line']}: {step['command']}\n{ran.stdout}\n" + "\n".join(faults))
                return 1
    finally:
        shutil.rmtree(place, ignore_errors=True)
    return 0


sys.exit(run(*sys.argv[1:4]))
