#include "take/completeness.hpp"

#include "base/text.hpp"
#include "headers/declarations.hpp"
#include "headers/expansions.hpp"
#include "headers/header_folders.hpp"
#include "os/files.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// Headers without a binary are a library of their own only when they leave nothing to one.
Result<void> check_headers_only(Source& source, const std::string& path) {
  // What one header declares another one may define.
  constexpr size_t enough_to_know = 8U << 20U;
  constexpr size_t few_of = 50;  // beside so many with bodies in the headers
  std::string all;
  for (const auto& header : source.headers) {
    if (is_assembler_header(header)) continue;
    all += read_text(source.root / header).value_or("") + "\n";
    if (all.size() < enough_to_know) continue;
    source.remarks.push_back(
        "whether its headers need a library file was not checked: there are more than 8 MB of them");
    return {};
  }
  auto left = functions_left_to_a_binary(all);
  // Names in capitals alone are macros.
  std::erase_if(left, [](const std::string& name) { return name == text::upper(name); });
  if (left.empty()) return {};
  Expansions bodies;
  note_expansions(all, bodies);
  if (left.size() * few_of <= bodies.size()) {
    source.remarks.push_back(
        fmt::format("nothing here defines {} that its headers declare ({}{}): that is left to others",
                    text::count(left.size(), "function"),
                    text::join({left.data(), std::min<size_t>(left.size(), 3)}, ", "), left.size() > 3 ? ", …" : ""));
    return {};
  }
  const size_t shown = std::min<size_t>(left.size(), 3);
  const std::string hint =
      source.archives.empty()
          ? "take the folder that holds the library file too; if these functions come from elsewhere, say "
            "--headers-only"
          : fmt::format("unpack {}, which is an archive itself and may hold it, and take the folder",
                        source.archives.front());
  return fail({.code = Code::refused,
               .what = fmt::format("has headers and no library: they declare {} that no binary here defines ({}{})",
                                   text::count(left.size(), "function"), text::join({left.data(), shown}, ", "),
                                   left.size() > shown ? ", …" : ""),
               .file = path,
               .hint = hint});
}

}  // namespace

Result<void> check_complete(Source& source, const SourceCode& code, const std::string& path,
                            const TakeRequest& request) {
  if (source.headers.empty() && source.binaries.empty() && code.empty() && !source.opened_only.empty()) {
    return fail({.code = Code::refused,
                 .what = fmt::format("holds no header, and no library but {}, which has no name that a linker takes",
                                     source.opened_only.front()),
                 .file = path,
                 .hint = "take the download with the headers and the library that programs link"});
  }
  if (source.headers.empty() && source.binaries.empty() && code.empty() && !source.programs.empty()) {
    return fail(
        {.code = Code::refused,
         .what = fmt::format("holds no header and no library, but {} {}",
                             source.programs.size() == 1 ? "the program" : "programs:", and_more(source.programs)),
         .file = path,
         .hint = "take the download with the headers and the library that programs link"});
  }
  if (source.headers.empty() && source.binaries.empty() && code.empty()) {
    return fail({.code = Code::refused,
                 .what = "holds no header and no library",
                 .file = path,
                 .hint = "name the folder that was unpacked; for one library of a prefix, name it with --library"});
  }
  if (!source.binaries.empty() || !code.empty() || request.headers_only || request.add) return {};
  return check_headers_only(source, path);
}

}  // namespace fibula
