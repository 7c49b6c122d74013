#include "answers/parts.hpp"

namespace fibula::answers {
namespace {

ordered_json to_json(const BuildStep& step) {
  return {{"kind", to_string(step.kind)}, {"subject", step.subject}, {"good", step.good},
          {"cause", step.cause},          {"command", step.command}, {"log", step.log}};
}

ordered_json to_json(const ExplainedBuild& lane) {
  const BuildReport& report = lane.report;
  ordered_json products = ordered_json::array(), memory = ordered_json::array(), placements = ordered_json::array();
  for (const auto& product : report.products) {
    products.push_back(product.path.string());
    for (const auto& one : product.placements)
      placements.push_back({{"output", product.output},
                            {"name", one.name},
                            {"address", one.address},
                            {"region", one.region},
                            {"wanted", one.wanted}});
    for (const auto& use : product.memory)
      memory.push_back(
          {{"output", product.output}, {"region", use.region}, {"used", use.used}, {"length", use.length}});
  }
  return {{"lane", report.lane},
          {"good", report.good},
          {"steps", listed(report.steps, [](const BuildStep& step) { return to_json(step); })},
          {"products", products},
          {"memory", memory},
          {"placements", placements},
          {"not_made", report.not_made},
          {"stopped", report.stopped},
          {"misfits", listed(report.misfits, [](const Misfit& misfit) { return misfit.sentence(); })},
          {"findings", findings_json(lane.findings)}};
}

ordered_json to_json(const MadeFile& made) {
  const auto inputs = listed(made.inputs, [](const MadeFile::Input& input) {
    return ordered_json{{"path", input.path.string()}, {"state", input.state}};
  });
  return {{"lane", made.lane}, {"path", made.path.string()}, {"state", made.state}, {"inputs", inputs}};
}

ordered_json to_json(const StageReport& report) {
  const auto files = listed(report.files, [](const StagedFile& file) {
    return ordered_json{{"path", file.path}, {"from", file.from.string()}, {"library", file.library},
                        {"why", file.why},   {"sha256", file.sha256},      {"change", to_string(file.change)}};
  });
  const auto misfits = listed(report.misfits, [](const Misfit& misfit) {
    return ordered_json{{"rule", misfit.rule},
                        {"verdict", to_string(misfit.verdict)},
                        {"subject", misfit.subject},
                        {"evidence", misfit.evidence},
                        {"remedy", misfit.remedy}};
  });
  const auto left = listed(report.left, [](const LeftToSystem& one) {
    return ordered_json{{"name", one.name}, {"why", one.why}, {"least", one.least}};
  });
  return {{"folder", report.folder.string()},
          {"good", report.misfits.empty()},
          {"files", files},
          {"removed", report.removed},
          {"left_alone", report.left_alone},
          {"left_to_system", left},
          {"misfits", misfits}};
}

}  // namespace

std::string builds(const std::vector<ExplainedBuild>& lanes) {
  return document("fibula.build/1",
                  {{"lanes", listed(lanes, [](const ExplainedBuild& lane) { return to_json(lane); })}});
}

std::string made_files(const std::vector<MadeFile>& files) {
  return document("fibula.build-why/1", {{"files", listed(files, [](const MadeFile& file) { return to_json(file); })}});
}

std::string cleaned(size_t files) {
  return document("fibula.build-clean/1", {{"files", files}});
}

std::string stages(const std::vector<StagedLane>& lanes) {
  return document("fibula.stage/1", {{"stages", listed(lanes, [](const StagedLane& staged) {
                                        ordered_json lane{{"lane", staged.lane}};
                                        lane.update(to_json(staged.report));
                                        return lane;
                                      })}});
}

std::string stage_checked(const std::string& folder, const StageCheck& check) {
  const auto changes = listed(check.changes, [](const StageChange& change) {
    return ordered_json{{"path", change.path}, {"what", change.what}};
  });
  return document("fibula.stage-check/1", {{"folder", folder}, {"files", check.files}, {"changes", changes}});
}

}  // namespace fibula::answers
