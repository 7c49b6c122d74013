#include "jobs/record.hpp"

#include "base/text.hpp"
#include "jobs/asked_headers.hpp"
#include "jobs/new_names.hpp"
#include "os/file_digest.hpp"
#include "os/near_stamps.hpp"
#include "os/parallel.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <atomic>
#include <filesystem>

namespace fibula {
namespace {

namespace fs = std::filesystem;

constexpr uint32_t none = ~uint32_t{0};
constexpr uint64_t largest_digested = 8U << 20U;

std::string short_name(const std::string& path) {
  return path.substr(path.rfind('/') + 1);
}

/// Whether a folder that moved has the same names in it: editors write a file anew under its name.
bool holds_the_same(FileState& known, const Stamp& now) {
  if (quick_digest_of_names(known.path) != known.digest || stamp_at(known.path.c_str()) != now) return false;
  if (now.changed + stamp_tick < stamp_clock()) known.stamp = now;
  return true;
}

/// Whether a file is as it was; one that was touched and not changed gets its new stamp.
bool is_as_it_was(FileState& known, const Stamp& now) {
  if (now == known.stamp) return true;
  if (known.digest != 0 && known.stamp.is_folder() && now.is_folder()) return holds_the_same(known, now);
  if (known.digest == 0 || now.size != known.stamp.size || !now.is_file()) return false;
  const auto digest = quick_digest_of_file(known.path);
  // Changed while it was read: the next build looks again.
  if (!digest || *digest != known.digest || stamp_at(known.path.c_str()) != now) return false;
  if (now.changed + stamp_tick < stamp_clock()) known.stamp = now;
  return true;
}

}  // namespace

uint64_t content_digest(const std::string& path, const Stamp& stamp) {
  if (!stamp.is_file() || stamp.size > largest_digested) return 0;
  return quick_digest_of_file(path).value_or(0);
}

BuildRecord::BuildRecord(const fs::path& file) : file_(file), recorded_(file_.read()) {
  judged_.resize(recorded_.states.size());
  moved_.resize(recorded_.states.size());
  asked_.resize(recorded_.products.size());
}

bool BuildRecord::same(uint32_t state) {
  // What this build made since may have been judged before.
  const bool remade = !made_.empty() && made_.contains(recorded_.states[state].path);
  if (judged_[state] != Judged::not_yet && !remade) return judged_[state] == Judged::same;
  return judge(state, stamp_at(recorded_.states[state].path.c_str()));
}

bool BuildRecord::judge(uint32_t state, const Stamp& now) {
  FileState& known = recorded_.states[state];
  const Stamp before = known.stamp;
  const bool as_it_was = is_as_it_was(known, now);
  if (known.stamp != before) moved_[state] = true;
  judged_[state] = as_it_was ? Judged::same : Judged::changed;
  return as_it_was;
}

const BuildRecord::News& BuildRecord::news(uint32_t folder) {
  const auto [found, fresh] = news_.try_emplace(folder);
  if (fresh) {
    const FileState& known = recorded_.states[folder];
    found->second.state = state_of_folder(known.path);
    found->second.names = names_since(known.path, known.stamp);
  }
  return found->second;
}

const std::vector<std::string>& BuildRecord::asked_by(uint32_t input) {
  const auto [found, fresh] = asked_headers_.try_emplace(input);
  if (fresh) found->second = asked_headers(recorded_.states[input].path);
  return found->second;
}

/// A new file in a folder that is searched before the one where an input was found, or one that an input asks for.
std::string BuildRecord::new_file_cause(const MadeProduct& product, uint32_t folder) {
  const std::string& place = recorded_.states[folder].path;
  // One that was there and touched is new to the folder, and not to the product.
  const auto is_input = [&](const std::string& path) {
    return std::any_of(product.inputs.begin(), product.inputs.end(),
                       [&](uint32_t input) { return recorded_.states[input].path == path; });
  };
  for (const auto& name : news(folder).names) {
    const bool may_be_asked = may_be_asked_for(name);
    for (const uint32_t input : product.inputs) {
      const FileState& file = recorded_.states[input];
      if (file.stamp.is_folder()) continue;
      const std::string other = hidden_by(place, name, file.path);
      if (!other.empty()) return fmt::format("{} is new and hides {}", other, file.path);
      const std::string asked = may_be_asked ? asked_header_in(place, name, asked_by(input)) : std::string();
      if (!asked.empty() && !is_input(asked))
        return fmt::format("{} is new, and {} asks for it", asked, short_name(file.path));
    }
  }
  return {};
}

std::string BuildRecord::input_cause(const MadeProduct& product) {
  for (const uint32_t input : product.inputs) {
    if (same(input)) continue;
    const FileState& state = recorded_.states[input];
    if (state.stamp.is_folder()) {
      if (auto cause = new_file_cause(product, input); !cause.empty()) return cause;
      continue;
    }
    const bool gone = !stamp_at(state.path.c_str()).there();
    return fmt::format("{} {}", short_name(state.path), gone ? "is gone" : "changed");
  }
  return {};
}

uint32_t BuildRecord::find(const std::string& product) const {
  if (products_.empty()) {
    products_.reserve(recorded_.products.size());
    for (uint32_t i = 0; i < recorded_.products.size(); ++i) products_[recorded_.products[i].path] = i;
  }
  const auto found = products_.find(product);
  return found == products_.end() ? none : found->second;
}

std::string BuildRecord::known_cause(const std::string& product, const uint64_t* command) {
  const Stamp now = stamp_at(product.c_str());
  const uint32_t position = find(product);
  if (position != none && command != nullptr) asked_[position] = true;
  if (!now.is_file()) return "not made yet";
  if (position == none || !recorded_.products[position].stamp.there()) return "not known how it was made";
  const MadeProduct& known = recorded_.products[position];
  if (known.stamp != now) return fmt::format("{} is not as it was made", short_name(product));
  if (command != nullptr && known.command != *command) return "its command changed";
  return input_cause(known);
}

std::string BuildRecord::cause(const std::string& product, uint64_t command) {
  return known_cause(product, &command);
}

std::vector<std::string> BuildRecord::products() const {
  std::vector<std::string> paths;
  for (const auto& product : recorded_.products) paths.push_back(product.path);
  return paths;
}

std::vector<FileState> BuildRecord::states_of(const std::string& product) const {
  std::vector<FileState> states;
  const uint32_t position = find(product);
  if (position == none) return states;
  for (const uint32_t input : recorded_.products[position].inputs) states.push_back(recorded_.states[input]);
  return states;
}

std::vector<std::string> BuildRecord::inputs_of(const std::string& product) const {
  std::vector<std::string> paths;
  for (auto& state : states_of(product)) {
    if (!state.stamp.is_folder()) paths.push_back(std::move(state.path));
  }
  return paths;
}

uint32_t BuildRecord::position_of(const std::string& product) {
  const uint32_t known = find(product);
  if (known != none) return known;
  const auto position = static_cast<uint32_t>(recorded_.products.size());
  recorded_.products.push_back({.path = product, .stamp = {}, .command = 0, .inputs = {}});
  asked_.push_back(true);
  products_[product] = position;
  return position;
}

Result<void> BuildRecord::strike(const std::string& product) {
  made_.insert(product);
  const bool is_new = find(product) == none;
  const uint32_t position = position_of(product);
  recorded_.products[position].stamp = {};
  recorded_.outcome.clear();
  return is_new ? file_.add_product(product) : file_.strike_product(position);
}

void BuildRecord::index_states() {
  if (!latest_.empty()) return;
  latest_.reserve(recorded_.states.size());
  for (uint32_t i = 0; i < recorded_.states.size(); ++i) latest_[recorded_.states[i].path] = i;
}

/// Hundreds of headers go into every object: each state is kept once.
Result<uint32_t> BuildRecord::remember(const FileState& state) {
  index_states();
  const auto known = latest_.find(state.path);
  if (known != latest_.end() && recorded_.states[known->second].stamp == state.stamp) return known->second;
  const auto position = static_cast<uint32_t>(recorded_.states.size());
  FileState kept = state;
  kept.digest = content_digest(kept.path, kept.stamp);
  if (stamp_at(kept.path.c_str()) != kept.stamp) kept.digest = 0;  // that was the digest of something newer
  if (auto added = file_.add_state(kept); !added) return pass(added);
  latest_[kept.path] = position;
  recorded_.states.push_back(std::move(kept));
  judged_.push_back(Judged::same);
  moved_.push_back(false);
  return position;
}

Result<void> BuildRecord::made(const std::string& product, uint64_t command, const std::vector<FileState>& inputs) {
  MadeProduct made{.path = product, .stamp = stamp_at(product.c_str()), .command = command, .inputs = {}};
  for (const auto& input : inputs) {
    auto position = remember(input);
    if (!position) return pass(position);
    made.inputs.push_back(*position);
  }
  const uint32_t position = position_of(product);
  recorded_.products[position] = std::move(made);
  return file_.make_product(position, recorded_.products[position]);
}

/// A folder in which files came and went, and none of them is a cause to make anything again, counts from now on as it
/// is now; `products`: those that count. Gives those folders.
std::vector<uint32_t> BuildRecord::refresh_folders(const std::vector<bool>& products) {
  std::map<uint32_t, bool> folders;  // whether what came is a cause
  // Thousands of products search the same few folders.
  std::vector<std::optional<bool>> moved(recorded_.states.size());
  const auto has_moved = [&](uint32_t folder) {
    const FileState& state = recorded_.states[folder];
    if (!moved[folder]) moved[folder] = state.stamp.is_folder() && stamp_at(state.path.c_str()) != state.stamp;
    return *moved[folder];
  };
  for (uint32_t i = 0; i < recorded_.products.size(); ++i) {
    if (!products[i]) continue;
    for (const uint32_t input : recorded_.products[i].inputs) {
      if (!has_moved(input)) continue;
      bool& matters = folders.try_emplace(input, false).first->second;
      matters = matters || !new_file_cause(recorded_.products[i], input).empty();
    }
  }
  std::vector<uint32_t> refreshed;
  for (const auto& [folder, matters] : folders) {
    if (matters) continue;
    recorded_.states[folder].stamp = news(folder).state;
    refreshed.push_back(folder);
  }
  return refreshed;
}

Result<std::vector<std::string>> BuildRecord::drop_others() {
  std::vector<std::string> left;
  for (uint32_t i = 0; i < recorded_.products.size(); ++i) {
    MadeProduct& product = recorded_.products[i];
    if (asked_[i] || !product.stamp.there()) continue;
    if (stamp_at(product.path.c_str()) == product.stamp) left.push_back(product.path);
    product.stamp = {};
    if (auto struck = file_.strike_product(i); !struck) return pass(struck);
  }
  return left;
}

/// Forgets products that nobody asked for, and states on which nothing rests. What counts by position is of no use
/// afterwards.
void BuildRecord::drop_unused() {
  RecordContent kept{.states = {}, .products = {}, .outcome = std::move(recorded_.outcome), .premises = {}};
  std::map<uint32_t, uint32_t> positions;
  const auto keep = [&](uint32_t state) {
    const auto [found, fresh] = positions.emplace(state, static_cast<uint32_t>(kept.states.size()));
    if (fresh) kept.states.push_back(std::move(recorded_.states[state]));
    return found->second;
  };
  for (uint32_t i = 0; i < recorded_.products.size(); ++i) {
    MadeProduct& product = recorded_.products[i];
    if (!asked_[i]) continue;
    for (auto& input : product.inputs) input = keep(input);
    kept.products.push_back(std::move(product));
  }
  for (const uint32_t premise : recorded_.premises) kept.premises.push_back(keep(premise));
  recorded_ = std::move(kept);
}

Result<void> BuildRecord::settle(const std::string& outcome, const std::vector<FileState>& premises) {
  refresh_folders(asked_);
  recorded_.outcome = outcome;
  recorded_.premises.clear();
  for (const auto& premise : premises) {
    recorded_.premises.push_back(static_cast<uint32_t>(recorded_.states.size()));
    recorded_.states.push_back(premise);
  }
  drop_unused();
  return file_.write(recorded_);
}

bool BuildRecord::all_same(const std::vector<uint32_t>& states) {
  return std::all_of(states.begin(), states.end(), [&](uint32_t state) { return same(state); });
}

/// Those on which something rests: a state that a newer one replaced is nobody's.
std::vector<bool> BuildRecord::used_states() const {
  std::vector<bool> used(recorded_.states.size());
  for (const auto& product : recorded_.products) {
    for (const uint32_t input : product.inputs) used[input] = true;
  }
  for (const uint32_t premise : recorded_.premises) used[premise] = true;
  return used;
}

/// Looks at every state, and at every product; false when one of these is not as it was made.
bool BuildRecord::judge_all() {
  // Folder by folder, in pieces that are worth a thread's while.
  constexpr size_t piece = 256;
  const auto each = [](size_t count, const auto& work) {
    each_in_parallel((count + piece - 1) / piece, 2, [&](size_t number) {
      NearStamps stamps;
      for (size_t i = number * piece; i < std::min(count, (number + 1) * piece); ++i) work(i, stamps);
    });
  };
  const auto used = used_states();
  each(recorded_.states.size(), [&](size_t i, NearStamps& stamps) {
    if (used[i] && judged_[i] == Judged::not_yet) judge(static_cast<uint32_t>(i), stamps.at(recorded_.states[i].path));
  });
  std::atomic<bool> good = true;
  each(recorded_.products.size(), [&](size_t i, NearStamps& stamps) {
    const MadeProduct& product = recorded_.products[i];
    if (good && !(product.stamp.there() && stamps.at(product.path) == product.stamp)) good = false;
  });
  return good;
}

/// What is not kept is found out again the next time.
void BuildRecord::keep_moved() {
  for (uint32_t state = 0; state < moved_.size(); ++state) {
    if (moved_[state] != 0) static_cast<void>(file_.move_state(state, recorded_.states[state].stamp));
    moved_[state] = 0;
  }
}

std::optional<BuildRecord::Standing> BuildRecord::standing() {
  if (recorded_.outcome.empty() || !all_same(recorded_.premises) || !judge_all()) return std::nullopt;
  stood_ = true;
  Standing standing{.outcome = recorded_.outcome, .stale = {}};
  if (std::find(judged_.begin(), judged_.end(), Judged::changed) != judged_.end()) {
    for (const auto& product : recorded_.products) {
      if (!input_cause(product).empty()) standing.stale.push_back(product.path);
    }
    for (const uint32_t folder : refresh_folders(std::vector<bool>(asked_.size(), true))) moved_[folder] = 1;
  }
  keep_moved();
  return standing;
}

const Stamp* BuildRecord::stamp_as_made(const std::string& product) const {
  if (!stood_ || made_.contains(product)) return nullptr;
  const uint32_t position = find(product);
  return position == none ? nullptr : &recorded_.products[position].stamp;
}

bool BuildRecord::was_made_by(const std::string& product, uint64_t command) const {
  const uint32_t position = find(product);
  return position != none && recorded_.products[position].command == command;
}

Result<void> BuildRecord::stand_again(const std::string& outcome, const std::string& own) {
  int64_t last = 0;
  for (auto& premise : recorded_.premises) {
    const FileState& known = recorded_.states[premise];
    if (!known.path.starts_with(own)) continue;
    const Stamp now = stamp_at(known.path.c_str());
    if (now == known.stamp) continue;
    last = std::max(last, now.changed);
    auto position = remember({.path = known.path, .stamp = now, .digest = 0});
    if (!position) return pass(position);
    premise = *position;
  }
  wait_for_tick_after(last);
  recorded_.outcome = outcome;
  const auto used = used_states();
  const auto left = static_cast<size_t>(std::count(used.begin(), used.end(), false));
  if (left <= used.size() / 4 + 64) return file_.add_outcome(recorded_);
  std::fill(asked_.begin(), asked_.end(), true);
  drop_unused();
  return file_.write(recorded_);
}

}  // namespace fibula
