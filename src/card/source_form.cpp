#include "card/source_form.hpp"

#include "base/inside_path.hpp"
#include "base/text.hpp"
#include "card/card_checks.hpp"

#include <fibula/target.hpp>

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// The keys of a set, in the order in which they are written.
struct SetRow {
  std::string_view key;
  std::vector<std::string> SourceSet::*values;
  bool paths;  ///< else words for compilers
};

constexpr SetRow set_rows[] = {
    {"compile", &SourceSet::compile, true},
    {"leave-out", &SourceSet::leave_out, true},
    {"headers", &SourceSet::include_directories, true},
    {"definitions", &SourceSet::definitions, false},
    {"user-definitions", &SourceSet::user_definitions, false},
    {"flags", &SourceSet::flags, false},
    {"user-flags", &SourceSet::user_flags, false},
};

constexpr std::string_view systems[] = {"linux", "windows", "macos", "bare-metal"};

void read_set(toml::Reader& reader, SourceSet& set) {
  for (const auto& row : set_rows) {
    set.*row.values = reader.texts(row.key);
    row.paths ? check_paths(reader, row.key) : check_words(reader, row.key);
  }
}

/// Names of a condition that mean something; what nothing is called would never hold.
void check_known(toml::Reader& reader, std::string_view key, const std::vector<std::string>& names,
                 bool (*is_known)(const std::string&), std::string_view hint) {
  for (const auto& name : names) {
    if (!is_known(name))
      reader.report(Code::malformed, reader.line_of(key), fmt::format("no {} is called {}", key, toml::quote(name)),
                    std::string(hint));
  }
}

bool is_system(const std::string& name) {
  return std::find(std::begin(systems), std::end(systems), name) != std::end(systems);
}

Result<SourcePart> read_part(const toml::Value& value, const std::filesystem::path& file) {
  toml::Reader reader(*value.table(), file, "[[source.part]]", value.line);
  SourcePart part{.archs = reader.texts("arch"),
                  .systems = reader.texts("system"),
                  .formats = reader.texts("format"),
                  .lanes = reader.texts("lane"),
                  .choices = reader.texts("choice")};
  check_known(
      reader, "arch", part.archs, [](const std::string& name) { return arch_named(name) != Arch::unknown; },
      "it is what fibula inspect says of files, like \"x86_64\"");
  check_known(
      reader, "format", part.formats, [](const std::string& name) { return format_named(name) != Format::unknown; },
      "it is what fibula inspect says of files, like \"elf\"");
  check_known(reader, "system", part.systems, is_system, "there are linux, windows, macos, bare-metal");
  read_set(reader, part.set);
  if (part.archs.empty() && part.systems.empty() && part.formats.empty() && part.lanes.empty() && part.choices.empty())
    reader.report(Code::malformed, value.line, "a [[source.part]] names no condition",
                  "say when it holds, like system = [\"windows\"], or move its keys to [source]");
  if (auto done = reader.finish(); !done) return pass(done);
  return part;
}

Result<SourceChoice> read_choice(const std::string& name, const toml::Value& value, const std::filesystem::path& file) {
  const std::string heading = fmt::format("[source.choice.{}]", name);
  if (value.table() == nullptr)
    return fail({.code = Code::malformed,
                 .what = fmt::format("choice {} must be a table", name),
                 .file = file.string(),
                 .line = value.line,
                 .hint = fmt::format("write {} and its keys below", heading)});
  toml::Reader reader(*value.table(), file, heading, value.line);
  reader.require("default");
  SourceChoice choice{.name = name, .by_default = reader.text("default")};
  std::vector<std::string> names;
  for (const auto& [key, inside] : value.table()->entries) {
    if (key == "default") continue;
    const toml::Table* table = reader.table(key);
    if (table == nullptr) continue;
    toml::Reader alternative(*table, file, fmt::format("[source.choice.{}.{}]", name, key), inside.line);
    read_set(alternative, choice.alternatives.emplace_back(SourceChoice::Alternative{.name = key}).set);
    if (auto done = alternative.finish(); !done) return pass(done);
    names.push_back(key);
  }
  if (std::find(names.begin(), names.end(), choice.by_default) == names.end() && reader.has("default"))
    reader.report(Code::malformed, reader.line_of("default"),
                  fmt::format("{} has no alternative {}", heading, toml::quote(choice.by_default)),
                  names.empty() ? fmt::format("write [source.choice.{}.{}] with its keys", name, choice.by_default)
                                : "there are " + text::join(names, ", "));
  if (auto done = reader.finish(); !done) return pass(done);
  return choice;
}

/// "bus=twi" of a condition names a choice and one of its alternatives.
Result<void> check_conditions(const SourceCode& code, toml::Reader& reader) {
  for (const auto& part : code.parts) {
    for (const auto& text : part.choices) {
      const size_t at = text.find('=');
      const auto is_it = [&](const SourceChoice& choice) { return choice.name == text.substr(0, at); };
      const auto choice = std::find_if(code.choices.begin(), code.choices.end(), is_it);
      const auto has = [&](const SourceChoice::Alternative& one) { return one.name == text.substr(at + 1); };
      if (at != std::string::npos && choice != code.choices.end() &&
          std::any_of(choice->alternatives.begin(), choice->alternatives.end(), has))
        continue;
      reader.report(Code::malformed, reader.line_of("part"),
                    fmt::format("a [[source.part]] is for choice {}, which is none", toml::quote(text)),
                    "write it as NAME=ALTERNATIVE, of a [source.choice.NAME.ALTERNATIVE]");
    }
  }
  if (reader.error()) return fail(*reader.error());
  return {};
}

