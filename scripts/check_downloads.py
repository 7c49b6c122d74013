#!/usr/bin/env python3
"""Takes libraries as people download them, and builds a program with each.

usage: check_downloads.py FIBULA FOLDER [--only NAME,NAME] [--hidden|--tuned]

The files are those of Debian's packages; the downloads are made here, in the shapes in which makers hand them out: with
or without a folder around, static, shared, links that became copies, several machines side by side, debris in between.
Each is taken with nothing but its name, attached to lanes that fit and lanes that do not, built and started. A line is
printed for each download, and what was said that should not have been. `hidden` are the libraries that no rule was
written for.
"""
import argparse
import json
import os
import pathlib
import shutil
import subprocess
import sys

LIBRARIES = {
    # name: (headers, stems, a program's body, hidden)
    "zlib": (["zlib.h", "zconf.h"], ["z"], '#include <zlib.h>\nint main(void) { return zlibVersion()[0] == 0; }', False),
    "expat": (["expat.h", "expat_external.h", "expat_config.h"], ["expat"],
              '#include <expat.h>\nint main(void) { XML_ParserFree(XML_ParserCreate(0)); return 0; }', False),
    "sqlite3": (["sqlite3.h", "sqlite3ext.h"], ["sqlite3"],
                '#include <sqlite3.h>\nint main(void) { sqlite3 *db; return sqlite3_open(":memory:", &db); }', False),
    "yaml": (["yaml.h"], ["yaml"], '#include <yaml.h>\nint main(void) { return yaml_get_version_string()[0] == 0; }', False),
    "bz2": (["bzlib.h"], ["bz2"], '#include <bzlib.h>\nint main(void) { return BZ2_bzlibVersion()[0] == 0; }', False),
    "xxhash": (["xxhash.h"], ["xxhash"], '#include <xxhash.h>\nint main(void) { return XXH_versionNumber() == 0; }', True),
    "png": (["libpng16", "png.h", "pngconf.h", "pnglibconf.h"], ["png16"],
            '#include <png.h>\nint main(void) { return png_access_version_number() == 0; }', False),
    "uv": (["uv.h", "uv"], ["uv", "uv_a"], '#include <uv.h>\nint main(void) { return uv_version() == 0; }', True),
    "gmp": (["gmp.h"], ["gmp"], '#include <gmp.h>\nint main(void) { mpz_t n; mpz_init_set_ui(n, 4); return mpz_get_ui(n) != 4; }', True),
    "lzma": (["lzma.h", "lzma"], ["lzma"], '#include <lzma.h>\nint main(void) { return lzma_version_number() == 0; }', True),
    "ffi": (["ffi.h", "ffitarget.h"], ["ffi"], '#include <ffi.h>\nint main(void) { ffi_cif c; return ffi_prep_cif(&c, FFI_DEFAULT_ABI, 0, &ffi_type_void, 0) != FFI_OK; }', True),
    "tasn1": (["libtasn1.h"], ["tasn1"], '#include <libtasn1.h>\nint main(void) { return asn1_check_version(0) == 0; }', True),
    "idn2": (["idn2.h"], ["idn2"], '#include <idn2.h>\nint main(void) { return idn2_check_version(0) == 0; }', True),
    "brotli": (["brotli"], ["brotlicommon", "brotlidec", "brotlienc"],
               '#include <brotli/decode.h>\nint main(void) { return BrotliDecoderVersion() == 0; }', True),
    "magic": (["magic.h"], ["magic"], '#include <magic.h>\nint main(void) { return magic_version() == 0; }', True),
}
SHAPES = ("flat static", "static", "shared with links", "shared with copies", "both, with debris", "two machines")
INCLUDE = [pathlib.Path("/usr/include"), pathlib.Path("/usr/include/x86_64-linux-gnu")]
LIB = pathlib.Path("/usr/lib/x86_64-linux-gnu")


def shell(command, folder, **more):
    return subprocess.run(command, cwd=folder, text=True, stdin=subprocess.DEVNULL, stdout=subprocess.PIPE,
                          stderr=subprocess.STDOUT, errors="replace", timeout=300, **more)


def copy_headers(names, to):
    to.mkdir(parents=True, exist_ok=True)
    for name in names:
        for folder in INCLUDE:
            at = folder / name
            if at.is_dir():
                shutil.copytree(at, to / name, dirs_exist_ok=True)
            elif at.is_file():
                shutil.copy(at, to / name)


def copy_shared(stem, to, links):
    link = LIB / f"lib{stem}.so"
    if not link.exists():
        return False
    real = link.resolve()
    soname = next((line.split("[")[1].rstrip("]") for line in shell(["readelf", "-d", str(real)], "/").stdout.split("\n") if "SONAME" in line), real.name)
    shutil.copy(real, to / real.name)
    for name in (soname, link.name):
        if name == real.name:
            continue
        if links:
            (to / name).symlink_to(real.name)
        else:
            shutil.copy(real, to / name)
    return True


