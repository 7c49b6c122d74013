#include "take/sources/program_folders.hpp"

#include "base/text.hpp"
#include "headers/include_lines.hpp"
#include "os/files.hpp"
#include "take/sources/code_tree.hpp"

#include <algorithm>
#include <map>

namespace fibula {
namespace {

bool is_called_after_programs(const std::string& folder) {
  static constexpr std::string_view words[] = {"bin", "cli", "cmd", "gui"};
  const std::string name = text::lower(fs::path(folder).filename().string());
  return std::find(std::begin(words), std::end(words), name) != std::end(words);
}

/// From which folders a header of that name is included.
std::map<std::string, std::set<std::string>> folders_that_include(const Source& source) {
  std::map<std::string, std::set<std::string>> folders;
  for (const auto* files : {&source.code, &source.samples}) {
    for (const auto& file : *files) {
      for (const auto& line : include_lines(read_text(source.root / file).value_or("")))
        folders[fs::path(line.name).filename().string()].insert(folder_of(file));
    }
  }
  return folders;
}

class Search {
 public:
  explicit Search(const Source& source) : source_(source), includers_(folders_that_include(source)) {}

  std::set<std::string> find() {
    for (const auto& file : source_.code) {
      note_called(folder_of(file));
      const std::string folder = folder_of(file);
      if (folder.empty() || folders_.contains(folder) || serves_others(folder)) continue;
      const auto text = read_text(source_.root / file);
      if (text && is_program(*text)) folders_.insert(folder);
    }
    return std::move(folders_);
  }

 private:
  void note_called(std::string folder) {
    for (; !folder.empty(); folder = folder_of(folder)) {
      if (is_called_after_programs(folder)) folders_.insert(folder);
    }
  }

  bool serves_others(const std::string& folder) const {
    return std::any_of(source_.headers.begin(), source_.headers.end(), [&](const std::string& header) {
      const auto found = includers_.find(fs::path(header).filename().string());
      return lies_in_one_of({folder}, header) && found != includers_.end() && is_only_here(header) &&
             std::any_of(found->second.begin(), found->second.end(),
                         [&](const std::string& other) { return other != folder && !lies_in_one_of({folder}, other); });
    });
  }

  bool is_only_here(const std::string& header) const {
    const fs::path name = fs::path(header).filename();
    return std::count_if(source_.headers.begin(), source_.headers.end(),
                         [&](const std::string& other) { return fs::path(other).filename() == name; }) == 1;
  }

  const Source& source_;
  const std::map<std::string, std::set<std::string>> includers_;  ///< by a header's name
  std::set<std::string> folders_;
};

}  // namespace

std::set<std::string> program_folders(const Source& source) {
  return Search(source).find();
}

bool lies_in_one_of(const std::set<std::string>& folders, const std::string& file) {
  return std::any_of(folders.begin(), folders.end(),
                     [&](const std::string& folder) { return file.starts_with(folder + "/"); });
}

}  // namespace fibula
