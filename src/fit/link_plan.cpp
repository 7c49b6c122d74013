#include "fit/link_plan.hpp"

#include <fibula/facts.hpp>
#include "base/text.hpp"
#include "binary/script.hpp"
#include "facts/library_name.hpp"
#include "facts/name_traits.hpp"
#include "fit/own_definers.hpp"
#include "index/library_search.hpp"
#include "link/line_builder.hpp"
#include "link/link_rules.hpp"
#include "link/mentions.hpp"
#include "link/providers.hpp"
#include "os/files.hpp"
#include "os/stamp.hpp"
#include "project/source_kind.hpp"
#include "toolchain/options.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

class LinkPlanner {
 public:
  LinkPlanner(Gathered::State& state, const LinkQuestion& question)
      : state_(state), files_(state.files), providers_(state.providers), q_(question) {}

  Result<LinkPlan> plan() {
    collect();
    find_program();
    const LinkSettings settings = settings_for(q_.output, q_.lane);
    const auto script_symbols = read_script(settings, said_);
    auto line = build_line(files_, providers_,
                           {.toolchain = q_.toolchain,
                            .output = q_.output.name,
                            .objects = objects_,
                            .pending = pending_,
                            .stand_in = stand_in_,
                            .allow_unresolved = q_.output.kind != OutputKind::program,
                            .script_symbols = script_symbols},
                           candidates_, needy_libraries());
    if (!line) return pass(line);
    keep_what_flags_name(*line);
    LinkPlan plan{.link = {q_.output.name, line->inputs, line->left_out, line->rehearsal.shared, settings}};
    // What a library defines that is not built yet, nobody knows: nothing can be called missing.
    if (pending_libraries_) {
      plan.misfits = std::move(said_);
      return plan;
    }
    OwnDefiners definers(state_, q_.lane, q_.output, q_.own, q_.choices);
    auto misfits = judge_link(files_, providers_, *line,
                              {.toolchain = q_.toolchain,
                               .shelf = q_.shelf,
                               .output = q_.output.name,
                               .shared = q_.output.kind == OutputKind::shared_library,
                               .attached = attached_names(),
                               .wanted = wanted_names(),
                               .own = [&](const std::string& symbol) { return definers.find(symbol); },
                               .built_here = [&](const fs::path& file) { return definers.built_here(file); },
                               .header_of_both = [&](const Duplicate& d) { return definers.header_of_both(d); }});
    if (!misfits) return pass(misfits);
    plan.misfits = std::move(said_);
    if (is_unknown()) soften(*misfits);
    for (auto& misfit : *misfits) plan.misfits.push_back(std::move(misfit));
    return plan;
  }

 private:
  void collect() {
    for (const auto& choice : q_.choices) {
      pending_libraries_ = pending_libraries_ || choice.is_pending();
      if (!choice.variant) continue;
      const std::string why = choice.chosen.required_by.empty()
                                  ? ""
                                  : fmt::format("{} requires {}", choice.chosen.required_by, choice.use.name);
      for (const auto& link : choice.variant->link)
        candidates_.push_back({.path = choice.card->root / link,
                               .library = choice.use.name,
                               .why = why,
                               .several = choice.variant->link.size() > 1,
                               .named = library_stem(link) == choice.use.name});
    }
    collect_given(q_.output);
    collect_from_flags();
    for (const auto& output : q_.project.outputs()) {
      const bool used = q_.output.uses &&
                        std::find(q_.output.uses->begin(), q_.output.uses->end(), output.name) != q_.output.uses->end();
      if (used && output.kind != OutputKind::program) collect_own(output);
    }
  }

  /// Archives among an output's sources.
  void collect_given(const Output& output) {
    for (const auto& file : state_.given_for(output, q_.lane)) {
      if (source_kind(file) == SourceKind::archive)
        candidates_.push_back(
            {.path = file, .library = output.name, .why = fmt::format("it is among the sources of {}", output.name)});
    }
  }

  /// Link inputs that flags name take part like others: found where the linker finds them, in an order that works.
  void collect_from_flags() {
    for (const auto& [flags, whose] : {std::pair{&q_.output.flags, fmt::format("output {}", q_.output.name)},
                                       std::pair{&q_.lane.flags, fmt::format("lane {}", q_.lane.name)}}) {
      std::vector<fs::path> folders = library_folders_in(*flags);
      for (auto& folder : folders) folder = absolute_path(q_.project.root() / folder);
      const auto& known = q_.toolchain.library_directories;
      folders.insert(folders.end(), known.begin(), known.end());
      for (const auto& input : link_inputs_in(*flags)) {
        const auto file = input.name.empty()
                              ? std::optional(absolute_path(q_.project.root() / input.word))
                              : find_library(folders, input.name, q_.toolchain.static_link, linking_of(q_.toolchain));
        if (!file || !stamp_of(*file).is_file()) {
          say_not_found(input.word, whose, known);
        } else if (source_kind(*file) == SourceKind::object) {
          given_objects_.push_back(*file);
        } else {
          candidates_.push_back(
              {.path = *file,
               .library = q_.output.name,
               .why = fmt::format("the flags of {} name {}", whose, input.word),
               .arguments = input.name.empty() ? std::vector<std::string>() : std::vector<std::string>{input.word}});
          from_flags_.insert(*file);
        }
      }
    }
  }

