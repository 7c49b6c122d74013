/// The Static Analysis Results Interchange Format, for editors and code hosts (SARIF 2.1.0, OASIS Standard, 2020).
#include "base/json_text.hpp"
#include "base/text.hpp"
#include "emit/told.hpp"
#include "os/files.hpp"

#include <fibula/emit.hpp>
#include <fibula/ids.hpp>
#include <fibula/version.hpp>

#include <fmt/format.h>
#include <nlohmann/json.hpp>
#include <set>

namespace fibula::emit {
namespace {

using nlohmann::ordered_json;

/// A path as a URI reference (RFC 3986, 2.1): everything but letters, digits and a few signs by its number.
std::string as_uri(const std::string& path) {
  std::string uri;
  for (const char c : path) {
    const bool plain = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') ||
                       std::string_view("/-._~+").find(c) != std::string_view::npos;
    uri += plain ? std::string(1, c) : fmt::format("%{:02X}", static_cast<unsigned char>(c));
  }
  return uri;
}

ordered_json location(const Place& place, const Project& project) {
  ordered_json artifact;
  if (is_inside(project.root(), place.file)) {
    artifact = {{"uri", as_uri(shown_from(project.root(), place.file))}, {"uriBaseId", "PROJECT"}};
  } else {
    artifact = {{"uri", "file://" + as_uri(place.file)}};
  }
  ordered_json physical{{"artifactLocation", std::move(artifact)}};
  if (place.line > 0) physical["region"] = {{"startLine", place.line}};
  return {{"physicalLocation", std::move(physical)}};
}

/// "tidecalc in lanes a, b: …; … Remedy: …".
std::string message(const Told& told) {
  const Misfit& misfit = told.misfit;
  std::string text =
      fmt::format("{} in lane{} {}: {}", misfit.library.empty() ? misfit.subject : misfit.library,
                  told.lanes.size() > 1 ? "s" : "", text::join(told.lanes, ", "), text::join(misfit.evidence, "; "));
  if (!misfit.remedy.empty()) text += fmt::format(". Remedy: {}", misfit.remedy);
  return text;
}

/// The rule as code hosts show it beside its results.
ordered_json described(const std::string& rule) {
  for (const auto& id : all_ids()) {
    if (id.name != rule) continue;
    return {{"id", rule}, {"shortDescription", {{"text", id.means}}}, {"help", {{"text", id.remedy}}}};
  }
  return {{"id", rule}};
}

}  // namespace

std::string sarif(const Project& project, const std::vector<Fit>& fits) {
  ordered_json results = ordered_json::array(), rules = ordered_json::array();
  std::set<std::string> known;
  for (const auto& told : told_misfits(project, fits)) {
    if (known.insert(told.misfit.rule).second) rules.push_back(described(told.misfit.rule));
    results.push_back({{"ruleId", told.misfit.rule},
                       {"level", told.misfit.verdict == Verdict::misfit ? "error" : "warning"},
                       {"message", {{"text", message(told)}}},
                       {"locations", {location(told.place, project)}}});
  }
  const ordered_json driver{{"name", "fibula"}, {"version", version()}, {"rules", std::move(rules)}};
  ordered_json run{{"tool", {{"driver", driver}}},
                   {"originalUriBaseIds", {{"PROJECT", {{"uri", "file://" + as_uri(project.root().string()) + "/"}}}}},
                   {"columnKind", "utf16CodeUnits"},
                   {"results", std::move(results)}};
  return json_text(ordered_json{{"$schema", "https://json.schemastore.org/sarif-2.1.0.json"},
                                {"version", "2.1.0"},
                                {"runs", {std::move(run)}}},
                   2);
}

std::vector<std::string> lines(const Project& project, const std::vector<Fit>& fits) {
  std::vector<std::string> all;
  for (const auto& told : told_misfits(project, fits)) {
    const std::string place = shown_from(project.root(), told.place.file);
    all.push_back(fmt::format("{}:{}: {}: {}: {}", place, std::max(told.place.line, 1U),
                              told.misfit.verdict == Verdict::misfit ? "error" : "warning", told.misfit.rule,
                              message(told)));
  }
  return all;
}

}  // namespace fibula::emit
