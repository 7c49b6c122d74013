/// Findings for editors and code hosts.
#include <fibula/explain.hpp>

#include "base/text.hpp"
#include "emit/sarif_parts.hpp"
#include "os/files.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

Place place_of(const Finding& finding, const fs::path& folder) {
  if (!finding.place.file.empty() || finding.changes.empty()) return finding.place;
  const ProjectChange& change = finding.changes.front();
  if (change.file.empty()) return {(folder / "fibula.toml").string(), 0};
  return {change.file.string(), static_cast<unsigned>(change.line)};
}

std::string message_of(const Finding& finding) {
  std::string text = fmt::format("{}: {}", finding.subject, text::join(finding.because, "; "));
  if (!finding.remedy.empty()) text += fmt::format(". Remedy: {}", finding.remedy);
  if (!finding.edit.empty() && finding.remedy.find(finding.edit) == std::string::npos)
    text += fmt::format(". Edit: {}", finding.edit);
  return text;
}

void add(const std::vector<Finding>& findings, const fs::path& folder, std::vector<emit::SarifResult>& results) {
  for (const auto& finding : findings)
    results.push_back({finding.cause, true, message_of(finding), place_of(finding, folder)});
}

}  // namespace

std::string sarif(const std::vector<Finding>& findings, const std::filesystem::path& folder) {
  std::vector<emit::SarifResult> results;
  add(findings, absolute_path(folder), results);
  return emit::sarif_log(absolute_path(folder), results);
}

std::string sarif(const Project& project, const std::vector<Fit>& fits, const std::vector<Finding>& findings) {
  auto results = emit::results_of(project, fits);
  add(findings, project.root(), results);
  return emit::sarif_log(project.root(), results);
}

}  // namespace fibula
