#include "choose/source_plan.hpp"

#include "base/digest.hpp"
#include "base/text.hpp"
#include "base/toml.hpp"
#include "card/placeholders.hpp"
#include "card/source_form.hpp"
#include "choose/import_sides.hpp"
#include "choose/picks.hpp"
#include "headers/header_folders.hpp"
#include "headers/header_roots.hpp"
#include "os/file_digest.hpp"
#include "os/files.hpp"
#include "os/stamp.hpp"
#include "shelf/built.hpp"
#include "take/file_roles.hpp"
#include "toolchain/cache.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

/// Raised when the same sources and flags would be built otherwise.
constexpr int built_form = 1;

bool holds(const std::vector<std::string>& names, const std::string& name) {
  return names.empty() || std::find(names.begin(), names.end(), name) != names.end();
}

void append(std::vector<std::string>& to, const std::vector<std::string>& from) {
  to.insert(to.end(), from.begin(), from.end());
}

bool is_pattern(const std::string& name) {
  return name.find_first_of("*?") != std::string::npos;
}

Result<std::string> content_of(const SourcePlan& plan) {
  std::string text;
  for (const auto& file : plan.watched) {
    const auto digest = quick_digest_of_file(file);
    if (!digest) return fail(digest.error());
    text += fmt::format("{} {:016x}\n", shown_from(plan.card->root, file), *digest);
  }
  return text;
}

class SourcePlanner {
 public:
  SourcePlanner(const Card& card, const Choice& choice, const Chooser& chooser, const RequirementKeys& requirements)
      : card_(card), use_(choice.use), chooser_(chooser), requirements_(requirements) {
    plan_.card = &card;
  }

  Result<SourcePlan> plan() {
    plan_.linkage = use_.linkage == Linkage::shared ? Linkage::shared : Linkage::static_;
    if (plan_.linkage == Linkage::shared && chooser_.toolchain.bare_metal())
      refuse(fmt::format("the project asks for it as a shared library"),
             fmt::format("lane {} is for a machine without a loader", chooser_.lane.name),
             fmt::format("ask for another linkage in this lane: [lane.{}.library.{}] linkage = \"static\"",
                         chooser_.lane.name, card_.name));
    pick_choices();
    add_set(card_.source);
    for (const auto& choice : card_.source.choices) add_picked(choice);
    for (const auto& part : card_.source.parts) {
      if (applies(part)) add_set(part.set);
    }
    plan_.steps = card_.source.steps;
    check_sources();
    settle();
    for (const auto& [name, key] : requirements_) plan_.needs.push_back(name);
    if (auto keyed = make_key(); !keyed) return fail(keyed.error());
    return std::move(plan_);
  }

 private:
  void refuse(std::string because, std::string further, std::string remedy) {
    if (plan_.problem) return;
    plan_.problem = Misfit{.rule = "source",
                           .subject = card_.name,
                           .library = card_.name,
                           .evidence = {std::move(because), std::move(further)},
                           .remedy = std::move(remedy)};
  }

  std::string card_file() const { return (card_.entry / "card.toml").string(); }

  void pick_choices() {
    for (const auto& choice : card_.source.choices) plan_.choices[choice.name] = choice.by_default;
    // What its own steps make is known when they have made it.
    const bool made_by_steps = !card_.source.steps.empty() && card_.source.choices.empty();
    for (auto& wrong : made_by_steps ? std::vector<WrongPick>() : wrong_picks(card_, use_, chooser_.project))
      refuse(std::move(wrong.evidence[0]), std::move(wrong.evidence[1]), std::move(wrong.remedy));
    for (const auto& [name, picked] : use_.choices) {
      if (plan_.choices.contains(name)) plan_.choices[name] = picked;
    }
  }

  void add_picked(const SourceChoice& choice) {
    for (const auto& one : choice.alternatives) {
      if (one.name == plan_.choices.at(choice.name)) add_set(one.set);
    }
  }

