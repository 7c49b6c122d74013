#include <fibula/report.hpp>

#include "os/folder.hpp"
#include "report/added_bytes.hpp"
#include "report/drawing.hpp"

#include <fibula/build.hpp>
#include <fibula/gather.hpp>

#include <algorithm>
#include <set>

namespace fibula {
namespace {

/// Edges of all lanes, each once.
class Edges {
 public:
  void add(const std::string& from, const std::string& to, bool to_system) {
    if (from != to && !from.empty() && !to.empty() && seen_.insert({from, to}).second)
      list_.push_back({from, to, to_system});
  }
  std::vector<NeedEdge> take() { return std::move(list_); }

 private:
  std::set<std::pair<std::string, std::string>> seen_;
  std::vector<NeedEdge> list_;
};

/// The library that a run-time file belongs to, or the file's name.
std::string owner_of(const Fit& fit, const std::string& path, const std::string& name) {
  for (const auto& file : fit.runtime_files) {
    if (file.path == path || file.path.filename() == name) return file.library;
  }
  for (const auto& closure : fit.closures) {
    if (closure.path == path) return closure.path.stem().string();
  }
  return std::filesystem::path(name.empty() ? path : name).filename().string();
}

void add_edges(const Fit& fit, Edges& edges) {
  for (const auto& link : fit.links) {
    for (const auto& input : link.inputs) {
      const bool system = input.library == "system";
      edges.add(link.output, system ? input.path.filename().string() : input.library, system);
    }
  }
  for (const auto& library : fit.libraries) edges.add(library.required_by, library.name, false);
  for (const auto& closure : fit.closures) {
    for (const auto& entry : closure.entries) {
      const std::string from = owner_of(fit, entry.needed_by, {}), to = owner_of(fit, entry.path, entry.name);
      edges.add(from, to, entry.status == NeedStatus::system);
    }
  }
}

}  // namespace

Result<Report> report(const Project& project, const std::vector<Lane>& lanes, const Shelf& shelf) {
  const auto gathered = gather(project, lanes, shelf);
  if (!gathered) return fail(gathered.error());
  Report made{.project = project.root().filename().string()};
  std::vector<PlanOptions> options;
  std::map<std::string, Error> unread;  // by lane
  for (const auto& lane : lanes) {
    auto own = own_code(*gathered, lane);
    if (!own) unread.emplace(lane.name, own.error());
    options.push_back({.own = own ? std::move(*own) : OwnCode()});
  }
  for (auto& fit : plan_all(*gathered, options)) {
    if (fit && !unread.contains(fit->lane.name)) {
      made.fits.push_back(std::move(*fit));
    } else {
      made.lanes_without_fit.push_back(fit ? unread.at(fit->lane.name) : fit.error());
    }
  }
  if (auto changes = compare_with_lock(project, made.fits)) made.changes = std::move(*changes);
  Edges edges;
  std::vector<std::string> outputs;
  for (const auto& output : project.outputs()) outputs.push_back(output.name);
  for (const auto& fit : made.fits) {
    add_edges(fit, edges);
    for (const auto& output : project.outputs()) {
      for (const auto& use : project.uses(output, fit.lane)) edges.add(output.name, use.name, false);
      if (output.kind == OutputKind::static_library) continue;
      auto added = added_bytes(project, fit, output);
      made.added.insert(made.added.end(), added.begin(), added.end());
    }
  }
  made.edges = edges.take();
  if (made.edges.empty()) return made;
  auto drawing = draw(made.edges, outputs);
  if (drawing) made.drawing = std::move(*drawing);
  if (!drawing) made.no_drawing = drawing.error().what;
  return made;
}

Result<std::filesystem::path> keep_report(const Project& project, const std::string& page) {
  const auto folder = Folder::make_in(project.root(), ".fibula");
  if (!folder) return fail(folder.error());
  if (auto written = folder->write("report.html", page); !written) return pass(written);
  return project.root() / ".fibula" / "report.html";
}

}  // namespace fibula
