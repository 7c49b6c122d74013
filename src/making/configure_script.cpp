#include "making/configure_script.hpp"

#include "base/text.hpp"
#include "os/files.hpp"
#include "os/stamp.hpp"

#include <algorithm>
#include <iterator>

namespace fibula {
namespace {

constexpr const char* sources[] = {"configure.ac", "configure.in"};

/// "2.1-rc1", and not a text that is yet to be computed.
std::string version_or_none(std::string_view text) {
  const bool plain = !text.empty() && text.find_first_of("0123456789") == 0 &&
                     text.find_first_not_of("0123456789.abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ+-_~") ==
                         std::string_view::npos;
  return plain ? std::string(text) : std::string();
}

/// `PACKAGE_VERSION='2.1'` of a script that Autoconf made.
std::string in_script(std::string_view text, std::string_view variable) {
  const std::string mark = "\n" + std::string(variable) + "='";
  const size_t at = text.find(mark);
  if (at == std::string_view::npos) return {};
  const auto rest = text.substr(at + mark.size());
  return std::string(rest.substr(0, rest.find('\'')));
}

/// The second argument, without what quotes it.
std::string in_source(std::string_view text) {
  const size_t at = text.find("AC_INIT(");
  const size_t comma = at == std::string_view::npos ? at : text.find(',', at);
  if (comma == std::string_view::npos) return {};
  const auto rest = text.substr(comma + 1, text.find_first_of(",)", comma + 1) - comma - 1);
  const auto word = text::trim(rest);
  return version_or_none(word.starts_with('[') && word.ends_with(']') ? word.substr(1, word.size() - 2) : word);
}

}  // namespace

std::string configured_version(const std::filesystem::path& root) {
  if (const auto script = read_text(root / "configure")) {
    if (auto version = version_or_none(in_script(*script, "PACKAGE_VERSION")); !version.empty()) return version;
  }
  for (const char* name : sources) {
    if (const auto source = read_text(root / name)) return in_source(*source);
  }
  return {};
}

std::string configured_name(const std::filesystem::path& root) {
  if (const auto script = read_text(root / "configure")) {
    if (auto name = in_script(*script, "PACKAGE_TARNAME"); !name.empty()) return name;
  }
  for (const char* file : sources) {
    const std::string text = read_text(root / file).value_or("");
    const size_t at = text.find("AC_INIT(");
    if (at == std::string::npos) continue;
    std::string name;
    const std::string first(text::trim(std::string_view(text).substr(at + 8, text.find_first_of(",)", at) - at - 8)));
    for (const char c : text::lower(first)) {
      if (c == '[' || c == ']') continue;
      name += text::is_identifier_character(c) || c == '-' || c == '+' || c == '.' ? c : '-';
    }
    return name.starts_with("gnu-") ? name.substr(4) : name;
  }
  return {};
}

namespace {

/// The headers among words; `config.h:config.in` is made from another file.
void add_headers(std::string_view words, const std::string& script, std::vector<ConfiguredHeader>& headers) {
  for (auto word : text::words(words)) {
    while (word.starts_with('[')) word.remove_prefix(1);
    while (word.ends_with(']')) word.remove_suffix(1);
    const auto parts = text::split(word, ':');
    word = parts.front();
    const bool known = std::any_of(headers.begin(), headers.end(),
                                   [&](const ConfiguredHeader& header) { return header.name == word; });
    if (word.ends_with(".h") && word.find('$') == std::string_view::npos && !known)
      headers.push_back({std::string(word), script, parts.size() > 1 ? std::string(parts[1]) : ""});
  }
}

}  // namespace

std::vector<ConfiguredHeader> configured_headers(const std::filesystem::path& root) {
  std::vector<ConfiguredHeader> headers;
  for (const char* name : sources) {
    const std::string text = read_text(root / name).value_or("");
    for (const std::string_view macro : {"AC_CONFIG_HEADERS(", "AC_CONFIG_HEADER(", "AM_CONFIG_HEADER("}) {
      for (size_t at = text.find(macro); at != std::string::npos; at = text.find(macro, at + 1)) {
        const size_t begin = at + macro.size();
        add_headers(std::string_view(text).substr(begin, text.find_first_of(",)", begin) - begin), name, headers);
      }
    }
  }
  constexpr std::string_view mark = "\nac_config_headers=\"$ac_config_headers ";
  const std::string script = read_text(root / "configure").value_or("");
  for (size_t at = script.find(mark); at != std::string::npos; at = script.find(mark, at + 1)) {
    const size_t begin = at + mark.size();
    add_headers(std::string_view(script).substr(begin, script.find('"', begin) - begin), "configure", headers);
  }
  return headers;
}

std::set<std::string> headers_made_by_script(const std::filesystem::path& root) {
  std::vector<ConfiguredHeader> made;
  const std::string script = read_text(root / "configure").value_or("");
  for (const std::string_view kind : {"headers", "commands", "files", "links"}) {
    const std::string mark = "\nac_config_" + std::string(kind) + "=\"$ac_config_" + std::string(kind) + " ";
    for (size_t at = script.find(mark); at != std::string::npos; at = script.find(mark, at + 1)) {
      const size_t begin = at + mark.size();
      add_headers(std::string_view(script).substr(begin, script.find('"', begin) - begin), "configure", made);
    }
  }
  std::set<std::string> names;
  for (const auto& header : made) names.insert(text::lower(std::filesystem::path(header.name).filename().string()));
  return names;
}

namespace {

/// The source of the script; empty where there is none.
std::string script_source(const std::filesystem::path& root) {
  for (const char* name : sources) {
    if (auto text = read_text(root / name)) return std::move(*text);
  }
  return {};
}

/// The arguments of a macro's call, from behind its parenthesis; brackets quote (GNU m4, "Changing the quote
/// characters").
std::vector<std::string> arguments_in(std::string_view call) {
  std::vector<std::string> arguments{""};
  int brackets = 0, parentheses = 0;
  for (const char c : call) {
    if (c == '[') ++brackets;
    if (c == ']') --brackets;
    if (brackets == 0 && c == '(') ++parentheses;
    if (brackets == 0 && c == ')' && --parentheses < 0) break;
    if (brackets == 0 && parentheses == 0 && c == ',') {
      arguments.emplace_back();
    } else {
      arguments.back() += c;
    }
  }
  return arguments;
}

/// "[8192]" -> 8192, `["/var"]` -> "/var"; empty for what the shell or m4 would work out.
std::string literal_in(std::string_view argument) {
  argument = text::trim(argument);
  if (argument.starts_with('[') && argument.ends_with(']'))
    argument = text::trim(argument.substr(1, argument.size() - 2));
  return argument.find_first_of("$`[]\n") == std::string_view::npos ? std::string(argument) : std::string();
}

constexpr std::string_view defining[] = {"AC_DEFINE(", "AC_DEFINE_UNQUOTED("};

/// The name and the value of a definition that begins at `at`; the value is empty where it is worked out later.
std::pair<std::string, std::string> definition_at(std::string_view script, size_t at) {
  const auto arguments = arguments_in(script.substr(script.find('(', at) + 1));
  const std::string name = literal_in(arguments.front());
  const bool plain = std::all_of(name.begin(), name.end(), text::is_identifier_character);
  return {plain ? name : std::string(), arguments.size() > 1 ? literal_in(arguments[1]) : "1"};
}

/// How much deeper in `if`, `case` and loops a script is behind a line than before it: words where commands begin.
int nesting(std::string_view line) {
  int depth = 0;
  bool begins = true;
  std::string word;
  for (const char c : std::string(line) + ";") {
    if (c != ' ' && c != '\t' && c != ';') {
      word += c;
      continue;
    }
    if (begins && (word == "if" || word == "case" || word == "for" || word == "while" || word == "until")) ++depth;
    if (begins && (word == "fi" || word == "esac" || word == "done")) --depth;
    if (!word.empty()) begins = word == "then" || word == "do" || word == "else";
    if (c == ';') begins = true;
    word.clear();
  }
  return depth;
}

/// The lines of a script that every run of it passes: those inside of an `if`, a `case`, a loop or another macro's
/// arguments do not count.
std::vector<std::string_view> lines_always_passed(std::string_view script) {
  std::vector<std::string_view> passed;
  int nested = 0, open = 0;
  for (const auto line : text::lines(script)) {
    const auto code = line.substr(0, std::min(line.find("dnl"), line.find("# ")));
    if (nested == 0 && open == 0) passed.push_back(line);
    nested = std::max(nested + nesting(code), 0);
    for (const char c : code) open += c == '(' || c == '[' ? 1 : c == ')' || c == ']' ? -1 : 0;
    open = std::max(open, 0);
  }
  return passed;
}

}  // namespace

std::map<std::string, std::string> configured_definitions(const std::filesystem::path& root) {
  std::map<std::string, std::string> definitions;
  const std::string script = script_source(root);
  for (const auto line : lines_always_passed(script)) {
    if (line.starts_with("AC_USE_SYSTEM_EXTENSIONS") || line.starts_with("AC_GNU_SOURCE"))
      definitions.emplace("_GNU_SOURCE", "1");
    for (const auto macro : defining) {
      if (!line.starts_with(macro)) continue;
      auto [name, value] = definition_at(script, static_cast<size_t>(line.data() - script.data()));
      if (!name.empty() && !value.empty()) definitions.emplace(std::move(name), std::move(value));
    }
  }
  return definitions;
}

namespace {

/// The place of `-DNAME` among flags; npos where it is not there.
size_t option_in_script(const std::string& script, const std::string& name) {
  const std::string option = "-D" + name;
  for (size_t at = script.find(option); at != std::string::npos; at = script.find(option, at + 1)) {
    const size_t end = at + option.size();
    if (end == script.size() || !text::is_identifier_character(script[end])) return at;
  }
  return std::string::npos;
}

unsigned line_at(const std::string& text, size_t at) {
  return static_cast<unsigned>(std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(at), '\n')) + 1;
}

}  // namespace

