#!/usr/bin/env python3
"""Writes docs/rules: a page for each rule and cause, of what `fibula help` says of it and an example that a test runs.

usage: make_rule_pages.py FIBULA [--check]      (--check: only tell which pages are not as they would be written)
"""
import importlib.util
import json
import pathlib
import subprocess
import sys

root = pathlib.Path(__file__).resolve().parent.parent
folder = root / "docs" / "rules"
STAGES = {"compile": "When compiling fails", "link": "When linking fails", "load": "When a program does not start",
          "run": "When a program runs", "": "Rules of fit alone"}
LANGUAGES = {".c": "c", ".h": "c", ".cpp": "cpp", ".hpp": "cpp", ".toml": "toml", ".cxx": "cpp"}


def load(name):
    spec = importlib.util.spec_from_file_location(name, root / "tests" / f"{name}.py")
    module = importlib.util.module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


def cases():
    read = load("run_cases").parse
    all_cases = [case for path in sorted((root / "tests" / "cases").glob("*.txt")) for case in read(path)]
    best = {}
    for case in all_cases:
        cause = case.get("cause", "").split("|")[0].strip()
        size = len("".join(case["files"].values())) + len("".join(case["run"])) + 60 * len(case["each"])
        # Readers have a native compiler.
        size += 1000 if "foreign.txt" in case["line"] else 0
        if (case.get("fail") or case.get("takes")) and (cause not in best or size < best[cause][0]):
            best[cause] = (size, case)
    return {cause: case for cause, (_, case) in best.items()}


def first_of(text, case):
    for key, values in case["each"].items():
        text = text.replace("{" + key + "}", values[0])
    return text


def case_example(case):
    lines = []
    for path, content in case["files"].items():
        lines += [f"`{first_of(path, case)}`", "", f"```{LANGUAGES.get(pathlib.Path(path).suffix, '')}",
                  first_of(content, case).rstrip("\n"), "```", ""]
    commands = [first_of(command, case) for command in case["run"]] + [first_of(case["fail"], case) + "    # fails" if case.get("fail")
                 else first_of(case["takes"], case) + "    # says nothing, and is wrong"]
    place = pathlib.Path(case["line"].rsplit(":", 1)[0]).name
    check, explain = "`fibula check --` in front of the last command tells", "`fibula explain --`"
    if case.get("takes"):
        told = f"{check} `{case['cause']}`."
    elif case.get("late"):
        told = f"{explain} in front of the last command tells `{case['cause']}`."
    else:
        told = f"{check} `{case['cause']}` before it runs, and {explain} after it failed."
    return lines + ["```sh", *commands, "```", "", told, "", f"This is the case {case['name']} of [{place}](../../tests/cases/{place})."]


def story_example(path):
    lines, block = [], []
    for line in path.read_text(encoding="utf-8").splitlines():
        if line.startswith("# "):
            lines += [line[2:], ""]
        elif line.startswith("$ "):
            block.append(line)
        elif line.startswith("  "):
            block.append("> " + line[2:])
        elif line.startswith("> "):
            block.append(line[2:])
    return lines + ["```console", *block, "```", "",
                    f"Of the output only what matters is shown. This is [{path.name}](../../tests/rules/{path.name}), "
                    "which the tests run."]


def page(entry, by_cause):
    stage, name = entry["stage"], entry["id"]
    door = ("A rule of fit." if not stage else f"A rule of fit, and a cause of a failed {stage}." if entry["rule"]
            else f"A cause of a failed {stage}.")
    lines = [f"# {name}", "", door, "", entry["means"], "", f"**Known from:** {entry['evidence']}", "",
             f"**Remedy:** {entry['remedy']}"]
    story = root / "tests" / "rules" / f"{name}.txt"
    example = (story_example(story) if story.exists() else case_example(by_cause[name]) if name in by_cause else [])
    if example:
        lines += ["", "## An example", "", *example]
    return "\n".join(lines + ["", "[All rules and causes](README.md)", ""])


def pages(fibula):
    said = subprocess.run([fibula, "--json", "help"], capture_output=True, text=True, check=True)
    entries, by_cause = json.loads(said.stdout)["ids"], cases()
    made = {f"{entry['id']}.md": page(entry, by_cause) for entry in entries}
    index = ["# Rules and causes", "", "Each id has a page: what it means, what it is known from, what mends it, and an "
             "example that a test runs. `fibula help ID` prints the same. How rules judge is in [rules](../rules.md), how "
             "causes are found in [causes](../causes.md).", ""]
    for stage, title in STAGES.items():
        rows = [entry for entry in entries if entry["stage"] == stage]
        index += [f"## {title}", "", "| id | means |", "| --- | --- |"]
        index += [f"| [{entry['id']}]({entry['id']}.md){' (also a rule of fit)' if entry['rule'] and stage else ''} | "
                  f"{entry['means']} |" for entry in rows]
        index.append("")
    made["README.md"] = "\n".join(index)
    return made


def main():
    made = pages(sys.argv[1])
    there = {path.name: path.read_text(encoding="utf-8") for path in folder.glob("*.md")}
    stale = sorted(name for name in made.keys() | there.keys() if made.get(name) != there.get(name))
    if "--check" in sys.argv:
        print("\n".join(f"docs/rules/{name} is not as {sys.argv[0]} would write it" for name in stale))
        return 1 if stale else 0
    folder.mkdir(exist_ok=True)
    for name in stale:
        if name in made:
            (folder / name).write_text(made[name], encoding="utf-8")
        else:
            (folder / name).unlink()
    bare = [name for name, text in made.items() if "## An example" not in text and name != "README.md"]
    print(f"{len(stale)} written; without an example: {' '.join(bare) or 'none'}")
    return 0


sys.exit(main())
