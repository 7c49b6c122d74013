#include "fit/own_definers.hpp"

#include "base/text.hpp"
#include "base/toml.hpp"
#include "choose/picks.hpp"
#include "choose/source_plan.hpp"
#include "facts/mangling.hpp"
#include "headers/declarations.hpp"
#include "headers/definition_forms.hpp"
#include "headers/shared_definition.hpp"
#include "link/providers.hpp"
#include "os/files.hpp"
#include "project/grammar.hpp"
#include "project/own_making.hpp"
#include "project/source_kind.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// Looking through a folder is for projects, not for disks.
constexpr size_t most_files = 20'000;

/// The name as a source has it: without namespaces and parameters.
std::string written_name(const std::string& symbol) {
  std::string name = readable_name(symbol);
  name = name.substr(0, name.find('('));
  const size_t scope = name.rfind("::");
  if (scope != std::string::npos) name = name.substr(scope + 2);
  return name;
}

/// Whether assembly has a label of this name.
bool has_label(std::string_view text, std::string_view name) {
  for (auto line : text::lines(text)) {
    line = text::trim(line);
    if (line.starts_with(name) && text::trim(line.substr(name.size())).starts_with(':')) return true;
  }
  return false;
}

/// Of a source that a library's card compiles on some systems alone: which.
std::vector<std::string> systems_of(const Card& card, const std::string& file) {
  std::vector<std::string> systems;
  for (const auto& part : card.source.parts) {
    const auto& sources = part.set.compile;
    if (std::find(sources.begin(), sources.end(), file) != sources.end())
      systems.insert(systems.end(), part.systems.begin(), part.systems.end());
  }
  return systems;
}

}  // namespace

bool OwnDefiners::is_in(const fs::path& source, const std::string& name) {
  const SourceKind kind = source_kind(source);
  const bool assembly = kind == SourceKind::assembly || kind == SourceKind::nasm;
  return assembly ? has_label(text_of(source), name) : shows_name(text_of(source), name);
}

const std::string& OwnDefiners::text_of(const fs::path& source) {
  const auto [found, fresh] = texts_.try_emplace(source);
  if (fresh) found->second = read_text(source).value_or("");
  return found->second;
}

/// Sources below the project's folder that belong to no output.
const std::vector<fs::path>& OwnDefiners::unlisted() {
  if (!unlisted_) look_through_folder();
  return *unlisted_;
}

void OwnDefiners::look_through_folder() {
  unlisted_.emplace();
  std::set<fs::path> listed;
  for (const auto& [name, sources] : state_.sources) listed.insert(sources.begin(), sources.end());
  const fs::path root = state_.project.root();
  for (const auto& file : files_below(root, most_files).value_or(std::vector<fs::path>())) {
    const bool hidden = file.begin()->string().starts_with(".");
    if (hidden) continue;
    if (is_grammar_name(file)) grammars_.push_back(root / file);
    if (is_compiled(source_kind(file)) && !listed.contains(root / file)) unlisted_->push_back(root / file);
  }
}

bool OwnDefiners::is_defined_by(const Output& other, const std::string& symbol, const std::string& name) {
  // Made already, it tells for certain; else its sources do, as far as they can.
  if (const auto own = own_.find(other.name); own != own_.end() && !own->second.product.empty())
    return defines(state_.files, own->second.product, symbol).value_or(false);
  const auto sources = state_.sources_for(other, lane_);
  return std::any_of(sources.begin(), sources.end(), [&](const auto& file) { return is_in(file, name); });
}

std::optional<OwnDefiner> OwnDefiners::in_output(const Output& other, const std::string& symbol,
                                                 const std::string& name) {
  if (!is_defined_by(other, symbol, name)) return std::nullopt;
  if (other.kind != OutputKind::program) {
    std::vector<std::string> uses = output_.uses.value_or(std::vector<std::string>());
    if (!output_.uses) {
      for (const auto& library : state_.project.libraries()) uses.push_back(library.name);
    }
    uses.push_back(other.name);
    return OwnDefiner{
        fmt::format("output {} of this project defines it, and {} does not use it", other.name, output_.name),
        fmt::format("give output {} uses = {}", output_.name, toml::quote_list(uses))};
  }
  return OwnDefiner{
      fmt::format("it is defined in the sources of {}, which is a program", other.name),
      fmt::format("list the source that has it among those of {} too, or make a library of it", output_.name)};
}

