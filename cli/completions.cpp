#include "manual.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace cli {
namespace {

/// The words that may follow a command: its options, and those for everything.
std::string option_words(const CommandText& command, const CommandText& program) {
  std::string words = " ";
  for (const auto* from : {&command, &program}) {
    for (const auto& option : from->options) {
      if (option.argument) continue;
      const std::string name = option.names.substr(option.names.rfind(',') + 1);
      if (words.find(" " + name + " ") == std::string::npos) words += name + " ";
    }
  }
  return words.substr(1, words.size() - 2);
}

std::string names_of(const std::vector<CommandText>& commands, const char* between) {
  std::string names;
  for (const auto& command : commands) names += (names.empty() ? "" : between) + command.name;
  return names;
}

/// What `help --names` is asked for behind a command; empty: nothing.
std::string names_behind(const std::string& command) {
  if (command == "help") return "ids";
  static constexpr const char* takers[] = {"attach", "detach", "trial", "parcel", "compare", "shelf"};
  return std::find(std::begin(takers), std::end(takers), command) != std::end(takers) ? "shelf" : "";
}

std::string words_behind(const CommandText& command, const CommandText& program) {
  return names_of(command.below, " ") + (command.below.empty() ? "" : " ") + option_words(command, program);
}

std::string bash(const CommandText& program) {
  std::string text =
      "# completions of fibula for bash; made by: fibula help --as bash\n_fibula() {\n"
      "  local word=${COMP_WORDS[COMP_CWORD]} before=${COMP_WORDS[COMP_CWORD-1]} command= words= at\n"
      "  for ((at = 1; at < COMP_CWORD; ++at)); do\n    case ${COMP_WORDS[at]} in\n      " +
      names_of(program.below, "|") +
      ") command=${COMP_WORDS[at]}; break ;;\n    esac\n  done\n  case $before in\n"
      "    --lane) words=$(fibula help --names lanes 2>/dev/null) ;;\n"
      "    --sign) words=$(fibula help --names keys 2>/dev/null) ;;\n  esac\n"
      "  if [ -z \"$words\" ]; then\n    case $command in\n      '') words='" +
      names_of(program.below, " ") + "' ;;\n";
  for (const auto& command : program.below) {
    text += fmt::format("      {}) words='{}'", command.name, words_behind(command, program));
    if (const std::string names = names_behind(command.name); !names.empty())
      text += fmt::format("; [[ $word == -* ]] || words+=\" $(fibula help --names {} 2>/dev/null)\"", names);
    text += " ;;\n";
  }
  return text +
         "    esac\n  fi\n  COMPREPLY=($(compgen -W \"$words\" -- \"$word\"))\n"
         "  [[ $word == -* ]] || COMPREPLY+=($(compgen -f -- \"$word\"))\n}\ncomplete -F _fibula fibula\n";
}

/// In single quotes for zsh and fish.
std::string quoted(std::string text) {
  std::replace(text.begin(), text.end(), '\'', ' ');
  return "'" + text + "'";
}

std::string zsh(const CommandText& program) {
  std::string text =
      "#compdef fibula\n# completions of fibula for zsh; made by: fibula help --as zsh\n_fibula() {\n"
      "  local -a commands names\n  commands=(\n";
  for (const auto& command : program.below) {
    std::string help = command.help;
    std::replace(help.begin(), help.end(), ':', ',');
    text += fmt::format("    {}\n", quoted(command.name + ":" + help));
  }
  text +=
      "  )\n  if (( CURRENT == 2 )); then _describe command commands; return; fi\n  case $words[CURRENT-1] in\n"
      "    --lane) names=(${(f)\"$(fibula help --names lanes 2>/dev/null)\"}); compadd -a names; return ;;\n"
      "    --sign) names=(${(f)\"$(fibula help --names keys 2>/dev/null)\"}); compadd -a names; return ;;\n"
      "  esac\n  case $words[2] in\n";
  for (const auto& command : program.below) {
    text += fmt::format("    {}) names=({})", command.name, words_behind(command, program));
    if (const std::string ask = names_behind(command.name); !ask.empty())
      text += "; names+=(${(f)\"$(fibula help --names " + ask + " 2>/dev/null)\"})";
    text += " ;;\n";
  }
  return text + "  esac\n  compadd -a names\n  _files\n}\n_fibula \"$@\"\n";
}

/// What may stand behind an option, in fish's words.
std::string fish_values(const OptionText& option) {
  if (option.value.empty()) return "";
  if (!option.words.empty()) return fmt::format(" -x -a '{}'", fmt::join(option.words, " "));
  const char* kind = option.names == "--lane" ? "lanes" : option.names == "--sign" ? "keys" : nullptr;
  return kind == nullptr ? " -r" : fmt::format(" -x -a '(fibula help --names {} 2>/dev/null)'", kind);
}

std::string fish(const CommandText& program) {
  std::string text = "# completions of fibula for fish; made by: fibula help --as fish\n";
  for (const auto& command : program.below)
    text +=
        fmt::format("complete -c fibula -n __fish_use_subcommand -a {} -d {}\n", command.name, quoted(command.help));
  for (const auto& command : program.below) {
    const std::string when = quoted("__fish_seen_subcommand_from " + command.name);
    for (const auto& below : command.below)
      text += fmt::format("complete -c fibula -n {} -a {} -d {}\n", when, below.name, quoted(below.help));
    for (const auto& option : command.options) {
      const size_t dashes = option.names.find("--");
      if (option.argument || dashes == std::string::npos) continue;
      text += fmt::format("complete -c fibula -n {} -l {} -d {}{}\n", when, option.names.substr(dashes + 2),
                          quoted(option.help), fish_values(option));
    }
    if (const std::string names = names_behind(command.name); !names.empty())
      text += fmt::format("complete -c fibula -n {} -a '(fibula help --names {} 2>/dev/null)'\n", when, names);
  }
  return text;
}

}  // namespace

std::string completions(const CommandText& program, const std::string& shell) {
  if (shell == "bash") return bash(program);
  return shell == "zsh" ? zsh(program) : fish(program);
}

}  // namespace cli
