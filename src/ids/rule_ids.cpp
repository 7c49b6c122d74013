#include "ids/ids.hpp"

namespace fibula {
namespace {

constexpr Id rule_table[] = {
    {"os-floor", "", is_rule,
     "The library is for a newer version of the system than the lane promises to run on, or for another system.",
     "Load commands and headers that name the least version.", "Raise the lane's promise, or use an older build."},
    {"toolset", "", is_rule,
     "Another compiler made it, in a way that matters: link-time code, C++ of a newer major version, GNU code in an "
     "MSVC-style link.",
     "Comments, producer records and directives in the objects.", "Use the build of the lane's compiler."},
    {"configuration", "", is_rule, "A debug build in a release lane.",
     "Directives, run-time names, and what producer records say of optimisation.",
     "Use the release build; the fit chooses it where the card has one."},
    {"sanitizer", "", is_rule, "The library is instrumented and the lane is not.",
     "Names that begin with a sanitizer's prefix.",
     "Use a build without instrumentation, or add the lane's `-fsanitize`."},
    {"licence-static", "", is_rule,
     "A library under a licence of the GNU family is linked statically. Asked only with `check-licences = true`.",
     "The licence on the card.", "Link it shared, or read what the licence asks for."},
    {"staleness", "", is_rule, "A file of the library is no longer as it was when the library was taken.",
     "Stamps and digests of the card's list.", "Take it again."},
    {"choice", "", is_rule, "The project picks, among builds of a library, one that its card does not have.",
     "`choices` in the project, and the card's alternatives.", "Name one that the misfit lists."},
    {"library", "", is_rule,
     "A library that is attached, or that another one requires, is on the shelf in no version that serves.",
     "The project, the cards' requirements, and the shelf.", "Take it, or change the range that the misfit names."},
    {"locked", "", is_rule, "What the lock file names is gone from the shelf, or has other files now.",
     "fibula.lock, and the digests on the shelf.", "`fibula attach` it anew, or bring the version back."},
    {"source", "", is_rule,
     "A library that comes as source cannot be built as the project asks, or waits for consent to its own steps.",
     "Its card, the project's choices, and the compiler's own messages.",
     "What the misfit says; `fibula build` asks for consent."},
    {"exceptions", "", is_rule, "GNU code for Windows that hands on exceptions in another way (seh, dwarf, sjlj).",
     "Personality routines that the objects need.", "Use the build of the lane's kind."},
    {"threads", "", is_rule, "GNU code for Windows with the other model of threads (win32, posix).",
     "Run-time names that the objects need.", "Use the build of the lane's kind."},
    {"include", "", is_rule, "A source of the project includes what no include directory has.",
     "What the sources include in every build, and the include directories of the lane.",
     "Attach the library that the misfit names, or correct the name."},
    {"header-match", "", is_rule, "Functions that the headers declare are not in the binaries.",
     "Declarations, read with the lane's own compiler, against the symbols.",
     "Use headers and binaries of one version."},
    {"standard", "", is_rule, "The headers compile only with a newer language standard than the lane's.",
     "The headers, compiled with each.", "`standard` in fibula.toml, as the misfit says."},
    {"closure", "", is_rule, "A run-time file that is needed at the start is brought by nobody.",
     "Needs of all files, followed as the loader of their system would.",
     "Attach the library that brings it, or list it as the system's."},
    {"input", "", is_rule, "A library or a file that the lane's flags name is not there.", "The linker's folders.",
     "Correct the flag."},
    {"placement", "", is_rule,
     "In an image for a device, a function or section lies in another region than the project says, or in none.",
     "The linker script, and the finished program.", "Correct the script, or the project's `placement`."},
};

}  // namespace

std::span<const Id> rule_ids() {
  return rule_table;
}

}  // namespace fibula
