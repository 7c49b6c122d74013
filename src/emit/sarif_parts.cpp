/// The Static Analysis Results Interchange Format, for editors and code hosts (SARIF 2.1.0, OASIS Standard, 2020).
#include "emit/sarif_parts.hpp"

#include "base/json_text.hpp"
#include "os/files.hpp"

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

ordered_json location(const Place& place, const fs::path& root) {
  ordered_json artifact;
  if (is_inside(root, place.file)) {
    artifact = {{"uri", as_uri(shown_from(root, place.file))}, {"uriBaseId", "PROJECT"}};
  } else {
    artifact = {{"uri", "file://" + as_uri(place.file)}};
  }
  ordered_json physical{{"artifactLocation", std::move(artifact)}};
  if (place.line > 0) physical["region"] = {{"startLine", place.line}};
  return {{"physicalLocation", std::move(physical)}};
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

std::string sarif_log(const fs::path& root, const std::vector<SarifResult>& results) {
  ordered_json list = ordered_json::array(), rules = ordered_json::array();
  std::set<std::string> known;
  for (const auto& result : results) {
    if (known.insert(result.rule).second) rules.push_back(described(result.rule));
    list.push_back({{"ruleId", result.rule},
                    {"level", result.error ? "error" : "warning"},
                    {"message", {{"text", result.message}}}});
    if (!result.place.file.empty()) list.back()["locations"] = {location(result.place, root)};
  }
  const ordered_json driver{{"name", "fibula"}, {"version", version()}, {"rules", std::move(rules)}};
  ordered_json run{{"tool", {{"driver", driver}}},
                   {"originalUriBaseIds", {{"PROJECT", {{"uri", "file://" + as_uri(root.string()) + "/"}}}}},
                   {"columnKind", "utf16CodeUnits"},
                   {"results", std::move(list)}};
  return json_text(ordered_json{{"$schema", "https://json.schemastore.org/sarif-2.1.0.json"},
                                {"version", "2.1.0"},
                                {"runs", {std::move(run)}}},
                   2);
}

}  // namespace fibula::emit
