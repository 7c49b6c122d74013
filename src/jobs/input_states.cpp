#include "jobs/input_states.hpp"

#include "jobs/dependencies.hpp"
#include "jobs/new_names.hpp"
#include "os/files.hpp"
#include "os/host.hpp"
#include "os/near_stamps.hpp"
#include "os/plain_path.hpp"

#include <algorithm>
#include <set>

namespace fibula {

void InputStates::take(const std::vector<std::string>& inputs, int64_t began, const BuildRecord& record) {
  int64_t last = began;
  // A file that changed within this tick could change again and have the same stamp: it is looked at after the tick.
  for (bool young = true; young;) {
    NearStamps stamps;
    before_.clear();
    for (const auto& input : inputs) {
      if (record.stamp_as_made(input) != nullptr) continue;
      const auto [known, fresh] = before_.try_emplace(input);
      if (!fresh) continue;
      known->second = stamps.at(input);
      last = std::max(last, known->second.changed);
    }
    const int64_t now = stamp_clock();
    young = last <= now && now <= last + stamp_tick;
    if (young) wait_for_tick_after(last);
  }
  started_ = stamp_clock();
}

std::vector<FileState> InputStates::states_after(std::vector<std::string> inputs, const BuildRecord& record) const {
  std::sort(inputs.begin(), inputs.end());
  inputs.erase(std::unique(inputs.begin(), inputs.end()), inputs.end());
  std::vector<FileState> states;
  states.reserve(inputs.size());
  NearStamps stamps;
  for (auto& input : inputs) {
    FileState state{.path = std::move(input), .stamp = {}, .digest = 0};
    if (const Stamp* as_made = record.stamp_as_made(state.path)) {
      // A change since then has another stamp than this one.
      state.stamp = *as_made;
      states.push_back(std::move(state));
      continue;
    }
    state.stamp = stamps.at(state.path);
    const auto known = before_.find(state.path);
    const bool sure = known != before_.end() ? known->second == state.stamp
                                             : state.stamp.there() && state.stamp.changed + stamp_tick < started_;
    // A time that no file has.
    if (!sure) state.stamp = {.kind = Stamp::Kind::other, .changed = -1};
    states.push_back(std::move(state));
  }
  return states;
}

namespace {

using Texts = std::set<std::string, std::less<>>;

/// What is behind a folder in a path, with the file's name; empty when it is not inside.
std::string_view inside(std::string_view path, std::string_view folder) {
  const bool is = path.size() > folder.size() && path.starts_with(folder) && path[folder.size()] == '/';
  return is ? path.substr(folder.size() + 1) : std::string_view();
}

/// `tide/deep/harbour.h` adds `tide` and `tide/deep`.
void add_folders_of(std::string_view name, Texts& into) {
  for (size_t slash = name.find('/'); slash != std::string_view::npos; slash = name.find('/', slash + 1)) {
    if (!into.contains(name.substr(0, slash))) into.emplace(name.substr(0, slash));
  }
}

}  // namespace

std::vector<FileState> InputStates::folders_after(const std::vector<std::string>& inputs,
                                                  const std::vector<std::string>& searched) const {
  Texts folders(searched.begin(), searched.end()), names, beside;
  for (const auto& input : inputs) {
    const std::string_view folder = std::string_view(input).substr(0, input.rfind('/'));
    if (!folder.empty() && !folders.contains(folder)) folders.emplace(folder);
    bool found = false;
    for (const auto& root : searched) {
      const std::string_view name = inside(input, root);
      found = found || !name.empty();
      add_folders_of(name, names);
    }
    if (!found) beside.emplace(folder);
  }
  // A header that is included as tide/harbour.h is hidden by one in a folder tide of an earlier directory.
  beside.insert(searched.begin(), searched.end());
  for (const auto& root : beside) {
    for (const auto& name : names) folders.insert(root + "/" + name);
  }
  std::vector<FileState> states;
  for (const auto& folder : folders) {
    FileState state{.path = folder, .stamp = stamp_at(folder.c_str()), .digest = 0};
    state.stamp.changed = std::min(state.stamp.changed, started_ - stamp_tick);
    if (state.stamp.is_folder()) states.push_back(std::move(state));
  }
  return states;
}

namespace {

/// Absolute and without detours; most are already.
std::string plain_path(std::string path, const fs::path& directory) {
  return path.starts_with("/") && !has_detours(path) ? path : (directory / path).lexically_normal().string();
}

}  // namespace

std::vector<std::string> inputs_told_by(const std::string& dependencies, const fs::path& directory) {
  const std::string for_a_moment = absolute_path(temporary_place()).string();
  std::vector<std::string> inputs;
  for (auto& input : dependencies_in(dependencies)) {
    std::string path = plain_path(std::move(input), directory);
    const bool passing = std::string_view(path).substr(0, path.rfind('/')) == for_a_moment;
    if (!passing || stamp_at(path.c_str()).there()) inputs.push_back(std::move(path));
  }
  return inputs;
}

}  // namespace fibula