  /// A later set can bring back what an earlier one leaves out.
  void add_set(const SourceSet& set) {
    sources_.merge(matching(set.compile, true));
    for (const auto& file : matching(set.leave_out, false)) sources_.erase(file);
    for (const auto member : {&SourceSet::include_directories, &SourceSet::definitions, &SourceSet::user_definitions,
                              &SourceSet::flags, &SourceSet::user_flags})
      append(set_.*member, set.*member);
  }

  bool applies(const SourcePart& part) const {
    const Target& target = chooser_.toolchain.target;
    const auto picked = [&](const std::string& text) {
      const size_t at = text.find('=');
      const auto found = plan_.choices.find(text.substr(0, at));
      return found != plan_.choices.end() && at != std::string::npos && found->second == text.substr(at + 1);
    };
    return holds(part.archs, std::string(to_string(target.arch))) &&
           holds(part.systems, system_name(chooser_.toolchain)) &&
           holds(part.formats, std::string(to_string(target.format))) && holds(part.lanes, chooser_.lane.name) &&
           std::all_of(part.choices.begin(), part.choices.end(), picked);
  }

  /// Every name must be there and every pattern find something: what is missing would be looked for in the link.
  std::set<fs::path> matching(const std::vector<std::string>& patterns, bool must_match) {
    std::set<fs::path> found;
    for (const auto& pattern : patterns) {
      std::vector<fs::path> files;
      if (is_pattern(pattern)) {
        files = files_matching(card_.root, pattern);
      } else if (stamp_of(card_.root / pattern).is_file()) {
        files = {card_.root / pattern};
      }
      if (files.empty() && must_match)
        refuse(fmt::format("{} names {} among the sources", card_file(), toml::quote(pattern)),
               fmt::format("nothing in {} is called so", card_.root.string()),
               "correct the card, or take the library again with --replace");
      found.insert(files.begin(), files.end());
    }
    return found;
  }

  /// By the folder in which most of its code lies.
  std::string proposed_patterns() const {
    std::string folder = "src", ending = "c";
    size_t most = 0;
    for (const std::string_view one : {"c", "cc", "cpp", "cxx"}) {
      std::map<std::string, size_t> by_folder;
      for (const auto& file : files_matching(card_.root, fmt::format("**/*.{}", one))) {
        if (role_of(shown_from(card_.root, file)) == Role::source)
          ++by_folder[shown_from(card_.root, file.parent_path())];
      }
      for (const auto& [where, files] : by_folder) {
        if (files <= most) continue;
        most = files;
        folder = where;
        ending = one;
      }
    }
    const std::string place = folder == "." || folder.empty() ? "" : folder + "/";
    return fmt::format("[source] compile = [{}]", toml::quote(fmt::format("{}*.{}", place, ending)));
  }

  void check_sources() {
    plan_.sources.assign(sources_.begin(), sources_.end());
    if (plan_.sources.empty() && plan_.steps.empty())
      refuse(fmt::format("{} {} comes as source", card_.name, card_.version),
             fmt::format("{} names none to compile for lane {}", card_file(), chooser_.lane.name),
             "name them in the card: " + proposed_patterns());
  }

  void settle() {
    for (const auto& directory : set_.include_directories) add_directory(directory);
    for (const auto& directory : card_.include_directories) add_directory(directory);
    for (const auto& definition : set_.definitions) plan_.definitions.push_back(filled(definition));
    plan_.user_definitions = set_.user_definitions;
    append(plan_.user_definitions, use_.definitions);
    if (plan_.steps.empty()) add_import_sides();
    plan_.flags = set_.flags;
    plan_.user_flags = set_.user_flags;
    plan_.standard = card_.source.standard;
    for (const auto& header : card_.source.headers) {
      plan_.headers.push_back(header);
      plan_.headers.back().text = filled(header.text);
    }
  }

