#include "binary/foreign.hpp"

#include "base/text.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

constexpr std::string_view download_again =
    "a server answered with a page instead of the file: download it again, from the link to the file itself";
constexpr std::string_view unpack_first = "unpack it, and name the folder";

struct Row {
  std::string_view name;
  bool (*recognises)(Bytes);
  std::string_view remedy;
};

template <size_t N>
bool begins(Bytes bytes, const char (&text)[N]) {
  return bytes.starts_with(std::string_view(text, N - 1));
}

bool is_text(Bytes bytes) {
  const auto head = bytes.text().substr(0, 4096);
  return std::all_of(head.begin(), head.end(), [](char c) {
    const auto byte = static_cast<unsigned char>(c);
    return byte >= 0x20 || byte == '\n' || byte == '\r' || byte == '\t' || byte == '\f';
  });
}

bool is_web_page(Bytes bytes) {
  const auto head = text::lower(text::trim(bytes.text().substr(0, 1024)));
  return head.starts_with("<!doctype html") || head.starts_with("<html") || head.find("<html") != std::string::npos;
}

bool is_source(Bytes bytes) {
  if (!is_text(bytes)) return false;
  const auto head = bytes.text().substr(0, 8192);
  return head.find("#include") != std::string_view::npos || head.find("#define") != std::string_view::npos ||
         head.find("#pragma") != std::string_view::npos;
}

constexpr Row table[] = {
    {"an empty file", [](Bytes b) { return b.empty(); },
     "it was cut off while it was copied or downloaded: fetch it again"},
    {"a web page", is_web_page, download_again},
    {"a pointer of a large-file store", [](Bytes b) { return begins(b, "version https://git-lfs"); },
     "fetch the file itself from the store that the pointer names"},
    {"a zip archive", [](Bytes b) { return begins(b, "PK\3\4") || begins(b, "PK\5\6"); }, unpack_first},
    {"a gzip archive", [](Bytes b) { return begins(b, "\x1f\x8b"); }, unpack_first},
    {"an xz archive",
     [](Bytes b) {
       return begins(b,
                     "\xfd"
                     "7zXZ");
     },
     unpack_first},
    {"a bzip2 archive", [](Bytes b) { return begins(b, "BZh"); }, unpack_first},
    {"a zstd archive", [](Bytes b) { return begins(b, "\x28\xb5\x2f\xfd"); }, unpack_first},
    {"a 7z archive", [](Bytes b) { return begins(b, "7z\xbc\xaf\x27\x1c"); }, unpack_first},
    {"a tar archive", [](Bytes b) { return b.size() > 262 && b.text().substr(257, 5) == "ustar"; }, unpack_first},
    {"a script", [](Bytes b) { return begins(b, "#!"); }, "name the library that it installs or builds"},
    {"source text", is_source, "source is compiled, not linked: name the library that was built from it"},
    {"a text file", [](Bytes b) { return is_text(b); }, "name the library itself"},
};

}  // namespace

Error name_foreign(Bytes bytes) {
  for (const auto& row : table) {
    if (!row.recognises(bytes)) continue;
    return {.code = Code::not_a_library,
            .what = fmt::format("is {}, not a library", row.name),
            .hint = std::string(row.remedy)};
  }
  std::string head;
  for (const char c : bytes.text().substr(0, 8)) head += fmt::format(" {:02x}", static_cast<unsigned char>(c));
  return {.code = Code::not_a_library,
          .what = fmt::format("is of no known kind; its first bytes are{}", head),
          .hint = "object files, archives, shared libraries and linker scripts can be read"};
}

}  // namespace fibula
