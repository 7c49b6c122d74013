/// card.toml: read strictly, written readably.
#include "base/files.hpp"
#include "base/names.hpp"
#include "base/text.hpp"
#include "base/toml.hpp"

#include <fibula/shelf.hpp>
#include <fibula/take.hpp>

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
  variant.definitions = reader.texts("definitions");
  variant.system_inputs = reader.texts("system-inputs");
  variant.facts = read_texts<decltype(variant.facts)>(reader, "facts");
  variant.learnt = read_texts<decltype(variant.learnt)>(reader, "learnt");
  check_paths(reader, variant.link, value.line);
  check_paths(reader, variant.runtime, value.line);
  if (auto done = reader.finish(); !done) return pass(done);
  return variant;
}

Result<bool> read_origin(const toml::Table* table, const fs::path& file, Card& card) {
  if (table == nullptr) return true;
  toml::Reader reader(*table, file, "[origin]", 0);
  card.origin_kind = reader.text("kind");
  card.origin = reader.text("path");
  card.digest = reader.text("digest");
  card.in_place = reader.flag("in-place", false);
  return reader.finish();
}

Result<bool> read_headers(const toml::Table* table, const fs::path& file, Card& card) {
  if (table == nullptr) return true;
  toml::Reader reader(*table, file, "[headers]", 0);
  card.include_directories = reader.texts("directories");
  card.public_headers = reader.texts("public");
  check_paths(reader, card.include_directories, 0);
  return reader.finish();
}

template <class Texts>
std::string texts_table(std::string_view name, const Texts& texts) {
  if (texts.empty()) return {};
  std::string text = fmt::format("\n[variant.{}]\n", name);
  for (const auto& [key, value] : texts) text += fmt::format("{} = {}\n", key, toml::quote(value));
  return text;
}

std::string variant_text(const Variant& v) {
  std::string text = fmt::format(
      "\n[[variant]]\nid = {}\nformat = {}\narch = {}\nbits = {}\nendian = {}\nlinkage = {}\nconfiguration = {}\n",
      toml::quote(v.id), toml::quote(to_string(v.target.format)), toml::quote(to_string(v.target.arch)), v.target.bits,
      toml::quote(to_string(v.target.endian)), toml::quote(to_string(v.linkage)), toml::quote(v.configuration));
  text += fmt::format("link = {}\n", toml::quote_list(v.link));
  if (!v.runtime.empty()) text += fmt::format("runtime = {}\n", toml::quote_list(v.runtime));
  if (!v.needs.empty()) text += fmt::format("needs = {}\n", toml::quote_list(v.needs));
  if (!v.definitions.empty()) text += fmt::format("definitions = {}\n", toml::quote_list(v.definitions));
  if (!v.system_inputs.empty()) text += fmt::format("system-inputs = {}\n", toml::quote_list(v.system_inputs));
  text += texts_table("facts", v.facts);
  text += texts_table("learnt", v.learnt);
  return text;
}

}  // namespace

Result<Card> read_card(const fs::path& folder) {
  const fs::path file = folder / "card.toml";
  auto table = toml::read(file);
  if (!table) return pass(table);
  toml::Reader reader(*table, file, "the card", 1);
  Card card;
  reader.require("name");
  reader.require("version");
  card.name = reader.text("name");
  card.version = reader.text("version");
  card.licence = reader.text("licence");
  if (auto read = read_origin(reader.table("origin"), file, card); !read) return pass(read);
  if (auto read = read_headers(reader.table("headers"), file, card); !read) return pass(read);
  for (const auto* value : reader.tables("variant")) {
    auto variant = read_variant(*value, file);
    if (!variant) return pass(variant);
    card.variants.push_back(std::move(*variant));
  }
  if (auto done = reader.finish(); !done) return pass(done);
  card.root = card.in_place ? fs::path(card.origin) : absolute_path(folder / "files");
  return card;
}

const std::string& Variant::fact(std::string_view name) const {
  static const std::string untold;
  const auto found = facts.find(name);
  return found == facts.end() ? untold : found->second;
}

std::string card_text(const Card& card) {
  std::string text = fmt::format("name = {}\nversion = {}\n", toml::quote(card.name), toml::quote(card.version));
  if (!card.licence.empty()) text += fmt::format("licence = {}\n", toml::quote(card.licence));
  text += fmt::format("\n[origin]\nkind = {}\npath = {}\ndigest = {}\n", toml::quote(card.origin_kind),
                      toml::quote(card.origin), toml::quote(card.digest));
  if (card.in_place) text += "in-place = true\n";
  text += fmt::format("\n[headers]\ndirectories = {}\npublic = {}\n", toml::quote_list(card.include_directories),
                      toml::quote_list(card.public_headers));
  for (const auto& variant : card.variants) text += variant_text(variant);
  return text;
}

}  // namespace fibula
