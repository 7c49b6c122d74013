#include "commands/log_reader.hpp"

#include "base/text.hpp"
#include "commands/said.hpp"
#include "commands/shell_words.hpp"
#include "commands/tool_command.hpp"
#include "os/files.hpp"

#include <algorithm>
#include <deque>
#include <unordered_set>

namespace fibula {
namespace {

using What = Complaint::Kind;

constexpr size_t most_complaints = 10'000, most_commands = 5'000, longest_line = 4U << 20U;

/// What terminals obey is taken out: colours, links (ECMA-48, 5.4; "OSC 8"). All marks of quotation become one.
std::string plain_line(std::string_view line) {
  std::string plain;
  plain.reserve(line.size());
  while (!line.empty()) {
    if (line.starts_with("\x1b[")) {
      const size_t end = line.find_first_of("ABCDEFGHJKSTfmnsulh", 2);
      line.remove_prefix(end == std::string_view::npos ? line.size() : end + 1);
    } else if (line.starts_with("\x1b]")) {
      const size_t end = std::min(line.find('\a'), line.find("\x1b\\"));
      line.remove_prefix(end == std::string_view::npos ? line.size() : end + (line[end] == '\a' ? 1 : 2));
    } else if (line.starts_with("\xe2\x80\x98") || line.starts_with("\xe2\x80\x99")) {
      plain += '\'';
      line.remove_prefix(3);
    } else {
      if (line[0] != '\r') plain += line[0];
      line.remove_prefix(1);
    }
  }
  return plain;
}

bool needs_plain(std::string_view line) {
  // One after the other: each is a search for one byte, which is done many bytes at a time.
  return line.find('\x1b') != std::string_view::npos || line.find('\xe2') != std::string_view::npos ||
         line.find('\r') != std::string_view::npos;
}

/// Text of Windows' shells: two bytes a character, with a mark in front (RFC 2781, section 3.2).
std::string from_utf16(std::string_view text) {
  std::string out;
  for (size_t i = 2; i + 1 < text.size(); i += 2) {
    const auto low = static_cast<unsigned char>(text[i]), high = static_cast<unsigned char>(text[i + 1]);
    const unsigned code = low | (static_cast<unsigned>(high) << 8U);
    if (code < 0x80U) {
      out += static_cast<char>(code);
    } else if (code < 0x800U) {
      out += static_cast<char>(0xc0U | (code >> 6U));
      out += static_cast<char>(0x80U | (code & 0x3fU));
    } else {
      out += static_cast<char>(0xe0U | (code >> 12U));
      out += static_cast<char>(0x80U | ((code >> 6U) & 0x3fU));
      out += static_cast<char>(0x80U | (code & 0x3fU));
    }
  }
  return out;
}

/// What build tools put before a command: `[3/10] `, `+ `, `$ `, `libtool: link: `.
std::string_view without_prompt(std::string_view line) {
  line = text::trim(line);
  for (bool again = true; again;) {
    again = false;
    if (line.starts_with('[')) {
      const size_t end = line.find("] ");
      if (end == std::string_view::npos || end > 40) return line;
      line = text::trim(line.substr(end + 2));
      again = true;
    }
    for (const std::string_view prompt :
         {"+ ", "++ ", "$ ", "> ", "libtool: link: ", "libtool: compile: ", "FAILED: "}) {
      if (!line.starts_with(prompt) || prompt == "FAILED: ") continue;
      line = text::trim(line.substr(prompt.size()));
      again = true;
    }
  }
  return line;
}

/// Quickly seen: no command begins so.
bool may_be_command(std::string_view line) {
  const std::string_view first = line.substr(0, line.find(' '));
  if (first.size() < 2 || first.size() > 300 || first.ends_with(':') || line.size() == first.size()) return false;
  // "Building", "Linking": words of a sentence.
  const auto is_between = [](char c, char low, char high) { return c >= low && c <= high; };
  if (is_between(first[0], 'A', 'Z') && is_between(first[1], 'a', 'z') &&
      first.find_first_of("=/\\.") == std::string_view::npos)
    return false;
  static constexpr std::string_view parts[] = {"cc",   "++",   "cl", "ld",  "ar", "ib",
                                               "link", "gold", "cd", "env", "sh", "libtool"};
  return first.find('=') != std::string_view::npos ||
         std::any_of(std::begin(parts), std::end(parts),
                     [&](std::string_view p) { return first.find(p) != std::string_view::npos; });
}

/// Quickly seen: what no tool's complaint is without.
bool may_be_told(std::string_view line) {
  static constexpr std::string_view marks[] = {": ",
                                               ":err:",
                                               "LNK",
                                               " open ",
                                               "referenced from:",
                                               "duplicate symbol",
                                               "Illegal",
                                               "(0xc",
                                               "does not come first",
                                               "procedure entry point",
                                               " because ",
                                               "unimplemented function"};
  return std::any_of(std::begin(marks), std::end(marks),
                     [&](std::string_view mark) { return line.find(mark) != std::string_view::npos; });
}

class Reader {
 public:
  explicit Reader(const fs::path& folder) : folders_{folder} {}