/// What a library that was built here has, and leaves out of its build.
std::optional<OwnDefiner> OwnDefiners::in_library(const Choice& choice, const std::string& name) {
  const Card& card = *choice.source->card;
  const auto& compiled = choice.source->sources;
  for (const auto& file : files_below(card.root, most_files).value_or(std::vector<fs::path>())) {
    const fs::path source = card.root / file;
    if (is_grammar_name(file) && defines_by_grammar(source, text_of(source), name)) {
      const auto made = source_of_grammar(source);
      return OwnDefiner{fmt::format("{} of {} {} defines it, and no C source made of that is there",
                                    file.generic_string(), card.name, card.version),
                        fmt::format("where it was taken from: {}; then take it again, with --replace",
                                    made.command.empty()
                                        ? fmt::format("make {}, by its makefile", made.name)
                                        : fmt::format("{}, in the folder of {}", made.command, file.generic_string()))};
    }
    if (!is_compiled(source_kind(file)) || std::find(compiled.begin(), compiled.end(), source) != compiled.end() ||
        !is_in(source, name))
      continue;
    if (const auto systems = systems_of(card, file.generic_string()); !systems.empty())
      return OwnDefiner{
          fmt::format("{} of {} {} defines it, which is compiled for {} alone", file.generic_string(), card.name,
                      card.version, text::join(systems, " and ")),
          fmt::format("{0} is not whole for this lane's system: do without it there, or take a version that is; if {1} "
                      "works there too, say so in {2}",
                      card.name, file.generic_string(), (card.entry / "card.toml").string())};
    return OwnDefiner{fmt::format("{} of {} {} defines it, and is not compiled into the library in this lane",
                                  file.generic_string(), card.name, card.version),
                      fmt::format("name {} in {}, [source] compile, or pick the choice that has it",
                                  toml::quote(file.generic_string()), (card.entry / "card.toml").string())};
  }
  return std::nullopt;
}

std::optional<OwnDefiner> OwnDefiners::in_other_pick(const Choice& choice, const std::string& symbol) {
  if (!choice.variant || choice.variant->choices.empty()) return std::nullopt;
  const Card& card = *choice.card;
  for (const auto& other : card.variants) {
    if (other.choices == choice.variant->choices || other.target != choice.variant->target ||
        other.linkage != choice.variant->linkage || other.configuration != choice.variant->configuration)
      continue;
    for (const auto& file : other.link) {
      if (!defines(state_.files, card.root / file, symbol).value_or(false)) continue;
      const std::string picked = written_picks(other.choices);
      return OwnDefiner{
          fmt::format("{} of {} {} defines it, which {} would link", file, card.name, card.version, picked),
          fmt::format("write choices = {{ {} }} in fibula.toml, [library.{}]", picked, toml::key(card.name))};
    }
  }
  return std::nullopt;
}

/// C sources of the output itself that have it, and give the linker nothing of it.
std::optional<OwnDefiner> OwnDefiners::in_inline_form(const std::string& name) {
  for (const auto& source : state_.sources_for(output_, lane_)) {
    if (source_kind(source) != SourceKind::c || !defines_inline_only(text_of(source), name)) continue;
    const std::string shown = shown_from(state_.project.root(), source);
    return OwnDefiner{fmt::format("{} defines it inline: in C that gives the linker nothing", shown),
                      fmt::format("make it static inline in {}", shown)};
  }
  return std::nullopt;
}

/// What `only-for` keeps from this lane.
std::optional<OwnDefiner> OwnDefiners::for_other_lanes(const std::string& name) {
  if (output_.only_for.empty()) return std::nullopt;
  const auto taken = state_.sources_for(output_, lane_);
  for (const auto& source : state_.sources.at(output_.name)) {
    if (std::find(taken.begin(), taken.end(), source) != taken.end() || !is_in(source, name)) continue;
    return OwnDefiner{
        fmt::format("{} defines it, and only-for keeps it from lane {}", shown_from(state_.project.root(), source),
                    lane_.name),
        fmt::format("correct only-for of output {}, or add a source that has it for this lane", output_.name)};
  }
  return std::nullopt;
}

