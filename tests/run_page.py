#!/usr/bin/env python3
"""Runs a page of the documentation: its commands as a reader types them, and what they print must be what stands there.

usage: run_page.py FIBULA DEMO PAGE [--fill]

  ```console     `$ ` begins a command, which goes on over lines behind a `\\`; what stands below it is its output
  <!-- file PATH -->     the next block is the content of that file, made when the page comes to it
  <!-- run COMMAND -->   a command that readers do not see: makes what their download would have brought, or a mistake
  <!-- status N -->      the exit status of the last command of the next block; 0 when left out
In an output `…` stands for any text, alone in a line for any lines. The home folder is written /home/you. --fill writes
what was printed into the page instead of comparing it.
"""
import os
import pathlib
import re
import shutil
import subprocess
import sys
import tempfile

LIMIT = 240  # seconds for one command
TOKEN = re.compile(r"<!-- (file|run|status) (.*?) ?-->|^```(\w*)\n(.*?)^```", re.S | re.M)


class Reader:
    """Somebody at a terminal: a home, a folder they are in, the samples at hand."""

    def __init__(self, fibula, demo, place):
        self.home = place / "you"
        self.home.mkdir()
        self.folder = str(self.home)
        self.environment = {key: value for key, value in os.environ.items()
                            if not re.match(r"FIBULA|XDG_|CPATH|LIBRARY_PATH|LD_LIBRARY|MAKEFLAGS", key)}
        self.environment.update(HOME=str(self.home), DEMO=demo, NO_COLOR="1", LC_ALL="C.UTF-8", COLUMNS="100",
                                PATH=f"{pathlib.Path(fibula).parent}:{os.environ['PATH']}")

    def run(self, command):
        where = self.home / ".where"
        script = f"cd {self.folder!r} || exit\n{command}\nstatus=$?\npwd > {where}\nexit $status"
        ran = subprocess.run(["bash", "-c", script], env=self.environment, text=True, stdin=subprocess.DEVNULL,
                             stdout=subprocess.PIPE, stderr=subprocess.STDOUT, timeout=LIMIT, errors="replace")
        if where.exists():
            self.folder = where.read_text().strip()
            where.unlink()
        return ran.returncode, ran.stdout.replace(str(self.home), "/home/you")


def commands_of(block):
    """(command as written, its lines of output)"""
    steps = []
    for line in block.splitlines():
        if line.startswith("$ "):
            steps.append([line[2:], []])
        elif steps and not steps[-1][1] and steps[-1][0].endswith("\\"):
            steps[-1][0] += "\n" + line
        elif steps:
            steps[-1][1].append(line)
    return steps


def plain(line):
    """Columns are as wide as the paths in them, which are not the reader's."""
    return re.sub(r"(?<=\S) {2,}", "  ", line.rstrip())


def is_as(wanted, output):
    parts = []
    for line in wanted:
        parts.append("(?:.*\n)*" if line.strip() == "…" else re.escape(plain(line)).replace("…", ".*") + "\n")
    return re.fullmatch("".join(parts), "".join(plain(line) + "\n" for line in output.splitlines())) is not None


def filled_in(output):
    """Steps of a build end in no certain order."""
    return re.sub(r"(?:^\[\d+/\d+\] .*\n)+", "…\n", output, flags=re.M)


def run_page(fibula, demo, page, fill):
    text = page.read_text(encoding="utf-8")
    faults, filled, last = [], [], 0
    place = pathlib.Path(tempfile.mkdtemp(prefix="fibula-page-"))
    reader = Reader(fibula, demo, place)
    file, status = None, 0
    try:
        for token in TOKEN.finditer(text):
            word, argument, language, block = token.groups()
            line = text.count("\n", 0, token.start()) + 1
            if word == "file":
                file = argument
            elif word == "status":
                status = int(argument)
            elif word == "run":
                code, output = reader.run(argument)
                if code != 0:
                    faults.append(f"{page}:{line}: {argument}: status {code}\n{output}")
            elif file is not None:
                path = pathlib.Path(reader.folder) / file
                path.parent.mkdir(parents=True, exist_ok=True)
                path.write_text(block, encoding="utf-8")
                file = None
            elif language == "console":
                steps, written = commands_of(block), ""
                for number, (command, wanted) in enumerate(steps):
                    code, output = reader.run(command)
                    if code != (status if number + 1 == len(steps) else 0):
                        faults.append(f"{page}:{line}: {command}: status {code}\n{output}")
                    elif not fill and not is_as(wanted, output):
                        faults.append(f"{page}:{line}: {command}\n--- prints\n{output}--- and not\n" + "\n".join(wanted))
                    written += f"$ {command}\n{filled_in(output)}"
                status = 0
                filled += [text[last:token.start(4)], written]
                last = token.end(4)
    finally:
        shutil.rmtree(place, ignore_errors=True)
    if fill:
        page.write_text("".join(filled) + text[last:], encoding="utf-8")
    print("\n".join(faults))
    return 1 if faults else 0


sys.exit(run_page(os.path.abspath(sys.argv[1]), os.path.abspath(sys.argv[2]), pathlib.Path(sys.argv[3]), "--fill" in sys.argv))
