#include "fit/header_check.hpp"

#include "headers/header_folders.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// A library with more headers than this is read by those at the top of its include directories.
constexpr size_t most_headers = 60;

/// A public header of the chosen variant, and its name behind #include.
struct Named {
  std::string header, name;
};

/// The headers that the chosen variant's users include. One that belongs to other variants is none, though it may lie
/// below a directory of this one.
std::vector<Named> headers_for_users(const Choice& choice, const std::vector<std::string>& all_directories) {
  const auto directories = choice.card->include_directories_for(choice.variant);
  std::vector<Named> named;
  for (const auto& header : choice.card->public_headers) {
    auto name = included_as(header, directories);
    if (!name.empty() && name == included_as(header, all_directories)) named.push_back({header, std::move(name)});
  }
  return named;
}

/// As they are written behind #include.
std::vector<std::string> headers_to_read(const std::vector<Named>& headers) {
  std::vector<std::string> top, all;
  for (const auto& [header, name] : headers) {
    if (is_assembler_header(name)) continue;
    all.push_back(name);
    if (name.find('/') == std::string::npos) top.push_back(name);
  }
  auto& chosen = all.size() > most_headers ? top : all;
  if (chosen.size() > most_headers) chosen.resize(most_headers);
  return std::move(chosen);
}

}  // namespace

LibraryHeaders headers_of(const Choice& choice, const std::set<std::string, std::less<>>& included) {
  LibraryHeaders library;
  if (!choice.card) return library;
  const Card& card = *choice.card;
  library.identity =
      fmt::format("{}\n{}\n{}", card.digest, card.root.string(), choice.variant ? choice.variant->id : "");
  library.root = card.root;
  const auto directories = card.include_directories_for();
  const auto headers = headers_for_users(choice, directories);
  library.names = headers_to_read(headers);
  for (const auto& one : headers) library.files.push_back(card.root / one.header);
  if (choice.variant) {
    for (const auto& file : choice.variant->link) library.binaries.push_back(card.root / file);
    library.target = choice.variant->target;
  }
  library.included_as_cxx =
      std::any_of(card.public_headers.begin(), card.public_headers.end(),
                  [&](const auto& header) { return included.contains(included_as(header, directories)); });
  return library;
}

}  // namespace fibula
