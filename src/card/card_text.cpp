/// card.toml, written to be read and edited by people.
#include "base/toml.hpp"
#include "card/card_form.hpp"
#include "card/source_form.hpp"

#include <fibula/card.hpp>

#include <fmt/format.h>

namespace fibula {
namespace {

std::string line(std::string_view key, const std::string& value) {
  return value.empty() ? "" : fmt::format("{} = {}\n", key, toml::quote(value));
}

std::string lines(std::string_view key, const std::vector<std::string>& values) {
  return values.empty() ? "" : fmt::format("{} = {}\n", key, toml::quote_long_list(values));
}

/// A table with its heading, or nothing when there is nothing in it.
std::string block(std::string_view heading, const std::string& inside) {
  return inside.empty() ? "" : fmt::format("\n{}\n{}", heading, inside);
}

std::string facts_table(const Variant& variant) {
  std::string inside;
  for (const auto& [id, value] : variant.facts) inside += fmt::format("{} = {}\n", id, toml_value(value));
  return block("[variant.facts]", inside);
}

std::string learnt_table(const Variant& variant) {
  std::string inside;
  for (const auto& [key, learnt] : variant.learnt) {
    const std::string file = learnt.file.empty() ? "" : fmt::format("file = {}, ", toml::quote(learnt.file));
    inside += fmt::format("{} = {{ certainty = {}, {}from = {} }}\n", key, toml::quote(to_string(learnt.certainty)),
                          file, toml::quote(learnt.from));
  }
  return block("[variant.learnt]", inside);
}

std::string choices_line(const std::map<std::string, std::string>& choices) {
  std::string inside;
  for (const auto& [name, alternative] : choices)
    inside += fmt::format("{}{} = {}", inside.empty() ? "" : ", ", toml::key(name), toml::quote(alternative));
  return inside.empty() ? "" : fmt::format("choice = {{ {} }}\n", inside);
}

std::string variant_text(const Variant& v) {
  std::string text = fmt::format(
      "id = {}\nformat = {}\narch = {}\nbits = {}\nendian = {}\nlinkage = {}\nconfiguration = {}\n", toml::quote(v.id),
      toml::quote(to_string(v.target.format)), toml::quote(to_string(v.target.arch)), v.target.bits,
      toml::quote(to_string(v.target.endian)), toml::quote(to_string(v.linkage)), toml::quote(v.configuration));
  text += fmt::format("link = {}\n", toml::quote_long_list(v.link));
  text += lines("runtime", v.runtime) + lines("needs", v.needs) + lines("plugins", v.plugins) +
          lines("headers", v.include_directories);
  text += lines("debug", v.debug) + lines("definitions", v.definitions) + lines("flags", v.flags) +
          lines("system-inputs", v.system_inputs) + choices_line(v.choices);
  return block("[[variant]]", text) + facts_table(v) + learnt_table(v);
}

std::string origin_text(const Card& card) {
  const Origin& from = card.origin;
  return line("kind", from.kind) + line("path", from.path) + line("sha256", from.sha256) + line("commit", from.commit) +
         line("digest", card.digest) + (card.in_place ? "in-place = true\n" : "");
}

std::string requirement_text(const Requirement& requirement) {
  return line("library", requirement.library) + line("version", requirement.version) +
         line("header", requirement.header) + line("by", requirement.by) + line("because", requirement.because) +
         (requirement.shared_include ? "shared-include = true\n" : "");
}

}  // namespace

std::string card_text(const Card& card) {
  const auto& files = card.files;
  std::string text = fmt::format("card = {}\n", card_form) + line("name", card.name) + line("version", card.version) +
                     line("licence", card.licence) + line("licence-from", card.licence_from) +
                     line("trial", card.trial);
  text += block("[origin]", origin_text(card));
  text +=
      block("[headers]", fmt::format("directories = {}\npublic = {}\n", toml::quote_long_list(card.include_directories),
                                     toml::quote_long_list(card.public_headers)));
  text += source_text(card.source);
  text += block("[files]", lines("licences", files.licences) + lines("data", files.data) +
                               lines("samples", files.samples) + lines("documents", files.documents));
  for (const auto& requirement : card.requirements) text += block("[[requires]]", requirement_text(requirement));
  for (const auto& variant : card.variants) text += variant_text(variant);
  return text;
}

}  // namespace fibula