def make_download(folder, name, version, shape):
    """The folder of the download, or nothing where the library has no such form."""
    headers, stems, _, _ = LIBRARIES[name]
    root = folder / f"{name}-{version}"
    shutil.rmtree(root, ignore_errors=True)
    static = [LIB / f"lib{stem}.a" for stem in stems if (LIB / f"lib{stem}.a").exists()]
    lib = root if shape == "flat static" else root / "lib"
    lib.mkdir(parents=True)
    copy_headers(headers, root if shape == "flat static" else root / "include")
    done = False
    if shape in ("flat static", "static", "both, with debris"):
        for archive in static:
            shutil.copy(archive, lib)
            done = True
    if shape in ("shared with links", "shared with copies", "both, with debris"):
        for stem in stems:
            done = copy_shared(stem, lib, shape != "shared with copies") or done
    if shape == "both, with debris":
        (root / "__MACOSX/lib").mkdir(parents=True)
        (root / "__MACOSX/lib/._libx.a").write_bytes(b"\0\5\x16\7")
        (root / ".DS_Store").write_bytes(b"x")
    if shape == "two machines":
        lib.rmdir()
        (root / "linux-x64").mkdir()
        (root / "linux-x86").mkdir()
        for archive in static:
            shutil.copy(archive, root / "linux-x64")
            done = True
        # The other machine's build is made up: the names are the same, the code is not.
        code = "\n".join(f"int {stem}_made_up(void) {{ return 1; }}" for stem in stems)
        (folder / "other.c").write_text(code)
        for archive in static:
            shell(["gcc", "-m32", "-c", "other.c", "-o", "other.o"], folder)
            shell(["ar", "rcs", str(root / "linux-x86" / archive.name), "other.o"], folder)
    return root if done else None


PROJECT = """[[output]]
name = "prog"
sources = ["main.c"]

[library.{name}]

[lane.here]
compiler = "gcc"

[lane.other]
compiler = "x86_64-w64-mingw32-gcc"
"""


class Trial:
    def __init__(self, fibula, folder):
        self.fibula, self.folder = fibula, folder
        self.environment = {**os.environ, "FIBULA_SHELF": str(folder / "shelf"), "FIBULA_CACHE": str(folder / "cache"), "NO_COLOR": "1"}
        for variable in ("CPATH", "LIBRARY_PATH", "LD_LIBRARY_PATH"):
            self.environment.pop(variable, None)

    def run(self, *arguments, cwd=None):
        return shell([self.fibula, *arguments], cwd or self.folder, env=self.environment)

    def faults(self, name, shape):
        root = make_download(self.folder, name, "1.0", shape)
        if root is None:
            return None
        archive = self.folder / f"{name}-1.0-linux-x64.tgz"
        shell(["tar", "czf", str(archive), root.name], self.folder)
        shutil.rmtree(self.folder / "shelf", ignore_errors=True)
        found = []
        taken = self.run("take", str(archive), "--name", name)
        if taken.returncode != 0:
            return ["not taken: " + taken.stdout.strip().replace("\n", " ")]
        project = self.folder / "prog"
        shutil.rmtree(project, ignore_errors=True)
        project.mkdir()
        (project / "main.c").write_text(LIBRARIES[name][2])
        (project / "fibula.toml").write_text(PROJECT.format(name=name))
        fit = json.loads(self.run("fit", "--json", cwd=project).stdout)
        here, other = fit["lanes"]
        said = [m for lane in (here,) for library in lane["libraries"] for m in library["misfits"]]
        said += here["misfits"] + here["run_misfits"] + here["compile_misfits"]
        found += [f"{m['verdict']} {m['rule']}: {'; '.join(m['evidence'])}" for m in said]
        rules = {m["rule"] for library in other["libraries"] for m in library["misfits"]}
        if other["verdict"] != "misfit" or "object-format" not in rules:
            found.append(f"the lane for Windows: {other['verdict']}, {sorted(rules)}")
        built = self.run("build", "--lane", "here", "--run", cwd=project)
        if built.returncode != 0:
            found.append("not built or started: " + built.stdout.strip().replace("\n", " ")[-300:])
        if "nothing to do" not in self.run("build", "--lane", "here", cwd=project).stdout:
            found.append("a second build does something")
        return found


def main():
    parser = argparse.ArgumentParser()
    parser.add_argument("fibula", type=os.path.abspath)
    parser.add_argument("folder", type=pathlib.Path)
    parser.add_argument("--only", default="")
    parser.add_argument("--hidden", action="store_true")
    parser.add_argument("--tuned", action="store_true")
    options = parser.parse_args()
    folder = options.folder.resolve()
    folder.mkdir(parents=True, exist_ok=True)
    trial = Trial(options.fibula, folder)
    counts = {False: [0, 0], True: [0, 0]}
    for name, (_, _, _, hidden) in LIBRARIES.items():
        if (options.only and name not in options.only.split(",")) or (options.hidden and not hidden) or (options.tuned and hidden):
            continue
        for shape in SHAPES:
            faults = trial.faults(name, shape)
            if faults is None:
                continue
            counts[hidden][0] += 1
            counts[hidden][1] += not faults
            print(f"{name}{' (hidden)' if hidden else ''}, {shape}: {'right' if not faults else ' | '.join(faults)}", flush=True)
    for hidden, (all_of, right) in counts.items():
        if all_of:
            print(f"{'hidden' if hidden else 'tuned'}: {right} of {all_of} downloads taken, judged, built and started without a word that should not be")
    return 0 if all(right == all_of for all_of, right in counts.values()) else 1


sys.exit(main())
