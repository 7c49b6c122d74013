#include "loader/search.hpp"

#include <fmt/format.h>
#include <algorithm>
#include "os/file_digest.hpp"

namespace fibula {
namespace {

void add_expanded(std::vector<RunPath>& into, const std::vector<std::string>& paths, const RunTimeFile& file,
                  const fs::path& folder) {
  // One empty text is no run path at all; an empty entry among others means the folder where the program is started.
  if (paths.size() == 1 && paths.front().empty()) return;
  for (const auto& path : paths) {
    std::string directory = expanded(path, file);
    constexpr std::string_view executable = "@executable_path";
    if (directory.starts_with(executable)) directory.replace(0, executable.size(), folder.string());
    into.push_back({std::move(directory), file.path.filename().string()});
  }
}

}  // namespace

std::string expanded(std::string text, const RunTimeFile& file) {
  const std::string origin = file.path.parent_path().string();
  const std::string multiarch = multiarch_name(file.target);
  const std::string library = multiarch.empty() ? "lib" : "lib/" + multiarch;
  const std::string platform(to_string(file.target.arch));
  const std::pair<std::string_view, const std::string&> tokens[] = {
      {"${ORIGIN}", origin}, {"$ORIGIN", origin},       {"@loader_path", origin}, {"${LIB}", library},
      {"$LIB", library},     {"${PLATFORM}", platform}, {"$PLATFORM", platform}};
  for (const auto& [token, meaning] : tokens) {
    const size_t at = text.find(token);
    if (at != std::string::npos) text.replace(at, token.size(), meaning);
  }
  return text;
}

/// DT_RUNPATH serves a file's own needs and switches its DT_RPATH off; DT_RPATH and LC_RPATH are given on. musl makes
/// no difference between the two, and gives both on.
Asker asker_of(std::shared_ptr<const RunTimeFile> file, const std::vector<RunPath>& inherited,
               const Surroundings& around) {
  Asker asker{.file = file};
  const bool gives_all = file->target.format == Format::macho || around.musl;
  std::vector<RunPath> own;
  add_expanded(own, file->runpath.empty() ? file->rpath : file->runpath, *file, around.folder);
  if (gives_all || file->runpath.empty()) asker.given_on = own;
  asker.given_on.insert(asker.given_on.end(), inherited.begin(), inherited.end());
  asker.searched = gives_all || file->runpath.empty() ? asker.given_on : own;
  return asker;
}

bool Search::judge(const fs::path& path, NeedStatus status, const std::string& why) {
  const Looked& looked = around_.files.at(path, wanted_.arch);
  if (looked.there == Looked::There::nothing) return false;
  const bool stranger = looked.there == Looked::There::file && !(looked.file->target == wanted_);
  if (looked.there == Looked::There::file && !stranger) {
    found_ = {looked.file, path, status, why};
    return over_ = true;
  }
  if (unusable_.path.empty()) {
    unusable_ = stranger
                    ? Found{{},
                            path,
                            NeedStatus::wrong_architecture,
                            fmt::format("is for {}, not for {}", to_string(looked.file->target), to_string(wanted_))}
                    : Found{{}, path, NeedStatus::unloadable, looked.problem};
  }
  return over_ = stranger ? !patience_.passes_other_machines : !patience_.passes_unloadable;
}

bool Search::at(const fs::path& path, NeedStatus status, const std::string& why) {
  if (over_) return true;
  if (around_.system.is_this_machine()) return judge(path, status, why);
  for (const auto& place : around_.system.places_of(path)) {
    if (judge(place, status, why)) return true;
  }
  return false;
}

bool Search::in(const fs::path& directory, const std::string& name, NeedStatus status, const std::string& why) {
  if (over_) return true;
  const auto placed = around_.placed.find(name);
  if (placed != around_.placed.end() && directory.lexically_normal() == around_.folder) {
    if (judge(placed->second, status, why)) return true;
  }
  return at(directory / name, status, why);
}

void Search::compare(const fs::path& path) {
  if (found_.path.empty()) return;
  const Stamp& found = around_.files.stamp(found_.path);
  for (const auto& place : around_.system.places_of(path)) {
    // Most often it is the same file, and need not be read to see that.
    const Stamp& other = around_.files.stamp(place);
    if (!other.there() || other.same_file(found)) continue;
    const Looked& looked = around_.files.at(place, wanted_.arch);
    if (looked.there != Looked::There::file || !(looked.file->target == wanted_)) continue;
    const std::string text = place.string();
    const auto& known = found_.passed_over;
    if (std::find(known.begin(), known.end(), text) != known.end()) continue;
    if (!has_same_content(place, found_.path)) found_.passed_over.push_back(text);
  }
}

Found Search::result(std::string missing) && {
  if (!found_.path.empty()) return std::move(found_);
  if (!unusable_.path.empty()) return std::move(unusable_);
  return {.status = NeedStatus::missing, .why = std::move(missing)};
}

}  // namespace fibula