  void line(std::string_view raw) {
    ++number_;
    if (raw.size() > longest_line) return;
    read(raw);
    constexpr size_t most_of_it = 400;
    if (!raw.empty()) before_.assign(raw.substr(0, most_of_it));
  }

  ReadLog end() && {
    if (!joined_.empty()) whole_line(joined_);
    auto all = commands();
    return {std::move(complaints_), std::move(all), shortened_};
  }

 private:
  void read(std::string_view raw) {
    const bool dressed = needs_plain(raw);
    const std::string plain = dressed ? plain_line(raw) : std::string();
    const std::string_view line = dressed ? std::string_view(plain) : raw;
    if (joined_.empty() && !line.ends_with('\\')) return whole_line(line);
    // A back-slash goes on: commands are written over several lines.
    joined_ += line.ends_with('\\') ? line.substr(0, line.size() - 1) : line;
    if (!line.ends_with('\\') || joined_.size() > longest_line) whole_line(std::exchange(joined_, {}));
  }

  void whole_line(std::string_view line) {
    if (line.empty()) return;
    if (enters_folder(line) || goes_on(line)) return;
    // "3>main.cpp(4): error": which of several projects says it.
    const size_t project = line.find_first_not_of("0123456789");
    if (project != std::string_view::npos && project > 0 && line[project] == '>') line.remove_prefix(project + 1);
    const std::string_view command = without_prompt(line);
    if (may_be_command(command) && add_commands(command)) return;
    const bool warning = line.ends_with(']') && line.find(": warning: ") != std::string_view::npos;
    if (!warning && may_be_told(line)) complain(line);
  }

  bool enters_folder(std::string_view line) {
    if (line.find(" directory ") == std::string_view::npos) return false;
    const size_t enters = line.find(": Entering directory "), leaves = line.find(": Leaving directory ");
    if (enters == std::string_view::npos && leaves == std::string_view::npos) return false;
    if (leaves != std::string_view::npos) {
      if (folders_.size() > 1) folders_.pop_back();
      return true;
    }
    std::string_view name = line.substr(enters + 21);
    while (!name.empty() && (name[0] == '\'' || name[0] == '`' || name[0] == '"')) name.remove_prefix(1);
    while (!name.empty() && (name.back() == '\'' || name.back() == '"')) name.remove_suffix(1);
    folders_.push_back(folders_.back() / name);
    return true;
  }

  /// Lines that say more about what stands before or behind them.
  bool goes_on(std::string_view line) {
    if (line.starts_with("In file included from ") || line.starts_with("                 from ")) {
      if (line.starts_with("In ")) chain_.clear();
      std::string_view from = line.substr(line.find("from ") + 5);
      while (!from.empty() && (from.back() == ',' || from.back() == ':')) from.remove_suffix(1);
      chain_.emplace_back(from);
      return true;
    }
    if (line.ends_with("':") && line.find(": in function `") != std::string_view::npos) {
      // Without the linker's own name in front.
      const size_t where = line.find(": in function `"), from = line.rfind(": ", where - 1);
      function_of_ = line.substr(from == std::string_view::npos ? 0 : from + 2);
      function_of_.pop_back();
      return true;
    }
    if (!complaints_.empty() && complaints_.back().kind == What::language && is_earlier_place(line)) {
      if (complaints_.back().file.empty()) complaints_.back().file = line.substr(0, line.find(": note: "));
      return true;
    }
    const size_t user = line.find(" in ");
    if (!complaints_.empty() && complaints_.back().kind == What::undefined && complaints_.back().user.empty() &&
        complaints_.back().teller == Complaint::Teller::apple && line.starts_with("      ") &&
        user != std::string_view::npos) {
      complaints_.back().user = line.substr(user + 4);
      return true;
    }
    if (!complaints_.empty() && complaints_.back().kind == What::duplicate &&
        complaints_.back().teller == Complaint::Teller::apple && line.starts_with("    ")) {
      auto& side = complaints_.back().file.empty() ? complaints_.back().file : complaints_.back().user;
      if (side.empty()) side = text::trim(line);
      return true;
    }
    if (line.starts_with(">>> ") && !complaints_.empty()) {
      lld_line(text::trim(line.substr(4)), complaints_.back());
      return true;
    }
    if (!complaints_.empty() && is_of_loader(complaints_.back().kind) && (line[0] == ' ' || line[0] == '\t'))
      continued_by_loader(line, complaints_.back());
    return false;
  }

