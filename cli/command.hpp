/// One command's words: arguments, options, flags, and what it does. The parser behind it is met in one file only.
#pragma once

#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace cli {

class Command {
 public:
  Command(Command&&) noexcept;
  ~Command();

  /// Words without a dash, in order.
  Command& argument(const std::string& name, std::string& into, const std::string& help, bool required = true);
  Command& arguments(const std::string& name, std::vector<std::string>& into, const std::string& help,
                     bool required = true);
  Command& option(const std::string& names, const std::string& value, std::string& into, const std::string& help);
  /// One that takes a folder, which must be there.
  Command& folder(const std::string& names, std::string& into, const std::string& help);
  /// An option that takes one of these words.
  Command& choice(const std::string& names, const std::vector<std::string>& words, std::string& into,
                  const std::string& help);
  /// An option that may be given more than once.
  Command& list(const std::string& names, const std::string& value, std::vector<std::string>& into,
                const std::string& help);
  /// The same, and each takes as many words as follow it: what a shell makes of a pattern.
  Command& files(const std::string& names, const std::string& value, std::vector<std::string>& into,
                 const std::string& help);
  Command& number(const std::string& names, const std::string& value, unsigned& into, const std::string& help);
  Command& flag(const std::string& names, bool& into, const std::string& help);
  Command& example(const std::string& text);
  /// A command below this one.
  Command below(const std::string& name, const std::string& help);
  /// What it does; gives the exit status. `owner` keeps what the options were written into alive.
  void does(std::function<int()> action);

 private:
  friend class Program;
  struct Parser;
  explicit Command(std::unique_ptr<Parser> parser);
  std::unique_ptr<Parser> parser_;
};

/// An option or an argument, as help tells it.
struct OptionText {
  std::string names;  ///< "-v,--verbose"; of an argument its name
  std::string value;  ///< empty: it takes none
  std::string help;
  bool argument = false, required = false;
  std::vector<std::string> words = {};  ///< that it takes
};

/// A command, as help, the manual and shells' completions tell it.
struct CommandText {
  std::string name, help, step, example;
  std::vector<OptionText> options;
  std::vector<CommandText> below;
};

class Program {
 public:
  Program(const std::string& name, const std::string& overview);
  ~Program();
  Program(const Program&) = delete;
  Program& operator=(const Program&) = delete;

  /// The options that stand before or behind any command.
  Command& common() { return *common_; }
  Command command(const std::string& name, const std::string& help);
  /// The commands from here on are for this step of people's work: they are listed together.
  void step(const std::string& name) { step_ = name; }
  /// The program itself, with all commands below it.
  CommandText describe() const;
  /// What `--help` behind a command says, or behind one below it; empty for words that are none.
  std::string help_of(const std::vector<std::string>& words) const;
  /// Parses and runs. Gives the exit status; 2 when the words are wrong.
  int run(int argc, char** argv);

 private:
  struct State;
  std::unique_ptr<State> state_;
  std::unique_ptr<Command> common_;
  std::string step_;
};

}  // namespace cli
