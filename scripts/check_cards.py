#!/usr/bin/python3
"""Takes real libraries from this machine's prefix and from Debian's packages for Windows, without any option but the library's name, and
compiles every header that the card calls public with the card's include directories: alone, or behind what its makers ask for (the
standard headers, or the library's main header). Prints each header that does not compile, and the share of libraries that needed a hand. Headers that refuse themselves (#error), that include what no package
here has, and those in the table INSIDE are counted apart.

usage: check_cards.py PATH_OF_FIBULA [NAME...]     needs apt-get for the packages for Windows
"""
import concurrent.futures
import os
import pathlib
import re
import subprocess
import sys
import tempfile
import tomllib

fibula = os.path.abspath(sys.argv[1])

# Debian packages that have them: the -dev package of each; libraries that are not installed are told.
PREFIX = """zlib bz2 lzma sqlite3 png jpeg expat xml2 xslt ffi freetype fontconfig brotlicommon curl ssl crypto gnutls idn2 tasn1 p11-kit gcrypt
gpg-error nettle hogweed gmp uv yaml archive magic ncurses readline uuid pq icuuc nspr4 nss3 z3 X11 Xext Xft xcb GL GLU glut tcl8.6
fmt benchmark gtest gmock nlohmann-json expected cli11 tomlplusplus xxhash tirpc xmlsec1 lz4 zstd pcre2-8 event boost_filesystem eigen3""".split()
# Their headers cannot be told apart from what lies beside them: a person says which are meant.
KNOWN = {"pq", "nss3", "xmlsec1"}
WINDOWS = ["libz", "libgpg-error", "libgcrypt", "libksba", "libassuan", "libnpth"]
# What the manuals of these libraries say is to be included first.
MANUAL = {"X11": ["X11/Xlib.h", "X11/Xutil.h"], "Xext": ["X11/Xlib.h", "X11/Xutil.h", "X11/extensions/Xext.h"], "Xft": ["X11/Xft/Xft.h"], "xml2": ["libxml/tree.h"],
          "xslt": ["libxslt/xslt.h", "libxslt/xsltInternals.h"], "nss3": ["nspr.h", "nss/nss.h", "nss/pk11pub.h", "nss/cert.h", "nss/secmod.h"], "uv": ["uv.h"], "cli11": ["CLI/CLI.hpp"], "tirpc": ["rpc/rpc.h"],
          "xmlsec1": ["xmlsec/xmlsec.h", "xmlsec/xmltree.h", "xmlsec/xmldsig.h", "xmlsec/keys.h"],
          "freetype": ["ft2build.h", "freetype/freetype.h"], "p11-kit": ["p11-kit/pkcs11.h"], "glut": ["GL/glut.h"], "GLU": ["GL/glu.h"], "GL": ["GL/gl.h", "X11/Xlib.h"]}
# Headers that are no library user's to include: lists that other headers expand, the inside of the library, or code for another system. No
# directory on a card makes them compile.
INSIDE = {"freetype": ["freetype/config/ftmodule.h", "freetype/fterrdef.h", "freetype/ftmac.h"], "uv": ["uv/win.h"], "tcl8.6": ["tcl-private/"],
          "Xext": ["X11/extensions/extutil.h", "X11/extensions/xtestext1.h"], "tirpc": ["rpc/svc_auth_gss.h"]}
STANDARD = "".join(f"#include <{name}.h>\n" for name in ("stddef", "stdint", "stdio", "stdlib", "string", "stdarg", "time", "sys/types"))


def run(*command, **options):
    return subprocess.run([str(word) for word in command], capture_output=True, text=True, **options)


def included_as(header, directories):
    names = [os.path.relpath(header, directory) if directory != "." else header for directory in directories]
    return min((name for name in names if not name.startswith("..")), key=len)


def compiles(text, compilers, options):
    """The first error, or nothing."""
    error = ""
    for compiler, language, flags in compilers if ".hpp>" not in text else compilers[-1:]:
        ran = run(compiler, "-fsyntax-only", "-w", "-x", language, *flags, *options, "-", input=text)
        if ran.returncode == 0:
            return ""
        error = error or next((line for line in ran.stderr.splitlines() if "error" in line), ran.stderr[:200])
    return error