  /// "tide.h:3:8: note: previous definition of 'struct tide'": where a compiler has read the same before.
  static bool is_earlier_place(std::string_view line) {
    const size_t note = line.find(": note: ");
    if (note == std::string_view::npos) return false;
    const std::string_view rest = line.substr(note);
    return rest.find(" previous ") != std::string_view::npos || rest.find(": previous ") != std::string_view::npos ||
           rest.find("originally defined") != std::string_view::npos ||
           rest.find("unguarded header") != std::string_view::npos;
  }

  static void lld_line(std::string_view rest, Complaint& complaint) {
    for (const std::string_view begin : {"referenced by ", "defined at ", "defined in "}) {
      if (rest.starts_with(begin)) rest.remove_prefix(begin.size());
    }
    if (complaint.kind == What::duplicate && !complaint.user.empty() && complaint.file.empty() &&
        rest.find('(') != std::string_view::npos) {
      complaint.user = rest;
    } else if (complaint.kind == What::duplicate && !complaint.user.empty()) {
      complaint.file = rest;
    } else if (complaint.kind == What::not_pic && complaint.file.empty()) {
      complaint.file = rest;
    } else if (complaint.user.empty() || rest.find(":(") != std::string_view::npos) {
      complaint.user = rest;
    }
  }

  /// Whether the line is a command. Most are never looked at again: their words are read in the end.
  bool add_commands(std::string_view line) {
    const std::string_view first = line.substr(0, line.find(' '));
    const bool simple = line.find("cd ") == std::string_view::npos;
    if (simple && (first == last_tool_ || is_tool_command({std::string(first)}))) {
      last_tool_ = first;
      keep(line);
      return true;
    }
    bool any = false;
    for (const auto& words : shell_commands(line)) {
      if (words.size() == 2 && words[0] == "cd") folders_.back() = folders_.back() / words[1];
      any = any || is_tool_command(words);
    }
    if (any) keep(line);
    return any;
  }

  void keep(std::string_view line) {
    if (places_.empty() || places_.back() != folders_.back()) places_.push_back(folders_.back());
    lines_.push_back({std::string(line), places_.size() - 1, number_});
    shortened_ = shortened_ || lines_.size() > most_commands;
    if (lines_.size() > most_commands) lines_.pop_front();
  }

  std::vector<LoggedCommand> commands() const {
    std::vector<LoggedCommand> commands;
    for (const auto& line : lines_) {
      for (auto& words : shell_commands(line.text)) {
        if (is_tool_command(words)) commands.push_back({std::move(words), places_[line.place], line.number});
      }
    }
    return commands;
  }

  void complain(std::string_view line) {
    auto complaint = said(line);
    // A driver only says that its linker failed: why stands above.
    if (complaint && complaint->kind == What::failed) complaint->detail = plain_line(before_);
    if (!complaint) return;
    // The BFD linker tells in two lines which symbol it is, and who has it.
    if (complaint->kind == What::not_on_line && complaint->name.empty() && !complaints_.empty() &&
        complaints_.back().kind == What::not_on_line && complaints_.back().file.empty()) {
      complaints_.back().file = std::move(complaint->file);
      return;
    }
    complaint->line = number_;
    if (complaint->kind <= What::source_missing) complaint->included_from = std::exchange(chain_, {});
    if (complaint->kind == What::undefined && !function_of_.empty() && complaint->user.find(".o") == std::string::npos)
      complaint->user = function_of_;
    std::string key =
        std::to_string(static_cast<int>(complaint->kind)) + '\n' + complaint->name + '\n' + complaint->file;
    if (!seen_.insert(std::move(key)).second) return;
    if (complaints_.size() < most_complaints) return complaints_.push_back(std::move(*complaint));
    shortened_ = true;
  }

