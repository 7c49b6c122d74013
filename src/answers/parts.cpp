#include "answers/parts.hpp"

namespace fibula::answers {
namespace {

ordered_json to_json(const ProjectChange& c) {
  using Kind = ProjectChange::Kind;
  switch (c.kind) {
    case Kind::attach: return {{"kind", "attach"}, {"library", c.name}};
    case Kind::line:
      return {{"kind", "line"}, {"file", c.file.string()}, {"line", c.line}, {"before", c.before}, {"after", c.after}};
    case Kind::add_to_library: return {{"kind", "add"}, {"library", c.name}, {"key", c.key}, {"value", c.value}};
    case Kind::set:
    case Kind::add:
      return {{"kind", c.kind == Kind::set ? "set" : "add"}, {"output", c.name}, {"key", c.key}, {"value", c.value}};
  }
  return {};
}

ordered_json to_json(const Finding& f) {
  ordered_json object{{"cause", f.cause},     {"stage", f.stage},   {"subject", f.subject}, {"culprits", f.culprits},
                      {"because", f.because}, {"remedy", f.remedy}, {"edit", f.edit},       {"certainty", f.certainty}};
  if (!f.command.empty()) object["command"] = f.command;
  if (!f.command.empty() || f.tried) object["tried"] = f.tried;
  if (!f.changes.empty()) object["changes"] = listed(f.changes, [](const ProjectChange& c) { return to_json(c); });
  if (!f.place.file.empty()) object["place"] = {{"file", f.place.file}, {"line", f.place.line}};
  return object;
}

}  // namespace

std::string document(std::string_view schema, const ordered_json& members) {
  ordered_json whole{{"schema", schema}};
  whole.update(members);
  return json_text(whole, 2);
}

ordered_json error_json(const Error& error) {
  ordered_json object{{"code", to_string(error.code)}, {"what", error.what}};
  if (!error.file.empty()) object["file"] = error.file;
  if (error.line != 0) object["line"] = error.line;
  if (!error.place.empty()) object["place"] = error.place;
  if (!error.hint.empty()) object["hint"] = error.hint;
  return object;
}

ordered_json findings_json(const std::vector<Finding>& findings) {
  return listed(findings, [](const Finding& finding) { return to_json(finding); });
}

std::string error(const Error& error) {
  return document("fibula.error/1", error_json(error));
}

std::string explained(const std::vector<Finding>& findings) {
  return document("fibula.explain/1", {{"findings", findings_json(findings)}});
}

std::string foreseen(const std::vector<Finding>& findings) {
  return document("fibula.check/1", {{"findings", findings_json(findings)}});
}

std::string ids(const std::vector<Id>& ids) {
  return document("fibula.help/1", {{"ids", listed(ids, [](const Id& id) {
                                       return ordered_json{{"id", id.name},           {"stage", id.stage},
                                                           {"rule", id.rule},         {"means", id.means},
                                                           {"evidence", id.evidence}, {"remedy", id.remedy}};
                                     })}});
}

}  // namespace fibula::answers
