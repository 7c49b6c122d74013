#include "take/drafts.hpp"

#include "base/text.hpp"
#include "take/choice_names.hpp"
#include "take/offered_names.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <filesystem>

namespace fibula {
namespace {

namespace fs = std::filesystem;

/// Whether two drafts would be the same to everybody but a person.
bool look_alike(const Draft& one, const Draft& other) {
  const Variant& a = one.variant;
  const Variant& b = other.variant;
  const auto same = [&](std::string_view id) {
    const std::string one_value = decisive_value(a, id), other_value = decisive_value(b, id);
    return one_value == other_value || is_open_value(one_value) || is_open_value(other_value);
  };
  return a.target == b.target && a.linkage == b.linkage && a.configuration == b.configuration &&
         std::all_of(std::begin(decisive_facts), std::end(decisive_facts), same);
}

/// What is left of names where their common start and end are cut off, at signs between words: `gpu` of `tern_gpu`
/// beside `tern`.
std::vector<std::string> without_common(const std::vector<std::string>& names) {
  const std::string& first = names.front();
  size_t start = first.size();
  for (const auto& name : names) {
    const auto differ = std::mismatch(first.begin(), first.end(), name.begin(), name.end());
    start = std::min(start, static_cast<size_t>(differ.first - first.begin()));
  }
  const auto is_sign = [](char c) { return c == '_' || !text::is_identifier_character(c); };
  const auto is_between_words = [&](const std::string& name) {
    return start == name.size() || is_sign(name[start]) || (start > 0 && is_sign(name[start - 1]));
  };
  while (start > 0 && !std::all_of(names.begin(), names.end(), is_between_words)) --start;
  std::vector<std::string> rest;
  for (const auto& name : names) {
    std::string left = name.substr(start);
    while (!left.empty() && is_sign(left.front())) left.erase(0, 1);
    rest.push_back(left.empty() ? "plain" : text::lower(left));
  }
  return rest;
}

/// The first library that none of the others has.
const Unit& own_unit(const Draft& draft, const std::vector<Draft*>& drafts) {
  const auto is_own = [&](const Unit* unit) {
    return std::none_of(drafts.begin(), drafts.end(), [&](const Draft* other) {
      return other != &draft && std::find(other->units.begin(), other->units.end(), unit) != other->units.end();
    });
  };
  const auto found = std::find_if(draft.units.begin(), draft.units.end(), is_own);
  return found == draft.units.end() ? *draft.units.front() : **found;
}

/// A name for each alternative: from the libraries' own names where these differ, else from their folders.
std::vector<std::string> alternative_names(const std::vector<Draft*>& drafts) {
  std::vector<std::string> stems, folders;
  for (const auto* draft : drafts) {
    const Unit& own = own_unit(*draft, drafts);
    stems.push_back(own.stem());
    folders.push_back(fs::path(own.first().file).parent_path().generic_string());
  }
  std::vector<std::string> both;
  for (size_t i = 0; i < stems.size(); ++i) both.push_back(folders[i] + "/" + stems[i]);
  for (const auto& names : {stems, folders, both}) {
    auto rest = without_common(names);
    for (auto& name : rest) std::replace(name.begin(), name.end(), '/', '-');
    if (std::set<std::string>(rest.begin(), rest.end()).size() == rest.size()) return rest;
  }
  std::vector<std::string> numbers;
  for (size_t i = 0; i < drafts.size(); ++i) numbers.push_back(fmt::format("{}", i + 1));
  return numbers;
}

std::string plain_id(const Variant& variant) {
  std::string id = fmt::format("{}-{}-{}", to_string(variant.target.arch), to_string(variant.target.format),
                               to_string(variant.linkage));
  return variant.configuration == "unknown" ? id : id + "-" + variant.configuration;
}

/// A fact that tells this draft from the others of the same name.
std::string difference(const Draft& draft, const std::vector<const Draft*>& others) {
  for (const auto id : decisive_facts) {
    const std::string value = decisive_value(draft.variant, id);
    const auto same = [&](const Draft* other) { return decisive_value(other->variant, id) == value; };
    if (value.empty() || std::any_of(others.begin(), others.end(), same)) continue;
    // "level 2" alone would say nothing in an id.
    const size_t space = value.rfind(' ');
    return space == std::string::npos ? value : fmt::format("{}-{}", id, value.substr(space + 1));
  }
  for (const auto& [choice, alternative] : draft.variant.choices) return alternative;
  const fs::path folder = fs::path(draft.units.front()->first().file).parent_path();
  return folder.filename().string();
}

}  // namespace

std::string decisive_value(const FactValue& value) {
  if (const auto* name = std::get_if<std::string>(&value)) return *name;
  const auto* system = std::get_if<NamedVersion>(&value);
  return system == nullptr ? std::string() : system->name;
}

std::string decisive_value(const Variant& variant, std::string_view id) {
  const auto found = variant.facts.find(id);
  return found == variant.facts.end() ? std::string() : decisive_value(found->second);
}

bool is_open_value(const std::string& value) {
  return value.empty() || value == "none" || value == "both" || value == "any" || value == "unknown";
}

void add_needs(const Facts& facts, Variant& variant) {
  for (const auto& need : facts.needs.value.value_or(std::vector<Need>())) {
    if (std::find(variant.needs.begin(), variant.needs.end(), need.name) == variant.needs.end())
      variant.needs.push_back(need.name);
  }
}

void make_choices(const Source& source, std::vector<Draft>& drafts) {
  if (source.from_prefix) return;
  const auto plainest = [](const Draft& a, const Draft& b) {
    return a.units.front()->stem().size() < b.units.front()->stem().size();
  };
  std::stable_sort(drafts.begin(), drafts.end(), plainest);
  std::set<const Draft*> done;
  for (auto& draft : drafts) {
    std::vector<Draft*> alike;
    for (auto& other : drafts) {
      if (!done.contains(&other) && look_alike(draft, other)) alike.push_back(&other);
    }
    if (done.contains(&draft) || alike.size() < 2) continue;
    const auto names = alternative_names(alike);
    const std::string purpose = purpose_of(names);
    for (size_t i = 0; i < alike.size(); ++i) {
      alike[i]->variant.choices[purpose.empty() ? "build" : purpose] = names[i];
      done.insert(alike[i]);
    }
  }
}

void give_ids(std::vector<Draft>& drafts) {
  std::set<std::string> taken;
  for (auto& draft : drafts) {
    std::vector<const Draft*> others;
    for (const auto& other : drafts) {
      if (&other != &draft && plain_id(other.variant) == plain_id(draft.variant)) others.push_back(&other);
    }
    std::string id = plain_id(draft.variant);
    if (const auto more = others.empty() ? "" : difference(draft, others); !more.empty()) id += "-" + more;
    draft.variant.id = id;
    for (int number = 2; !taken.insert(draft.variant.id).second; ++number)
      draft.variant.id = fmt::format("{}-{}", id, number);
  }
}

}  // namespace fibula
