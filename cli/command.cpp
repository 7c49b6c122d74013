#include "command.hpp"

#include "print.hpp"

#include <CLI/CLI.hpp>

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

Command& Command::choice(const std::string& names, const std::vector<std::string>& words, std::string& into,
                         const std::string& help) {
  parser_->app->add_option(names, into, help)->check(CLI::IsMember(words))->type_name("");
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
  state_->app.require_subcommand(1);
  state_->app.fallthrough();
  common_.reset(new Command(std::make_unique<Command::Parser>(Command::Parser{&state_->app, &state_->action})));
}

Program::~Program() = default;

Command Program::command(const std::string& name, const std::string& help) {
  return common_->below(name, help);
}

int Program::run(int argc, char** argv) {
  constexpr int wrong_usage = 2;
  try {
    state_->app.parse(argc, argv);
  } catch (const CLI::ParseError& error) {
    if (error.get_exit_code() == static_cast<int>(CLI::ExitCodes::Success)) return state_->app.exit(error);
    const auto unknown = state_->app.remaining();
    const bool no_command = state_->app.get_subcommands().empty() && !unknown.empty();
    complain(no_command ? "no command " + unknown.front() : error.what(),
             no_command ? "fibula --help lists the commands" : "--help behind the command tells what it takes");
    return wrong_usage;
  }
  return state_->action();
}

}  // namespace cli
