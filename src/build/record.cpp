#include "build/record.hpp"

#include "base/digest.hpp"
#include "base/text.hpp"
#include "os/file_digest.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <nlohmann/json.hpp>

namespace fibula {
namespace {

using nlohmann::json;

json to_json(const Stamp& s) {
  return {static_cast<int>(s.kind), s.executable, s.device, s.number, s.size, s.time, s.changed};
}

Stamp stamp_from(const json& j) {
  return {static_cast<Stamp::Kind>(j.at(0).get<int>()), j.at(1), j.at(2), j.at(3), j.at(4), j.at(5), j.at(6)};
}

/// Whether a file is as it was; one that was touched and not changed gets its new stamp.
bool is_as_it_was(FileState& known) {
  const Stamp now = stamp_of(known.path);
  if (now == known.stamp) return true;
  const auto digest = quick_digest_of_file(known.path);
  if (!digest || now.size != known.stamp.size || *digest != known.digest) return false;
  known.stamp = now;
  return true;
}

uint64_t command_digest(const std::vector<std::string>& command) {
  std::string text;
  for (const auto& word : command) text += word + '\0';
  return quick_digest(text);
}

}  // namespace

bool BuildRecord::same(uint32_t state) {
  if (judged_[state] == Judged::not_yet) judged_[state] = is_as_it_was(states_[state]) ? Judged::same : Judged::changed;
  return judged_[state] == Judged::same;
}

std::string BuildRecord::cause(const fs::path& product, const std::vector<std::string>& command) {
  std::error_code ignored;
  if (!fs::exists(product, ignored)) return "not made yet";
  const auto found = entries_.find(product.string());
  if (found == entries_.end()) return "not known how it was made";
  if (found->second.command != command_digest(command)) return "its command changed";
  for (const uint32_t state : found->second.inputs) {
    if (!same(state)) return fmt::format("{} changed", fs::path(states_[state].path).filename().string());
  }
  return {};
}

bool BuildRecord::holds(const fs::path& product) {
  const auto found = entries_.find(product.string());
  if (found == entries_.end() || !stamp_of(product).is_file()) return false;
  return std::all_of(found->second.inputs.begin(), found->second.inputs.end(),
                     [&](uint32_t state) { return same(state); });
}

uint32_t BuildRecord::remember(const fs::path& input) {
  FileState state{.path = input.string(), .stamp = stamp_of(input)};
  const auto known = fresh_.find(state.path);
  if (known != fresh_.end() && states_[known->second].stamp == state.stamp) return known->second;
  state.digest = quick_digest_of_file(input).value_or(0);
  const auto position = static_cast<uint32_t>(states_.size());
  fresh_[state.path] = position;
  states_.push_back(std::move(state));
  judged_.push_back(Judged::same);
  return position;
}

void BuildRecord::made(const fs::path& product, const std::vector<std::string>& command,
                       const std::vector<fs::path>& inputs) {
  Entry entry{.command = command_digest(command)};
  for (const auto& input : inputs) entry.inputs.push_back(remember(input));
  entries_[product.string()] = std::move(entry);
}

BuildRecord BuildRecord::load(const fs::path& file) {
  BuildRecord record;
  const auto text = read_text(file);
  if (!text) return record;
  const json parsed = json::from_cbor(*text, true, false);
  if (!parsed.is_object()) return record;
  try {
    for (const auto& state : parsed.at("states"))
      record.states_.push_back({state.at(0), stamp_from(state.at(1)), state.at(2)});
    for (const auto& [product, entry] : parsed.at("products").items()) {
      Entry& into = record.entries_[product];
      into.command = entry.at(0);
      for (const uint32_t input : entry.at(1)) {
        if (input >= record.states_.size()) return {};
        into.inputs.push_back(input);
      }
    }
  } catch (const json::exception&) {
    return {};
  }
  record.judged_.resize(record.states_.size());
  return record;
}

Result<void> BuildRecord::save(const fs::path& file) const {
  // States that no product was made from any more are left behind.
  std::map<uint32_t, uint32_t> kept;
  json states = json::array(), products = json::object();
  for (const auto& [product, entry] : entries_) {
    json inputs = json::array();
    for (const uint32_t state : entry.inputs) {
      const auto [position, is_new] = kept.emplace(state, static_cast<uint32_t>(kept.size()));
      const FileState& s = states_[state];
      if (is_new) states.push_back({s.path, to_json(s.stamp), s.digest});
      inputs.push_back(position->second);
    }
    products[product] = {entry.command, std::move(inputs)};
  }
  std::string bytes;
  json::to_cbor(json{{"states", std::move(states)}, {"products", std::move(products)}}, bytes);
  return without_value(write_if_changed(file, bytes));
}

std::vector<fs::path> dependencies_in(std::string_view text) {
  std::vector<fs::path> found;
  size_t at = text.find(": ");
  if (at == std::string_view::npos) return found;
  std::string word;
  const auto finish = [&] {
    if (!word.empty()) found.emplace_back(word);
    word.clear();
  };
  for (at += 2; at < text.size() && !(text[at] == '\n' && word.empty() && !found.empty() && text[at - 1] != '\\');
       ++at) {
    const char c = text[at], next = at + 1 < text.size() ? text[at + 1] : '\0';
    if (c == '\\' && (next == ' ' || next == '#')) {
      word += next;
      ++at;
    } else if (c == '$' && next == '$') {
      word += c;
      ++at;
    } else if (c == '\\' && next == '\n') {
      finish();
      ++at;
    } else if (c == ' ' || c == '\n' || c == '\t') {
      finish();
      if (c == '\n') break;
    } else {
      word += c;
    }
  }
  finish();
  return found;
}

}  // namespace fibula
