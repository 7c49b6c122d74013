#!/usr/bin/python3
"""Compares what `fibula inspect` reads with what binutils and LLVM read, file by file: symbols, and the facts that both know.

usage: compare_readers.py FIBULA PATH...     PATH: files, or folders with everything below them

ELF files and archives are compared with nm and readelf; COFF, PE, Mach-O and bitcode with llvm-nm, llvm-readobj and
llvm-objdump. Prints the first difference of each file that differs, and the counts; ends with 1 when there was any.
"""
import collections
import concurrent.futures
import json
import os
import re
import subprocess
import sys

LLVM = "-14"
UNDEFINED = "Uwv"
MACHINES = {  # readelf's words for what fibula calls
    "x86": "Intel 80386", "x86_64": "Advanced Micro Devices X86-64", "x32": "Advanced Micro Devices X86-64", "arm": "ARM",
    "aarch64": "AArch64", "riscv64": "RISC-V", "riscv32": "RISC-V", "avr": "Atmel AVR 8-bit microcontroller", "s390x": "IBM S/390",
    "ppc64le": "PowerPC64", "bpf": "Linux BPF", "mips": "MIPS R3000", "mipsel": "MIPS R3000"}


SLICES = {"arm64": "aarch64", "i386": "x86"}  # what LLVM calls an architecture, and the way back
LLVM_SLICES = {ours: theirs for theirs, ours in SLICES.items()}


def run(*command):
    done = subprocess.run(command, capture_output=True, errors="replace", env={**os.environ, "LC_ALL": "C"})
    return done.stdout


def names(symbols):
    """What is compared of symbols: member, name with version, and whether it is defined."""
    return collections.Counter(symbols)


def of_fibula(entry):
    for s in entry.get("symbols", []):
        version = f"@{s['version']}" if s["version"] else ""
        where = s.get("slice") if s.get("slice") else ""
        yield (s["member"], where, s["name"] + version, s["role"] == "defines")


def of_nm(text, slices=False, versions=False):
    """The posix format of nm and llvm-nm: `name letter value size`, behind a line for each member or slice."""
    member, where = "", ""
    for line in text.splitlines():
        header = re.match(r"^(.*?)[\[(](.*)[\])]:$", line)
        of_slice = re.match(r"^(.*?)(?:\[(.*)\]|\((.*)\))? \(for architecture (\w+)\):$", line)
        if of_slice:
            member, where = of_slice.group(2) or of_slice.group(3) or "", of_slice.group(4) if slices else ""
        elif header:
            member = os.path.basename(header.group(2))  # nm gives the path of a thin archive's member
        elif line.endswith(":"):
            member = line[:-1]
        else:
            parts = line.split(" ")
            if len(parts) < 2 or len(parts[1]) != 1:
                continue
            yield (member, SLICES.get(where, where), parts[0].replace("@@", "@") if versions else parts[0], parts[1] not in UNDEFINED)


def difference(ours, theirs, what):
    for label, extra in (("only fibula", ours - theirs), ("only the other", theirs - ours)):
        for item in sorted(extra):
            return f"{what}: {label}: {item}"
    return None


def elf_facts(entry, path):
    facts = {k: v["value"] for k, v in entry["facts"].items()}
    text = run("readelf", "-W", "-h", "-d", "-n", path)
    field = lambda pattern: (re.search(pattern, text) or [None, None])[1]
    wanted = {
        "bits": {"ELF64": 64, "ELF32": 32}.get(field(r"Class:\s+(\w+)")),
        "endian": "big" if "big endian" in (field(r"Data:\s+(.*)") or "") else "little",
        "soname": field(r"\(SONAME\)\s+Library soname: \[(.*)\]"),
        "build-id": field(r"Build ID: (\w+)"),
        "search": (field(r"\(RUNPATH\)\s+Library runpath: \[(.*)\]") or field(r"\(RPATH\)\s+Library rpath: \[(.*)\]") or "").split(":"),
    }
    kinds = {"REL": ["object"], "EXEC": ["program"], "DYN": ["shared", "program"], "CORE": ["core"]}
    needs = re.findall(r"\(NEEDED\)\s+Shared library: \[(.*)\]", text)
    if needs:
        wanted["needs"] = needs
    facts["needs"] = [need["name"] for need in facts.get("needs", [])]
    for key, value in wanted.items():
        if value and value != [""] and facts.get(key) != value:
            return f"{key}: fibula {facts.get(key)}, readelf {value}"
    machine = field(r"Machine:\s+(.*)")
    if facts.get("arch") and MACHINES.get(facts["arch"]) != machine:
        return f"arch: fibula {facts['arch']}, readelf {machine}"
    kind = (field(r"Type:\s+(\w+)") or "")
    return None if facts["kind"] in kinds.get(kind, []) else f"kind: fibula {facts['kind']}, readelf {kind}"