  /// People who write a flag mean it, and what the linker itself refers to no object shows.
  void keep_what_flags_name(BuiltLine& line) const {
    const auto named = [&](const LinkInput& input) { return from_flags_.contains(input.path); };
    std::copy_if(line.left_out.begin(), line.left_out.end(), std::back_inserter(line.inputs), named);
    std::erase_if(line.left_out, named);
  }

  void say_not_found(const std::string& word, const std::string& whose, const std::vector<fs::path>& folders) {
    said_.push_back({.rule = "input",
                     .subject = word,
                     .library = q_.output.name,
                     .evidence = {fmt::format("the flags of {} name {}", whose, word),
                                  fmt::format("it is not in any of the {} folders in which the linker looks, {} first",
                                              folders.size(), folders.empty() ? "" : folders.front().string())},
                     .remedy = fmt::format("attach the library that has it, or take {} out of the flags", word)});
  }

  /// A library that the project makes: linked where it is made already; else what its objects, or its sources, define
  /// will be there.
  void collect_own(const Output& output) {
    own_sources_of_.push_back(&output);
    collect_given(output);
    const auto own = q_.own.find(output.name);
    if (own == q_.own.end()) {
      all_compiled_ = false;
    } else if (!own->second.product.empty()) {
      candidates_.push_back({own->second.product, output.name});
    } else {
      pending_.insert(pending_.end(), own->second.objects.begin(), own->second.objects.end());
    }
  }

  /// What the lane says stands before what the output says.
  static LinkSettings settings_for(const Output& output, const Lane& lane) {
    LinkSettings settings = output.link;
    if (!lane.link.script.empty()) settings.script = lane.link.script;
    if (!lane.link.entry.empty()) settings.entry = lane.link.entry;
    if (!lane.link.subsystem.empty()) settings.subsystem = lane.link.subsystem;
    for (const auto& [section, address] : lane.link.sections) settings.sections[section] = address;
    return settings;
  }

  /// The names that the linker script defines; a script that is not there, or that the lane's linker cannot read, is
  /// told.
  std::vector<std::string> read_script(const LinkSettings& settings, std::vector<Misfit>& said) const {
    if (settings.script.empty() && settings.sections.empty()) return {};
    const Linking linking = linking_of(q_.toolchain);
    Misfit misfit{.rule = "placement", .subject = settings.script.string(), .library = q_.output.name};
    if (linking == Linking::msvc || linking == Linking::macho) {
      misfit.evidence = {
          fmt::format("{} asks for a linker script or places of sections", q_.project.file().string()),
          fmt::format("the linker of lane {}, {}, has no such thing", q_.lane.name, q_.toolchain.linker.string())};
      misfit.remedy = "move linker-script and sections from the output to the lanes that are for GNU-style linkers";
      said.push_back(std::move(misfit));
      return {};
    }
    if (settings.script.empty()) return {};
    const auto text = read_text(settings.script);
    if (text) return assigned_symbols(*text);
    misfit.evidence = {fmt::format("{} names it as linker-script", q_.project.file().string()),
                       fmt::format("{} {}", settings.script.string(), text.error().what)};
    misfit.remedy = "write its path as seen from fibula.toml, or put it there";
    said.push_back(std::move(misfit));
    return {};
  }

  /// The program's objects when they are given, else what its sources mention.
  void find_program() {
    const auto own = q_.own.find(q_.output.name);
    if (all_compiled_ && !pending_libraries_ && own != q_.own.end() && !own->second.objects.empty()) {
      objects_ = own->second.objects;
      objects_.insert(objects_.end(), given_objects_.begin(), given_objects_.end());
      return;
    }
    if (own != q_.own.end() && !own->second.names.empty() && own->second.objects.empty()) {
      stand_in_.defines = entry_names({}, object_target());
      stand_in_.needs = own->second.names;
      return;
    }
    auto identifiers = is_unknown() ? declared_by_libraries() : state_.mentions_of(q_.output.name);
    for (const auto* output : own_sources_of_) {
      const auto& more = state_.mentions_of(output->name);
      identifiers.insert(more.begin(), more.end());
    }
    const Target objects = object_target();
    stand_in_.defines = entry_names(identifiers, objects);
    rename_main(objects);
    for (const auto& candidate : candidates_) {
      if (auto file = files_.open(candidate.path, q_.toolchain.target))
        stand_in_.needs.merge(mentioned_symbols(**file, identifiers, objects));
    }
    for (const auto& name : stand_in_.defines) stand_in_.needs.erase(name);
  }

