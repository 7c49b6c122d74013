#!/usr/bin/python3
"""Begins a project in the sources of programs as their makers released them, and builds it with nothing but the commands that Fibula names.

usage: check_programs.py FIBULA FOLDER [--only NAMES]

FOLDER keeps what is fetched from Debian's source packages. One line a program: "builds" (after `begin`), "builds after N named commands", or
the cause that is told. Those marked hidden were not looked at while rules were written. Needs network for the first run.
"""
import argparse
import os
import pathlib
import re
import shlex
import shutil
import subprocess
import sys
import tarfile

from debian_sources import fetch

# Looked at when they failed.
TUNED = """abook acct advancecomp antiword ascii aview bc beep bogofilter bsdiff buffer catdoc ccrypt cdecl cgdb chntpw cksfv cmatrix cpulimit cscope ctorrent
cuetools dash dhex dirdiff discount dos2unix dosfstools dtach dvtm dwdiff ed enscript fatsort fbset fdclone fdupes figlet flip gifsicle gpart gtypist gzrt
hexedit hping3 htop icmpush iftop indent iperf jhead joe jpegoptim jq less lzip lzop madplay mawk mgetty moon-buggy mpg123 mtd-utils mtools nano netcat
ngrep ninvaders nload nsnake nudoku numdiff nuttcp optipng pax psmisc pv qrencode robotfindskitten rzip screen scrot sipcalc sl socat sox tcc tinyproxy
toilet ucspi-tcp unrtf vitetris vorbisgain wipe xdelta3 xxhash zsync""".split()
# Right at the first look.
HIDDEN = """bing cdparanoia diffstat ent fping grepcidr jo liboping lua5.4 mdf2iso memtester par patchutils pcal pdfcrack pforth pngcheck pwgen stress
symlinks tofrodos tree unhide units zopfli""".split()

options = argparse.ArgumentParser()
options.add_argument("fibula", type=os.path.abspath)
options.add_argument("folder", type=lambda name: pathlib.Path(name).resolve())
options.add_argument("--only")
given = options.parse_args()
environment = dict(os.environ, NO_COLOR="1", FIBULA_SHELF=str(given.folder / "shelf-of-programs"), XDG_CACHE_HOME=str(given.folder / "cache-of-programs"),
                   XDG_STATE_HOME=str(given.folder / "state-of-programs"))


def run(command, folder):
    try:
        done = subprocess.run(command, cwd=folder, env=environment, stdin=subprocess.DEVNULL, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True,
                              errors="replace", timeout=600, check=False)
        return done.returncode, done.stdout
    except subprocess.TimeoutExpired:
        return 124, "took too long"


def unpack(package):
    archive = fetch(package, given.folder)
    if archive is None:
        return None
    folder = given.folder / "programs" / package
    shutil.rmtree(folder, ignore_errors=True)
    with tarfile.open(archive) as tar:
        tar.extractall(folder, filter="data")
    inside = list(folder.iterdir())
    return inside[0] if len(inside) == 1 and inside[0].is_dir() else folder


def named_command(said):
    """What Fibula says to type, where it says a command."""
    if "fibula explain --apply changes the files so" in said:
        return "fibula explain --apply"
    found = re.search(r"remedy: (?:take and )?attach it: (fibula .*)", said)
    return found[1] if found else None


def outcome(package):
    folder = unpack(package)
    if folder is None:
        return "not in Debian's sources"
    status, said = run([given.fibula, "begin"], folder)
    if status != 0:
        return "begin: " + said.strip().splitlines()[0]
    for number in range(8):
        status, said = run([given.fibula, "build", "--lane", "desk-debug"], folder)
        if status == 0:
            return "builds" if number == 0 else f"builds after {number} named command{'s' if number > 1 else ''}"
        command = named_command(said)
        if command is None or run(["sh", "-c", command.replace("fibula ", shlex.quote(given.fibula) + " ")], folder)[0] != 0:
            break
    told = re.findall(r"^(misfit \([a-z-]+\): \S+|[a-z]+(?:-[a-z]+)+: \S+|unknown: \S+)", said, re.MULTILINE)
    return "told: " + (told[0] if told else said.strip().splitlines()[-1])


built = {"tuned": 0, "hidden": 0}
for kind, packages in (("tuned", TUNED), ("hidden", HIDDEN)):
    for package in packages:
        if given.only and package not in given.only.split(","):
            continue
        said = outcome(package)
        built[kind] += said.startswith("builds")
        print(f"{package:18}{kind:8}{said}", flush=True)
print(f"tuned: {built['tuned']} of {len(TUNED)} build, hidden: {built['hidden']} of {len(HIDDEN)}")
sys.exit(0)
