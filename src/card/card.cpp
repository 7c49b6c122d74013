/// card.toml, read strictly.
#include "base/inside_path.hpp"
#include "base/toml.hpp"
#include "base/version.hpp"
#include "card/card_checks.hpp"
#include "card/card_form.hpp"
#include "card/source_form.hpp"
#include "os/files.hpp"
#include "os/toml_file.hpp"

#include <fibula/card.hpp>

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

constexpr std::string_view linkages[] = {"static", "shared"};
constexpr std::string_view configurations[] = {"debug", "release", "unknown"};

/// The certainties as a card has them.
Certainty certainty_of(const std::string& name) {
  return name == "derived" ? Certainty::derived : name == "guessed" ? Certainty::guessed : Certainty::read;
}

Result<void> read_facts(toml::Reader& variant, const fs::path& file,
                        std::map<std::string, FactValue, std::less<>>& into) {
  const toml::Table* table = variant.table("facts");
  if (table == nullptr) return {};
  toml::Reader reader(*table, file, "[variant.facts]", variant.line_of("facts"));
  for (const auto& id : fact_ids()) {
    if (!reader.has(id)) {
      reader.know(id);
      continue;
    }
    auto value = read_fact(reader, id, file);
    if (!value) return pass(value);
    into.insert_or_assign(id, std::move(*value));
  }
  return reader.finish();
}

Result<void> read_learnt(toml::Reader& variant, const fs::path& file, Variant& into) {
  static constexpr std::string_view certainties[] = {"read", "derived", "guessed"};
  const toml::Table* table = variant.table("learnt");
  if (table == nullptr) return {};
  toml::Reader reader(*table, file, "[variant.learnt]", variant.line_of("learnt"));
  for (const auto& [key, value] : table->entries) {
    const toml::Table* inside = reader.table(key);
    if (inside == nullptr) continue;
    toml::Reader how(*inside, file, fmt::format("{} in [variant.learnt]", key), value.line);
    Learnt learnt{certainty_of(how.choice("certainty", certainties, "read")), how.text("file"), how.text("from")};
    if (auto done = how.finish(); !done) return done;
    into.learnt.insert_or_assign(key, std::move(learnt));
  }
  return reader.finish();
}

/// The machine and format of a variant's files, by names that are known.
Target read_target(toml::Reader& reader) {
  Target target;
  const std::string arch = reader.text("arch"), format = reader.text("format", "elf");
  target.arch = arch_named(arch);
  target.format = format_named(format);
  if (reader.has("arch") && target.arch == Arch::unknown)
    reader.report(Code::malformed, reader.line_of("arch"),
                  fmt::format("no architecture is called {}", toml::quote(arch)),
                  "it is what fibula inspect says of the files, like \"x86_64\"");
  if (target.format == Format::unknown)
    reader.report(Code::malformed, reader.line_of("format"), fmt::format("no format is called {}", toml::quote(format)),
                  "it is what fibula inspect says of the files, like \"elf\"");
  target.bits = static_cast<int>(reader.number("bits", 0));
  static constexpr std::string_view endians[] = {"little", "big"};
  target.endian = reader.choice("endian", endians, "little") == "big" ? Endian::big : Endian::little;
  return target;
}

Result<Variant> read_variant(const toml::Value& value, const fs::path& file) {
  toml::Reader reader(*value.table(), file, "[[variant]]", value.line);
  Variant variant;
  reader.require("id");
  reader.require("arch");
  variant.id = reader.text("id");
  check_name(reader, "id", variant.id, is_file_name);
  variant.target = read_target(reader);
  variant.linkage = reader.choice("linkage", linkages, "static") == "shared" ? Linkage::shared : Linkage::static_;
  variant.configuration = reader.choice("configuration", configurations, "unknown");
  variant.link = reader.texts("link");
  variant.runtime = reader.texts("runtime");
  variant.needs = reader.texts("needs");
  variant.plugins = reader.texts("plugins");
  variant.include_directories = reader.texts("headers");
  variant.debug = reader.texts("debug");
  variant.definitions = reader.texts("definitions");
  variant.flags = reader.texts("flags");
  variant.system_inputs = reader.texts("system-inputs");
  if (const toml::Table* choices = reader.table("choice")) {
    for (const auto& [name, picked] : choices->entries) {
      if (picked.text() != nullptr) variant.choices[name] = *picked.text();
      if (picked.text() == nullptr)
        reader.report(Code::malformed, picked.line, fmt::format("choice {} must be a text", name),
                      "write it like choice = { build = \"plain\" }");
    }
  }
  for (const char* key : {"definitions", "flags", "system-inputs"}) check_words(reader, key);
  if (auto read = read_facts(reader, file, variant.facts); !read) return pass(read);
  if (auto read = read_learnt(reader, file, variant); !read) return pass(read);
  for (const char* key : {"link", "runtime", "plugins", "headers", "debug"}) check_paths(reader, key);
  if (auto done = reader.finish(); !done) return pass(done);
  return variant;
}

Result<void> read_origin(toml::Reader& all, const fs::path& file, Card& card) {
  const toml::Table* table = all.table("origin");
  if (table == nullptr) return {};
  toml::Reader reader(*table, file, "[origin]", all.line_of("origin"));
  card.origin.kind = reader.text("kind");
  card.origin.path = reader.text("path");
  card.origin.sha256 = reader.text("sha256");
  card.origin.commit = reader.text("commit");
  card.digest = reader.text("digest");
  card.in_place = reader.flag("in-place", false);
  return reader.finish();
}