Result<SourceHeader> read_header(const toml::Value& value, const std::filesystem::path& file) {
  toml::Reader reader(*value.table(), file, "[[source.header]]", value.line);
  reader.require("path");
  reader.require("text");
  SourceHeader header{
      .path = reader.text("path"), .text = reader.text("text"), .for_users = reader.flag("for-users", false)};
  if (reader.has("path") && !InsidePath::of(header.path))
    reader.report(Code::malformed, reader.line_of("path"),
                  fmt::format("path {} {}", toml::quote(header.path), InsidePath::why_not(header.path)),
                  "write it as it is included");
  if (auto done = reader.finish(); !done) return pass(done);
  return header;
}

std::string set_text(const SourceSet& set) {
  std::string text;
  for (const auto& row : set_rows) {
    if (!(set.*row.values).empty()) text += fmt::format("{} = {}\n", row.key, toml::quote_long_list(set.*row.values));
  }
  return text;
}

std::string part_text(const SourcePart& part) {
  std::string text = "\n[[source.part]]\n";
  const std::pair<std::string_view, const std::vector<std::string>*> conditions[] = {{"arch", &part.archs},
                                                                                     {"system", &part.systems},
                                                                                     {"format", &part.formats},
                                                                                     {"lane", &part.lanes},
                                                                                     {"choice", &part.choices}};
  for (const auto& [key, names] : conditions) {
    if (!names->empty()) text += fmt::format("{} = {}\n", key, toml::quote_long_list(*names));
  }
  return text + set_text(part.set);
}

/// A bare key where it can be one (TOML 1.0, "Keys").
std::string key(const std::string& name) {
  const bool bare = !name.empty() && std::all_of(name.begin(), name.end(),
                                                 [](char c) { return text::is_identifier_character(c) || c == '-'; });
  return bare ? name : toml::quote(name);
}

/// Several lines stay lines where TOML's literal form can hold them (TOML 1.0, "String").
std::string long_text(const std::string& text) {
  const bool plain = text.find("'''") == std::string::npos && !text.empty() && text.back() == '\n' &&
                     std::all_of(text.begin(), text.end(), [](char c) { return c == '\n' || c == '\t' || c >= ' '; });
  return plain ? "'''\n" + text + "'''" : toml::quote(text);
}

}  // namespace

Result<SourceCode> read_source_code(toml::Reader& card, const std::filesystem::path& file) {
  SourceCode code;
  const toml::Table* table = card.table("source");
  if (table == nullptr) return code;
  toml::Reader reader(*table, file, "[source]", card.line_of("source"));
  read_set(reader, code);
  code.standard = reader.text("standard");
  code.steps = reader.texts("steps");
  check_words(reader, "steps");
  const toml::Table* choices = reader.table("choice");
  for (const auto& [name, value] : (choices != nullptr ? *choices : toml::Table{}).entries) {
    auto choice = read_choice(name, value, file);
    if (!choice) return pass(choice);
    code.choices.push_back(std::move(*choice));
  }
  for (const auto* value : reader.tables("part")) {
    auto part = read_part(*value, file);
    if (!part) return pass(part);
    code.parts.push_back(std::move(*part));
  }
  for (const auto* value : reader.tables("header")) {
    auto header = read_header(*value, file);
    if (!header) return pass(header);
    code.headers.push_back(std::move(*header));
  }
  if (auto checked = check_conditions(code, reader); !checked) return pass(checked);
  if (auto done = reader.finish(); !done) return pass(done);
  return code;
}

std::string source_text(const SourceCode& code) {
  std::string text = set_text(code);
  if (!code.standard.empty()) text += fmt::format("standard = {}\n", toml::quote(code.standard));
  if (!code.steps.empty()) text += fmt::format("steps = {}\n", toml::quote_long_list(code.steps));
  if (!text.empty()) text = "\n[source]\n" + text;
  for (const auto& choice : code.choices) {
    text += fmt::format("\n[source.choice.{}]\ndefault = {}\n", key(choice.name), toml::quote(choice.by_default));
    for (const auto& one : choice.alternatives)
      text += fmt::format("\n[source.choice.{}.{}]\n", key(choice.name), key(one.name)) + set_text(one.set);
  }
  for (const auto& part : code.parts) text += part_text(part);
  for (const auto& header : code.headers) {
    text +=
        fmt::format("\n[[source.header]]\npath = {}\ntext = {}\n", toml::quote(header.path), long_text(header.text));
    if (header.for_users) text += "for-users = true\n";
  }
  return text;
}

std::string system_name(const Toolchain& toolchain) {
  if (toolchain.target.format == Format::pe) return "windows";
  if (toolchain.target.format == Format::macho) return "macos";
  return toolchain.bare_metal() ? "bare-metal" : "linux";
}

bool is_system_name(std::string_view name) {
  return std::find(std::begin(systems), std::end(systems), name) != std::end(systems);
}

}  // namespace fibula