  void add_import_sides() {
    const auto sides = import_sides(card_, chooser_.toolchain, plan_.linkage);
    append(plan_.definitions, sides.own);
    for (const auto& macro : sides.users) {
      const bool said = std::any_of(plan_.user_definitions.begin(), plan_.user_definitions.end(),
                                    [&](const std::string& one) { return one.substr(0, one.find('=')) == macro; });
      if (!said) plan_.user_definitions.push_back(macro);
    }
  }

  void add_directory(const std::string& directory) {
    fs::path path = (card_.root / directory).lexically_normal();
    auto& all = plan_.include_directories;
    if (std::find(all.begin(), all.end(), path) == all.end()) all.push_back(std::move(path));
  }

  std::string filled(std::string text) const {
    const Toolchain& toolchain = chooser_.toolchain;
    text = fibula::filled(std::move(text), {{"@bits@", fmt::format("{}", toolchain.target.bits)},
                                            {"@pointer-bytes@", fmt::format("{}", toolchain.target.bits / 8)},
                                            {"@big-endian@", toolchain.target.endian == Endian::big ? "1" : "0"},
                                            {"@arch@", std::string(to_string(toolchain.target.arch))},
                                            {"@system@", system_name(toolchain)}});
    return with_version(std::move(text), card_.version);
  }

  /// What the compiler is and answers, without the places of this machine.
  std::string toolchain_text() const {
    const Toolchain& toolchain = chooser_.toolchain;
    std::string text = fmt::format("{} {} {} {} {}\n", to_string(toolchain.family), toolchain.version,
                                   to_string(toolchain.target), toolchain.cxx, toolchain.linker_version);
    for (const auto& [id, answer] : toolchain.answers) text += fmt::format("{} {}\n", id, to_text(answer));
    for (const auto& variable : influencing_environment()) text += variable + "\n";
    return text;
  }

  Result<void> make_key() {
    std::string text = fmt::format("built {}\n{} {}\n", built_form, card_.name, card_.version);
    text += toolchain_text();
    const auto add = [&](std::string_view what, const std::vector<std::string>& words) {
      text += fmt::format("{} {}\n", what, toml::quote_list(words));
    };
    text += fmt::format("{} {} {}\n", chooser_.lane.configuration, to_string(plan_.linkage), plan_.standard);
    add("lane-flags", flags_for_libraries(chooser_.lane.flags));
    add("lane-definitions", chooser_.lane.definitions);
    add("definitions", plan_.definitions);
    add("user-definitions", plan_.user_definitions);
    add("flags", plan_.flags);
    add("user-flags", plan_.user_flags);
    add("headers", set_.include_directories);
    add("public", card_.include_directories);
    add("steps", plan_.steps);
    for (const auto& [name, picked] : plan_.choices) text += fmt::format("{} = {}\n", name, picked);
    for (const auto& header : plan_.headers) text += fmt::format("{} {}\n", header.path, toml::quote(header.text));
    for (const auto& source : plan_.sources) text += shown_from(card_.root, source) + "\n";
    for (const auto& [name, key] : requirements_) text += fmt::format("needs {} {}\n", name, key);
    const auto content = content_text();
    if (!content) return fail(content.error());
    plan_.key = sha256(text + *content).substr(0, 40);
    return {};
  }

  /// What is on a shelf stays as it is. What lies in a folder of its own does not: it counts by its content.
  Result<std::string> content_text() {
    if (!card_.is_open()) return card_.digest;
    auto files = files_below(card_.root);
    if (!files) return pass(files);
    const std::set<fs::path> sources(plan_.sources.begin(), plan_.sources.end());
    for (const auto& file : *files) {
      const std::string name = file.generic_string();
      if (name.starts_with('.')) continue;
      const bool counts =
          !plan_.steps.empty() || is_header_name(name) || name.ends_with(".inc") || sources.contains(card_.root / file);
      if (counts) plan_.watched.push_back(card_.root / file);
    }
    auto content = content_of(plan_);
    if (content) plan_.content = *content;
    return content;
  }

