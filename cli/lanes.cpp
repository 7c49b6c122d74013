#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

namespace cli {
namespace {

using nlohmann::ordered_json;

/// A compiler with what it answered.
struct Answered {
  std::string name;  ///< of the lane, or of the compiler
  std::string compiler;
  std::string configuration;
  fibula::Result<fibula::Toolchain> answer;
};

std::vector<Answered> ask_lanes(const std::vector<fibula::Lane>& lanes) {
  std::vector<fibula::Question> questions;
  for (const auto& lane : lanes) questions.push_back({lane.compiler, lane.flags});
  auto answers = fibula::ask_all(questions);
  std::vector<Answered> all;
  for (size_t i = 0; i < lanes.size(); ++i) {
    std::string command = lanes[i].compiler;
    for (const auto& flag : lanes[i].flags) command += " " + flag;
    all.push_back({lanes[i].name, command, lanes[i].configuration, std::move(answers[i])});
  }
  return all;
}

std::vector<Answered> ask_machine() {
  std::vector<fibula::Question> questions;
  for (const auto& compiler : fibula::find_compilers()) questions.push_back({compiler.string()});
  auto answers = fibula::ask_all(questions);
  std::vector<Answered> all;
  for (size_t i = 0; i < questions.size(); ++i) {
    all.push_back({std::filesystem::path(questions[i].compiler).filename().string(),
                   questions[i].compiler,
                   {},
                   std::move(answers[i])});
  }
  return all;
}

ordered_json to_json(const Answered& a) {
  ordered_json object{{"name", a.name}, {"compiler", a.compiler}, {"configuration", a.configuration}};
  if (!a.answer) {
    object["problem"] = fibula::render(a.answer.error());
    return object;
  }
  const auto& t = *a.answer;
  object.update({{"family", fibula::to_string(t.family)},
                 {"version", t.version},
                 {"triple", t.triple},
                 {"arch", fibula::to_string(t.target.arch)},
                 {"bits", t.target.bits},
                 {"format", fibula::to_string(t.target.format)},
                 {"linker", t.linker.string()},
                 {"environment", t.environment}});
  return object;
}

std::vector<Cell> row(const Answered& a) {
  if (!a.answer)
    return {{a.name, Style::strong}, {a.configuration}, {a.compiler}, {fibula::render(a.answer.error()), Style::bad}};
  const auto& t = *a.answer;
  return {{a.name, Style::strong},
          {a.configuration},
          {a.compiler},
          {fmt::format("{} {}", fibula::to_string(t.family), t.version)},
          {fibula::to_string(t.target)},
          {t.triple, Style::faint}};
}

void print(const std::vector<Answered>& all) {
  std::vector<std::vector<Cell>> table;
  for (const auto& answered : all) table.push_back(row(answered));
  print_table(table, "  ");
}

void print_environment(const std::vector<Answered>& all) {
  for (const auto& answered : all) {
    if (!answered.answer) continue;
    for (const auto& variable : answered.answer->environment)
      print_line("  " + styled("note: ", Style::warning) +
                 "in the environment, and part of every command: " + variable);
    return;
  }
}

int run(const Session& session) {
  const auto project = session.project();
  if (!project && project.error().code != fibula::Code::absent) return report(session, project.error());
  const auto lanes = ask_lanes(project ? project->lanes() : std::vector<fibula::Lane>{});
  const auto machine = ask_machine();
  if (session.json) {
    ordered_json object{
        {"schema", "fibula.lanes/1"}, {"lanes", ordered_json::array()}, {"compilers", ordered_json::array()}};
    for (const auto& lane : lanes) object["lanes"].push_back(to_json(lane));
    for (const auto& compiler : machine) object["compilers"].push_back(to_json(compiler));
    print_json(object);
  } else {
    print_line(project ? "lanes of " + project->file().string() : "no project here");
    print(lanes);
    print_line("compilers on this machine");
    print(machine);
    print_environment(machine);
  }
  for (const auto& lane : lanes) {
    if (!lane.answer) return something_missing;
  }
  return all_good;
}

}  // namespace

void add_lanes(Program& program, Session& session) {
  program.command("lanes", "the lanes of this project, and the compilers on this machine")
      .example("  fibula lanes\n  fibula -C harbourlog lanes --json")
      .does([&session] { return run(session); });
}

}  // namespace cli