def compare_elf(entry, path):
    dynamic = entry["kind"] in ("shared", "program", "plugin")
    text = run("nm", "-g", "--format=posix", *(["-D"] if dynamic else []), path)
    if dynamic and not list(of_nm(text)):
        text = run("nm", "-g", "--format=posix", path)  # a program without dynamic symbols
    # Link-time objects carry a hidden name for debuggers, which nm's plugin leaves out.
    ours = [s for s in of_fibula(entry) if not ("link-time" in entry["facts"] and re.search(r"\.[0-9a-f]{8}$", s[2]))]
    # Objects have the version in the name itself, with the two signs that nm writes for versions too.
    ours = [(member, where, name.replace("@@", "@"), defined) for member, where, name, defined in ours]
    found = difference(names(ours), names(of_nm(text, versions=True)), "symbols")
    if not found and entry["kind"] in ("shared", "program", "object") and entry["format"] == "elf":
        found = elf_facts(entry, path)
    return found


def pe_names(path):
    """Exports and imports of an image, as llvm-readobj lists them."""
    text = run(f"llvm-readobj{LLVM}", "--coff-exports", "--coff-imports", path)
    for block in re.findall(r"^Export \{(.*?)^\}", text, re.S | re.M):
        name = re.search(r"Name: ?(.*)", block)[1]
        if "RVA: 0x0\n" in block:
            continue  # a number that nothing has
        yield ("", "", name or "#" + re.search(r"Ordinal: (\d+)", block)[1], True)
    for block in re.findall(r"^(?:Delay)?Import \{(.*?)^\}", text, re.S | re.M):
        for name, ordinal in re.findall(r"^\s+(?:Symbol|Import \{\s+Symbol): (.*?) \((\d+)\)", block, re.M):
            yield ("", "", name or "#" + ordinal, False)


def compare_pe(entry, path):
    if not run(f"llvm-readobj{LLVM}", "--file-headers", "--coff-imports", path).count("ImageOptionalHeader"):
        return None  # debug files keep headers that point nowhere, which llvm-readobj does not read
    found = difference(names(of_fibula(entry)), names(pe_names(path)), "names")
    if found:
        return found
    text = run(f"llvm-readobj{LLVM}", "--file-headers", "--coff-imports", "--needed-libs", path)
    facts = {k: v["value"] for k, v in entry["facts"].items()}
    field = lambda pattern: (re.search(pattern, text) or [None, ""])[1]
    arch = {"IMAGE_FILE_MACHINE_AMD64": "x86_64", "IMAGE_FILE_MACHINE_I386": "x86", "IMAGE_FILE_MACHINE_ARM64": "aarch64"}
    wanted = {"arch": arch[field(r"Machine: (\w+)")], "bits": 64 if field(r"Magic: (\w+)") == "0x20B" else 32,
              "kind": "shared" if "IMAGE_FILE_DLL" in text else "program",
              "os-floor": {"name": "windows", "version": f"{field(r'MajorSubsystemVersion: (.*)')}.{field(r'MinorSubsystemVersion: (.*)')}"}}
    for key, value in wanted.items():
        if facts.get(key) != value:
            return f"{key}: fibula {facts.get(key)}, llvm-readobj {value}"
    libraries = sorted(re.findall(r"^\s*(?:Delay)?Import \{\s+Name: (.*)", text, re.M))
    ours = sorted(need["name"] for need in facts["needs"])
    return None if ours == libraries else f"needs: fibula {ours}, llvm-readobj {libraries}"