def check_headers(entry, card, arch, compilers, directories):
    options = [f"-I{directory}" for directory in directories_of(entry.parent.parent, card, arch, {card["name"]}) if directory != "/usr/include"]
    names = sorted({included_as(header, directories) for header in card["headers"]["public"]
                    if any(directory == "." or header.startswith(directory + "/") for directory in directories)})
    stem = card["name"].lower()
    main = [name for name in names if re.sub(r"\W", "", pathlib.Path(name).stem.lower()) in (stem, stem + "lib", "lib" + stem)]
    main += [name for name in names if "/" not in name and name not in main][:5]

    def check(name):
        wanted = f"#include <{name}>\n"
        manual = "".join(f"#include <{first}>\n" for first in MANUAL.get(card["name"], []))
        preludes = [("alone", ""), ("standard", STANDARD)] + [("main", f"{STANDARD}#include <{first}>\n") for first in main] + [("manual", STANDARD + manual)]
        error = ""
        for how, prelude in preludes:
            said = compiles(prelude + wanted, compilers, options)
            if not said:
                return how, name, ""
            error = error or said
        if any(name.startswith(start) for start in INSIDE.get(card["name"], [])) or (card["name"] == "tcl8.6" and name.startswith("tommath")):
            return "inside", name, error
        # Its makers say that it is not to be included, or it includes what no package here has: for another system, or left out.
        if "#error" in error:
            return "refuses", name, error
        missing = re.search(r"fatal error: (\S+): No such file", error)
        if missing and not subprocess.run(["find", "/usr/include", "-path", f"*/{missing[1]}"], capture_output=True, text=True).stdout:
            return "lacks", name, error
        return "fails", name, error

    with concurrent.futures.ThreadPoolExecutor(2) as pool:
        return list(pool.map(check, names))


def directories_of(shelf, card, arch, seen):
    """Absolute include directories of a card and of what it requires."""
    entry = shelf / card["name"] / card["version"]
    root = pathlib.Path(card["origin"]["path"]) if card["origin"].get("in-place") else entry / "files"
    directories = list(card["headers"]["directories"])
    for variant in card.get("variant", []):
        if variant["arch"] == arch:
            directories += [d for d in variant.get("headers", []) if d not in directories]
    found = [str(root / d) for d in directories]
    for requirement in card.get("requires", []):
        name = requirement.get("library")
        if name is None:  # nobody had the header
            continue
        if name not in seen:
            seen.add(name)
            version = sorted((shelf / name).iterdir())[-1]
            found += directories_of(shelf, tomllib.loads((version / "card.toml").read_text()), arch, seen)
    return found


def report(what, shelf, taken, compilers_for):
    if taken.returncode != 0:
        print(f"{what}: not taken: {taken.stderr.strip()}")
        return False
    match = re.match(r"(\S+) (\S+) (?:is|was) on the shelf", taken.stdout)
    entry = shelf / match[1] / match[2]
    card = tomllib.loads((entry / "card.toml").read_text())
    good = True
    for arch, compilers, directories in compilers_for(card):
        results = check_headers(entry, card, arch, compilers, directories)
        counts = {how: sum(1 for r in results if r[0] == how) for how in ("alone", "standard", "main", "manual", "refuses", "lacks", "inside", "fails")}
        print(f"{what}: {card['name']} {card['version']}: {len(card.get('variant', []))} variants, include {directories}, {len(results)} headers: {({how: n for how, n in counts.items() if n})}")
        for how, name, error in results:
            if how == "fails":
                print(f"    {name}: {error[:220]}")
        good = good and not counts["fails"]
    return good


def native(card):
    directories = list(card["headers"]["directories"])
    for variant in card.get("variant", []):
        if variant["arch"] == "x86_64" and variant["format"] == "elf":
            directories += [d for d in variant.get("headers", []) if d not in directories]
    return [("x86_64", [("gcc", "c", []), ("g++", "c++", ["-std=c++17"])], directories)]


def windows(card):
    for arch, triple in (("x86_64", "x86_64-w64-mingw32"), ("x86", "i686-w64-mingw32")):
        directories = list(card["headers"]["directories"])
        found = False
        for variant in card["variant"]:
            if variant["arch"] == arch and variant["format"] == "pe":
                found = True
                directories += [d for d in variant.get("headers", []) if d not in directories]
        if not found:
            print(f"    no variant for {arch}")
        yield arch, [(f"{triple}-gcc", "c", []), (f"{triple}-g++", "c++", ["-std=c++17"])], directories


def main():
    os.environ.pop("LIBRARY_PATH", None)
    with tempfile.TemporaryDirectory() as folder:
        shelf = pathlib.Path(folder, "shelf")
        os.environ.update(FIBULA_SHELF=str(shelf), XDG_CACHE_HOME=folder)
        names = sys.argv[2:] or PREFIX
        results = {}
        for name in names:
            taken = run(fibula, "take", "/usr", "--library", name, "--in-place")
            if "has no library" in taken.stderr:
                print(f"{name}: not installed")
                continue
            results[name] = report(name, shelf, taken, native)
        for name in WINDOWS if not sys.argv[2:] else []:
            packages = [f"{name}-mingw-w64-dev"] + ([f"{name}-mingw-w64"] if name == "libz" else [])
            run("apt-get", "download", "-qq", *packages, cwd=folder)
            files = sorted(pathlib.Path(folder).glob(f"{name}-mingw*.deb"))
            results[name + " (Windows)"] = report(name + " (Windows)", shelf, run(fibula, "take", *files), windows)
        by_hand = [name for name, good in results.items() if not good]
        unexpected = set(by_hand) - KNOWN
        print(f"{len(results)} libraries, {len(by_hand)} needed a hand ({', '.join(by_hand)}): {100 * (1 - len(by_hand) / len(results)):.1f} % needed none")
        sys.exit(bool(unexpected))


if __name__ == "__main__":
    main()
