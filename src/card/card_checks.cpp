#include "card/card_checks.hpp"

#include "base/inside_path.hpp"
#include "base/quoting.hpp"

#include <fmt/format.h>

namespace fibula {

void check_paths(toml::Reader& reader, std::string_view key) {
  for (const auto& path : reader.texts(key)) {
    if (path == "." || InsidePath::of(path)) continue;  // the library's own folder holds headers too
    reader.report(Code::malformed, reader.line_of(key),
                  fmt::format("path {} {}", toml::quote(path), InsidePath::why_not(path)),
                  "write it relative to the library's files, with /");
  }
}

void check_words(toml::Reader& reader, std::string_view key) {
  for (const auto& word : reader.texts(key)) {
    if (!word.empty() && fits_on_a_line(word)) continue;
    reader.report(Code::malformed, reader.line_of(key), fmt::format("{} is no word of a command", toml::quote(word)),
                  "write it on one line");
  }
}

void check_name(toml::Reader& reader, std::string_view key, const std::string& name,
                bool (*is_right)(std::string_view)) {
  if (is_right(name)) return;
  reader.report(Code::malformed, reader.line_of(key), fmt::format("{} cannot be {}", key, toml::quote(name)),
                "use letters, digits, . + - _");
}

}  // namespace fibula