std::optional<ScriptPlace> definition_in_script(const std::filesystem::path& root, const std::string& name) {
  for (const char* file : sources) {
    const std::string script = read_text(root / file).value_or("");
    if (const size_t at = option_in_script(script, name); at != std::string::npos)
      return ScriptPlace{file, line_at(script, at)};
    for (const auto macro : defining) {
      for (size_t at = script.find(macro); at != std::string::npos; at = script.find(macro, at + 1)) {
        if (definition_at(script, at).first != name) continue;
        return ScriptPlace{file, line_at(script, at)};
      }
    }
  }
  return std::nullopt;
}

bool defines_package(const std::filesystem::path& root) {
  return script_source(root).find("AM_INIT_AUTOMAKE") != std::string::npos;
}

bool hands_over_version(const std::filesystem::path& root) {
  return defines_package(root) && configured_headers(root).empty();
}

namespace {

bool is_asked_in(const std::string& script, std::string_view name) {
  if (!name.starts_with("HAVE_")) return false;
  std::string asked = text::lower(name.substr(5));
  const bool header = asked.ends_with("_h");
  if (header) asked.resize(asked.size() - 2);
  // `sys/stat.h` is HAVE_SYS_STAT_H.
  const auto is_same = [](char written, char wanted) {
    return written == wanted || (wanted == '_' && !text::is_identifier_character(written));
  };
  for (auto at = script.begin(); at != script.end(); ++at) {
    at = std::search(at, script.end(), asked.begin(), asked.end(), is_same);
    if (at == script.end()) return false;
    const auto end = at + static_cast<std::ptrdiff_t>(asked.size());
    const bool begins = at == script.begin() || !text::is_identifier_character(*(at - 1));
    const std::string_view rest(script.data() + (end - script.begin()), static_cast<size_t>(script.end() - end));
    if (begins && (header ? rest.starts_with(".h") : rest.empty() || !text::is_identifier_character(rest[0])))
      return true;
  }
  return false;
}

}  // namespace

