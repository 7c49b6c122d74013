/// What somebody wants to take: headers, binaries, sources, and what goes along; read, not yet described.
#pragma once

#include <fibula/facts.hpp>
#include <fibula/shelf.hpp>

#include <map>
#include <set>

namespace fibula {

struct Binary {
  std::string file;  ///< relative to the source's root, as the linker would be given it
  Facts facts;
};

/// Paths are relative to the root.
struct Source {
  std::filesystem::path root;
  std::string called;                ///< what it came as, for its name: "tidecalc-2.1.0.zip"
  std::vector<std::string> headers;  ///< that somebody might include
  std::vector<Binary> binaries;
  std::vector<std::string> code;                 ///< C, C++ and assembly that may be the library's own
  std::set<std::string> own_folders;             ///< names of folders that are the library's; see `own_folder_names`
  std::set<std::string> program_folders;         ///< where programs lie that come with the library
  std::vector<std::string> samples;              ///< programs that show or test it
  std::vector<std::string> debug;                ///< debugging records beside binaries
  std::vector<std::string> goes_along;           ///< everything else that is kept with it
  std::vector<std::string> archives;             ///< in it, which nobody looked into; see `find_unread`
  std::vector<std::string> opened_only;          ///< shared libraries under names that no linker takes; the same
  std::vector<std::string> programs;             ///< the same
  CardFiles files;                               ///< what of it the card names
  std::vector<std::string> remarks;              ///< what was left out, and what is odd
  std::string package, package_version;          ///< of the system package that the files belong to, where there is one
  std::vector<std::string> directories;          ///< that must stand on the include path
  std::map<std::string, std::string> elsewhere;  ///< what public headers include and the source lacks, with a header

  bool from_prefix = false;  ///< only these files of the root are the library's
};

/// The first of several files, for a remark: "lib/a.dll and 3 more".
std::string and_more(const std::vector<std::string>& files);

/// Reads the facts of these files. A file with a library's name that is none is an error: taking it would only move the
/// surprise.
Result<void> add_binaries(Source& source, const std::vector<std::string>& files);

/// What lies in a download beside libraries: programs, shared libraries under names that no linker takes, frameworks,
/// and where there is no library archives, which may hold one. All but programs are told.
void find_unread(Source& source);

/// Finds the directories for the include path, and keeps the headers that they reach. `name` as far as it is known.
void settle_headers(Source& source, const std::string& name);

/// Everything in one unpacked folder. Errors: absent, unreadable, and those of a damaged or foreign binary.
Result<Source> source_in_folder(const std::filesystem::path& folder);

/// One library of a prefix: by the lists of the system's packages where the prefix has them, else by names. Errors:
/// refused (nothing of that name).
Result<Source> source_in_prefix(const std::filesystem::path& prefix, const std::string& library);

/// The version that the headers' macros give (`TIDE_VERSION "2.1"`, or major, minor and patch).
struct HeaderVersion {
  std::string version;  ///< empty where they tell none
  std::string prefix;   ///< of its macros, in capitals without underscores
  bool own = false;     ///< the prefix is the library's name; another's version may be another library's
};
HeaderVersion version_in_headers(const Source& source, const std::string& name);

/// Gives each variant for Windows the definition that its users need, so that the headers declare imports for a DLL and
/// none for a static library, where the headers' conditionals tell which it is.
void add_import_definitions(const Source& source, std::vector<Variant>& variants);

/// The variants that a source's binaries make up; what code opens by itself is told in the remarks.
std::vector<Variant> variants_in(Source& source);

/// Gives include directories that serve only some variants to those, and takes them from the others.
void part_include_directories(Card& card);

/// Gives each variant the debugging records of its files.
void add_debug_files(const Source& source, std::vector<Variant>& variants);

/// Which of the code is to be compiled into the library, or the steps that build it; says in the remarks what is left
/// out. What the sources include and the library lacks joins `elsewhere`.
SourceCode code_to_compile(Source& source);

/// The libraries of the shelf that the public headers include; what nobody there has is told in the remarks. `joins` is
/// the entry that it is added to, which has its own headers; null for none.
std::vector<Requirement> requirements_of(Source& source, const Card& own, const Card* joins, const Shelf& shelf);

}  // namespace fibula
