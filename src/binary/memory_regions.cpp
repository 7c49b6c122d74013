#include "binary/memory_regions.hpp"

#include "base/text.hpp"

#include <charconv>
#include <optional>

namespace fibula {
namespace {

/// "0x20000000", "96K", "1M", "1024".
std::optional<uint64_t> number_of(std::string_view word) {
  word = text::trim(word);
  const int base = word.starts_with("0x") || word.starts_with("0X") ? 16 : 10;
  if (base == 16) word.remove_prefix(2);
  uint64_t value = 0;
  const auto [end, error] = std::from_chars(word.data(), word.data() + word.size(), value, base);
  if (error != std::errc()) return std::nullopt;
  const std::string_view unit(end, static_cast<size_t>(word.data() + word.size() - end));
  if (unit.empty()) return value;
  if (unit == "K" || unit == "k") return value << 10U;
  if (unit == "M" || unit == "m") return value << 20U;
  return std::nullopt;
}

/// What stands behind `key` and `=`, up to a comma or the end of the statement.
std::optional<uint64_t> setting(std::string_view statement, std::initializer_list<std::string_view> keys) {
  for (const auto key : keys) {
    const size_t at = text::upper(statement).find(text::upper(key));
    if (at == std::string_view::npos) continue;
    const size_t equals = statement.find('=', at);
    if (equals == std::string_view::npos) continue;
    const auto value = statement.substr(equals + 1);
    return number_of(value.substr(0, value.find_first_of(",\n")));
  }
  return std::nullopt;
}

std::string without_comments(std::string_view script) {
  std::string kept;
  while (!script.empty()) {
    const size_t begin = script.find("/*");
    kept += script.substr(0, begin);
    if (begin == std::string_view::npos) break;
    const size_t end = script.find("*/", begin);
    script = end == std::string_view::npos ? std::string_view() : script.substr(end + 2);
    kept += ' ';
  }
  return kept;
}

}  // namespace

std::vector<MemoryRegion> memory_regions(std::string_view script) {
  std::vector<MemoryRegion> regions;
  const std::string text = without_comments(script);
  const size_t begin = text.find("MEMORY");
  const size_t open = begin == std::string::npos ? begin : text.find('{', begin);
  if (open == std::string::npos) return regions;
  std::string_view body = std::string_view(text).substr(open + 1);
  body = body.substr(0, body.find('}'));
  for (size_t colon = body.find(':'); colon != std::string_view::npos; colon = body.find(':')) {
    const auto head = text::trim(body.substr(0, colon));
    body.remove_prefix(colon + 1);
    // The next region begins with the last line break before its colon.
    const size_t next = body.find(':');
    const size_t end = next == std::string_view::npos ? body.size() : body.rfind('\n', next);
    const auto statement = body.substr(0, end == std::string_view::npos ? body.size() : end);
    const auto origin = setting(statement, {"ORIGIN", "org"});
    const auto length = setting(statement, {"LENGTH", "len"});
    if (origin && length)
      regions.push_back({std::string(head.substr(0, head.find_first_of(" (\t"))), *origin, *length});
    body.remove_prefix(statement.size());
  }
  return regions;
}

}  // namespace fibula
