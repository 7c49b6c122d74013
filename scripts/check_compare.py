#!/usr/bin/env python3
"""Compares libraries of two Debian releases, and starts programs that were linked with the older one beside the newer one.

usage: check_compare.py FIBULA [--only NAME] [--parcels]

Each program refers to every function that the older library exports and its headers mention, and is started with the newer library in the
older one's place, all names bound at once. What `compare` says of symbols, versions and sonames must be what happens. Where it says no
because of how types are laid out, a start tells nothing: those are counted apart. With --parcels the newer ones are also parcelled, taken
onto another shelf, and a program of that shelf is built and started. A fifth of the names, by hash, is reported apart."""
import argparse
import hashlib
import json
import lzma
import os
import pathlib
import re
import subprocess
import tempfile
import urllib.request


def mirror():
    """Where this machine gets Debian's packages from, security updates aside."""
    sites = subprocess.run(["apt-get", "indextargets", "--format", "$(SITE)"], text=True, stdout=subprocess.PIPE, check=True)
    return next(site for site in sites.stdout.split() if site.endswith("/debian")) + "/"


MIRROR = mirror()
RELEASES = ("bullseye", "bookworm")
# Development packages, by their name in both releases.
PACKAGES = """zlib1g-dev libpng-dev libjpeg62-turbo-dev libexpat1-dev liblzma-dev libbz2-dev libzstd-dev liblz4-dev libyaml-dev libjansson-dev
libuv1-dev libevent-dev libsqlite3-dev libpcre2-dev libffi-dev libgmp-dev libmpfr-dev libogg-dev libvorbis-dev libflac-dev libopus-dev
libsndfile1-dev libfmt-dev libyaml-cpp-dev libjsoncpp-dev libpugixml-dev libtinyxml2-dev libre2-dev libunistring-dev libidn2-dev libcap-dev
libxxhash-dev libcjson-dev libgsl-dev libspeex-dev libwebp-dev libgif-dev liblcms2-dev libmpg123-dev libsodium-dev libusb-1.0-0-dev
libconfig-dev libpopt-dev libinih-dev libbrotli-dev libminizip-dev libsamplerate0-dev libfftw3-dev""".split()


def index(release):
    """Package -> its fields, of one release."""
    with urllib.request.urlopen(f"{MIRROR}dists/{release}/main/binary-amd64/Packages.xz", timeout=120) as answer:
        text = lzma.decompress(answer.read()).decode()
    found = {}
    for block in text.split("\n\n"):
        fields = dict(re.findall(r"^(\S+): (.*)$", block, re.M))
        if "Package" in fields:
            found[fields["Package"]] = fields
    return found


def packages_for(fields, of):
    """The development package and those of the same version that it depends on."""
    wanted = [fields]
    for name, version in re.findall(r"([\w.+-]+) \(= ([^)]+)\)", fields.get("Depends", "")):
        if name in of and of[name]["Version"] == version:
            wanted.append(of[name])
    return wanted


def fetch(fields, cache):
    file = cache / pathlib.Path(fields["Filename"]).name
    if not file.exists():
        urllib.request.urlretrieve(MIRROR + fields["Filename"], file)
    return file


class Pair:
    def __init__(self, fibula, name, place, files):
        self.fibula, self.name, self.place, self.files = fibula, name, place, files
        self.environment = dict(os.environ, FIBULA_SHELF=str(place / "shelf"), LC_ALL="C")
        self.library = re.sub(r"-dev$", "", name)

    def run(self, *words, **more):
        return subprocess.run([str(word) for word in words], capture_output=True, text=True, timeout=300, **more)

    def tool(self, *words):
        return self.run(self.fibula, *words, env=self.environment, cwd=self.place)

    def take(self):
        for version, files in zip(("1", "2"), self.files):
            ran = self.tool("take", *files, "--name", self.library, "--version", version)
            if ran.returncode != 0:
                return (ran.stderr or ran.stdout).strip().splitlines()[0][:160]
        return None

    def shared(self, version):
        """Each shared library's real file, and the names that it has."""
        root = self.place / "shelf" / self.library / version / "files"
        return sorted({file.resolve() for file in root.rglob("*.so*") if file.is_file()})

    def starts(self):
        """Whether a program of the first version starts with the second; None where no program can be made."""
        root = self.place / "shelf" / self.library
        headers = "\n".join(f.read_text(errors="replace") for f in (root / "1" / "files").rglob("*.h*") if f.is_file() and "/include/" in str(f))
        headers = re.sub(r"//[^\n]*|/\*.*?\*/", " ", headers, flags=re.S)
        words = set(re.findall(r"\w+", headers))
        outcome = None
        for library in self.shared("1"):
            listed = self.run("nm", "-D", "--defined-only", library).stdout
            symbols = [line.split()[-1] for line in listed.splitlines() if len(line.split()) == 3 and line.split()[1] in "TBDRVi"]
            plain = [s for s in symbols if re.fullmatch(r"[A-Za-z_]\w*(@@[\w.]+)?", s)]
            names = sorted({s.split("@")[0] for s in plain if "@" not in s or "@@" in s} & words)
            names = [n for n in names if n != "main"]
            if not names:
                continue
            source = self.place / "program.c"
            refers = "".join(f'extern char {n}_[] __asm__("{n}");\n' for n in names)
            source.write_text(refers + "char *all[] = {" + ", ".join(f"{n}_" for n in names) + "};\nint main(void) { return all[0] == 0; }\n")
            program = self.place / "program"
            soname = re.search(r"SONAME\)\s+Library soname: \[(.*)\]", self.run("readelf", "-d", library).stdout)
            # The loader finds each library by its soname, in a folder of its own version.
            for version in ("1", "2"):
                folder = self.place / f"lib{version}"
                folder.mkdir(exist_ok=True)
                for file in self.shared(version):
                    named = re.search(r"Library soname: \[(.*)\]", self.run("readelf", "-d", file).stdout)
                    if named and not (folder / named[1]).exists():
                        (folder / named[1]).symlink_to(file)
            made = self.run("gcc", "-w", "-no-pie", "-fno-pie", source, library, "-o", program, "-Wl,--no-as-needed", "-Wl,--allow-shlib-undefined",
                            f"-Wl,-rpath-link,{self.place / 'lib1'}")
            if made.returncode != 0 or not soname:
                continue
            environment = dict(os.environ, LD_BIND_NOW="1")
            first = self.run(program, env=dict(environment, LD_LIBRARY_PATH=str(self.place / "lib1")))
            if first.returncode != 0:
                continue
            # The system's own copy of the old soname must not step in.
            if not (self.place / "lib2" / soname[1]).exists():
                outcome = False
                continue
            second = self.run(program, env=dict(environment, LD_LIBRARY_PATH=str(self.place / "lib2")))
            outcome = second.returncode == 0 if outcome is None else outcome and second.returncode == 0
        return outcome

    def parcel(self):
        """Parcelled, taken onto another shelf, and tried there: None when all is well."""
        made = self.tool("parcel", self.library, "2", "--to", self.place / "p.tar.zst", "--untried", "--json")
        if made.returncode != 0:
            return "parcel: " + made.stderr.strip()[:160]
        other = dict(self.environment, FIBULA_SHELF=str(self.place / "elsewhere"))
        taken = self.run(self.fibula, "take", self.place / "p.tar.zst", env=other, cwd=self.place)
        if taken.returncode != 0:
            return "take: " + taken.stderr.strip()[:160]
        app = self.place / "app"
        app.mkdir()
        (app / "fibula.toml").write_text(f'[library.{self.library if "." not in self.library else chr(34) + self.library + chr(34)}]\n'
                                         '[lane.desk]\ncompiler = "g++"\nconfiguration = "release"\n')
        tried = self.run(self.fibula, "-C", app, "trial", env=other, cwd=self.place)
        if tried.returncode != 0:
            return "trial: " + " ".join((tried.stdout + tried.stderr).split())[:200]
        return None


