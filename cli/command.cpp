#include "command.hpp"

#include "print.hpp"

#include <fibula/words.hpp>

#include <fmt/format.h>
#include <CLI/CLI.hpp>
#include <algorithm>
#include <sstream>
#include <string_view>
#include <utility>

namespace cli {

struct Command::Parser {
  CLI::App* app;
  std::function<int()>* action;  ///< the program's: set by the command that was named last
};

struct Program::State {
  CLI::App app;
  std::function<int()> action;
};

Command::Command(std::unique_ptr<Parser> parser) : parser_(std::move(parser)) {}
Command::Command(Command&&) noexcept = default;
Command::~Command() = default;

Command& Command::argument(const std::string& name, std::string& into, const std::string& help, bool required) {
  parser_->app->add_option(name, into, help)->required(required)->type_name("");
  return *this;
}

Command& Command::arguments(const std::string& name, std::vector<std::string>& into, const std::string& help,
                            bool required) {
  parser_->app->add_option(name, into, help)->required(required)->type_name("");
  return *this;
}

Command& Command::option(const std::string& names, const std::string& value, std::string& into,
                         const std::string& help) {
  parser_->app->add_option(names, into, help)->type_name(value);
  return *this;
}

Command& Command::folder(const std::string& names, std::string& into, const std::string& help) {
  parser_->app->add_option(names, into, help)->check(CLI::ExistingDirectory.description(""))->type_name("DIR");
  return *this;
}

Command& Command::choice(const std::string& names, const std::vector<std::string>& words, std::string& into,
                         const std::string& help) {
  parser_->app->add_option(names, into, help)
      ->check(CLI::IsMember(words).description(""))
      ->type_name(fmt::format("{{{}}}", fmt::join(words, ",")));
  return *this;
}

Command& Command::list(const std::string& names, const std::string& value, std::vector<std::string>& into,
                       const std::string& help) {
  parser_->app->add_option(names, into, help)->type_name(value)->allow_extra_args(false);
  return *this;
}

Command& Command::files(const std::string& names, const std::string& value, std::vector<std::string>& into,
                        const std::string& help) {
  parser_->app->add_option(names, into, help)->type_name(value);
  return *this;
}

Command& Command::number(const std::string& names, const std::string& value, unsigned& into, const std::string& help) {
  parser_->app->add_option(names, into, help)->type_name(value);
  return *this;
}

Command& Command::flag(const std::string& names, bool& into, const std::string& help) {
  parser_->app->add_flag(names, into, help);
  return *this;
}

Command& Command::example(const std::string& text) {
  parser_->app->footer("Example:\n" + text);
  return *this;
}

Command Command::below(const std::string& name, const std::string& help) {
  return Command(std::make_unique<Parser>(Parser{parser_->app->add_subcommand(name, help), parser_->action}));
}

void Command::does(std::function<int()> action) {
  // Callbacks come from the inside out: the innermost command that was named keeps the word.
  parser_->app->callback([chosen = parser_->action, action = std::move(action)] {
    if (!*chosen) *chosen = action;
  });
}

Program::Program(const std::string& name, const std::string& overview) : state_(std::make_unique<State>()) {
  state_->app.name(name);
  state_->app.description(overview);
  state_->app.set_help_flag("-h,--help", "this text");
  const auto formatter = state_->app.get_formatter();
  formatter->label("Positionals", "Arguments");
  formatter->label("SUBCOMMAND", "COMMAND");
  state_->app.require_subcommand(1);
  state_->app.fallthrough();
  common_.reset(new Command(std::make_unique<Command::Parser>(Command::Parser{&state_->app, &state_->action})));
}

Program::~Program() = default;

Command Program::command(const std::string& name, const std::string& help) {
  Command added = common_->below(name, help);
  if (!step_.empty()) added.parser_->app->group(step_);
  return added;
}

namespace {

CommandText described(const CLI::App& app) {
  CommandText text{.name = app.get_name(), .help = app.get_description(), .step = app.get_group()};
  constexpr std::string_view heading = "Example:\n";
  const std::string footer = app.get_footer();
  if (footer.starts_with(heading)) text.example = footer.substr(heading.size());
  for (const CLI::Option* option : app.get_options()) {
    const bool argument = option->get_positional();
    std::string names = argument ? option->get_name(true) : option->get_name(false, true);
    text.options.push_back({.names = std::move(names),
                            .value = option->get_items_expected_max() == 0 ? "" : option->get_type_name(),
                            .help = option->get_description(),
                            .argument = argument,
                            .required = option->get_required()});
    // A closed set of words is told as "{one,two}" in place of a kind of value.
    OptionText& last = text.options.back();
    if (!last.value.starts_with('{')) continue;
    std::string word;
    for (const char c : last.value) {
      if (c == ',' || c == '}') last.words.push_back(std::exchange(word, {}));
      if (c != ',' && c != '}' && c != '{') word += c;
    }
    last.value = "WORD";
  }
  for (const CLI::App* below : app.get_subcommands([](const CLI::App*) { return true; }))
    text.below.push_back(described(*below));
  return text;
}

/// The innermost command that was named.
const CLI::App& named_last(const CLI::App& app) {
  const auto below = app.get_subcommands();
  return below.empty() ? app : named_last(*below.front());
}

/// What an unknown word was probably meant to be, among commands or options.
std::string meant(const CLI::App& app, const std::string& word) {
  std::vector<std::string> candidates;
  if (word.starts_with('-')) {
    for (const CLI::App* at = &app; at != nullptr; at = at->get_parent()) {
      for (const CLI::Option* option : at->get_options()) {
        for (const auto& name : option->get_lnames()) candidates.push_back("--" + name);
      }
    }
  } else {
    for (const CLI::App* below : app.get_subcommands([](const CLI::App*) { return true; }))
      candidates.push_back(below->get_name());
  }
  return fibula::closest_word(word.substr(0, word.find('=')), candidates);
}

}  // namespace

CommandText Program::describe() const {
  return described(state_->app);
}

std::string Program::help_of(const std::vector<std::string>& words) const {
  const CLI::App* at = &state_->app;
  std::string above;
  for (const auto& word : words) {
    above += (above.empty() ? "" : " ") + at->get_name();
    const auto below = at->get_subcommands([&](const CLI::App* one) { return one->get_name() == word; });
    if (below.empty()) return {};
    at = below.front();
  }
  return words.empty() ? std::string() : at->help(above);
}

int Program::run(int argc, char** argv) {
  constexpr int wrong_usage = 2;
  try {
    state_->app.parse(argc, argv);
  } catch (const CLI::ParseError& error) {
    if (error.get_exit_code() == static_cast<int>(CLI::ExitCodes::Success)) {
      std::ostringstream help;
      const int status = state_->app.exit(error, help, help);
      print_help(help.str());
      return status;
    }
    const CLI::App& app = named_last(state_->app);
    const auto words = state_->app.remaining(true);
    const auto dashed =
        std::find_if(words.begin(), words.end(), [](const auto& word) { return word.starts_with('-'); });
    const bool no_command = app.get_parent() == nullptr && !words.empty() && dashed == words.end();
    const std::string word = dashed != words.end() ? *dashed : words.empty() ? "" : words.front();
    const std::string instead = word.empty() ? "" : meant(app, word);
    const std::string what = dashed != words.end() ? fmt::format("{} takes no {}", app.get_name(), word)
                             : no_command          ? "no command " + word
                                                   : error.what();
    complain(what, !instead.empty() ? fmt::format("did you mean {}?", instead)
                   : no_command     ? "fibula --help lists the commands"
                                    : "--help behind the command tells what it takes");
    return wrong_usage;
  }
  return state_->action();
}

}  // namespace cli
