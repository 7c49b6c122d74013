#include "diagnose/unlinked_definitions.hpp"

#include "base/text.hpp"
#include "diagnose/name_suppliers.hpp"
#include "diagnose/own_sources.hpp"
#include "facts/mangling.hpp"
#include "headers/declarations.hpp"
#include "headers/definition_forms.hpp"

#include <fibula/symbols.hpp>

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

constexpr uint64_t largest_read = 4U << 20U;

/// The last part of a readable name, without its template arguments and parameters.
std::string last_name(const std::string& readable) {
  std::string name = without_parameters(readable);
  int depth = 0;
  size_t begin = 0, end = name.size();
  for (size_t i = 0; i < name.size(); ++i) {
    if (name[i] == '<' && depth++ == 0) end = i;
    if (name[i] == '>') --depth;
    if (depth == 0 && (name.compare(i, 2, "::") == 0 || name[i] == ' ')) {
      begin = i + (name[i] == ' ' ? 1 : 2);
      end = name.size();
    }
  }
  name = name.substr(begin, end > begin ? end - begin : std::string::npos);
  return name.substr(0, name.find_first_of("<("));
}

std::optional<Finding> table_of_class(const Unresolved& missing) {
  const std::string readable = readable_name(missing.symbol);
  constexpr std::string_view table = "vtable for ", type = "typeinfo for ";
  if (!readable.starts_with(table) && !readable.starts_with(type)) return std::nullopt;
  const std::string name = readable.substr(readable.starts_with(table) ? table.size() : type.size());
  Finding finding = missing_name("missing-source", missing);
  finding.because.push_back(
      fmt::format("compilers make it where the first virtual function of {} that is not inline is defined, and nothing "
                  "that is linked defines that function",
                  name));
  finding.remedy = fmt::format("define the virtual functions that {} declares, or link the source that does", name);
  return finding;
}

std::optional<Finding> other_sources_template(const LinkScene& scene, const Unresolved& missing) {
  const std::string readable = readable_name(missing.symbol);
  if (readable.find('<') == std::string::npos) return std::nullopt;
  const std::string name = last_name(readable);
  if (name.empty()) return std::nullopt;
  for (const auto& source : scene.evidence().files_near(scene.command(), {".cpp", ".cc", ".cxx"})) {
    const auto text = read_text(source, largest_read);
    if (!text || !text::has_word(*text, name) || !defines_template(*text, name)) continue;
    const std::string shown = shown_in(scene, source);
    Finding finding = missing_name("missing-source", missing);
    finding.culprits.push_back(shown);
    finding.because.push_back(
        fmt::format("{} defines it as a template: compilers make it only where they see that definition", shown));
    finding.remedy = fmt::format(
        "move the definition into its header, or have {} make it for these types: an explicit instantiation", shown);
    return finding;
  }
  return std::nullopt;
}

std::optional<Finding> inline_of_c(const LinkScene& scene, const Unresolved& missing) {
  std::vector<fs::path> files = scene.evidence().files_near(scene.command(), {".h"});
  for (const auto& input : scene.inputs()) {
    if (const auto source = source_of(input, scene); source && source->extension() == ".c") files.push_back(*source);
  }
  for (const auto& file : files) {
    const auto text = read_text(file, largest_read);
    if (!text || !text::has_word(*text, missing.symbol) || !defines_inline_only(*text, missing.symbol)) continue;
    Finding finding = missing_name("undefined", missing);
    finding.culprits.push_back(shown_in(scene, file));
    finding.because.push_back(
        fmt::format("{} defines it inline: in C that gives the linker nothing", shown_in(scene, file)));
    finding.remedy = fmt::format("make it static inline in {}", shown_in(scene, file));
    return finding;
  }
  return std::nullopt;
}

}  // namespace

std::optional<Finding> unlinked_definition(const LinkScene& scene, const Unresolved& missing) {
  if (auto table = table_of_class(missing)) return table;
  if (auto of_template = other_sources_template(scene, missing)) return of_template;
  return inline_of_c(scene, missing);
}

}  // namespace fibula