Result<void> read_headers(toml::Reader& all, const fs::path& file, Card& card) {
  const toml::Table* table = all.table("headers");
  if (table == nullptr) return {};
  toml::Reader reader(*table, file, "[headers]", all.line_of("headers"));
  card.include_directories = reader.texts("directories");
  card.public_headers = reader.texts("public");
  check_paths(reader, "directories");
  check_paths(reader, "public");
  return reader.finish();
}

Result<void> read_files(toml::Reader& all, const fs::path& file, Card& card) {
  const toml::Table* table = all.table("files");
  if (table == nullptr) return {};
  toml::Reader reader(*table, file, "[files]", all.line_of("files"));
  for (const auto& [key, into] : {std::pair{"licences", &card.files.licences},
                                  {"data", &card.files.data},
                                  {"samples", &card.files.samples},
                                  {"documents", &card.files.documents}}) {
    *into = reader.texts(key);
    check_paths(reader, key);
  }
  return reader.finish();
}

Result<Requirement> read_requirement(const toml::Value& value, const fs::path& file) {
  toml::Reader reader(*value.table(), file, "[[requires]]", value.line);
  if (!reader.has("header")) reader.require("library");
  Requirement requirement{.library = reader.text("library"),
                          .version = reader.text("version"),
                          .header = reader.text("header"),
                          .because = reader.text("because")};
  requirement.by = reader.text("by");
  if (reader.has("library")) check_name(reader, "library", requirement.library, is_plain_name);
  if (const auto range = VersionRange::parse(requirement.version); !range)
    reader.report(Code::malformed, value.line, range.error().what, "write it like \">=2.1 <3\"");
  requirement.shared_include = reader.flag("shared-include", false);
  if (auto done = reader.finish(); !done) return pass(done);
  return requirement;
}

Result<void> read_tables(toml::Reader& reader, const fs::path& file, Card& card) {
  if (auto read = read_origin(reader, file, card); !read) return read;
  if (auto read = read_headers(reader, file, card); !read) return read;
  auto source = read_source_code(reader, file);
  if (!source) return pass(source);
  card.source = std::move(*source);
  if (auto read = read_files(reader, file, card); !read) return read;
  for (const auto* value : reader.tables("requires")) {
    auto requirement = read_requirement(*value, file);
    if (!requirement) return pass(requirement);
    card.requirements.push_back(std::move(*requirement));
  }
  for (const auto* value : reader.tables("variant")) {
    auto variant = read_variant(*value, file);
    if (!variant) return pass(variant);
    card.variants.push_back(std::move(*variant));
  }
  return {};
}

}  // namespace

namespace {

/// Cards of the first form had texts for how each value was learnt.
bool has_untyped_values(const toml::Table& card) {
  const toml::Value* variants = card.find("variant");
  if (variants == nullptr || variants->array() == nullptr) return false;
  return std::any_of(variants->array()->begin(), variants->array()->end(), [](const toml::Value& variant) {
    const toml::Value* learnt = variant.table() == nullptr ? nullptr : variant.table()->find("learnt");
    return learnt != nullptr && learnt->table() != nullptr && !learnt->table()->entries.empty() &&
           learnt->table()->entries.front().second.text() != nullptr;
  });
}

/// A card that another version of Fibula wrote.
Error of_another_form(int64_t form, const toml::Table& table, const fs::path& file) {
  std::string from = "SOURCE";
  if (const toml::Value* origin = table.find("origin"); origin != nullptr && origin->table() != nullptr) {
    const toml::Value* path = origin->table()->find("path");
    if (path != nullptr && path->text() != nullptr) from = *path->text();
  }
  return {.code = Code::malformed,
          .what = fmt::format("card of form {}, this version reads form {}", form, card_form),
          .file = file.string(),
          .hint = fmt::format("take the library again: fibula take {} --replace", from)};
}

}  // namespace

Result<Card> read_card(const fs::path& folder) {
  auto table = read_toml(folder / "card.toml");
  if (!table) return pass(table);
  return card_in(*table, folder);
}

Result<Card> card_in(const toml::Table& table, const fs::path& folder) {
  const fs::path file = folder / "card.toml";
  toml::Reader reader(table, file, "the card", 1);
  Card card;
  // What a person wrote without it has no typed values in it, or is of this form.
  const int64_t form = reader.number("card", has_untyped_values(table) ? 1 : card_form);
  if (form != card_form) {
    Error error = of_another_form(form, table, file);
    error.line = reader.line_of("card");
    return fail(std::move(error));
  }
  reader.require("name");
  reader.require("version");
  card.name = reader.text("name");
  card.version = reader.text("version");
  check_name(reader, "name", card.name, is_plain_name);
  check_name(reader, "version", card.version, is_plain_name);
  card.licence = reader.text("licence");
  card.licence_from = reader.text("licence-from");
  card.trial = reader.text("trial");
  if (auto read = read_tables(reader, file, card); !read) return pass(read);
  if (auto done = reader.finish(); !done) return pass(done);
  card.entry = absolute_path(folder);
  card.root = card.in_place ? fs::path(card.origin.path) : absolute_path(folder / "files");
  return card;
}

std::vector<std::string> Card::include_directories_for(const Variant* variant) const {
  std::vector<std::string> directories;
  const auto add = [&](const std::vector<std::string>& more) {
    for (const auto& directory : more) {
      if (std::find(directories.begin(), directories.end(), directory) == directories.end())
        directories.push_back(directory);
    }
  };
  // A build's own headers stand in front of those that all builds have.
  if (variant != nullptr) add(variant->include_directories);
  add(include_directories);
  if (variant == nullptr) {
    for (const auto& one : variants) add(one.include_directories);
  }
  return directories;
}

}  // namespace fibula
