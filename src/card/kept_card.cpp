#include "card/kept_card.hpp"

#include "os/files.hpp"
#include "os/kept.hpp"
#include "os/stamp.hpp"

#include <nlohmann/json.hpp>

namespace fibula {
namespace {

using nlohmann::json;

json to_json(const std::vector<Need>& needs) {
  json list = json::array();
  for (const auto& need : needs) list.push_back({need.name, need.versions, static_cast<int>(need.kind)});
  return list;
}

struct Plain {
  template <class Value>
  json operator()(const Value& value) const {
    return value;
  }
  json operator()(const NamedVersion& value) const { return {value.name, value.version}; }
  json operator()(const LinkTimeCode& code) const { return {code.maker, code.version, code.machine_code}; }
  json operator()(const PicReport& pic) const {
    return {static_cast<int>(pic.level), pic.relocation, pic.section, pic.offset, pic.symbol};
  }
  json operator()(const std::vector<Need>& needs) const { return to_json(needs); }
};

FactValue value_from(FactForm form, const json& j) {
  switch (form) {
    case FactForm::name: return j.get<std::string>();
    case FactForm::number: return j.get<int64_t>();
    case FactForm::flag: return j.get<bool>();
    case FactForm::names: return j.get<std::vector<std::string>>();
    case FactForm::named_version: return NamedVersion{j.at(0), j.at(1)};
    case FactForm::link_time_code: return LinkTimeCode{j.at(0), j.at(1), j.at(2)};
    case FactForm::pic: return PicReport{static_cast<Pic>(j.at(0).get<int>()), j.at(1), j.at(2), j.at(3), j.at(4)};
    case FactForm::needs: break;
  }
  std::vector<Need> needs;
  for (const auto& need : j) needs.push_back({need.at(0), need.at(1), static_cast<NeedKind>(need.at(2).get<int>())});
  return needs;
}

json to_json(const Variant& v) {
  json facts = json::array(), learnt = json::array();
  for (const auto& [id, value] : v.facts)
    facts.push_back({id, static_cast<int>(value.index()), std::visit(Plain(), value)});
  for (const auto& [key, how] : v.learnt) learnt.push_back({key, static_cast<int>(how.certainty), how.file, how.from});
  return {v.id,
          static_cast<int>(v.target.format),
          static_cast<int>(v.target.arch),
          v.target.bits,
          static_cast<int>(v.target.endian),
          static_cast<int>(v.linkage),
          v.configuration,
          {v.link, v.runtime, v.needs, v.plugins, v.include_directories, v.debug, v.definitions, v.system_inputs},
          std::move(facts),
          std::move(learnt)};
}

Variant variant_from(const json& j) {
  Variant v;
  v.id = j.at(0);
  v.target = {static_cast<Format>(j.at(1).get<int>()), static_cast<Arch>(j.at(2).get<int>()), j.at(3),
              static_cast<Endian>(j.at(4).get<int>())};
  v.linkage = static_cast<Linkage>(j.at(5).get<int>());
  v.configuration = j.at(6);
  size_t at = 0;
  for (auto* list :
       {&v.link, &v.runtime, &v.needs, &v.plugins, &v.include_directories, &v.debug, &v.definitions, &v.system_inputs})
    *list = j.at(7).at(at++).get<std::vector<std::string>>();
  for (const auto& fact : j.at(8))
    v.facts.emplace(fact.at(0), value_from(static_cast<FactForm>(fact.at(1).get<int>()), fact.at(2)));
  for (const auto& how : j.at(9))
    v.learnt.emplace(how.at(0), Learnt{static_cast<Certainty>(how.at(1).get<int>()), how.at(2), how.at(3)});
  return v;
}

json to_json(const Card& card) {
  json variants = json::array(), requirements = json::array();
  for (const auto& variant : card.variants) variants.push_back(to_json(variant));
  for (const auto& r : card.requirements)
    requirements.push_back({r.library, r.version, r.header, r.because, r.shared_include});
  const auto& [kind, path, sha256, commit] = card.origin;
  return {{card.name, card.version, card.licence, card.digest, kind, path, sha256, commit},
          card.in_place,
          {card.include_directories, card.public_headers, card.source.compile, card.source.include_directories,
           card.source.definitions, card.files.licences, card.files.data, card.files.samples, card.files.documents},
          std::move(variants),
          std::move(requirements)};
}

Card card_from(const json& j) {
  Card card;
  size_t at = 0;
  for (auto* text : {&card.name, &card.version, &card.licence, &card.digest, &card.origin.kind, &card.origin.path,
                     &card.origin.sha256, &card.origin.commit})
    *text = j.at(0).at(at++).get<std::string>();
  card.in_place = j.at(1);
  at = 0;
  for (auto* list :
       {&card.include_directories, &card.public_headers, &card.source.compile, &card.source.include_directories,
        &card.source.definitions, &card.files.licences, &card.files.data, &card.files.samples, &card.files.documents})
    *list = j.at(2).at(at++).get<std::vector<std::string>>();
  for (const auto& variant : j.at(3)) card.variants.push_back(variant_from(variant));
  for (const auto& r : j.at(4)) card.requirements.push_back({r.at(0), r.at(1), r.at(2), r.at(3), r.at(4)});
  return card;
}

/// Where its files are follows from where the card is.
void place(Card& card, const fs::path& folder) {
  card.entry = absolute_path(folder);
  card.root = card.in_place ? fs::path(card.origin.path) : absolute_path(folder / "files");
}

std::optional<Card> kept_card(const Cache& cache, const std::string& key) {
  const auto kept = kept_answer(cache, kept_kind::cards, key);
  if (!kept) return std::nullopt;
  try {
    return card_from(json::from_cbor(*kept, true, false));
  } catch (const json::exception&) {
    return std::nullopt;  // of another form: as good as none
  }
}

}  // namespace

Result<Card> read_or_kept_card(const fs::path& folder, const Cache& cache) {
  const fs::path file = absolute_path(folder) / "card.toml";
  const Stamp before = stamp_of(file);
  const std::string key = file.string() + "\n" + to_text(before);
  if (auto card = before.is_file() ? kept_card(cache, key) : std::nullopt) {
    place(*card, folder);
    return std::move(*card);
  }
  auto card = read_card(folder);
  if (!card) return card;
  std::string bytes;
  json::to_cbor(to_json(*card), bytes);
  keep_answer(cache, kept_kind::cards, key, bytes);
  return card;
}

}  // namespace fibula
