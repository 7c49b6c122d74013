/// What of a folder's code is compiled into its programs, and what tells that: the texts, read as an ordinary build
/// reads them.
#pragma once

#include <fibula/source_code.hpp>

#include "project/builds_for.hpp"
#include "project/stand_ins.hpp"
#include "take/source.hpp"
#include "take/sources/code_tree.hpp"
#include "take/sources/left_out.hpp"
#include "take/sources/made_headers.hpp"

#include <filesystem>
#include <set>
#include <string>
#include <vector>

namespace fibula {

class ProjectCode {
 public:
  /// `files` relative to `root`: those of the project's own. `handed`: macros that its own build defines.
  ProjectCode(const std::filesystem::path& root, const std::vector<std::filesystem::path>& files,
              const BuildsFor& lanes, DefinedNames handed);
  ProjectCode(const ProjectCode&) = delete;
  ProjectCode& operator=(const ProjectCode&) = delete;

  const CodeTree& tree() const { return tree_; }
  const CodeFile& file(const std::string& name) const { return tree_.file(name); }
  /// All sources, whether they are compiled or not.
  const std::vector<std::string>& all() const { return source_.code; }
  const std::set<std::string>& compiled() const { return compiled_; }
  /// Of these, what not every lane's system takes: for which it is.
  const std::map<std::string, std::vector<std::string>>& only_for() const { return only_for_; }
  /// Of these, the ones with which programs begin.
  const std::vector<std::string>& mains() const { return mains_; }
  const std::vector<std::string>& headers() const { return source_.headers; }
  /// Whether a header is for what the lanes build for, as far as its name and folder tell.
  bool serves_lanes(const std::string& header) const;
  /// Headers of which only a template is there, filled in so that each compiler settles the rest; `place` is where they
  /// will lie, for the remarks.
  std::vector<SourceHeader> made_headers(const std::string& place);
  /// Leaves out those of the files that need a header which neither came nor comes with a system, nor has a name of
  /// `elsewhere`: nothing calls them.
  void leave_out_incomplete(const std::set<std::string>& files, const std::set<std::string>& elsewhere);
  /// Leaves out programs that show or try something, where there are others; `tried`: sources of some that are known.
  void leave_out_side_programs(const std::set<std::string>& tried);
  /// What is left out, and what was made.
  std::vector<std::string> remarks() const;

 private:
  bool begins_program(const std::string& file) const;
  void find_mains();
  void leave_out_foreign();
  void take_back_called();
  bool is_foreign_by_name_alone(const std::string& file) const;
  void note_systems(const std::string& file, const SourceSystem& system);
  void leave_out_included();
  std::set<std::string> wanted_names() const;
  void drop(const std::vector<std::string>& files);

  BuildsFor lanes_;
  Source source_;
  CodeTree tree_;
  StandIns stand_ins_;
  std::set<std::string> made_by_script_;  ///< headers
  std::set<std::string> compiled_;
  std::map<std::string, std::vector<std::string>> only_for_;
  std::vector<std::string> mains_;
  LeftOut left_out_;
};

}  // namespace fibula
