#include "manual.hpp"

#include "help_topics.hpp"

#include <fmt/format.h>

namespace cli {
namespace {

/// Text as roff has it: no line begins with a control character, and dashes are dashes.
std::string roff(const std::string& text) {
  std::string result;
  bool start = true;
  for (const char c : text) {
    if (start && (c == '.' || c == '\'')) result += "\\&";
    if (c == '\\') {
      result += "\\e";
    } else if (c == '-') {
      result += "\\-";
    } else {
      result += c;
    }
    start = c == '\n';
  }
  return result;
}

std::string spelled(const OptionText& option) {
  if (option.argument) return option.names;
  std::string names = option.names;
  for (size_t at = names.find(','); at != std::string::npos; at = names.find(',', at + 2)) names.insert(at + 1, " ");
  return option.value.empty() ? names : names + " " + option.value;
}

void add_options(const CommandText& command, std::string& page) {
  for (const auto& option : command.options) {
    if (option.names.find("--help") != std::string::npos || (option.argument && option.help.empty())) continue;
    std::string help = option.help;
    if (!option.words.empty())
      help += fmt::format("{}one of {}", help.empty() ? "" : "; ", fmt::join(option.words, ", "));
    page += fmt::format(".TP\n\\fB{}\\fR\n{}\n", roff(spelled(option)), roff(help));
  }
}

std::string usage(const std::string& name, const CommandText& command) {
  std::string text = name;
  for (const auto& option : command.options) {
    if (option.argument) text += option.required ? " " + option.names : fmt::format(" [{}]", option.names);
  }
  return text;
}

void add_command(const std::string& name, const CommandText& command, std::string& page) {
  page += fmt::format(".SS {}\n{}\n", roff(usage(name, command)), roff(command.help));
  add_options(command, page);
  if (!command.example.empty()) page += fmt::format(".PP\nFor example:\n.PP\n.nf\n{}\n.fi\n", roff(command.example));
  for (const auto& below : command.below) add_command(name + " " + below.name, below, page);
}

std::string in_capitals(std::string_view word) {
  std::string text(word);
  for (char& c : text) c = c >= 'a' && c <= 'z' ? static_cast<char>(c - 'a' + 'A') : c;
  return text;
}

/// What `fibula help` says of more than one command.
void add_topics(std::string& page) {
  for (const auto& topic : help_topics())
    page += fmt::format(".SH {}\n.PP\n.nf\n{}\n.fi\n", in_capitals(topic.name), roff(std::string(topic.text)));
}

constexpr const char* last_sections = R"(.SH RULES AND CAUSES
fibula help rules and fibula help causes list what is told, fibula help ID what it means and what mends it.
.SH EXIT STATUS
.TP
0
all good
.TP
1
the answer is no: a misfit, a failed build, a difference
.TP
2
wrong usage
.TP
3
an input is absent, damaged or unreadable
.TP
4
something needed is missing on the machine
.SH ENVIRONMENT
.TP
\fBFIBULA_SHELF\fR
the shelf: several places, with semicolons between
.TP
\fBFIBULA_CACHE\fR
where answers are kept; off keeps none
.TP
\fBNO_COLOR\fR
no colours
.SH FILES
.TP
\fIfibula.toml\fR
the project
.TP
\fIfibula.lock\fR
what was chosen for each lane, with digests
.TP
\fI.fibula/\fR
what is made; can be removed at any time
)";

}  // namespace

std::string manual_page(const CommandText& program, const std::string& version) {
  std::string page = fmt::format(
      ".TH FIBULA 1 \"\" \"fibula {}\" \"User Commands\"\n.SH NAME\nfibula \\- native libraries for C and C++ "
      "programs: "
      "read, fitted, linked, explained\n.SH SYNOPSIS\n\\fBfibula\\fR [OPTIONS] COMMAND [ARGUMENTS]\n.SH "
      "DESCRIPTION\n{}\n.SH OPTIONS\n",
      version, roff(program.help));
  add_options(program, page);
  add_topics(page);
  std::string step;
  for (const auto& command : program.below) {
    if (command.step != step) page += fmt::format(".SH {}\n", roff(command.step));
    step = command.step;
    add_command(command.name, command, page);
  }
  return page + last_sections;
}

}  // namespace cli
