/// The code of a source tree as far as its text tells: what each file defines, mentions and includes.
#pragma once

#include "headers/declarations.hpp"
#include "headers/include_lines.hpp"
#include "take/source.hpp"

#include <map>
#include <set>

namespace fibula {

/// One file of code, as far as its text tells.
struct CodeFile {
  SourceNames names;
  std::set<std::string> always;       ///< what it defines in each build
  std::vector<IncludeLine> includes;  ///< all of them
  std::vector<std::string> needs;     ///< headers that each build needs
  bool is_program = false;
  bool only_includes = false;  ///< takes in other sources and has nothing of its own
};

/// The folder that a file lies in; empty at the top.
std::string folder_of(const std::string& file);

/// How many folders two files have in common, from the top.
size_t common_folders(const std::string& a, const std::string& b);

class CodeTree {
 public:
  /// Reads the source's code; what is called a test joins its samples.
  CodeTree(Source& source, bool (*is_called_a_test)(const std::string&));

  const std::map<std::string, CodeFile>& files() const { return files_; }
  const CodeFile& file(const std::string& name) const { return files_.at(name); }
  /// Something asks for `config.h`.
  bool is_configured() const { return configured_; }

  /// Whether a header of that name came, will be made, or is there by itself, for a file that asks for it: what is for
  /// one system is nobody's on others.
  bool is_there(const std::string& header, const std::string& asking) const;
  /// Whether it came: what this machine happens to have is not meant where a template lies in the tree.
  bool came(const std::string& header) const;
  /// A header of that name will be made.
  void add_header(const std::string& name);
  /// The library's header of that name, the one nearest to who asks; empty where there is none.
  std::string own_header(const std::string& name, const std::string& asking) const;

 private:
  void read(const std::string& file);
  void add_needs(const std::string& file, const std::vector<IncludeLine>& includes, std::set<std::string>& through,
                 std::vector<std::string>& needs);

  const std::filesystem::path root_;
  std::map<std::string, CodeFile> files_;
  std::set<std::string> names_;  ///< of all files that came, without folders
  std::map<std::string, std::vector<std::string>> headers_by_name_;
  std::map<std::string, std::vector<std::string>> for_one_system_;  ///< headers, by their names
  std::map<std::string, std::vector<IncludeLine>> header_includes_;
  bool configured_ = false;
};

}  // namespace fibula
