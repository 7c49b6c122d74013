#include "answers/parts.hpp"

namespace fibula::answers {
namespace {

ordered_json to_json(const Variant& v) {
  std::vector<std::string> files = v.link;
  files.insert(files.end(), v.runtime.begin(), v.runtime.end());
  return {{"id", v.id},
          {"arch", to_string(v.target.arch)},
          {"configuration", v.configuration},
          {"linkage", to_string(v.linkage)},
          {"runtime", v.fact("c-runtime")},
          {"files", files}};
}

ordered_json to_json(const Card& card) {
  ordered_json required = ordered_json::array();
  for (const auto& requirement : card.requirements) {
    if (!requirement.library.empty()) required.push_back(requirement.library);
  }
  return {{"name", card.name},
          {"version", card.version},
          {"licence", card.licence},
          {"origin", card.origin.path},
          {"in_place", card.in_place},
          {"root", card.root.string()},
          {"source", card.source.compile},
          {"requires", required},
          {"variants", listed(card.variants, [](const Variant& variant) { return to_json(variant); })}};
}

ordered_json to_json(const Key& key) {
  return {{"name", key.name},
          {"id", key.id},
          {"public", key.public_half},
          {"trust", to_string(key.trust)},
          {"file", key.file.string()}};
}

std::string of_shelf(const ordered_json& members) {
  return document("fibula.shelf/1", members);
}

}  // namespace

std::string libraries(const Shelf& shelf, const std::vector<Card>& cards) {
  return of_shelf(
      {{"folder", shelf.shown()}, {"libraries", listed(cards, [](const Card& card) { return to_json(card); })}});
}

std::string dropped(const std::string& name, const std::string& version, const std::vector<ShelfUse>& uses) {
  const auto users = listed(uses, [](const ShelfUse& use) { return use.project.string(); });
  return of_shelf({{"dropped", {{"name", name}, {"version", version}, {"used_by", users}}}});
}

std::string published(const Card& card, const Published& what) {
  return of_shelf(
      {{"published", {{"name", card.name}, {"version", card.version}, {"entry", what.entry}, {"count", what.builds}}}});
}

std::string unused(const std::vector<UnusedVersion>& versions, bool dropped_them) {
  const auto list = listed(versions, [](const UnusedVersion& entry) {
    return ordered_json{{"name", entry.name}, {"version", entry.version}, {"why", entry.why}};
  });
  return of_shelf({{"unused", list}, {"dropped_them", dropped_them}});
}

std::string keys(const std::vector<Key>& keys) {
  return of_shelf({{"keys", listed(keys, [](const Key& key) { return to_json(key); })}});
}

std::string checked(const Shelf& shelf, const std::vector<CheckedVersion>& versions) {
  ordered_json changes = ordered_json::array();
  for (const auto& version : versions) {
    for (const auto& change : version.changes)
      changes.push_back(
          {{"name", version.name}, {"version", version.version}, {"file", change.file}, {"what", change.what}});
  }
  return of_shelf({{"folder", shelf.shown()}, {"checked", versions.size()}, {"changes", changes}});
}

std::string taken(const Taken& taken, bool written) {
  return document("fibula.take/1", {{"name", taken.card.name},
                                    {"version", taken.card.version},
                                    {"root", taken.card.root.string()},
                                    {"already_there", taken.already_there},
                                    {"written", written},
                                    {"card", card_text(taken.card)},
                                    {"remarks", taken.remarks}});
}

}  // namespace fibula::answers