def main():
    parser = argparse.ArgumentParser()
    parser.add_argument("fibula")
    parser.add_argument("--only")
    parser.add_argument("--parcels", action="store_true")
    parser.add_argument("--cache", default="/tmp/fibula-packages")
    asked = parser.parse_args()
    fibula = pathlib.Path(asked.fibula).resolve()
    cache = pathlib.Path(asked.cache)
    indices = []
    for release in RELEASES:
        (cache / release).mkdir(parents=True, exist_ok=True)
        kept = cache / release / "index.json"
        if not kept.exists():
            kept.write_text(json.dumps(index(release)))
        indices.append(json.loads(kept.read_text()))
    rows, wrong = [], 0
    for name in PACKAGES:
        if asked.only and asked.only not in name:
            continue
        if any(name not in of for of in indices):
            print(f"{name:24} not in both releases")
            continue
        hidden = hashlib.sha256(name.encode()).digest()[0] % 5 == 0
        with tempfile.TemporaryDirectory() as folder:
            files = [[fetch(f, cache / release) for f in packages_for(of[name], of)] for release, of in zip(RELEASES, indices)]
            pair = Pair(fibula, name, pathlib.Path(folder), files)
            problem = pair.take()
            if problem:
                rows.append((hidden, "not taken"))
                print(f"{name:24} not taken: {problem}", flush=True)
                continue
            compared = pair.tool("compare", f"{pair.library}/1", "2", "--json")
            if compared.returncode not in (0, 1):
                rows.append((hidden, "not compared"))
                print(f"{name:24} not compared: {(compared.stderr or compared.stdout)[:160]}", flush=True)
                continue
            found = json.loads(compared.stdout)
            all_changes = found["removed"] + found["added"] + found["changed"]
            breaking = {d["kind"] for d in all_changes if d["effect"] == "built"}
            # Programs here are linked with shared libraries, and refer to names of C.
            plain = re.compile(r"[A-Za-z_]\w*")
            seen_at_start = {d["kind"] for d in all_changes if d["effect"] == "built" and any("shared" in v for v in d.get("variants", [])) and
                             (d["kind"] in ("soname", "symbol-version", "target") or (d["kind"] == "symbol" and plain.fullmatch(d["name"])))}
            started = pair.starts()
            says = found["stands_in"]
            if started is None:
                verdict = "no program"
            elif seen_at_start:
                verdict = "right" if not started else "WRONG"
            elif says == "no":
                verdict = "not told by a start" if started else "WRONG"
            else:
                verdict = "right" if started else "WRONG"
            wrong += verdict == "WRONG"
            parcelled = pair.parcel() if asked.parcels else None
            rows.append((hidden, verdict, parcelled))
            versions = " -> ".join(of[name]["Version"] for of in indices)
            print(f"{name:24} {versions:44} says {says:3} starts {started!s:5} {verdict:20} {','.join(sorted(breaking)) or '-'}"
                  f" not compared: {len(found['not_compared'])}{' PARCEL ' + parcelled if parcelled else ''}", flush=True)
    for label, part in (("open", [r for r in rows if not r[0]]), ("hidden", [r for r in rows if r[0]])):
        counts = {}
        for row in part:
            counts[row[1]] = counts.get(row[1], 0) + 1
        print(label, counts, "parcels good:", sum(1 for r in part if len(r) > 2 and r[2] is None) if asked.parcels else "not made")
    return 1 if wrong else 0


if __name__ == "__main__":
    raise SystemExit(main())
