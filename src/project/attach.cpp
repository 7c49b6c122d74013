#include <fibula/project.hpp>

#include "base/files.hpp"
#include "base/process.hpp"
#include "base/text.hpp"
#include "base/version.hpp"
#include "project/edit.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

Result<Card> newest_in_range(const Shelf& shelf, const std::string& name, const VersionRange& range) {
  auto cards = shelf.versions(name);
  if (!cards) return pass(cards);
  std::vector<std::string> there;
  for (auto& card : *cards) {
    if (range.contains(card.version)) return std::move(card);
    there.push_back(card.version);
  }
  if (!there.empty()) {
    return fail({.code = Code::refused,
                 .what = fmt::format("{} is on the shelf as {}, and none is \"{}\"", name, text::join(there, ", "),
                                     range.text()),
                 .file = shelf.folder().string(),
                 .hint = "take the version you need, or ask for one that is there"});
  }
  const std::string meant = text::closest(name, shelf.names());
  return fail({.code = Code::refused,
               .what = fmt::format("no library {} on the shelf", name),
               .file = shelf.folder().string(),
               .hint = meant.empty()
                           ? "take it first: fibula take FOLDER, or fibula take /usr --library " + name + " --in-place"
                           : fmt::format("did you mean {}?", meant)});
}

/// The patterns of the sources that lie in a folder, as a person would write them.
std::vector<std::string> source_patterns(const fs::path& folder) {
  std::vector<std::string> patterns;
  for (const char* pattern :
       {"*.cpp", "*.cc", "*.cxx", "*.c", "src/**/*.cpp", "src/**/*.cc", "src/**/*.cxx", "src/**/*.c"}) {
    if (!files_matching(folder, pattern).empty()) patterns.emplace_back(pattern);
  }
  return patterns;
}

Result<std::string> first_text(const fs::path& folder) {
  const auto patterns = source_patterns(folder);
  if (patterns.empty()) {
    return fail({.code = Code::refused,
                 .what = "has no fibula.toml, and no C or C++ sources to write one for",
                 .file = folder.string(),
                 .hint = "go to the folder of your program, or write its first source file"});
  }
  const std::string compiler = find_program("g++") ? "g++" : "clang++";
  return new_project(folder.filename().string(), patterns, compiler);
}

}  // namespace

Result<Attachment> attach(const fs::path& folder, const Shelf& shelf, const std::string& name, const std::string& range,
                          Linkage linkage) {
  auto wanted = VersionRange::parse(range);
  if (!wanted) return pass(wanted);
  auto card = newest_in_range(shelf, name, *wanted);
  if (!card) return pass(card);
  Attachment attachment{.name = name, .version = card->version, .range = range.empty() ? ">=" + card->version : range};
  auto project = Project::open(folder);
  if (!project && project.error().code != Code::absent) return pass(project);
  const fs::path file = project ? project->file() : absolute_path(folder) / "fibula.toml";
  auto before = project ? read_text(file) : first_text(absolute_path(folder));
  if (!before) return pass(before);
  if (!project) attachment.created = file;
  const std::string after = with_library(*before, {.name = name, .version = attachment.range, .linkage = linkage});
  attachment.changed = !project || after != *before;
  if (!attachment.changed) return attachment;
  if (auto written = write_whole(file, after); !written) return pass(written);
  return attachment;
}

Result<bool> detach(const fs::path& folder, const std::string& name) {
  auto project = Project::open(folder);
  if (!project) return pass(project);
  std::vector<std::string> attached;
  for (const auto& use : project->libraries()) attached.push_back(use.name);
  if (std::find(attached.begin(), attached.end(), name) == attached.end()) {
    const std::string meant = text::closest(name, attached);
    return fail({.code = Code::refused,
                 .what = fmt::format("{} is not attached", name),
                 .file = project->file().string(),
                 .hint = meant.empty() ? "attached: " + (attached.empty() ? "nothing" : text::join(attached, ", "))
                                       : fmt::format("did you mean {}?", meant)});
  }
  auto before = read_text(project->file());
  if (!before) return pass(before);
  return write_whole(project->file(), without_library(*before, name));
}

}  // namespace fibula
