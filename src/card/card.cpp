/// card.toml, read strictly.
#include "base/names.hpp"
#include "base/text.hpp"
#include "base/toml.hpp"
#include "base/version.hpp"
#include "os/files.hpp"
#include "os/toml_file.hpp"

#include <fibula/card.hpp>

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

constexpr std::string_view linkages[] = {"static", "shared"};
constexpr std::string_view configurations[] = {"debug", "release", "unknown"};

/// A path that a card may name: relative, and inside the library.
void check_paths(toml::Reader& reader, const std::vector<std::string>& paths, unsigned line) {
  for (const auto& path : paths) {
    const auto normal = fs::path(path).lexically_normal();
    if (!path.empty() && !normal.is_absolute() && *normal.begin() != "..") continue;
    reader.report(Code::malformed, line, fmt::format("path {} leads out of the library", toml::quote(path)),
                  "write it relative to the library's files, with /");
  }
}

/// A table of texts whose keys are the ids of facts.
template <class Texts>
Texts read_texts(toml::Reader& reader, std::string_view name) {
  Texts texts;
  const toml::Table* table = reader.table(name);
  if (table == nullptr) return texts;
  for (const auto& [key, value] : table->entries) {
    if (value.text() != nullptr) {
      texts[key] = *value.text();
    } else {
      reader.report(Code::malformed, value.line, fmt::format("{} of {} must be a text", key, name),
                    "write it in double quotes");
    }
  }
  return texts;
}

Result<Variant> read_variant(const toml::Value& value, const fs::path& file) {
  toml::Reader reader(*value.table(), file, "[[variant]]", value.line);
  Variant variant;
  reader.require("id");
  reader.require("arch");
  variant.id = reader.text("id");
  variant.target.format = format_named(reader.text("format", "elf"));
  variant.target.arch = arch_named(reader.text("arch"));
  variant.target.bits = static_cast<int>(reader.number("bits", 0));
  variant.target.endian = reader.text("endian", "little") == "big" ? Endian::big : Endian::little;
  variant.linkage = reader.choice("linkage", linkages, "static") == "shared" ? Linkage::shared : Linkage::static_;
  variant.configuration = reader.choice("configuration", configurations, "unknown");
  variant.link = reader.texts("link");
  variant.runtime = reader.texts("runtime");
  variant.needs = reader.texts("needs");
  variant.plugins = reader.texts("plugins");
  variant.include_directories = reader.texts("headers");
  variant.debug = reader.texts("debug");
  variant.definitions = reader.texts("definitions");
  variant.system_inputs = reader.texts("system-inputs");
  variant.facts = read_texts<decltype(variant.facts)>(reader, "facts");
  variant.learnt = read_texts<decltype(variant.learnt)>(reader, "learnt");
  for (const auto* paths :
       {&variant.link, &variant.runtime, &variant.plugins, &variant.include_directories, &variant.debug})
    check_paths(reader, *paths, value.line);
  if (auto done = reader.finish(); !done) return pass(done);
  return variant;
}

Result<void> read_origin(const toml::Table* table, const fs::path& file, Card& card) {
  if (table == nullptr) return {};
  toml::Reader reader(*table, file, "[origin]", 0);
  card.origin.kind = reader.text("kind");
  card.origin.path = reader.text("path");
  card.origin.sha256 = reader.text("sha256");
  card.origin.commit = reader.text("commit");
  card.digest = reader.text("digest");
  card.in_place = reader.flag("in-place", false);
  return reader.finish();
}

Result<void> read_headers(const toml::Table* table, const fs::path& file, Card& card) {
  if (table == nullptr) return {};
  toml::Reader reader(*table, file, "[headers]", 0);
  card.include_directories = reader.texts("directories");
  card.public_headers = reader.texts("public");
  check_paths(reader, card.include_directories, 0);
  check_paths(reader, card.public_headers, 0);
  return reader.finish();
}

Result<void> read_source(const toml::Table* table, const fs::path& file, Card& card) {
  if (table == nullptr) return {};
  toml::Reader reader(*table, file, "[source]", 0);
  card.source.compile = reader.texts("compile");
  card.source.include_directories = reader.texts("headers");
  card.source.definitions = reader.texts("definitions");
  check_paths(reader, card.source.compile, 0);
  check_paths(reader, card.source.include_directories, 0);
  return reader.finish();
}

Result<void> read_files(const toml::Table* table, const fs::path& file, Card& card) {
  if (table == nullptr) return {};
  toml::Reader reader(*table, file, "[files]", 0);
  for (const auto& [key, into] : {std::pair{"licences", &card.files.licences},
                                  {"data", &card.files.data},
                                  {"samples", &card.files.samples},
                                  {"documents", &card.files.documents}}) {
    *into = reader.texts(key);
    check_paths(reader, *into, 0);
  }
  return reader.finish();
}

Result<Requirement> read_requirement(const toml::Value& value, const fs::path& file) {
  toml::Reader reader(*value.table(), file, "[[requires]]", value.line);
  reader.require("library");
  Requirement requirement{.library = reader.text("library"),
                          .version = reader.text("version"),
                          .header = reader.text("header"),
                          .because = reader.text("because")};
  if (const auto range = VersionRange::parse(requirement.version); !range)
    reader.report(Code::malformed, value.line, range.error().what, "write it like \">=2.1 <3\"");
  requirement.shared_include = reader.flag("shared-include", false);
  if (auto done = reader.finish(); !done) return pass(done);
  return requirement;
}

Result<void> read_tables(toml::Reader& reader, const fs::path& file, Card& card) {
  if (auto read = read_origin(reader.table("origin"), file, card); !read) return read;
  if (auto read = read_headers(reader.table("headers"), file, card); !read) return read;
  if (auto read = read_source(reader.table("source"), file, card); !read) return read;
  if (auto read = read_files(reader.table("files"), file, card); !read) return read;
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

Result<Card> read_card(const fs::path& folder) {
  const fs::path file = folder / "card.toml";
  auto table = read_toml(file);
  if (!table) return pass(table);
  toml::Reader reader(*table, file, "the card", 1);
  Card card;
  reader.require("name");
  reader.require("version");
  card.name = reader.text("name");
  card.version = reader.text("version");
  card.licence = reader.text("licence");
  if (auto read = read_tables(reader, file, card); !read) return pass(read);
  if (auto done = reader.finish(); !done) return pass(done);
  card.entry = absolute_path(folder);
  card.root = card.in_place ? fs::path(card.origin.path) : absolute_path(folder / "files");
  return card;
}

std::vector<std::string> Card::include_directories_for(const Variant* variant) const {
  std::vector<std::string> directories = include_directories;
  const auto add = [&](const Variant& one) {
    for (const auto& directory : one.include_directories) {
      if (std::find(directories.begin(), directories.end(), directory) == directories.end())
        directories.push_back(directory);
    }
  };
  if (variant != nullptr) {
    add(*variant);
  } else {
    for (const auto& one : variants) add(one);
  }
  return directories;
}

const std::string& Variant::fact(std::string_view name) const {
  static const std::string untold;
  const auto found = facts.find(name);
  return found == facts.end() ? untold : found->second;
}

}  // namespace fibula
