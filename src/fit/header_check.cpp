#include "fit/header_check.hpp"

#include "headers/header_folders.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// A library with more headers than this is read by those at the top of its include directories.
constexpr size_t most_headers = 60;

/// A header's name behind #include for the chosen variant's users; empty where it belongs to other variants, which may
/// lie below a directory of this one.
std::string name_for_users(const Choice& choice, const std::string& header) {
  const auto name = included_as(header, choice.card->include_directories_for(choice.variant));
  return name == included_as(header, choice.card->include_directories_for()) ? name : std::string();
}

/// The headers that users include, as they write them behind #include.
std::vector<std::string> headers_to_read(const Choice& choice) {
  std::vector<std::string> top, all;
  for (const auto& header : choice.card->public_headers) {
    const auto name = name_for_users(choice, header);
    if (name.empty() || is_assembler_header(name)) continue;
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
  library.names = headers_to_read(choice);
  for (const auto& header : card.public_headers) {
    if (!name_for_users(choice, header).empty()) library.files.push_back(card.root / header);
  }
  if (choice.variant) {
    for (const auto& file : choice.variant->link) library.binaries.push_back(card.root / file);
    library.target = choice.variant->target;
  }
  const auto directories = card.include_directories_for();
  library.included_as_cxx =
      std::any_of(card.public_headers.begin(), card.public_headers.end(),
                  [&](const auto& header) { return included.contains(included_as(header, directories)); });
  return library;
}

}  // namespace fibula
