/// The code of a source tree as far as its text tells: what each file defines, mentions and includes.
#pragma once

#include "headers/branches.hpp"
#include "headers/declarations.hpp"
#include "headers/include_lines.hpp"
#include "take/source.hpp"
#include "take/sources/build_steps.hpp"
#include "take/sources/code_text.hpp"
#include "take/sources/source_system.hpp"
#include "take/sources/tree_macros.hpp"

#include <map>
#include <set>

namespace fibula {

/// One file of code, as far as its text tells.
struct CodeFile {
  SourceNames names;
  std::set<std::string> always;            ///< what it defines in each build
  std::set<std::string> always_whole;      ///< the same, as `SourceNames::whole`
  std::vector<IncludeLine> includes;       ///< all of them
  std::set<std::string> takes_in;          ///< sources that it may include, as they are written
  std::set<std::string> takes_in_usually;  ///< those of them that an ordinary build includes
  std::vector<std::string> needs;          ///< headers that each build needs, also through the library's own
  std::map<std::string, std::vector<std::string>> usual;  ///< what ordinary builds include, by their systems
  std::set<std::string> refused;                          ///< systems whose ordinary builds meet an `#error`
  std::string machine;                                    ///< that alone takes it, of assembly
  bool is_program = false;
  bool is_cut_out = false;     ///< its conditionals begin or end in another text
  bool only_includes = false;  ///< takes in other sources and has nothing of its own
};

/// The folder that a file lies in; empty at the top.
std::string folder_of(const std::string& file);

bool source_is_cxx(const std::string& file);

/// How many folders two files have in common, from the top.
size_t common_folders(const std::string& a, const std::string& b);

/// `tide_test.c`, `test-line.c`, `read_fuzzer.cc`.
bool is_called_a_test(const std::string& file);

class CodeTree {
 public:
  /// Reads the source's code; what is a test joins its samples. `handed`: macros that its own build defines.
  CodeTree(Source& source, bool (*is_test)(const std::string&), DefinedNames handed = {});

  const std::map<std::string, CodeFile>& files() const { return files_; }
  const CodeFile& file(const std::string& name) const { return files_.at(name); }
  /// Sources that one takes in which is called like a header for users: that one is compiled, and has their names.
  const std::vector<std::string>& parts() const { return parts_; }
  /// What these files ask for, and headers, also through the library's own.
  AskedHeaders asked_by(const std::set<std::string>& files, const std::vector<std::string>& headers) const;

  /// Whether a header of that name came, will be made, or is there by itself, for a file that asks for it: what is for
  /// one system is nobody's on others.
  bool is_there(const std::string& header, const std::string& asking) const;
  /// Whether it came: what this machine happens to have is not meant where a template lies in the tree.
  bool came(const std::string& header) const;
  const TreeMacros& macros() const { return macros_; }
  /// Whether the tree includes a header only where a macro asks for it that nothing in the tree defines.
  bool is_switched_off(const std::string& header) const;
  /// For which systems and machines a file is, by all that is known of it.
  SourceSystem system_of(const std::string& file) const;
  /// Its own build defines these macros too: what asks for them is read anew.
  void hand(const DefinedNames& macros);
  /// What is made of the tree's templates leaves these macros undefined: what asks for them is read anew.
  void leave_undefined(const DefinedNames& macros);
  /// Reads a further file of code, once.
  void add(const std::string& file);
  /// A header of that name will be made.
  void add_header(const std::string& name);
  /// Sources that the library's headers take in for all who include them.
  std::set<std::string> taken_in_by_headers() const;
  /// The library's header of that name, the one nearest to who asks; empty where there is none.
  std::string own_header(const std::string& name, const std::string& asking) const;

 private:
  void join_parts(const std::set<std::string>& called_like_headers);
  void note_folders(const Source& source);
  /// Whether a folder in an included name says that the header is another library's: `jack/jack.h` in a tree without
  /// such a folder, although it has a `jack.h`.
  bool is_in_foreign_folder(const std::string& header) const;
  void note_included(const Source& source);
  void read_anew(const DefinedNames& macros);
  void read(const std::string& file);
  void note_builds();
  void add_usual(const std::string& file, const std::string& system, const DefinedNames& defined,
                 std::set<std::string>& through, std::vector<std::string>& names);

  const std::filesystem::path root_;
  TreeMacros macros_;
  std::map<std::string, CodeFile> files_;
  std::vector<std::string> parts_;
  std::set<std::string> included_, included_by_default_;    ///< headers, by their names
  std::map<std::string, DefinedNames> builds_;              ///< what an ordinary build for a system defines, with these
  std::map<std::string, std::vector<std::string>> places_;  ///< of all files that came, by their names
  std::set<std::string> folders_;                           ///< names of the tree's folders
  std::string library_;                                     ///< its name, without what many names have
  std::map<std::string, std::vector<std::string>> headers_by_name_;
  std::map<std::string, std::vector<std::string>> for_one_system_;  ///< headers, by their names
  std::map<std::pair<std::string, std::string>, std::vector<IncludeLine>> header_includes_;  ///< by header and system
};

}  // namespace fibula
