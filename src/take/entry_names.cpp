#include "take/entry_names.hpp"

#include "base/text.hpp"

#include <fmt/format.h>
#include <filesystem>
#include <vector>

namespace fibula {
namespace {

constexpr const char* mistrust = "do not unpack it elsewhere either: ask where it came from for a sound archive";

/// A name that a terminal can be shown.
std::string printable(std::string_view name) {
  std::string shown;
  for (const char c : name) {
    const auto byte = static_cast<unsigned char>(c);
    if (byte < 0x20 || byte >= 0x7f)
      shown += fmt::format("\\x{:02x}", byte);
    else
      shown += c;
  }
  return shown;
}

Error refusal(std::string what, const char* hint) {
  return {.code = Code::refused, .what = std::move(what), .hint = hint};
}

/// Length of the UTF-8 sequence that begins here, 0 for none (RFC 3629, section 4).
size_t sequence_length(std::string_view text) {
  const auto at = [&](size_t i) { return i < text.size() ? static_cast<unsigned char>(text[i]) : 0U; };
  const unsigned first = at(0);
  const auto follows = [&](size_t from, size_t to) {
    for (size_t i = from; i < to; ++i) {
      if ((at(i) & 0xc0U) != 0x80U) return false;
    }
    return true;
  };
  if (first < 0x80) return 1;
  if (first >= 0xc2 && first <= 0xdf) return follows(1, 2) ? 2 : 0;
  if (first >= 0xe0 && first <= 0xef) {
    const bool overlong = first == 0xe0 && at(1) < 0xa0, surrogate = first == 0xed && at(1) > 0x9f;
    return !overlong && !surrogate && follows(1, 3) ? 3 : 0;
  }
  if (first >= 0xf0 && first <= 0xf4) {
    const bool overlong = first == 0xf0 && at(1) < 0x90, beyond = first == 0xf4 && at(1) > 0x8f;
    return !overlong && !beyond && follows(1, 4) ? 4 : 0;
  }
  return 0;
}

bool is_utf8(std::string_view text) {
  while (!text.empty()) {
    const size_t length = sequence_length(text);
    if (length == 0) return false;
    text.remove_prefix(length);
  }
  return true;
}

bool has_control_character(std::string_view text) {
  return std::any_of(text.begin(), text.end(), [](char c) {
    const auto byte = static_cast<unsigned char>(c);
    return byte < 0x20 || byte == 0x7f;
  });
}

/// Parts without `.`; `..` takes the one before it away, and fails where there is none.
bool walk(std::string_view path, std::vector<std::string_view>& parts) {
  for (const auto part : text::split(path, '/')) {
    if (part.empty() || part == ".") continue;
    if (part != "..") {
      parts.push_back(part);
      continue;
    }
    if (parts.empty()) return false;
    parts.pop_back();
  }
  return true;
}

std::string joined(const std::vector<std::string_view>& parts) {
  std::string path;
  for (const auto part : parts) path += (path.empty() ? "" : "/") + std::string(part);
  return path;
}

}  // namespace

Result<std::string> safe_name(std::string_view name) {
  if (!is_utf8(name)) {
    return fail(refusal(fmt::format("holds the name {}, which is no UTF-8", printable(name)),
                        "unpack it with a tool that knows its character set, and take the folder"));
  }
  if (has_control_character(name))
    return fail(refusal(fmt::format("holds the name {}, with a control character in it", printable(name)), mistrust));
  if (name.starts_with('/'))
    return fail(refusal(fmt::format("holds the absolute name {}, which would be written outside", name), mistrust));
  std::vector<std::string_view> parts;
  for (const auto part : text::split(name, '/')) {
    if (part == "..")
      return fail(refusal(fmt::format("holds the name {}, which leads out of its folder", name), mistrust));
    if (!part.empty() && part != ".") parts.push_back(part);
  }
  return joined(parts);
}

Result<std::string> safe_target(std::string_view link, std::string_view target, bool rooted) {
  const auto leads_out = [&] {
    return fail(refusal(fmt::format("holds the link {} to {}, which leads out of its folder", link, printable(target)),
                        "unpack it yourself, remove the link, and take the folder"));
  };
  if (!is_utf8(target) || has_control_character(target) || target.empty()) return leads_out();
  std::vector<std::string_view> parts;
  if (target.starts_with('/')) {
    if (!rooted) return leads_out();
  } else if (const size_t slash = link.rfind('/'); slash != std::string_view::npos) {
    walk(link.substr(0, slash), parts);
  }
  if (!walk(target, parts)) return leads_out();
  return joined(parts);
}

Result<void> NameBook::enter(const std::string& name) {
  const auto [entry, fresh] = names_.emplace(text::lower(name), name);
  if (fresh) return {};
  if (entry->second == name) {
    return fail(
        refusal(fmt::format("holds {} twice", name), "unpack it yourself, keep the right one, and take the folder"));
  }
  return fail(refusal(fmt::format("holds {} and {}, which differ only in the case of letters", entry->second, name),
                      "many file systems keep only one of them: unpack it yourself, and take the folder"));
}

}  // namespace fibula
