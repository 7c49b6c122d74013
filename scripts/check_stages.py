#!/usr/bin/python3
"""Stages programs for other machines and starts them where nothing else is: aarch64 and armhf against systems that are unpacked from
Debian's packages, under an emulator; Windows, both machines, with Debian's prebuilt libraries, under wine (64-bit). Each file of a
Windows folder is taken away in turn: then the program must not start, and Fibula must say which file is missing.

usage: check_stages.py FIBULA
"""
import glob
import os
import pathlib
import subprocess
import sys
import tempfile
import time

fibula = os.path.abspath(sys.argv[1])
here = pathlib.Path(__file__).resolve().parent
os.environ.pop("LIBRARY_PATH", None)
WINE = "mscoree,mshtml,winemenubuilder.exe,winedbg.exe,services.exe,explorer.exe=d"
PROGRAM = {
    "sqlite3": ("sqlite3.h", "sqlite3_libversion()"),
    "zlib": ("zlib.h", "zlibVersion()"),
    "gpg-error": ("gpg-error.h", "gpg_error_check_version(0)"),
    "gcrypt": ("gcrypt.h", "gcry_check_version(0)"),
}
WINES_OWN = ("zlib1.dll",)
failures = 0


def run(*command, **more):
    return subprocess.run([str(word) for word in command], capture_output=True, text=True, errors="replace", **more)


def expect(good, what, detail=""):
    global failures
    failures += not good
    print(("    " if good else "    NOT: ") + what + ("" if good else ": " + detail))


def write_project(folder, libraries, lane):
    folder.mkdir()
    includes = "".join(f"#include <{PROGRAM[name][0]}>\n" for name in libraries)
    prints = " << ' ' ".join(f"<< {PROGRAM[name][1]}" for name in libraries)
    (folder / "main.cpp").write_text(f'{includes}#include <iostream>\nint main() {{ std::cout {prints} << " well\\n"; }}\n')
    attached = "".join(f'[library."{name}"]\nlinkage = "shared"\n' for name in libraries)
    (folder / "fibula.toml").write_text(f'[[output]]\nname = "log"\nsources = ["main.cpp"]\n{attached}[lane.board]\n{lane}configuration = "release"\n')


def stage(work, libraries, lane):
    project, out = work / "project", work / "out"
    write_project(project, libraries, lane)
    staged = run(fibula, "-C", project, "stage", "--into", out)
    expect(staged.returncode == 0, f"staged: {', '.join(sorted(p.name for p in out.glob('*')))}", staged.stdout + staged.stderr)
    moved = work / "moved"
    if out.exists():
        out.rename(moved)
    return moved


def foreign(arch, triple, emulator):
    print(f"{triple}, against Debian's {arch} packages")
    with tempfile.TemporaryDirectory() as name:
        work = pathlib.Path(name)
        os.environ.update(FIBULA_SHELF=str(work / "shelf"), XDG_CACHE_HOME=str(work / "cache"))
        made = run(here / "foreign_system.sh", arch, work / "system", "libc6", "libc6-dev", "linux-libc-dev", "libcrypt1", "libgcc-s1", "libstdc++6",
                   "zlib1g", "zlib1g-dev", "libsqlite3-0", "libsqlite3-dev")
        root = work / "system/root"
        expect(made.returncode == 0, "system unpacked", made.stderr)
        for library in ("sqlite3", "zlib"):
            taken = run(fibula, "take", root / "usr", "--library", library, "--in-place", "--version", "1")
            expect(taken.returncode == 0, f"{library} taken", taken.stderr)
        moved = stage(work, ["sqlite3", "zlib"], f'compiler = "{triple}-g++"\nflags = ["--sysroot={root}"]\n')
        for library in glob.glob(str(root / "usr/lib/*/libsqlite3*")) + glob.glob(str(root / "usr/lib/*/libz.so*")):
            os.remove(library)
        for system in (root, f"/usr/{triple}"):  # the second has neither library
            ran = run(emulator, "-L", system, moved / "log")
            expect(ran.stdout.endswith("well\n"), f"starts with {'its own' if system == root else 'another'} system: {ran.stdout.strip()}", ran.stderr)


def wine(folder, prefix):
    environment = dict(os.environ, WINEPREFIX=str(prefix), WINEDEBUG="-all,err+module", WINEDLLOVERRIDES=WINE)
    return run("/usr/lib/wine/wine64", "log.exe", cwd=folder, env=environment, timeout=120)


def windows(machine, packages, libraries):
    print(f"{machine}-w64-mingw32, with {', '.join(packages)}")
    with tempfile.TemporaryDirectory() as name:
        work = pathlib.Path(name)
        os.environ.update(FIBULA_SHELF=str(work / "shelf"), XDG_CACHE_HOME=str(work / "cache"))
        run("apt-get", "download", "-qq", *packages, cwd=work)
        for library, pattern in libraries.items():
            taken = run(fibula, "take", *sorted(work.glob(pattern)), "--name", library)
            expect(taken.returncode == 0, f"{library} taken", taken.stderr)
        moved = stage(work, list(libraries), f'compiler = "{machine}-w64-mingw32-g++-posix"\n')
        starts = machine == "x86_64"
        if starts:
            ran = wine(moved, work / "wine")
            expect("well" in ran.stdout, f"starts: {ran.stdout.strip()}", ran.stderr[-300:])
        whole = run(fibula, "inspect", "--needs", moved / "log.exe")
        expect(whole.returncode == 0, "every file is there", whole.stdout)
        for file in sorted(moved.glob("*.dll")):
            file.rename(work / "taken")
            said = run(fibula, "inspect", "--needs", moved / "log.exe")
            named = said.returncode == 1 and any(file.name.lower() in line.lower() and "missing" in line for line in said.stdout.splitlines())
            expect(named, f"without {file.name}: told", said.stdout)
            if starts and file.name in WINES_OWN:
                print(f"    without {file.name}: wine has one of its own")
            elif starts:
                expect("well" not in wine(moved, work / "wine").stdout, f"without {file.name}: does not start")
            (work / "taken").rename(file)
        if starts:
            run("/usr/lib/wine/wineserver64", "-k", env=dict(os.environ, WINEPREFIX=str(work / "wine")))
            time.sleep(2)


def main():
    foreign("arm64", "aarch64-linux-gnu", "qemu-aarch64")
    foreign("armhf", "arm-linux-gnueabihf", "qemu-arm")
    packages = ["libz-mingw-w64", "libz-mingw-w64-dev", "libgpg-error-mingw-w64-dev", "libgcrypt-mingw-w64-dev"]
    libraries = {"zlib": "libz-*.deb", "gpg-error": "libgpg-error-*.deb", "gcrypt": "libgcrypt-*.deb"}
    for machine in ("x86_64", "i686"):
        windows(machine, packages, libraries)
    print("all as expected" if failures == 0 else f"{failures} not as expected")
    return failures != 0


if __name__ == "__main__":
    sys.exit(main())
