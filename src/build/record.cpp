#include "build/record.hpp"

#include "base/digest.hpp"
#include "base/text.hpp"

#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <sys/stat.h>

namespace fibula {
namespace {

using nlohmann::json;

/// Size and time of a file; false when it is not there.
bool stat_file(const std::string& path, FileState& state) {
  struct stat info {};
  if (::stat(path.c_str(), &info) != 0) return false;
  state.size = static_cast<uint64_t>(info.st_size);
  state.time = info.st_mtim.tv_sec * 1'000'000'000 + info.st_mtim.tv_nsec;
  return true;
}

uint64_t command_digest(const std::vector<std::string>& command) {
  std::string text;
  for (const auto& word : command) text += word + '\0';
  return quick_digest(text);
}

}  // namespace

bool BuildRecord::same(const std::string& path, FileState& known) {
  FileState now;
  if (!stat_file(path, now)) return false;
  if (now.size == known.size && now.time == known.time) return true;
  const auto digest = quick_digest_of_file(path);
  if (!digest || now.size != known.size || *digest != known.digest) return false;
  known.time = now.time;  // touched, not changed
  return true;
}

std::string BuildRecord::cause(const fs::path& product, const std::vector<std::string>& command) {
  std::error_code ignored;
  if (!fs::exists(product, ignored)) return "not made yet";
  const auto found = entries_.find(product.string());
  if (found == entries_.end()) return "not known how it was made";
  if (found->second.command != command_digest(command)) return "its command changed";
  for (auto& [path, state] : found->second.inputs) {
    if (!same(path, state)) return fmt::format("{} changed", fs::path(path).filename().string());
  }
  return {};
}

void BuildRecord::made(const fs::path& product, const std::vector<std::string>& command, const std::vector<fs::path>& inputs) {
  Entry entry{.command = command_digest(command)};
  for (const auto& input : inputs) {
    FileState state;
    if (!stat_file(input.string(), state)) continue;
    state.digest = quick_digest_of_file(input).value_or(0);
    entry.inputs[input.string()] = state;
  }
  entries_[product.string()] = std::move(entry);
}

BuildRecord BuildRecord::load(const fs::path& file) {
  BuildRecord record;
  const auto text = read_text(file);
  if (!text) return record;
  const json parsed = json::parse(*text, nullptr, false);
  if (!parsed.is_object()) return record;
  try {
    for (const auto& [product, entry] : parsed.items()) {
      Entry& into = record.entries_[product];
      into.command = entry.at(0);
      for (const auto& [path, state] : entry.at(1).items()) into.inputs[path] = {state.at(0), state.at(1), state.at(2)};
    }
  } catch (const json::exception&) {
    return {};
  }
  return record;
}

Result<bool> BuildRecord::save(const fs::path& file) const {
  json object = json::object();
  for (const auto& [product, entry] : entries_) {
    json inputs = json::object();
    for (const auto& [path, state] : entry.inputs) inputs[path] = {state.size, state.time, state.digest};
    object[product] = {entry.command, std::move(inputs)};
  }
  return write_if_changed(file, object.dump());
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
  for (at += 2; at < text.size() && !(text[at] == '\n' && word.empty() && !found.empty() && text[at - 1] != '\\'); ++at) {
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
