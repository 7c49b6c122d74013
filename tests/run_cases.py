#!/usr/bin/env python3
"""Broken situations and sound ones, made from sources by real tools, and what must be said of them.

usage: run_cases.py FIBULA CASES... [--only TEXT] [--part open|hidden|all] [--share N] [--verbose]

A case file holds cases; an empty line or `#` stands anywhere.
  case NAME
  each KEY = A | B      the case is run for each value, which stands for {KEY} in all its lines
  file PATH             the lines behind it, without two spaces before them, are the file's
  run COMMAND           makes what is there before
  fail COMMAND          the command that does not work
  takes COMMAND         the same, and its linker takes it all the same
  cause ID              that must be named first; several with |
  culprit TEXT          that must stand in the first finding
  apply COMMAND         the remedy by hand; else the finding's own edit is applied
  late                  only the failure shows it: nothing is foreseen
  works COMMAND         the command works: nothing may be found before or after
  own COMMAND           it fails by the program's own fault: no library may be blamed
Each broken case is checked before its command runs, explained after it failed, its remedy applied, and then it works.
"""
import hashlib
import itertools
import json
import os
import pathlib
import re
import shlex
import shutil
import subprocess
import sys
import tempfile
import zlib

LIMIT = 60  # seconds for one command
NO_BLAME = {"not-about-libraries", "unknown"}


def parse(path):
    cases, case, file = [], None, None
    for number, line in enumerate(pathlib.Path(path).read_text(encoding="utf-8").split("\n"), 1):
        if file is not None and (line.startswith("  ") or not line):
            case["files"][file] += line[2:] + "\n"
            continue
        file = None
        word, _, rest = line.partition(" ")
        if not line or line.startswith("#"):
            continue
        if word == "case":
            case = {"name": rest, "each": {}, "files": {}, "run": [], "apply": [], "culprit": [], "line": f"{path}:{number}"}
            cases.append(case)
        elif word == "each":
            key, _, values = rest.partition("=")
            case["each"][key.strip()] = [value.strip() for value in values.split("|")]
        elif word == "file":
            file = rest
            case["files"][file] = ""
        elif word in ("run", "apply", "culprit"):
            case[word].append(rest)
        elif word in ("fail", "takes", "cause", "works", "own"):
            case[word] = rest
        elif word == "late":
            case["late"] = True
        else:
            sys.exit(f"{path}:{number}: what is {word}?")
    return cases


def filled(value, chosen):
    if isinstance(value, str):
        for key, by in chosen.items():
            value = value.replace("{" + key + "}", by)
        return value
    if isinstance(value, list):
        return [filled(each, chosen) for each in value]
    if isinstance(value, dict):
        return {filled(key, chosen): filled(each, chosen) for key, each in value.items()}
    return value


def variants(case):
    keys = list(case["each"])
    for values in itertools.product(*case["each"].values()):
        chosen = dict(zip(keys, values))
        one = {key: filled(value, chosen) for key, value in case.items() if key != "each"}
        one["name"] = "/".join([case["name"], *(v or "-" for v in values)])
        yield one


def is_hidden(case):
    return int(hashlib.sha256(case["name"].split("/")[0].encode()).hexdigest(), 16) % 5 == 0


class Place:
    def __init__(self, fibula):
        self.root = pathlib.Path(tempfile.mkdtemp(prefix="fibula-case-"))
        self.work = self.root / "work"
        self.work.mkdir()
        self.fibula = fibula
        self.environment = {k: v for k, v in os.environ.items() if k not in ("CPATH", "LIBRARY_PATH", "LD_LIBRARY_PATH", "MAKEFLAGS")}
        self.environment.update(FIBULA_SHELF=str(self.root / "shelf"), LC_ALL="C", PATH=str(pathlib.Path(fibula).parent) + ":" + os.environ["PATH"], NO_COLOR="1", WINEDEBUG="-all,err+module")

    def shell(self, command):
        return subprocess.run(["bash", "-c", command], cwd=self.work, env=self.environment, stdin=subprocess.DEVNULL,
                              stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True, errors="replace", timeout=LIMIT)

    def findings(self, words):
        ran = subprocess.run(["bash", "-c", f"{shlex.quote(self.fibula)} {words}"], cwd=self.work, env=self.environment, text=True,
                             stdin=subprocess.DEVNULL, stdout=subprocess.PIPE, stderr=subprocess.PIPE, errors="replace", timeout=LIMIT)
        try:
            return ran.returncode, json.loads(ran.stdout).get("findings", [])
        except json.JSONDecodeError:
            return ran.returncode, [{"cause": "no-json", "text": ran.stdout + ran.stderr}]

    def close(self):
        shutil.rmtree(self.root, ignore_errors=True)


