#include "fit/header_order.hpp"

#include "os/files.hpp"

#include <fmt/format.h>
#include <unordered_map>

namespace fibula {
namespace {

struct Owner {
  std::string library;
  fs::path file;
};

Misfit hidden(const std::string& name, const Owner& first, const Owner& second) {
  return {
      .rule = "wrong-header-found-first",
      .verdict = Verdict::caution,
      .subject = name,
      .library = second.library,
      .evidence = {fmt::format("#include <{}> finds {} of {}", name, first.file.string(), first.library),
                   fmt::format("{} of {} is hidden by it, and differs", second.file.string(), second.library)},
      .remedy = fmt::format("attach {} before {} in fibula.toml, if its header is the one that is meant; directories "
                            "stand in that order",
                            second.library, first.library)};
}

}  // namespace

std::vector<Misfit> hidden_headers(const std::vector<IncludeDirectory>& directories,
                                   const std::map<std::string, Choice>& choices, FileAnswers& files) {
  std::vector<Misfit> said;
  std::unordered_map<std::string, Owner> found;
  std::set<std::pair<std::string, std::string>> told;  // once for each two libraries
  for (const auto& directory : directories) {
    const auto choice = choices.find(directory.library);
    if (choice == choices.end() || choice->second.card == nullptr) continue;
    const Card& card = *choice->second.card;
    const std::string below = shown_from(card.root, directory.path);
    const std::string prefix = below == "." || below.empty() ? "" : below + "/";
    for (const auto& header : card.public_headers) {
      if (!header.starts_with(prefix)) continue;
      const Owner owner{card.name, card.root / header};
      const auto [first, fresh] = found.try_emplace(header.substr(prefix.size()), owner);
      if (fresh || first->second.library == card.name || files.have_same_content(first->second.file, owner.file))
        continue;
      if (told.emplace(first->second.library, card.name).second)
        said.push_back(hidden(first->first, first->second, owner));
    }
  }
  return said;
}

}  // namespace fibula
