#include "card/card_form.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

std::string pair(std::string_view key, const std::string& value) {
  return value.empty() ? "" : fmt::format("{}{} = {}", ", ", key, toml::quote(value));
}

struct Writer {
  std::string operator()(const std::string& value) const { return toml::quote(value); }
  std::string operator()(int64_t value) const { return fmt::format("{}", value); }
  std::string operator()(bool value) const { return value ? "true" : "false"; }
  std::string operator()(const std::vector<std::string>& names) const { return toml::quote_list(names); }
  std::string operator()(const NamedVersion& value) const {
    return fmt::format("{{ name = {}{} }}", toml::quote(value.name), pair("version", value.version));
  }
  std::string operator()(const LinkTimeCode& code) const {
    return fmt::format("{{ maker = {}{}, machine-code = {} }}", toml::quote(code.maker), pair("version", code.version),
                       code.machine_code);
  }
  std::string operator()(const PicReport& pic) const {
    if (pic.level == Pic::yes) return fmt::format("{{ level = {} }}", toml::quote(to_string(pic.level)));
    return fmt::format("{{ level = {}{}{}, offset = {}{} }}", toml::quote(to_string(pic.level)),
                       pair("relocation", pic.relocation), pair("section", pic.section), pic.offset,
                       pair("symbol", pic.symbol));
  }
  std::string operator()(const std::vector<Need>& needs) const {
    std::vector<std::string> names;
    for (const auto& need : needs) names.push_back(need.name);
    return toml::quote_list(names);
  }
};

NamedVersion named_version(toml::Reader& reader) {
  reader.require("name");
  return {reader.text("name"), reader.text("version")};
}

LinkTimeCode link_time_code(toml::Reader& reader) {
  reader.require("maker");
  return {reader.text("maker"), reader.text("version"), reader.flag("machine-code", false)};
}

PicReport pic_report(toml::Reader& reader) {
  static const std::string names[] = {std::string(to_string(Pic::yes)), std::string(to_string(Pic::programs_only)),
                                      std::string(to_string(Pic::no))};
  static const std::string_view levels[] = {names[0], names[1], names[2]};
  const std::string level = reader.choice("level", levels, names[0]);
  return {.level = level == names[2]   ? Pic::no
                   : level == names[1] ? Pic::programs_only
                                       : Pic::yes,
          .relocation = reader.text("relocation"),
          .section = reader.text("section"),
          .offset = static_cast<uint64_t>(reader.number("offset", 0)),
          .symbol = reader.text("symbol")};
}

/// A value that is a table of its own.
template <class Value>
Result<FactValue> in_table(toml::Reader& reader, const std::string& id, const std::filesystem::path& file,
                           Value (*read)(toml::Reader&)) {
  const toml::Table* table = reader.table(id);
  if (table == nullptr) return fail(*reader.error());
  toml::Reader inside(*table, file, fmt::format("{} of a variant", id), reader.line_of(id));
  Value value = read(inside);
  if (auto done = inside.finish(); !done) return pass(done);
  return FactValue(std::move(value));
}

}  // namespace

std::string toml_value(const FactValue& value) {
  return std::visit(Writer(), value);
}

Result<FactValue> read_fact(toml::Reader& reader, const std::string& id, const std::filesystem::path& file) {
  FactValue value;
  switch (form_of(id)) {
    case FactForm::name: value = reader.text(id); break;
    case FactForm::number: value = reader.number(id, 0); break;
    case FactForm::flag: value = reader.flag(id, false); break;
    case FactForm::names: value = reader.texts(id); break;
    case FactForm::named_version: return in_table(reader, id, file, named_version);
    case FactForm::link_time_code: return in_table(reader, id, file, link_time_code);
    case FactForm::pic: return in_table(reader, id, file, pic_report);
    case FactForm::needs: {
      std::vector<Need> needs;
      for (auto& name : reader.texts(id)) needs.push_back({.name = std::move(name)});
      value = std::move(needs);
      break;
    }
  }
  if (reader.error()) return fail(*reader.error());
  return value;
}

}  // namespace fibula
