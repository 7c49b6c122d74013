#include "take/entry_names.hpp"

#include "base/inside_path.hpp"
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
  if (!text::is_utf8(name)) {
    return fail(refusal(fmt::format("holds the name {}, which is no UTF-8", printable(name)),
                        "unpack it with a tool that knows its character set, and take the folder"));
  }
  if (has_control(name))
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
  if (!text::is_utf8(target) || has_control(target) || target.empty()) return leads_out();
  std::vector<std::string_view> parts;
  if (target.starts_with('/')) {
    if (!rooted) return leads_out();
  } else if (const size_t slash = link.rfind('/'); slash != std::string_view::npos) {
    walk(link.substr(0, slash), parts);
  }
  if (!walk(target, parts)) return leads_out();
  return joined(parts);
}

Result<void> NameBook::enter(const std::string& name, Entry entry) {
  const auto [known, fresh] = names_.emplace(text::lower(name), name);
  if (fresh || (known->second == name && entry == Entry::folder)) return {};
  if (known->second == name) {
    return fail(
        refusal(fmt::format("holds {} twice", name), "unpack it yourself, keep the right one, and take the folder"));
  }
  return fail(refusal(fmt::format("holds {} and {}, which differ only in the case of letters", known->second, name),
                      "many file systems keep only one of them: unpack it yourself, and take the folder"));
}

}  // namespace fibula
