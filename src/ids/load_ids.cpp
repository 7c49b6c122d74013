#include "ids/ids.hpp"

namespace fibula {
namespace {

constexpr Id load_table[] = {
    {"runtime-file-missing", "load", is_cause_only, "The program needs a shared library that the loader does not find.",
     "The program's needs, followed as its loader would; which library on the shelf has the file.",
     "Put the file beside the program: `fibula build` and `fibula stage` do."},
    {"runtime-file-wrong-arch", "load", is_cause_only, "The file that the loader finds is for another machine.",
     "Its header.", "Put the file for this machine in its place."},
    {"search-path", "load", is_rule, "The file is there, where no run path leads.",
     "The run paths in the program, and where the file lies.",
     "Link with the run path that the finding names, or move the file."},
    {"search-path-not-inherited", "load", is_cause_only,
     "A library needs another one that only the program's own run path leads to; its kind (DT_RUNPATH) holds for the "
     "program's direct needs alone.",
     "The dynamic sections of both.", "Give the library a run path of its own."},
    {"script-interpreter", "load", is_cause_only,
     "A script names an interpreter that is not there, or its first line ends in a carriage return.",
     "The first line of the script.", "Correct that line, or end the script's lines as this system does."},
    {"soname", "load", is_rule, "The library is recorded under a name that no file has.",
     "DT_SONAME, and the names of the files.", "Put the file there under the recorded name, or link anew."},
    {"soname-version", "load", is_cause_only, "The file is there with another version in its name.",
     "The name that is needed, and the names that are there.",
     "Use the version that the program was linked with, or link anew."},
    {"libc-floor", "load", is_rule, "The binary needs a newer glibc than is there.",
     "The versions of the symbols that it needs, and those that the system's library has.",
     "Use a build for an older system, or build on one; a newer system otherwise."},
    {"cxx-floor", "load", is_rule, "The binary needs a newer libstdc++ than is there.",
     "The versions of the symbols that it needs, and those that the library has.",
     "Bring the newer run-time along, or use a build by an older compiler."},
    {"runtime-symbol-missing", "load", is_cause_only,
     "All files are there, and one of them does not define what the program needs.",
     "Symbols of the files that are loaded.", "Use the version of the library that the program was linked with."},
    {"program-symbols-not-exported", "load", is_cause_only,
     "A plugin needs functions of the program, and the program does not give them out.",
     "Definitions in the program's objects.", "Link the program with `-rdynamic`."},
    {"permission", "load", is_cause_only, "The file may not be run or read.", "Its mode, and the system's answer.",
     "`chmod +x`, or the owner's leave."},
    {"data-file-missing", "run", is_cause_only, "The program starts, and does not find a file of data.",
     "Its own message, and files of that name near by and in the libraries' cards.",
     "Put the file where the program looks: `data` in fibula.toml."},
};

}  // namespace

std::span<const Id> load_ids() {
  return load_table;
}

}  // namespace fibula