  const Card& card_;
  const LibraryUse& use_;
  const Chooser& chooser_;
  const RequirementKeys& requirements_;
  SourceSet set_;  ///< what holds for this lane, without sources
  std::set<fs::path> sources_;
  SourcePlan plan_;
};

}  // namespace

std::vector<std::string> flags_for_libraries(const std::vector<std::string>& flags) {
  std::vector<std::string> kept;
  for (const auto& flag : flags) {
    const bool handed_on = flag.starts_with("-Wl,") || flag.starts_with("-Wa,") || flag.starts_with("-Wp,");
    const bool warns = (flag.starts_with("-W") && !handed_on) || flag.starts_with("-pedantic");
    if (!warns) kept.push_back(flag);
  }
  return kept;
}

std::string SourcePlan::place() const {
  return fmt::format("{}/{}/{}/{}", built_folder, card->name, card->version, key);
}

std::string SourcePlan::work() const {
  return steps.empty() ? text::count(sources.size(), "source") + " to compile" : "its own build steps";
}

Result<SourcePlan> plan_source(const Card& card, const Choice& choice, const Chooser& chooser,
                               const RequirementKeys& requirements) {
  return SourcePlanner(card, choice, chooser, requirements).plan();
}

bool is_unchanged(const SourcePlan& plan) {
  const auto now = content_of(plan);
  return now && *now == plan.content;
}

namespace {

/// `fribidi.h` of the tree was installed as `fribidi/fribidi.h`: the folders that its users, who write it as the tree
/// does, need besides. None that would hide a header of the system.
std::vector<std::string> folders_for_names_of_the_tree(const Card& tree, const Card& outcome) {
  std::vector<std::string> folders;
  const auto is_reached = [&](const std::string& name) {
    return std::any_of(outcome.public_headers.begin(), outcome.public_headers.end(), [&](const std::string& header) {
      return included_as(header, outcome.include_directories) == name || included_as(header, folders) == name;
    });
  };
  const auto hides_something = [&](const std::string& folder) {
    return std::any_of(outcome.public_headers.begin(), outcome.public_headers.end(), [&](const std::string& header) {
      const std::string name = included_as(header, {folder});
      return !name.empty() && comes_with_system(name);
    });
  };
  for (const auto& header : tree.public_headers) {
    const std::string name = included_as(header, tree.include_directories);
    if (name.empty() || is_reached(name)) continue;
    for (const auto& made : outcome.public_headers) {
      if (!made.ends_with("/" + name)) continue;
      const std::string folder = made.substr(0, made.size() - name.size() - 1);
      if (hides_something(folder)) continue;
      folders.push_back(folder);
      break;
    }
  }
  return folders;
}

}  // namespace

Card built_card(const SourcePlan& plan, const Card& outcome) {
  Card card = *plan.card;
  card.source = {};
  card.variants = outcome.variants;
  if (!plan.steps.empty()) {
    // Its steps have installed everything that users need.
    card.root = outcome.root;
    card.include_directories = outcome.include_directories;
    append(card.include_directories, folders_for_names_of_the_tree(*plan.card, outcome));
    card.public_headers = outcome.public_headers;
    card.files.data = outcome.files.data;
    return card;
  }
  for (auto& variant : card.variants) {
    for (const auto member : {&Variant::link, &Variant::runtime, &Variant::include_directories}) {
      for (auto& file : variant.*member) file = (outcome.root / file).string();
    }
  }
  return card;
}

std::string built_variant_id(const SourcePlan& plan, const Target& target, const std::string& configuration) {
  return fmt::format("{}-{}-{}-{}", to_string(target.arch), to_string(target.format), to_string(plan.linkage),
                     configuration);
}

Variant promised_variant(const SourcePlan& plan, const Chooser& chooser) {
  return {.id = built_variant_id(plan, chooser.toolchain.target, chooser.lane.configuration),
          .target = chooser.toolchain.target,
          .linkage = plan.linkage,
          .configuration = chooser.lane.configuration,
          .definitions = plan.user_definitions,
          .flags = plan.user_flags};
}

}  // namespace fibula
