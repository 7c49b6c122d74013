"""What the code keeps to, beside the layers: no call that throws on input, systems behind one floor, planning without effects, and sizes."""
import pathlib
import re
import sys

root = pathlib.Path(sys.argv[1])
faults = []

# Calls of std::filesystem that throw unless they are given an error code.
QUERIES = ("absolute|canonical|weakly_canonical|copy|copy_file|create_directory|create_directories|create_hard_link|create_symlink|current_path|"
           "equivalent|exists|file_size|hard_link_count|is_directory|is_empty|is_regular_file|is_symlink|last_write_time|permissions|"
           "read_symlink|remove|remove_all|rename|space|status|symlink_status|temp_directory_path|directory_iterator|recursive_directory_iterator")
CALL = re.compile(r"\b(?:fs|filesystem)::(" + QUERIES + r")\(")
ERROR = re.compile(r"\b(error|ignored|gone|none|absent|unknown|not_empty|failed|code)\)*$")
POSIX = re.compile(r'#include <(unistd|fcntl|dlfcn|poll|signal|csignal|pwd|cxxabi|sys/\w+)\.?h?>')
EFFECTS = re.compile(r'#include "os/(process|download|kept|new_file|part_file|file_lock|folder)\.hpp"|\b(write_in|write_if_changed_in|make_folder)\(')
# What changes the disk by a path could be led elsewhere by a link: outside of the floor, `Folder` does it.
CHANGES = re.compile(r"\b(?:fs|filesystem)::(?:(?:remove|remove_all|rename|create_\w+|copy|copy_file|permissions|resize_file)\(|last_write_time\([^()]*, [^()]*,)|\bstd::ofstream\b|\bfopen\(")
# Folders whose code only plans; what gathers among them is named.
PURE = {"match": (), "link": (), "choose": ("attach.cpp", "begin.cpp", "lock.cpp", "taken_back.cpp", "changes.cpp"), "fit": ("gather.cpp", "changed_in_place.cpp", "shared_include.cpp", "lock_choices.cpp")}


def argument_text(text, start):
    """What stands between a call's parentheses."""
    depth = 0
    for at in range(start, len(text)):
        depth += {"(": 1, ")": -1}.get(text[at], 0)
        if depth == 0:
            return text[start + 1:at]
    return ""


def check_calls(path, text):
    for call in CALL.finditer(text):
        arguments = argument_text(text, call.end() - 1)
        line = text.count("\n", 0, call.start()) + 1
        if call[1].endswith("iterator") and not arguments:
            continue  # the end of a walk
        if call[1] in ("exists", "is_regular_file", "is_directory") and arguments in ("status", "there"):
            continue  # of a status that was asked for before
        if not ERROR.search(arguments):
            faults.append(f"{path}:{line}: fs::{call[1]} throws: give it an error code")


RANGE_WALK = re.compile(r"for \(.* : (?:std::)?(?:fs|filesystem)::(?:recursive_)?directory_iterator")


def check_file(path):
    text = path.read_text(encoding="utf-8")
    shown = path.relative_to(root)
    folder = shown.parts[1] if shown.parts[0] == "src" else shown.parts[0]
    check_calls(shown, text)
    for walk in RANGE_WALK.finditer(text):
        faults.append(f"{shown}:{text.count(chr(10), 0, walk.start()) + 1}: this walk's ++ throws: use increment(error)")
    if POSIX.search(text) and not (path.stem.endswith("_posix") or path.name == "posix.hpp"):
        faults.append(f"{shown}: includes {POSIX.search(text)[1]}: what differs between systems is in src/os, in pairs of files")
    if ".dump(" in text and path.name not in ("json_text.hpp", "print.cpp"):
        faults.append(f"{shown}: prints JSON by itself: json_text does")
    if folder in PURE and path.name not in PURE[folder] and EFFECTS.search(text):
        faults.append(f"{shown}: plans, and has {EFFECTS.search(text)[0]}")
    if folder != "os" and CHANGES.search(text):
        faults.append(f"{shown}: {CHANGES.search(text)[0]} can be led elsewhere by a link: os/folder.hpp does it")
    lines = text.split("\n")
    if len(lines) > 401:
        faults.append(f"{shown}: {len(lines)} lines, at most 400")
    check_functions(shown, lines)


