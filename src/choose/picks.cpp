#include "choose/picks.hpp"

#include "base/text.hpp"
#include "base/toml.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

using Offered = std::map<std::string, std::vector<std::string>>;

bool has(const std::vector<std::string>& all, const std::string& one) {
  return std::find(all.begin(), all.end(), one) != all.end();
}

/// "the choices bus (spi, twi), clock (board, own)"
std::string told(const Offered& offered) {
  std::vector<std::string> each;
  for (const auto& [name, alternatives] : offered)
    each.push_back(fmt::format("{} ({})", name, text::join(alternatives, ", ")));
  return offered.empty() ? "nothing to choose" : "the choices " + text::join(each, ", ");
}

/// What is picked may be an alternative of a choice by another name.
std::string remedy_for(const Offered& offered, const std::string& picked) {
  if (offered.empty()) return "take choices out of the library's table";
  const auto meant =
      std::find_if(offered.begin(), offered.end(), [&](const auto& one) { return has(one.second, picked); });
  if (meant == offered.end()) return "write one of these";
  return fmt::format("write choices = {{ {} }}", written_picks({{meant->first, picked}}));
}

}  // namespace

std::map<std::string, std::vector<std::string>> choices_of(const Card& card) {
  Offered all;
  for (const auto& choice : card.source.choices) {
    for (const auto& one : choice.alternatives) all[choice.name].push_back(one.name);
  }
  for (const auto& variant : card.variants) {
    for (const auto& [name, alternative] : variant.choices) {
      if (auto& known = all[name]; !has(known, alternative)) known.push_back(alternative);
    }
  }
  return all;
}

std::string default_pick(const Card& card, const std::string& name) {
  for (const auto& choice : card.source.choices) {
    if (choice.name == name) return choice.by_default;
  }
  return {};
}

std::string written_picks(const std::map<std::string, std::string>& picks) {
  std::vector<std::string> each;
  for (const auto& [name, pick] : picks) each.push_back(fmt::format("{} = {}", toml::key(name), toml::quote(pick)));
  return text::join(each, ", ");
}

bool is_picked(const Variant& variant, const LibraryUse& use) {
  return std::all_of(variant.choices.begin(), variant.choices.end(), [&](const auto& choice) {
    const auto picked = use.choices.find(choice.first);
    return picked == use.choices.end() || picked->second == choice.second;
  });
}

std::vector<WrongPick> wrong_picks(const Card& card, const LibraryUse& use, const Project& project) {
  const Offered offered = choices_of(card);
  std::vector<WrongPick> wrong;
  for (const auto& [name, picked] : use.choices) {
    const auto found = offered.find(name);
    if (found != offered.end() && has(found->second, picked)) continue;
    WrongPick& one = wrong.emplace_back();
    one.evidence.push_back(
        fmt::format("{}:{} chooses {} = {}", project.file().string(), use.line, name, toml::quote(picked)));
    if (found == offered.end()) {
      one.evidence.push_back(fmt::format("{} {} has {}", card.name, card.version, told(offered)));
      one.remedy = remedy_for(offered, picked);
      continue;
    }
    one.evidence.push_back(
        fmt::format("{} of {} {} can be {}", name, card.name, card.version, text::join(found->second, ", ")));
    const std::string otherwise = default_pick(card, name);
    one.remedy = "write one of these";
    if (!otherwise.empty()) one.remedy += "; left out it is " + otherwise;
  }
  return wrong;
}

}  // namespace fibula
