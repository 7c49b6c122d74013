#include <fibula/emit.hpp>

#include "base/json_text.hpp"

#include <nlohmann/json.hpp>

namespace fibula::emit {
namespace {

using nlohmann::ordered_json;

ordered_json to_json(const Misfit& misfit) {
  return {{"rule", misfit.rule},       {"verdict", to_string(misfit.verdict)}, {"subject", misfit.subject},
          {"library", misfit.library}, {"evidence", misfit.evidence},          {"remedy", misfit.remedy}};
}

ordered_json to_json(const std::vector<Misfit>& misfits) {
  ordered_json list = ordered_json::array();
  for (const auto& misfit : misfits) list.push_back(to_json(misfit));
  return list;
}

ordered_json to_json(const std::vector<LinkInput>& link) {
  ordered_json inputs = ordered_json::array();
  for (const auto& input : link) {
    inputs.push_back({{"path", input.path.string()},
                      {"arguments", input.arguments},
                      {"library", input.library},
                      {"why", input.why},
                      {"group", input.group}});
  }
  return inputs;
}

ordered_json refusal_json(const Refusal& refusal) {
  return {{"version", refusal.version}, {"variant", refusal.variant}, {"first", to_json(refusal.first)}};
}

ordered_json closure_json(const FileClosure& closure) {
  return {{"output", closure.path.filename().string()},
          {"foreseen", closure.foreseen},
          {"closure", listed(closure.entries, [](const ClosureEntry& e) {
             return ordered_json{{"name", e.name},
                                 {"path", e.path},
                                 {"needed_by", e.needed_by},
                                 {"status", to_string(e.status)},
                                 {"why", e.why}};
           })}};
}

ordered_json to_json(const Fit& fit) {
  return {
      {"lane", fit.lane.name},
      {"verdict", to_string(fit.verdict())},
      {"compiler", fit.toolchain.compiler.string()},
      {"target",
       {{"format", to_string(fit.toolchain.target.format)},
        {"arch", to_string(fit.toolchain.target.arch)},
        {"bits", fit.toolchain.target.bits},
        {"triple", fit.toolchain.triple}}},
      {"libraries", listed(fit.libraries,
                           [](const ChosenLibrary& l) {
                             return ordered_json{{"library", l.name},
                                                 {"version", l.version},
                                                 {"variant", l.variant},
                                                 {"verdict", to_string(l.verdict)},
                                                 {"why", l.why},
                                                 {"to_build", l.to_build},
                                                 {"required_by", l.required_by},
                                                 {"misfits", to_json(l.misfits)},
                                                 {"notes", to_json(l.notes)},
                                                 {"refused", listed(l.refused, refusal_json)},
                                                 {"wanted", l.wanted}};
                           })},
      {"include_directories",
       listed(fit.include_directories,
              [](const IncludeDirectory& d) {
                return ordered_json{{"path", d.path.string()}, {"library", d.library}, {"why", d.why}};
              })},
      {"definitions", listed(fit.definitions,
                             [](const Definition& d) {
                               return ordered_json{{"text", d.text}, {"why", d.why}};
                             })},
      {"link_inputs", fit.links.empty() ? ordered_json::array() : to_json(fit.links.front().inputs)},
      {"outputs", listed(fit.links,
                         [](const OutputLink& l) {
                           return ordered_json{{"output", l.output},
                                               {"link_inputs", to_json(l.inputs)},
                                               {"left_out", to_json(l.left_out)}};
                         })},
      {"runtime_files", listed(fit.runtime_files,
                               [](const RuntimeFile& f) {
                                 return ordered_json{{"path", f.path.string()}, {"library", f.library}, {"why", f.why}};
                               })},
      {"closures", listed(fit.closures, closure_json)},
      {"compile_misfits", to_json(fit.compile_misfits)},
      {"misfits", to_json(fit.link_misfits)},
      {"run_misfits", to_json(fit.run_misfits)}};
}

}  // namespace

std::string json(std::span<const Fit> fits) {
  const ordered_json object{{"schema", "fibula.fit/1"},
                            {"lanes", listed(fits, [](const Fit& fit) { return to_json(fit); })}};
  return json_text(object, 2);
}

}  // namespace fibula::emit
