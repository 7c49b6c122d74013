#include "ids/ids.hpp"

namespace fibula {
namespace {

constexpr Id compile_table[] = {
    {"header-not-found", "compile", is_cause_only,
     "A source includes a header that is in none of the folders that the compiler looks into.",
     "The include directories that the compiler lists; the folders near the command, the shelf, and the names of the "
     "system's headers.",
     "Attach the library that has it, or add the folder that the finding names."},
    {"header-name", "compile", is_cause_only,
     "The header is there under another name: other letters, another case, a folder before it, or back-slashes.",
     "Names of files in the include directories and of public headers on the shelf.",
     "Write the name as the finding has it; the change was compiled."},
    {"header-of-other-library", "compile", is_cause_only,
     "The header belongs to a library that is on the shelf or near by, and that this command does not use.",
     "Cards of the shelf, and folders near the command.", "Attach the library, or add its include directory."},
    {"header-generated", "compile", is_cause_only,
     "The header is made by a step of the library's own build, and that step was not run.",
     "A template of the same name beside it (`name.h.in`), or a rule that writes it.",
     "Build the library by its own steps: `fibula take` of its sources finds out how."},
    {"header-order", "compile", is_cause_only, "A header works only behind another one, which declares what it uses.",
     "The source, compiled with the other header in front.", "Include the other header first."},
    {"wrong-header-found-first", "compile", is_rule,
     "Two folders have a header of this name, and the one that the source does not mean comes first. The other can be "
     "the "
     "compiler's own.",
     "All files of that name in the include directories, and the source, compiled with the folders in the other order.",
     "Change the order of the folders, or write the folder before the name."},
    {"header-needs-definition", "compile", is_cause_only, "A header compiles only with a macro that it tests.",
     "The tests in the header, and the source, compiled with the definition.",
     "Define the macro: `definitions` in fibula.toml, or `-D`; of several that it asks for, the one that is meant."},
    {"thread-model", "compile", is_cause_only,
     "GCC for Windows was made with the thread model win32, and its C++ library has no std::mutex, std::thread and the "
     "like.",
     "What the compiler says of its thread model, and the source, compiled with the one of the other model.",
     "Compile and link with the compiler whose thread model is posix; with all libraries in C++ the same."},
    {"header-needs-standard", "compile", is_cause_only,
     "A header needs another language standard than the command asks for: mostly a newer one.",
     "The source, compiled with other standards that the compiler knows.",
     "Compile with the standard that the finding names."},
    {"header-conflict", "compile", is_cause_only,
     "Two headers do not go together in a source: a macro of one takes a name of the other, or both define the same.",
     "The macros of the preprocessed source, the places that the compiler tells, and a copy of the source, compiled "
     "with "
     "the two parted.",
     "Part them as the finding says: `#undef`, another order, or only one of the two."},
    {"not-a-header", "compile", is_cause_only,
     "The file that an #include finds is no header: a web page, a pointer to a file elsewhere, a flattened link, or a "
     "text with marks of a merge.",
     "Its first bytes and its lines.", "Get the file itself, as the finding says."},
    {"header-warns", "compile", is_cause_only,
     "A library's header makes the compiler warn, and the command makes errors of warnings.",
     "The source, compiled with the header's folder named by `-isystem`.",
     "Name the folders of libraries by `-isystem`: for headers that are found there, no warnings are printed."},
    {"option-in-the-way", "compile", is_cause_only,
     "A library's header does not compile with an option of the command.", "The source, compiled without the option.",
     "Leave the option out where the header is used, or use a build of the library that was made with it."},
    {"header-needs-language", "compile", is_cause_only,
     "A header is for C++ and the source is compiled as C, or the other way round.",
     "The source, compiled as the other language.",
     "Compile the source as the language of the header, or use the library's interface for C."},
    {"wrong-platform", "compile", is_cause_only,
     "A header says itself that it is for another system or machine, or includes what only another system has.",
     "Its own `#error`, and names of headers that belong to one system.",
     "Use the build of the library for this system."},
    {"quoting", "compile", is_cause_only,
     "A shell or a makefile took an option apart, or left quotes in it: a definition or a path arrived broken.",
     "The words that the tool was given.", "Quote it as the finding has it."},
    {"file-not-found", "compile", is_cause_only, "A file that the command names is not there.",
     "The folder that the command runs in, and files of a similar name near by.",
     "Write the path that the finding names."},
    {"result-not-written", "link", is_cause_only, "A tool could not write its result: no library has to do with it.",
     "What the system said, and what lies at the place.",
     "Make the folder, name another place, or end the program that runs from the file."},
    {"toolchain-missing", "compile", is_cause_only,
     "The compiler or linker that the command names cannot be started, or lacks a part of itself.",
     "PATH, the shell's own words, and what the driver said.",
     "Install the package that the finding names, or name a compiler that is there."},
    {"handed-by-build", "compile", is_cause_only,
     "A source uses a macro that only the project's own build defines, and this command does not.",
     "The line of its makefile or configure script that says so; the source, compiled with the definition.",
     "Define it as the finding has it: `definitions` of the output, or an option of the command."},
    {"not-about-libraries", "compile", is_cause_only,
     "The program's own code does not compile: an error of the language, in a file of its own.",
     "The compiler's message and the place that it names.", "Correct the code; no library has to do with it."},
    {"unknown", "compile", is_cause_only, "Something failed, and nothing is known of the reason.", "None.",
     "Read what the tool said. Nothing is guessed."},
};

}  // namespace

std::span<const Id> compile_ids() {
  return compile_table;
}

}  // namespace fibula
