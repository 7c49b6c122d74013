#include "answers/parts.hpp"

namespace fibula::answers {
namespace {

ordered_json to_json(const Output& output) {
  return {{"name", output.name},
          {"kind", to_string(output.kind)},
          {"sources", output.sources},
          {"headers", output.headers}};
}

ordered_json to_json(const LibraryUse& use) {
  ordered_json library{{"name", use.name}};
  if (!use.version.empty()) library["version"] = use.version;
  if (!use.folder.empty()) library["folder"] = use.folder.string();
  return library;
}

ordered_json to_json(const Lane& lane) {
  return {{"name", lane.name}, {"compiler", lane.compiler}, {"configuration", lane.configuration}};
}

ordered_json answers_json(const Toolchain& t) {
  ordered_json answers = ordered_json::object();
  for (const auto& [id, answer] : t.answers) {
    answers[id] = {{"value", answer.value}, {"from", answer.from}};
    if (!answer.version.empty()) answers[id]["version"] = answer.version;
  }
  return answers;
}

ordered_json to_json(const AnsweredCompiler& a) {
  ordered_json object{{"name", a.name}, {"compiler", a.compiler}, {"configuration", a.configuration}};
  if (!a.proposed.empty()) object["lane"] = a.proposed;
  if (!a.answer) {
    object["problem"] = render(a.answer.error());
    return object;
  }
  const auto& t = *a.answer;
  object.update({{"family", to_string(t.family)},
                 {"version", t.version},
                 {"triple", t.triple},
                 {"arch", to_string(t.target.arch)},
                 {"bits", t.target.bits},
                 {"format", to_string(t.target.format)},
                 {"linker", t.linker.string()},
                 {"linker_version", t.linker_version},
                 {"sysroot", t.sysroot.string()},
                 {"pie", t.pie},
                 {"environment", t.environment},
                 {"answers", answers_json(t)}});
  return object;
}

ordered_json to_json(const std::vector<AnsweredCompiler>& compilers) {
  return listed(compilers, [](const AnsweredCompiler& compiler) { return to_json(compiler); });
}

}  // namespace

std::string begun(const Begun& begun) {
  ordered_json object{{"project", begun.project.file().string()}};
  if (!begun.first_source.empty()) object["first_source"] = begun.first_source.string();
  object["outputs"] = listed(begun.project.outputs(), [](const Output& output) { return to_json(output); });
  object["libraries"] = listed(begun.project.libraries(), [](const LibraryUse& use) { return to_json(use); });
  object["lanes"] = listed(begun.project.lanes(), [](const Lane& lane) { return to_json(lane); });
  object["remarks"] = begun.remarks;
  return document("fibula.begin/1", object);
}

std::string attached(const Attachment& attachment) {
  const auto passed_over = listed(attachment.passed_over, [](const PassedOver& newer) {
    return ordered_json{{"version", newer.version}, {"lane", newer.lane}, {"reason", newer.reason}};
  });
  return document("fibula.attach/1", {{"name", attachment.name},
                                      {"version", attachment.version},
                                      {"before", attachment.before},
                                      {"range", attachment.range},
                                      {"changed", attachment.changed},
                                      {"created", attachment.created.string()},
                                      {"folder", attachment.folder.string()},
                                      {"remarks", attachment.remarks},
                                      {"fits_everywhere", attachment.fits_everywhere},
                                      {"passed_over", passed_over},
                                      {"also_needed", attachment.also_needed}});
}

std::string attach_undone() {
  return document("fibula.attach/1", {{"undone", true}});
}

std::string detached(const std::string& name) {
  return document("fibula.detach/1", {{"name", name}});
}

std::string lanes(const std::vector<AnsweredCompiler>& lanes, const std::vector<AnsweredCompiler>& others) {
  return document("fibula.lanes/1", {{"lanes", to_json(lanes)}, {"compilers", to_json(others)}});
}

std::string lane_added(const ProposedLane& added) {
  ordered_json object{{"lane", added.lane.name},
                      {"compiler", added.lane.compiler},
                      {"flags", added.lane.flags},
                      {"configuration", added.lane.configuration},
                      {"target", to_string(added.toolchain.target)},
                      {"starts_here", added.does_not_start.empty()}};
  if (!added.lane.start_through.empty()) object["start_through"] = added.lane.start_through;
  if (!added.does_not_start.empty()) object["why_not_started"] = added.does_not_start;
  return document("fibula.lanes-add/1", object);
}

std::string reasons(const std::string& name, const std::vector<LaneReasons>& lanes) {
  ordered_json all = ordered_json::array();
  for (const auto& lane : lanes) {
    for (const auto& reason : lane.reasons)
      all.push_back({{"lane", lane.lane},
                     {"kind", reason.kind},
                     {"subject", reason.subject},
                     {"library", reason.library},
                     {"why", reason.why}});
  }
  return document("fibula.fit-why/1", {{"name", name}, {"reasons", all}});
}

std::string lock_changes(const std::vector<LockChange>& changes) {
  return document("fibula.fit-diff/1", {{"changes", listed(changes, [](const LockChange& change) {
                                           return ordered_json{{"lane", change.lane},
                                                               {"library", change.library},
                                                               {"before", change.before},
                                                               {"after", change.after}};
                                         })}});
}

}  // namespace fibula::answers
