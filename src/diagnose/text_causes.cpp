/// What can be said of a complaint from its words alone.
#include "base/text.hpp"
#include "diagnose/findings.hpp"
#include "diagnose/name_forms.hpp"
#include "ids/ids.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

using What = Complaint::Kind;

struct TextRow {
  What kind;
  std::string_view cause;
  std::string_view because;
  std::string_view remedy;
};

constexpr TextRow text_rows[] = {
    {What::not_on_line, "missing-transitive-input", "a library of the link defines it for itself only",
     "link the library that defines it by name too"},
    {What::hidden, "hidden-symbol", "its file keeps it to itself", "have it exported where it is made"},
    {What::library_missing, "library-not-found", "the linker found no file of that name",
     "name its folder (-L), or install its development package"},
    {What::library_skipped, "architecture", "the linker passed it over: it is for another machine",
     "get a build for the machine that is linked for"},
    {What::file_missing, "file-not-found", "the file is not there", "make it first, or correct its path"},
    {What::source_missing, "file-not-found", "the file is not there", "correct its path in the command"},
    {What::wrong_machine, "architecture", "it is for another machine",
     "get a build for the machine that is linked for"},
    {What::wrong_format, "object-format", "it is not of a form that this linker takes",
     "look at it with fibula inspect"},
    {What::no_library, "not-a-library", "the linker took it for a text",
     "look at it with fibula inspect, and get the real file"},
    {What::truncated, "damaged-file", "it ends too early, or is damaged", "get the file again"},
    {What::no_index, "no-symbol-table", "the archive has no symbol table", "run ranlib on it"},
    {What::member_gone, "thin-member-gone", "a thin archive names a file that is gone",
     "bring the file back, or make an ordinary archive"},
    {What::foreign_lto, "lto-toolset", "it holds link-time code of another compiler",
     "link with the compiler that made it, or compile it without -flto"},
    {What::not_pic, "pic", "it is not position independent", "compile it with -fPIC, or link with -no-pie"},
    {What::duplicate, "duplicate", "two inputs define it", "keep the definition in one of them"},
    {What::float_abi, "float-abi", "floating-point numbers are handed over in two ways",
     "compile everything with one -mfloat-abi (or -mabi)"},
    {What::processor, "cpu-level", "it is for a processor of another kind", "compile everything for one -mcpu"},
    {What::flavour, "runtime-flavour", "objects were compiled for different forms of a run-time",
     "compile both with the same options"},
    {What::no_subsystem, "subsystem", "nothing says how the program begins",
     "name /subsystem, and have main or WinMain"},
    {What::no_room, "region-overflow", "what is linked does not fit into the memory region",
     "leave something out, optimise for size (-Os, --gc-sections), or correct the linker script's regions"},
    {What::static_of_shared, "linkage", "a shared library stands in a static link",
     "name its archive (.a), or link without -static"},
    {What::need_missing, "missing-transitive-input", "a shared library needs it, and the linker did not find it",
     "name its folder: -Wl,-rpath-link,FOLDER"},
    {What::thread_kind, "thread-local", "one file takes it for a thread's own, another one not",
     "declare it alike in both: with thread_local (__thread in C) or without"},
    {What::dll_on_line, "linkage", "a DLL stands where an import library belongs",
     "name the import library (.lib) that comes with it"},
    {What::no_tool, "toolchain-missing", "the program is not there", "install it, or correct its name"},
    {What::data_missing, "data-file-missing", "the program could not open it", "put it where the program looks"},
};

/// What the tool compared is its to tell: "value '0' doesn't match value '2' in main.obj".
std::string because_of(const Complaint& complaint, const TextRow& row) {
  if (complaint.kind == What::flavour && !complaint.detail.empty())
    return fmt::format("{}: {}", complaint.name, complaint.detail);
  const bool machines = complaint.kind == What::library_skipped || complaint.kind == What::wrong_machine;
  if (machines && !complaint.user.empty() && !complaint.detail.empty())
    return fmt::format("it is for {}, and the link for {}", complaint.user, complaint.detail);
  return std::string(row.because);
}

/// GCC's parts for one language each, which come in packages of their own.
struct CompilerPart {
  std::string_view program, language, package;
  bool clang_has_it;
};

constexpr CompilerPart compiler_parts[] = {{"cc1obj", "Objective-C", "gobjc", true},
                                           {"cc1objplus", "Objective-C++", "gobjc++", true},
                                           {"cc1plus", "C++", "g++", true},
                                           {"cc1", "C", "gcc", true},
                                           {"f951", "Fortran", "gfortran", false}};

void tell_compiler_part(Finding& finding) {
  for (const auto& part : compiler_parts) {
    if (part.program != finding.subject) continue;
    finding.because.push_back(fmt::format("GCC compiles {} with it", part.language));
    finding.remedy = fmt::format("install GCC's compiler for {} (Debian: {}){}", part.language, part.package,
                                 part.clang_has_it ? ", or compile with clang" : "");
  }
}

/// The same in the words of Microsoft's tools.
std::string microsofts(const Complaint& complaint, std::string remedy) {
  if (complaint.kind == What::library_missing)
    return "name its folder (/LIBPATH, or the variable LIB), or build it first";
  if (complaint.kind != What::flavour) return remedy;
  if (complaint.name == "_ITERATOR_DEBUG_LEVEL")
    return "0 is a release build (/MD, /MT) and 2 a debug build (/MDd, /MTd): link the library's build for this "
           "configuration";
  if (complaint.name == "RuntimeLibrary")
    return "link the library's build with the same of /MD, /MDd, /MT and /MTd, or set the program's to the library's";
  return remedy;
}

}  // namespace

std::optional<Finding> finding_of_text(const Complaint& complaint) {
  if (complaint.kind == What::unwritten) return unwritten_output(complaint);
  for (const auto& row : text_rows) {
    if (row.kind != complaint.kind) continue;
    std::string subject = !complaint.name.empty() ? complaint.name : complaint.file;
    if (subject.empty()) subject = "the program";
    Finding finding{.cause = std::string(row.cause),
                    .stage = std::string(stage_of(row.cause)),
                    .subject = std::move(subject),
                    .certainty = "guessed"};
    if (!complaint.file.empty() && complaint.file != finding.subject) finding.culprits.push_back(complaint.file);
    if (!complaint.user.empty() && complaint.kind == What::duplicate) finding.culprits.push_back(complaint.user);
    finding.because.push_back(because_of(complaint, row));
    finding.remedy = row.remedy;
    if (complaint.teller == Complaint::Teller::microsoft)
      finding.remedy = microsofts(complaint, std::move(finding.remedy));
    if (complaint.kind == What::no_tool) tell_compiler_part(finding);
    return finding;
  }
  return std::nullopt;
}

}  // namespace fibula