std::set<std::string> asked_by_script(const std::filesystem::path& root, const std::set<std::string>& names) {
  const std::string script = script_source(root);
  std::set<std::string> asked;
  std::copy_if(names.begin(), names.end(), std::inserter(asked, asked.end()),
               [&](const std::string& name) { return is_asked_in(script, name); });
  return asked;
}

VerbatimText verbatim_text(const std::filesystem::path& root) {
  VerbatimText text;
  const std::string script = script_source(root);
  const auto add = [&](std::string_view macro, size_t argument, std::string& to) {
    for (size_t at = script.find(macro); at != std::string::npos; at = script.find(macro, at + 1)) {
      const auto arguments = arguments_in(std::string_view(script).substr(at + macro.size()));
      auto words = argument < arguments.size() ? text::trim(arguments[argument]) : std::string_view();
      if (words.starts_with('[') && words.ends_with(']')) words = words.substr(1, words.size() - 2);
      to += std::string(words) + "\n";
    }
  };
  add("AH_TOP(", 0, text.top);
  add("AH_VERBATIM(", 1, text.bottom);
  add("AH_BOTTOM(", 0, text.bottom);
  return text;
}

bool is_written_by_script(const std::filesystem::path& root, const std::string& name) {
  const std::string script = read_text(root / "configure").value_or("");
  if (script.find("ac_config_headers") != std::string::npos) return false;
  for (const auto line : text::lines(script)) {
    const auto words = text::words(line);
    const bool moves = !words.empty() && (words[0] == "mv" || words[0] == "cp");
    const size_t from = moves ? 0 : line.find('>');
    if (from == std::string_view::npos) continue;
    for (size_t at = line.find(name, from); at != std::string_view::npos; at = line.find(name, at + 1)) {
      const size_t end = at + name.size();
      const bool begins = at > 0 && std::string_view(" \t\"'/>").find(line[at - 1]) != std::string_view::npos;
      if (begins && (end == line.size() || std::string_view(" \t\"';").find(line[end]) != std::string_view::npos))
        return true;
    }
  }
  return false;
}

std::set<std::string> replaced_functions(const std::filesystem::path& root) {
  std::set<std::string> functions;
  const std::string script = script_source(root);
  for (const std::string_view macro : {"AC_REPLACE_FUNCS(", "AC_LIBOBJ("}) {
    for (size_t at = script.find(macro); at != std::string::npos; at = script.find(macro, at + 1)) {
      std::string words = arguments_in(std::string_view(script).substr(at + macro.size())).front();
      std::replace_if(
          words.begin(), words.end(), [](char c) { return c == '[' || c == ']' || c == ','; }, ' ');
      for (const auto word : text::words(words)) functions.emplace(word);
    }
  }
  return functions;
}

std::set<std::string> tried_sources(const std::filesystem::path& root) {
  constexpr std::string_view mark = "`cat ";
  const std::string script = script_source(root);
  std::set<std::string> tried;
  for (size_t at = script.find(mark); at != std::string::npos; at = script.find(mark, at + 1)) {
    const size_t begin = at + mark.size();
    tried.insert(script.substr(begin, script.find_first_of("` \n", begin) - begin));
  }
  return tried;
}

}  // namespace fibula
