#include "help_ids.hpp"
#include "help_topics.hpp"
#include "manual.hpp"
#include "print.hpp"
#include "session.hpp"

#include <fibula/words.hpp>

#include <fmt/format.h>
#include <memory>
#include <utility>

namespace cli {
namespace {

struct HelpOptions {
  std::vector<std::string> topic;  ///< one word, or those of a command
  std::string form, names;
};

int list_names(const Session& session, const std::string& kind) {
  if (kind == "lanes") {
    const auto project = session.project();
    for (const auto& lane : project ? project->lanes() : std::vector<fibula::Lane>()) print_line(lane.name);
  } else if (kind == "ids") {
    for (const auto& name : id_names()) print_line(name);
  } else if (kind == "keys") {
    const auto keys = fibula::Keys::standard();
    const auto all = keys ? keys->list() : fibula::Result<std::vector<fibula::Key>>();
    for (const auto& key : all ? *all : std::vector<fibula::Key>()) print_line(key.name);
  } else {
    const auto shelf = session.shelf_here();
    for (const auto& name : shelf ? shelf->names() : std::vector<std::string>()) print_line(name);
  }
  return all_good;
}

int tell(const Session& session, const Program& program, const std::vector<std::string>& words) {
  const std::string topic = fmt::format("{}", fmt::join(words, " "));
  std::vector<std::string> known;
  for (const auto& [name, text] : help_topics()) {
    known.emplace_back(name);
    if (topic != name) continue;
    print_help(text);
    return all_good;
  }
  if (topic == "rules" || topic == "causes") {
    topic == "rules" ? print_rules() : print_causes();
    return all_good;
  }
  if (print_id(topic)) return all_good;
  if (const std::string help = program.help_of(words); !help.empty()) {
    print_help(help);
    return all_good;
  }
  for (const char* list : {"rules", "causes"}) known.emplace_back(list);
  std::vector<std::string> near = known;
  for (auto& id : id_names()) near.push_back(std::move(id));
  const std::string meant = fibula::closest_word(topic, near);
  return report(session, {.code = fibula::Code::usage,
                          .what = fmt::format("there is no help on {}", topic),
                          .hint = meant.empty() ? fmt::format("there is: {}; and each command", fmt::join(known, ", "))
                                                : fmt::format("did you mean {}?", meant)});
}

int run(const Session& session, const Program& program, const HelpOptions& options) {
  if (!options.names.empty()) return list_names(session, options.names);
  if (session.json && options.form.empty()) {
    print_ids_json(options.topic.empty() ? std::string() : options.topic.front());
    return all_good;
  }
  if (options.form == "manual") {
    print_raw(manual_page(program.describe(), std::string(fibula::version())));
  } else if (!options.form.empty()) {
    print_raw(completions(program.describe(), options.form));
  } else if (!options.topic.empty()) {
    return tell(session, program, options.topic);
  } else {
    print_line("fibula help TOPIC, where TOPIC is one of");
    for (const auto& [name, text] : help_topics()) print_line(fmt::format("  {}", name));
    print_line("  rules, causes, each rule and cause by its name, and each command");
    print_line("fibula --help lists the commands");
  }
  return all_good;
}

}  // namespace

void add_help(Program& program, Session& session) {
  auto options = std::make_shared<HelpOptions>();
  program
      .command("help",
               "a start, words, rules and causes, lanes, versions, cards; the manual and completions for shells")
      .arguments("TOPIC", options->topic,
                 "start, words, lanes, versions, cards, rules, causes, the name of a rule or cause, or a command",
                 false)
      .choice("--as", {"manual", "bash", "zsh", "fish"}, options->form, "a page for man, or completions for a shell")
      .choice("--names", {"shelf", "lanes", "keys", "ids"}, options->names, "names, one a line, for completions")
      .example("  fibula help words\n  source <(fibula help --as bash)")
      .does([&session, &program, options] { return run(session, program, *options); });
}

}  // namespace cli