  /// Headers of libraries that carry the entry themselves give the program's main another name.
  void rename_main(const Target& objects) {
    const std::string main = (has_c_underscore(objects) ? "_" : "") + std::string("main");
    const auto brings_entry = [&](const Choice& choice) {
      return choice.card != nullptr && choice.variant != nullptr &&
             std::any_of(choice.variant->link.begin(), choice.variant->link.end(), [&](const std::string& link) {
               const auto file = inspect(choice.card->root / link);
               return file && file->entry;
             });
    };
    for (const auto& choice : q_.choices) {
      if (!brings_entry(choice)) continue;
      for (const auto& header : choice.card->public_headers) {
        const auto text = read_text(choice.card->root / header);
        if (!text) continue;
        for (const auto line : text::lines(*text)) {
          const auto words = text::words(line);
          const bool renames = words.size() == 3 && words[0] == "#define" && words[1] == "main";
          if (renames && stand_in_.defines.erase(main) != 0)
            stand_in_.defines.insert((has_c_underscore(objects) ? "_" : "") + std::string(words[2]));
        }
      }
    }
  }

  /// Nothing is known of what it calls.
  bool is_unknown() const { return q_.output.made_elsewhere && !q_.own.contains(q_.output.name); }

  /// What any program could call.
  std::set<std::string, std::less<>> declared_by_libraries() const {
    std::vector<fs::path> headers;
    for (const auto& choice : q_.choices) {
      for (const auto& header : choice.card ? choice.card->public_headers : std::vector<std::string>())
        headers.push_back(choice.card->root / header);
    }
    return identifiers_in_files(headers);
  }

  /// What is missing for a part of a library keeps nobody from linking a program that does not use it.
  void soften(std::vector<Misfit>& misfits) const {
    for (auto& misfit : misfits) {
      if (misfit.rule != "undefined" || misfit.verdict != Verdict::misfit) continue;
      misfit.verdict = Verdict::caution;
      misfit.evidence.emplace_back("nothing is known of the program yet: one that does not use it links all the same");
    }
  }

  /// What the lane's objects are: a PE lane's are COFF files.
  Target object_target() const {
    Target target = q_.toolchain.target;
    if (target.format == Format::pe) target.format = Format::coff;
    return target;
  }

  /// The functions with which programs begin, as far as the sources have them.
  static std::set<std::string> entry_names(const std::set<std::string, std::less<>>& identifiers,
                                           const Target& objects) {
    const std::string underscore = has_c_underscore(objects) ? "_" : "";
    std::set<std::string> names{underscore + "main"};
    if (objects.format != Format::coff) return names;
    const bool decorated = objects.arch == Arch::x86;
    for (const char* name : {"wmain", "WinMain", "wWinMain"}) {
      if (!identifiers.contains(name)) continue;
      const bool windows = std::string_view(name) != "wmain";
      names.insert(underscore + name + (decorated && windows ? "@16" : ""));
    }
    return names;
  }

  /// What the program's own code asks for; of several libraries each may have it.
  std::set<std::string> wanted_names() {
    if (q_.choices.size() < 2) return {};
    if (objects_.empty()) return stand_in_.needs;
    std::set<std::string> wanted, defined;
    for (const auto& path : objects_) {
      auto file = files_.open(path);
      auto object = file ? (*file)->object(0) : fail(file.error());
      if (!object) continue;
      for (const auto& symbol : (*object)->symbols)
        (symbol.defined ? defined : wanted).emplace(files_.names().text(symbol.name));
    }
    for (const auto& name : defined) wanted.erase(name);
    return wanted;
  }

  std::set<std::string> attached_names() const {
    std::set<std::string> names;
    for (const auto& use : q_.project.libraries()) names.insert(use.name);
    return names;
  }

  /// What the cards say of the libraries' needs.
  std::map<fs::path, NeedyLibrary> needy_libraries() const {
    std::map<fs::path, NeedyLibrary> needy;
    for (const auto& choice : q_.choices) {
      if (!choice.variant) continue;
      NeedyLibrary library{.card = choice.card->entry / "card.toml", .system_inputs = choice.variant->system_inputs};
      for (const auto& variant : choice.card->variants) {
        if (variant.target == choice.variant->target)
          library.run_time_needs.insert(variant.needs.begin(), variant.needs.end());
      }
      for (const auto& link : choice.variant->link) needy[choice.card->root / link] = library;
    }
    return needy;
  }

  Gathered::State& state_;
  FileStore& files_;
  ProviderStore& providers_;
  const LinkQuestion& q_;
  std::vector<Candidate> candidates_;
  std::vector<const Output*> own_sources_of_;
  std::vector<fs::path> objects_;
  std::vector<fs::path> given_objects_;  ///< that flags name
  std::set<fs::path> from_flags_;
  std::vector<Misfit> said_;  ///< about what the project file asks for
  std::vector<fs::path> pending_;
  bool all_compiled_ = true;        ///< every own library that it uses has objects
  bool pending_libraries_ = false;  ///< some come as source and are not built yet
  StandIn stand_in_;
};

}  // namespace

Result<LinkPlan> plan_link(Gathered::State& state, const LinkQuestion& question) {
  return LinkPlanner(state, question).plan();
}

}  // namespace fibula