def check_functions(path, lines):
    """Functions begin with a line that ends in `) {` or `) const {`, and end with a brace in the same column."""
    for number, line in enumerate(lines):
        begins = re.match(r"( *)(?!auto |if|for|while|return|const auto|:|switch|else|do\b|namespace|struct|class|enum|static constexpr|constexpr)\S.*\)( const| noexcept| override)* \{$", line)
        if not begins or line.lstrip().startswith(("}", "//", "[")) or "[&](" in line:
            continue
        end = next((n for n in range(number + 1, len(lines)) if lines[n] == begins[1] + "}"), number)
        if end - number + 1 > 60:
            faults.append(f"{path}:{number + 1}: {end - number + 1} lines, at most 60")


OWN_TYPE = re.compile(r"^(?:struct|class|enum class|enum) (\w+)(?= [{:]|$)", re.M)
OWN_TABLE = re.compile(r"^(?:static |inline )?(?:constexpr|const) [\w:<>, *]+?[ *](\w+)(?:\[\w*\])?(?: = |\{)", re.M)
OWN_FUNCTION = re.compile(r"^(?!using|struct|class|enum|namespace|template|constexpr|const [\w:<>]+ \w+\[)[\w:][\w:<>,&* ]*?[ &*](\w+)\(([^;{]*?)\)(?: const)?(?: noexcept)? \{", re.M)


def check_units(folder, paths):
    """Files of one folder are compiled together where everything is built from nothing: what each has for itself is called differently."""
    owners = {}
    for path in paths:
        text = path.read_text(encoding="utf-8")
        for block in re.finditer(r"^namespace \{\n(.*?)^\}  // namespace\n", text, re.S | re.M):
            space = re.findall(r"^namespace ([\w:]+) \{", text[:block.start()], re.M)
            for kind in (OWN_TYPE, OWN_TABLE, OWN_FUNCTION):
                for found in kind.finditer(block[1]):
                    types = re.sub(r"( = [^,]*)?(?<=[&*> ])\w+( = [^,]*)?(?=,|$)", "", re.sub(r"\s+", " ", found[2])) if kind is OWN_FUNCTION else None
                    owners.setdefault((*space[-1:], found[1], types), set()).add(path.name)
    for (*_, name, _), files in owners.items():
        if len(files) > 1:
            faults.append(f"{folder}: {name} is in {' and '.join(sorted(files))}: they are compiled in one unit")


def check_headers(paths):
    """Of two types of one name in one namespace the linker keeps one's functions for both."""
    owners = {}
    for path in paths:
        text = path.read_text(encoding="utf-8")
        for found in re.finditer(r"^(?:struct|class) (?:FIBULA_API )?(\w+)(?: final)?(?: : [^;{]*)? \{", text, re.M):
            spaces = re.findall(r"^namespace ([\w:]+) \{|^(\})  // namespace", text[:found.start()], re.M)
            open_ones = []
            for name, end in spaces:
                open_ones = open_ones[:-1] if end else [*open_ones, name]
            owners.setdefault(("::".join(open_ones), found[1]), set()).add(str(path.relative_to(root)))
    for (space, name), files in owners.items():
        if len(files) > 1:
            faults.append(f"{space}::{name} is a type in {' and '.join(sorted(files))}")


check_headers(sorted(path for folder in ("src", "cli", "include") for path in (root / folder).rglob("*.hpp")))
for folder in ("src", "cli", "include"):
    for path in sorted((root / folder).rglob("*.[ch]pp")):
        check_file(path)
for folder in sorted({path.parent for part in ("src", "cli") for path in (root / part).rglob("*.cpp")}):
    check_units(folder.relative_to(root), sorted(folder.glob("*.cpp")))
tests = root / "tests"
for program in re.findall(r"\b(?:add_tests|set)\(([^)]*_test\.cpp[^)]*)\)", (tests / "CMakeLists.txt").read_text(encoding="utf-8")):
    check_units("tests", [tests / name for name in program.split() if name.endswith("_test.cpp")])
print("\n".join(faults) if faults else "the code keeps to its rules")
sys.exit(bool(faults))
