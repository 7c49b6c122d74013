#include "take/sources/alternatives.hpp"

#include "base/inside_path.hpp"
#include "base/text.hpp"
#include "take/choice_names.hpp"

#include <algorithm>
#include <filesystem>

namespace fibula {
namespace {

namespace fs = std::filesystem;

/// Of two that stand in for each other most names are the same.
bool are_alike(const std::set<std::string>& a, const std::set<std::string>& b) {
  const auto shared = std::count_if(a.begin(), a.end(), [&](const std::string& name) { return b.contains(name); });
  return static_cast<size_t>(shared) * 2 >= std::min(a.size(), b.size());
}

/// Files that share names, directly or through others.
std::vector<std::vector<std::string>> groups_of(const std::map<std::string, std::set<std::string>>& files) {
  std::map<std::string, std::vector<std::string>> definers;
  for (const auto& [file, names] : files) {
    for (const auto& name : names) definers[name].push_back(file);
  }
  std::map<std::string, std::string> leader;
  const auto find = [&](std::string file) {
    while (leader.at(file) != file) file = leader.at(file);
    return file;
  };
  for (const auto& [file, names] : files) leader[file] = file;
  for (const auto& [name, others] : definers) {
    for (const auto& other : others) leader[find(other)] = find(others.front());
  }
  std::map<std::string, std::vector<std::string>> groups;
  for (const auto& [file, names] : files) groups[find(file)].push_back(file);
  std::vector<std::vector<std::string>> several;
  for (auto& [first, group] : groups) {
    if (group.size() > 1) several.push_back(std::move(group));
  }
  return several;
}

/// What the files' names, or their folders', have in common at the beginning, and what tells them apart.
struct Naming {
  std::string common;
  std::vector<std::string> own;
};

bool is_small(char c) {
  return c >= 'a' && c <= 'z';
}

bool is_capital(char c) {
  return c >= 'A' && c <= 'Z';
}

Naming naming_of(const std::vector<std::string>& words) {
  std::string common = words.front();
  for (const auto& word : words) {
    const auto differ = std::mismatch(common.begin(), common.end(), word.begin(), word.end());
    common.erase(differ.first, common.end());
  }
  // Only whole parts: "bus_" of bus_spi and bus_sim, not "bus_s"; "BUS" of BUSspi and BUSsim.
  const auto begins_here = [&](const std::string& word) {
    return word.size() > common.size() && is_small(word[common.size()]) && is_capital(common.back());
  };
  const bool whole = common.size() > 1 && std::all_of(words.begin(), words.end(), begins_here);
  const size_t part = common.find_last_of("_-");
  if (!whole) common = part == std::string::npos ? "" : common.substr(0, part + 1);
  Naming naming;
  for (const auto& word : words) naming.own.push_back(word.substr(common.size()));
  naming.common = common.substr(0, common.find_last_not_of("_-") + 1);
  return naming;
}

bool all_plain_and_different(const std::vector<std::string>& names) {
  return std::set<std::string>(names.begin(), names.end()).size() == names.size() &&
         std::all_of(names.begin(), names.end(),
                     [](const std::string& name) { return is_file_name(name) && name != "default"; });
}

}  // namespace

std::vector<SourceChoice> alternatives_among(const std::map<std::string, std::set<std::string>>& files) {
  std::vector<SourceChoice> choices;
  for (const auto& group : groups_of(files)) {
    const bool pairs = std::all_of(group.begin(), group.end(), [&](const std::string& one) {
      return std::all_of(group.begin(), group.end(),
                         [&](const std::string& other) { return are_alike(files.at(one), files.at(other)); });
    });
    std::vector<std::string> stems, folders;
    for (const auto& file : group) {
      stems.push_back(fs::path(file).stem().string());
      folders.push_back(fs::path(file).parent_path().filename().string());
    }
    Naming naming = naming_of(stems);
    if (!all_plain_and_different(naming.own)) {
      naming = {fs::path(group.front()).parent_path().parent_path().filename().string(), folders};
    }
    if (!pairs || !all_plain_and_different(naming.own)) continue;
    const std::string purpose = purpose_of(naming.own);
    if (!purpose.empty()) naming.common = purpose;
    SourceChoice choice{.name = is_file_name(naming.common) ? naming.common : "implementation", .by_default = {}};
    const auto taken = [&](const SourceChoice& other) { return other.name == choice.name; };
    if (std::any_of(choices.begin(), choices.end(), taken)) choice.name += "-" + std::to_string(choices.size() + 1);
    const auto usual = std::find_if(naming.own.begin(), naming.own.end(), [&](const std::string& own) {
      return is_the_usual(own) || text::lower(own) == usual_for(purpose);
    });
    if (usual != naming.own.end()) choice.by_default = *usual;
    for (size_t i = 0; i < group.size(); ++i) {
      if (choice.by_default.empty() && !does_nothing(naming.own[i])) choice.by_default = naming.own[i];
      choice.alternatives.push_back({.name = naming.own[i], .set = {.compile = {group[i]}}});
    }
    if (choice.by_default.empty()) choice.by_default = naming.own.front();
    choices.push_back(std::move(choice));
  }
  return choices;
}

}  // namespace fibula