  static std::optional<Complaint> said(std::string_view line) {
    // When nothing else is known, that much is.
    if (has_one_of(line, {"ld returned ", "linker command failed"}))
      return Complaint{.kind = What::failed, .name = std::string(line)};
    if (auto unmade = read_line(said_by_build_tools(), line)) return unmade;
    if (is_summary(line)) return std::nullopt;
    if (auto loader = said_by_loader(line)) return loader;
    for (const auto& table : {said_of_outputs(), said_by_bfd(), said_by_lld(), said_by_link(), said_by_programs(),
                              said_by_compilers(), said_of_opened_files()}) {
      auto complaint = read_line(table, line);
      if (complaint && table.data() == said_by_link().data())
        complaint->teller =
            line.find("LNK") == std::string_view::npos ? Complaint::Teller::apple : Complaint::Teller::microsoft;
      // An error of another tool that no row knows is no compiler's, though it is worded alike.
      if (complaint && complaint->kind <= What::assembler && !names_a_text(complaint->user))
        return Complaint{
            .kind = What::failed, .name = std::string(line), .user = complaint->user, .detail = complaint->name};
      if (complaint && complaint->kind == What::data_missing && !may_be_path(complaint->name)) return std::nullopt;
      if (complaint) return complaint;
    }
    return std::nullopt;
  }

  /// "main.cpp:3:10", "/usr/include/c++/12/vector:66", and not "configure:4170", "libtool", "ld.lld": compilers
  /// complain of files.
  static bool names_a_text(std::string_view user) {
    const size_t drive = user.size() > 2 && user[1] == ':' ? 2 : 0;
    const std::string_view file = user.substr(0, user.find_first_of(":(", drive));
    const size_t name = file.find_last_of("/\\");
    const std::string_view last = file.substr(name == std::string_view::npos ? 0 : name + 1);
    if (is_linker(std::string(file)) || last.empty()) return false;
    return last.find('.') != std::string_view::npos || (name != std::string_view::npos && file.size() < user.size());
  }

  /// Programs cannot open displays and tide tables either: a file has a folder, an ending, or one word.
  static bool may_be_path(std::string_view name) {
    if (name.find(' ') == std::string_view::npos || name.find('/') != std::string_view::npos) return true;
    const size_t dot = name.rfind('.');
    return dot != std::string_view::npos && dot + 1 < name.size() && name.find(' ', dot) == std::string_view::npos;
  }

  static bool has_one_of(std::string_view line, std::initializer_list<std::string_view> parts) {
    return std::any_of(parts.begin(), parts.end(),
                       [&](std::string_view part) { return line.find(part) != std::string_view::npos; });
  }

  /// What only repeats that something failed, and notes beside an error.
  static bool is_summary(std::string_view line) {
    return has_one_of(line, {": note: ", ": warning: relocation against", "warning: creating DT_TEXTREL",
                             "compilation terminated", "make: *** ", "]: *** "});
  }

  std::vector<fs::path> folders_;
  std::string before_;  ///< the line above, as it stands in the log
  size_t number_ = 0;
  std::string joined_;
  std::vector<std::string> chain_;
  std::string function_of_;
  std::vector<Complaint> complaints_;
  struct CommandLine {
    std::string text;
    size_t place;
    size_t number;
  };
  std::deque<CommandLine> lines_;  ///< of commands
  std::vector<fs::path> places_;   ///< where they ran
  std::string last_tool_;
  std::unordered_set<std::string> seen_;
  bool shortened_ = false;
};

}  // namespace

ReadLog read_log(std::string_view text, const fs::path& folder) {
  std::string converted;
  if (text.starts_with("\xff\xfe")) {
    converted = from_utf16(text);
    text = converted;
  }
  Reader reader(folder);
  while (!text.empty()) {
    const size_t end = text.find('\n');
    reader.line(text.substr(0, end));
    text.remove_prefix(end == std::string_view::npos ? text.size() : end + 1);
  }
  return std::move(reader).end();
}

}  // namespace fibula