std::optional<OwnDefiner> OwnDefiners::in_grammar(const std::string& name) {
  if (!unlisted_) look_through_folder();
  const fs::path root = state_.project.root();
  for (const auto& grammar : grammars_) {
    if (name == "yywrap" && is_scanner(grammar, text_of(grammar)))
      return OwnDefiner{
          fmt::format("the scanner made of {} calls it at the end of its input", shown_from(root, grammar)),
          fmt::format("define it in a source of {}: int yywrap(void) {{ return 1; }}", output_.name)};
    if (!defines_by_grammar(grammar, text_of(grammar), name)) continue;
    const fs::path folder = grammar.parent_path();
    const std::string place = folder == root ? "this folder" : shown_from(root, folder);
    const auto made = source_of_grammar(grammar);
    const std::string file = shown_from(root, folder / made.name);
    const bool listed = std::any_of(output_.sources.begin(), output_.sources.end(),
                                    [&](const std::string& pattern) { return text::glob_matches(pattern, file); });
    return OwnDefiner{
        fmt::format("{} defines it, and no C source made of that is compiled", shown_from(root, grammar)),
        (made.rule ? how_to_make(*made.rule, place, root) : fmt::format("{}, in {}", made.command, place)) +
            (listed ? "" : fmt::format(", and add {} to the sources of {}", toml::quote(file), output_.name))};
  }
  return std::nullopt;
}

std::optional<OwnDefiner> OwnDefiners::built_here(const fs::path& file) const {
  for (const auto& choice : choices_) {
    if (!choice.source || !choice.source->steps.empty() || !choice.variant) continue;
    const auto& link = choice.variant->link;
    const auto is_it = [&](const std::string& one) { return choice.card->root / one == file; };
    if (std::none_of(link.begin(), link.end(), is_it)) continue;
    const Card& card = *choice.source->card;
    fs::path own;
    for (const auto& source : choice.source->sources) {
      for (const auto& folder : folders_up_to(source.parent_path(), card.root)) {
        if (own.empty()) own = own_build_in(folder);
      }
    }
    const std::string card_file = (card.entry / "card.toml").string();
    return OwnDefiner{
        fmt::format("{} {} was built here, of sources that define no such name", card.name, card.version),
        own.empty()
            ? fmt::format("correct the name in its source, add what defines it to [source] in {}, or attach the "
                          "library that has it",
                          card_file)
            : fmt::format("see in {} how its own build makes it, and correct [source] in {}; or attach the "
                          "library that has it",
                          own.string(), card_file)};
  }
  return std::nullopt;
}

std::optional<OwnDefiner> OwnDefiners::find(const std::string& symbol) {
  const std::string name = written_name(symbol);
  if (auto found = in_inline_form(name)) return found;
  if (auto found = for_other_lanes(name)) return found;
  for (const auto& other : state_.project.outputs()) {
    if (other.name == output_.name) continue;
    if (auto found = in_output(other, symbol, name)) return found;
  }
  for (const auto& choice : choices_) {
    if (!choice.source || !choice.source->steps.empty()) continue;
    if (auto found = in_library(choice, name)) return found;
  }
  for (const auto& choice : choices_) {
    if (auto found = in_other_pick(choice, symbol)) return found;
  }
  if (auto found = in_grammar(name)) return found;
  for (const auto& source : unlisted()) {
    if (!is_in(source, name)) continue;
    const std::string shown = shown_from(state_.project.root(), source);
    return OwnDefiner{fmt::format("{} defines it, and belongs to no output", shown),
                      fmt::format("add {} to the sources of {}", toml::quote(shown), output_.name)};
  }
  return std::nullopt;
}

std::optional<std::string> OwnDefiners::header_of_both(const Duplicate& duplicate) const {
  std::vector<fs::path> both;
  for (const auto& source : state_.sources.at(output_.name)) {
    const std::string object = source.filename().string() + ".o";
    if (object == duplicate.first || object == duplicate.second) both.push_back(source);
  }
  // Two of one name in different folders are not told apart by it.
  if (both.size() != 2) return std::nullopt;
  std::vector<fs::path> folders;
  for (const auto& folder : output_.headers) folders.push_back(state_.project.root() / folder);
  const auto header = header_that_defines(written_name(duplicate.symbol), both, folders);
  return header ? std::optional(shown_from(state_.project.root(), *header)) : std::nullopt;
}

}  // namespace fibula
