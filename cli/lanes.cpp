#include "lane_words.hpp"
#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <cstring>
#include <optional>
#include <set>

namespace cli {
namespace {

using Answered = fibula::answers::AnsweredCompiler;

std::vector<Answered> ask_lanes(const std::vector<fibula::Lane>& lanes) {
  std::vector<fibula::Question> questions;
  for (const auto& lane : lanes) questions.push_back({lane.compiler, lane.flags});
  auto answers = fibula::ask_all(questions);
  std::vector<Answered> all;
  for (size_t i = 0; i < lanes.size(); ++i) {
    std::string command = lanes[i].compiler;
    for (const auto& flag : lanes[i].flags) command += " " + flag;
    all.push_back({lanes[i].name, {}, command, lanes[i].configuration, std::move(answers[i])});
  }
  return all;
}

/// The compilers of the machine that no lane names.
std::vector<Answered> ask_machine(const std::vector<Answered>& lanes) {
  std::error_code ignored;
  std::set<std::filesystem::path> used;
  std::set<std::string> names;
  for (const auto& lane : lanes) {
    names.insert(lane.name);
    if (lane.answer) used.insert(std::filesystem::weakly_canonical(lane.answer->compiler, ignored));
  }
  std::vector<fibula::Question> questions;
  for (const auto& compiler : fibula::find_compilers()) {
    if (!used.contains(std::filesystem::weakly_canonical(compiler, ignored))) questions.push_back({compiler.string()});
  }
  auto answers = fibula::ask_all(questions);
  std::vector<Answered> all;
  std::vector<fibula::Toolchain> answered;
  for (const auto& answer : answers) {
    if (answer) answered.push_back(*answer);
  }
  auto proposals = fibula::propose_lanes(answered, names);
  size_t next = 0;
  for (size_t i = 0; i < questions.size(); ++i) {
    all.push_back({std::filesystem::path(questions[i].compiler).filename().string(),
                   answers[i] ? proposals[next++].name : "",
                   questions[i].compiler,
                   {},
                   std::move(answers[i])});
  }
  return all;
}

/// "GNU ld 2.40", "LLD 14.0.6": who it is and its last word, without what a distribution put between.
std::string linker_of(const fibula::Toolchain& t) {
  const std::string& text = t.linker_version;
  const size_t last = text.rfind(' ');
  for (const char* name : {"mold", "LLD", "GNU gold", "GNU ld"}) {
    const size_t at = text.find(name);
    if (at == std::string::npos) continue;
    const std::string rest = text.substr(at + std::strlen(name) + 1);
    return fmt::format("{} {}", name, rest.starts_with('(') ? text.substr(last + 1) : rest.substr(0, rest.find(' ')));
  }
  return t.linker.filename().string();
}

/// Two lines a lane: what was asked, and below it what was answered.
void print(const std::vector<Answered>& all) {
  std::vector<std::vector<Cell>> table;
  for (const auto& a : all) {
    table.push_back({{a.name, Style::strong}, {a.configuration}, {a.compiler, Style::plain, true}});
    const bool good = a.answer.has_value();
    const std::string text =
        good ? fmt::format("{} {}, {}, {}, {}", fibula::to_string(a.answer->family), a.answer->version,
                           fibula::to_string(a.answer->target), run_time_of(*a.answer), linker_of(*a.answer))
             : fibula::render(a.answer.error());
    table.push_back({{""}, {""}, {text, good ? Style::faint : Style::bad, true}});
  }
  print_table(table, "  ");
}

/// Compilers that no lane uses, under the names that `lanes --add` takes.
void print_proposals(const std::vector<Answered>& machine) {
  std::vector<std::vector<Cell>> table;
  for (const auto& a : machine) {
    const bool good = a.answer.has_value();
    const std::string what = good ? fmt::format("{} {}, {}, {}", fibula::to_string(a.answer->family), a.answer->version,
                                                fibula::to_string(a.answer->target), run_time_of(*a.answer))
                                  : fibula::render(a.answer.error());
    table.push_back({{a.proposed, Style::strong},
                     {std::filesystem::path(a.compiler).filename().string()},
                     {what, good ? Style::faint : Style::warning, true}});
  }
  print_table(table, "  ");
}

void print_environment(const std::vector<Answered>& all) {
  for (const auto& answered : all) {
    if (!answered.answer) continue;
    for (const auto& variable : answered.answer->environment)
      print_sentence("in the environment, and part of every command: " + variable, "note: ");
    return;
  }
}

int run(const Session& session) {
  const auto project = session.trusted_project();
  if (!project && project.error().code != fibula::Code::absent) return report(session, project.error());
  std::optional<SlowNotice> notice(std::in_place, "asking compilers …");
  const auto lanes = ask_lanes(project ? project->lanes() : std::vector<fibula::Lane>{});
  const auto machine = ask_machine(lanes);
  notice.reset();
  if (session.json) {
    print_json(fibula::answers::lanes(lanes, machine));
  } else {
    print_line(project ? "lanes of " + project->file().string() : "no project here");
    print(lanes);
    print_environment(lanes.empty() ? machine : lanes);
    print_line("");
    print_help(machine.empty() ? "no other compiler found in PATH"
                               : "compilers that no lane uses; fibula lanes --add NAME writes a lane for one of them");
    print_proposals(machine);
  }
  for (const auto& lane : lanes) {
    if (!lane.answer) return something_missing;
  }
  return all_good;
}

struct LanesOptions {
  std::string add;
  fibula::LaneWish wish;
};

int run_add(const Session& session, const LanesOptions& options) {
  const auto project = session.project();
  if (!project) return report(session, project.error());
  std::optional<SlowNotice> notice(std::in_place, "asking compilers, and starting a tiny program …");
  const auto added = fibula::add_lane(*project, options.add, options.wish);
  notice.reset();
  if (!added) return report(session, added.error());
  if (session.json) {
    print_json(fibula::answers::lane_added(*added));
  } else {
    print_added({*added});
  }
  return all_good;
}

}  // namespace

void add_lanes(Program& program, Session& session) {
  auto options = std::make_shared<LanesOptions>();
  program.command("lanes", "the lanes of this project, and the compilers on this machine")
      .option("--add", "NAME", options->add,
              "write a lane: one that is listed, -debug or -release, or a name of your own")
      .option("--compiler", "COMPILER", options->wish.compiler,
              "with --add: the compiler of a lane under a name of your own")
      .list("--flag", "FLAG", options->wish.flags,
            "with --add: a flag of the lane, such as --flag=-m32; several in order")
      .choice("--configuration", {"debug", "release"}, options->wish.configuration,
              "with --add: when the name does not end with it")
      .example(
          "  fibula lanes\n  fibula lanes --add windows-x86_64-release\n"
          "  fibula lanes --add board-release --compiler avr-g++ --flag=-mmcu=atmega328p")
      .does([&session, options] { return options->add.empty() ? run(session) : run_add(session, *options); });
}

}  // namespace cli