def macho_facts(facts, path, arch):
    text = run(f"llvm-objdump{LLVM}", "--macho", f"--arch={LLVM_SLICES.get(arch, arch)}", "--private-headers", path)
    name = re.search(r"cmd LC_ID_DYLIB\n.*\n\s+name (.*) \(offset", text)
    needs = re.findall(r"cmd LC_(?:LOAD|REEXPORT|LOAD_WEAK)_DYLIB\n.*\n\s+name (.*) \(offset", text)
    ours = [need["name"] for need in facts.get("needs", [])]
    rpaths = re.findall(r"cmd LC_RPATH\n.*\n\s+path (.*) \(offset", text) or None
    least = re.search(r"cmd LC_BUILD_VERSION\n.*\n\s+platform (\w+)\n\s+sdk .*\n\s+minos (.*)", text)
    checks = {"install-name": (facts.get("install-name"), name and name[1]), "search": (facts.get("search"), rpaths)}
    if least:
        checks["os-floor"] = (facts.get("os-floor"), {"name": least[1], "version": least[2]})
    if ours != needs:
        return f"needs: fibula {ours}, llvm-objdump {needs}"
    for key, (mine, theirs) in checks.items():
        if mine != theirs:
            return f"{key}: fibula {mine}, llvm-objdump {theirs}"
    return None


def as_llvm_lists(ours, theirs):
    """Two things llvm-nm shows otherwise: the pointers `__imp_f` of short import members are left out, and a weak
    definition of COFF, whose code has a name of its own, is listed as undefined beside that name."""
    known = set(theirs)
    short = not any(name.startswith("__imp_") for _, _, name, _ in theirs)
    defaults = {name.split(".")[2] for _, _, name, _ in theirs if name.startswith(".weak.")}
    for member, where, name, defines in ours:
        if short and name.startswith("__imp_"):
            continue
        weak = defines and name in defaults and (member, where, name, False) in known
        yield (member, where, name, defines and not weak)


def compare_llvm(entry, path):
    sliced = ["--arch=all"] if entry.get("slices") else []
    theirs = list(of_nm(run(f"llvm-nm{LLVM}", "-g", "--format=posix", *sliced, path), slices=bool(sliced)))
    ours = list(as_llvm_lists(list(of_fibula(entry)), theirs))
    found = difference(names(ours), names(theirs), "symbols")
    if found or entry["format"] != "macho" or entry["kind"] not in ("shared", "plugin", "program"):
        return found
    for part in entry.get("slices") or [entry]:
        facts = {k: v["value"] for k, v in part["facts"].items()}
        found = found or macho_facts(facts, path, facts["arch"])
    return found


COMPARE = {"elf": compare_elf, "gcc-lto": compare_elf, "pe": compare_pe, "coff": compare_llvm, "macho": compare_llvm, "bitcode": compare_llvm}


def look_at(job):
    fibula, path = job
    entry = json.loads(run(fibula, "inspect", "--json", "--symbols", path))["files"][0]
    if "problem" in entry:
        foreign = entry["problem"]["code"] == "not_a_library"
        return (path, "foreign" if foreign else "refused", None if foreign else entry["problem"]["what"])
    if entry["kind"] in ("script", "empty") or entry["format"] == "stub":
        return (path, entry["kind"], None)
    compare = COMPARE.get(entry["format"])
    return (path, entry["format"] + " " + entry["kind"], compare(entry, path) if compare else None)


def files_in(paths):
    for path in paths:
        if not os.path.isdir(path):
            yield path
        for folder, _, files in os.walk(path):
            for name in sorted(files):
                whole = os.path.join(folder, name)
                if os.path.isfile(whole) and not os.path.islink(whole) and is_binary(whole):
                    yield whole


def is_binary(path):
    """Worth looking at: the magic numbers of the formats, and names for what has none."""
    try:
        with open(path, "rb") as stream:
            head = stream.read(8)
    except OSError:
        return False
    magics = (b"\x7fELF", b"!<arch>", b"!<thin>", b"MZ", b"\xfe\xed\xfa", b"\xce\xfa\xed\xfe", b"\xcf\xfa\xed\xfe", b"\xca\xfe\xba\xbe", b"BC\xc0\xde",
              b"\xde\xc0\x17\x0b")
    return head.startswith(magics) or path.endswith((".obj", ".o", ".lib", ".tbd"))


def main():
    fibula, paths = sys.argv[1], sys.argv[2:]
    counts, differ = collections.Counter(), 0
    with concurrent.futures.ThreadPoolExecutor(2) as pool:
        for path, kind, found in pool.map(look_at, ((fibula, path) for path in files_in(paths))):
            counts[kind] += 1
            if found:
                differ += 1
                print(f"{path}: {found}")
    for kind, count in sorted(counts.items()):
        print(f"{count:6} {kind}")
    print(f"{sum(counts.values()):6} files, {differ} with a difference")
    return 1 if differ else 0


if __name__ == "__main__":
    sys.exit(main())