def short(findings):
    return [{k: v for k, v in f.items() if k in ("cause", "subject", "culprits", "because", "remedy", "edit", "tried", "text")} for f in findings]


def mended(place, case, finding):
    """Applies the remedy; gives what is wrong."""
    command = case.get("fail") or case["takes"]
    if case["apply"]:
        for step in case["apply"]:
            ran = place.shell(step)
            if ran.returncode != 0:
                return f"the remedy by hand fails: {step}\n{ran.stdout}"
        if any("# instead" in step for step in case["apply"]):
            return ""
    elif finding.get("command"):
        command = " ".join(shlex.quote(word) for word in finding["command"])
    elif re.match(r"^[^ :]+:\d+: ", finding.get("edit", "")):
        file, line, text = finding["edit"].split(":", 2)
        lines = (place.work / file).read_text().split("\n")
        lines[int(line) - 1] = text[1:]
        (place.work / file).write_text("\n".join(lines))
    elif finding.get("edit"):
        ran = place.shell(finding["edit"])
        if ran.returncode != 0:
            return f"the edit fails: {finding['edit']}\n{ran.stdout}"
    else:
        return "no remedy to apply"
    ran = place.shell(command)
    return "" if ran.returncode == 0 else f"still fails: {command}\n{ran.stdout[:600]}"


def judge(place, case):
    for path, text in case["files"].items():
        (place.work / path).parent.mkdir(parents=True, exist_ok=True)
        (place.work / path).write_text(text)
    for step in case["run"]:
        ran = place.shell(step)
        if ran.returncode != 0:
            return [f"cannot be made: {step}\n{ran.stdout}"]
    sound = case.get("works") or case.get("own")
    command = sound or case.get("fail") or case.get("takes")
    faults = []
    status, foreseen = place.findings(f"check --json -- {command}")
    ran = place.shell(command)
    if sound:
        wanted = "works" in case
        if (ran.returncode == 0) != wanted:
            return [f"status {ran.returncode}\n{ran.stdout[:800]}"]
        _, found = place.findings(f"explain --json -- {command}")
        for said, findings in (("check", foreseen), ("explain", found)):
            blamed = [f for f in findings if f["cause"] not in NO_BLAME]
            if blamed:
                faults.append(f"{said} blames: {short(blamed)}")
        return faults
    causes = case["cause"].split("|")
    if "late" not in case and (not foreseen or foreseen[0]["cause"] not in causes):
        faults.append(f"check: {short(foreseen)}")
    if "late" not in case and status != 1:
        faults.append(f"check: status {status}")
    if "fail" in case and ran.returncode == 0:
        return [f"does not fail: {command}"]
    if "fail" in case:
        _, found = place.findings(f"explain --json -- {command}")
        if not found or found[0]["cause"] not in causes:
            faults.append(f"explain: {short(found)}\n  of: {ran.stdout[:500]}")
    else:
        found = foreseen
    for text in case["culprit"]:
        if found and text not in json.dumps(found[0]):
            faults.append(f"culprit {text} is not in {short(found[:1])}")
    fault = mended(place, case, found[0]) if found else "nothing was found"
    if fault:
        faults.append(fault + f"\n  {short(found[:1])}")
    return faults


def main():
    arguments = sys.argv[1:]
    options = {"--only": "", "--part": "all", "--share": "1"}
    verbose = "--verbose" in arguments
    arguments = [a for a in arguments if a != "--verbose"]
    for name in list(options):
        if name in arguments:
            at = arguments.index(name)
            options[name] = arguments[at + 1]
            del arguments[at:at + 2]
    fibula, files = os.path.abspath(arguments[0]), arguments[1:]
    good = {"open": 0, "hidden": 0}
    total = {"open": 0, "hidden": 0}
    for case in (variant for path in files for each in parse(path) for variant in variants(each)):
        part = "hidden" if is_hidden(case) else "open"
        if zlib.crc32(case["name"].encode()) % int(options["--share"]) != 0:
            continue  # every Nth, whichever it is
        if options["--only"] not in case["name"] or options["--part"] not in ("all", part):
            continue
        place = Place(fibula)
        try:
            faults = judge(place, case)
        except subprocess.TimeoutExpired as late:
            faults = [f"takes longer than {LIMIT} s: {late.cmd}"]
        finally:
            place.close()
        total[part] += 1
        good[part] += not faults
        if faults:
            print(f"✗ {case['name']} ({case['line']}){' [hidden]' if part == 'hidden' else ''}")
            for fault in faults:
                print("   ", fault)
        elif verbose:
            print(f"✓ {case['name']}")
    print(", ".join(f"{part}: {good[part]} of {total[part]}" for part in total if total[part]))
    return good != total


if __name__ == "__main__":
    sys.exit(main())
