#include "answers/parts.hpp"

namespace fibula::answers {
namespace {

ordered_json to_json(const ProjectUse& use) {
  ordered_json place{{"file", use.file.string()}};
  if (use.line != 0) place["line"] = use.line;
  if (!use.name.empty()) place["name"] = use.name;
  return place;
}

ordered_json to_json(const Difference& difference) {
  ordered_json one{{"kind", to_string(difference.kind)}, {"name", difference.name}};
  for (const auto& [key, value] : {std::pair("file", &difference.file), std::pair("before", &difference.before),
                                   std::pair("after", &difference.after)}) {
    if (!value->empty()) one[key] = *value;
  }
  one["effect"] = to_string(difference.effect);
  one["why"] = difference.why;
  if (!difference.variants.empty()) one["variants"] = difference.variants;
  if (!difference.used_by.empty())
    one["used_by"] = listed(difference.used_by, [](const ProjectUse& use) { return to_json(use); });
  return one;
}

ordered_json to_json(const Hit& hit) {
  ordered_json one{{"path", hit.path.string()}};
  if (!hit.member.empty()) one["member"] = hit.member;
  if (!hit.library.empty()) one["library"] = hit.library;
  one["role"] = to_string(hit.role);
  one["name"] = hit.name;
  return one;
}

}  // namespace

std::string compared(const Comparison& comparison) {
  ordered_json json{{"first", comparison.first}, {"second", comparison.second}};
  for (const auto how : {Alteration::removed, Alteration::added, Alteration::changed}) {
    ordered_json list = ordered_json::array();
    for (const auto& difference : comparison.differences) {
      if (difference.how == how) list.push_back(to_json(difference));
    }
    json[std::string(to_string(how))] = std::move(list);
  }
  json["not_compared"] = comparison.not_compared;
  if (!comparison.of_folders) {
    json["stands_in"] = comparison.everyone.yes ? "yes" : "no";
    json["because"] = comparison.everyone.because;
    json["doubts"] = comparison.everyone.doubts;
    if (comparison.for_project)
      json["in_this_project"] = {{"stands_in", comparison.project.yes ? "yes" : "no"},
                                 {"because", comparison.project.because},
                                 {"doubts", comparison.project.doubts}};
  }
  return document("fibula.compare/1", json);
}

std::string parcelled(const Parcel& parcel) {
  const auto findings = listed(parcel.findings, [](const ParcelFinding& finding) {
    return ordered_json{{"subject", finding.subject},
                        {"what", finding.what},
                        {"remedy", finding.remedy},
                        {"stands_against", finding.stands_against}};
  });
  ordered_json json{{"name", parcel.name},          {"version", parcel.version},    {"variants", parcel.variants},
                    {"file", parcel.file.string()}, {"written", parcel.written},    {"findings", findings},
                    {"tried", parcel.tried},        {"not_tried", parcel.not_tried}};
  if (parcel.written) {
    json["size"] = parcel.size;
    json["sha256"] = parcel.sha256;
    if (!parcel.signed_with.empty()) json["signed_with"] = parcel.signed_with;
  }
  return document("fibula.parcel/1", json);
}

std::string located(const std::vector<Hit>& hits) {
  return document("fibula.locate/1", {{"hits", listed(hits, [](const Hit& hit) { return to_json(hit); })}});
}

std::string tried(const std::vector<Trial>& trials) {
  return document("fibula.trial/1", {{"trials", listed(trials, [](const Trial& trial) {
                                        return ordered_json{{"library", trial.library},
                                                            {"lane", trial.lane},
                                                            {"step", to_string(trial.step)},
                                                            {"outcome", to_string(trial.outcome)},
                                                            {"detail", trial.detail}};
                                      })}});
}

}  // namespace fibula::answers
