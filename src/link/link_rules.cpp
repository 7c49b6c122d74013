#include "link/link_rules.hpp"

#include "base/text.hpp"
#include "facts/facts.hpp"
#include "facts/library_name.hpp"
#include "index/defined_names.hpp"
#include "index/library_search.hpp"
#include "link/near_name.hpp"
#include "link/providers.hpp"
#include "os/files.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

std::string shown(const std::string& symbol) {
  const std::string readable = readable_name(symbol);
  return readable == symbol ? symbol : fmt::format("{} ({})", readable, symbol);
}

std::string remedy_for(const Provider& provider, const LinkContext& context) {
  if (context.attached.contains(provider.library))
    return fmt::format(
        "{} is attached, and another variant or version of it was chosen, or {} does not use it: look at "
        "fibula fit --why {}",
        provider.library, context.output, provider.library);
  return (provider.library.empty() ? "take and attach it: " : "attach it: ") + attach_command(provider);
}

std::string user_of(const Unresolved& missing) {
  return missing.place.empty() ? missing.needed_by : fmt::format("{}, {}", missing.needed_by, missing.place);
}

/// An input that has the name, and still it is missing: it stands before the one that needs it.
Result<const LinkInput*> input_with(FileStore& files, const std::vector<LinkInput>& inputs, const std::string& symbol) {
  for (const auto& input : inputs) {
    auto found = defines(files, input.path, symbol);
    if (!found) return pass(found);
    if (*found) return &input;
  }
  return nullptr;
}

Misfit order_misfit(const Unresolved& missing, const LinkInput& definer) {
  return {.rule = "order",
          .subject = missing.symbol,
          .library = definer.library,
          .evidence = {fmt::format("{} needs {}", user_of(missing), shown(missing.symbol)),
                       fmt::format("{} defines it, and stands before that on the line", definer.path.string())},
          .remedy = fmt::format("put {} behind {}", definer.path.filename().string(), missing.needed_by)};
}

/// Names that are missing, with who needs them.
Misfit undefined_names(const std::vector<const Unresolved*>& missing, const LinkContext& context) {
  Misfit misfit{.rule = "undefined", .subject = missing.front()->symbol, .library = context.output};
  constexpr size_t most = 4;
  for (size_t i = 0; i < std::min(missing.size(), most); ++i) {
    misfit.evidence.push_back(fmt::format("{} is needed by {}", shown(missing[i]->symbol), user_of(*missing[i])));
  }
  if (missing.size() > most) misfit.evidence.push_back(fmt::format("and {} more", missing.size() - most));
  return misfit;
}

/// All names that one provider has, or that none has, in one misfit.
Misfit undefined_misfit(const std::vector<const Unresolved*>& missing, const Provider* provider,
                        const LinkContext& context) {
  Misfit misfit = undefined_names(missing, context);
  if (provider != nullptr) {
    misfit.evidence.push_back(
        fmt::format("{} defines {}", provider->path.string(), missing.size() == 1 ? "it" : "them"));
    misfit.remedy = remedy_for(*provider, context);
    if (!provider->library.empty() && !context.attached.contains(provider->library))
      misfit.changes.push_back({.kind = ProjectChange::Kind::attach, .name = provider->library});
  } else {
    const auto scanner =
        std::find_if(missing.begin(), missing.end(), [](const Unresolved* one) { return is_of_scanners(one->symbol); });
    const bool of_scanner = scanner != missing.end();
    misfit.evidence.push_back(
        fmt::format("no input of the link defines it, and neither does any library on the shelf or "
                    "in the lane's search directories{}",
                    but_inside(of_scanner ? (*scanner)->symbol : "")));
    misfit.remedy =
        of_scanner ? "make the C source of its scanner or grammar (lex, yacc), and add it to the sources"
                   : "find out which library has it, then take and attach that; a spelling mistake in a declaration "
                     "looks the same";
  }
  return misfit;
}

/// What the project itself defines is told first; gives the rest.
std::vector<const Unresolved*> add_own(const std::vector<const Unresolved*>& missing, const LinkContext& context,
                                       std::vector<Misfit>& misfits) {
  std::vector<const Unresolved*> rest;
  std::map<OwnDefiner, std::vector<const Unresolved*>> by_definer;
  for (const auto* one : missing) {
    const auto definer = context.own ? context.own(one->symbol) : std::nullopt;
    (definer ? by_definer[*definer] : rest).push_back(one);
  }
  for (const auto& [definer, group] : by_definer) {
    Misfit misfit = undefined_names(group, context);
    misfit.evidence.push_back(definer.evidence);
    misfit.remedy = definer.remedy;
    misfits.push_back(std::move(misfit));
  }
  return rest;
}

/// Nobody has the names, and one of them is nearly one that there is.
void add_near_name(FileStore& files, const std::vector<LinkInput>& inputs,
                   const std::vector<const Unresolved*>& missing, Misfit& misfit) {
  std::vector<fs::path> own;
  // What no library of the shelf or the project brings is the system's, which has a name near to each.
  for (const auto& input : inputs) {
    if (!input.library.empty()) own.push_back(input.path);
  }
  for (const auto* one : missing) {
    const auto near = near_name(files, own, one->symbol);
    if (!near) continue;
    misfit.evidence.push_back(fmt::format("{} defines {}", near->file.string(), shown(near->name)));
    misfit.remedy = fmt::format("if {} is meant, write that; else {}", readable_name(near->name), misfit.remedy);
    return;
  }
}

/// Nobody has the names. What a library lacks that was built here is no name that the project could have meant.
void add_unknown(FileStore& files, const std::vector<const Unresolved*>& missing, const std::vector<LinkInput>& inputs,
                 const LinkContext& context, std::vector<Misfit>& misfits) {
  std::map<fs::path, std::optional<OwnDefiner>> makers;  // by the input that needs names: one may need thousands
  std::map<std::optional<OwnDefiner>, std::vector<const Unresolved*>> by_maker;
  for (const auto* one : missing) {
    const auto [maker, fresh] = makers.try_emplace(one->file);
    if (fresh && context.built_here) maker->second = context.built_here(one->file);
    by_maker[maker->second].push_back(one);
  }
  for (const auto& [maker, group] : by_maker) {
    misfits.push_back(undefined_misfit(group, nullptr, context));
    if (maker) {
      misfits.back().evidence.push_back(maker->evidence);
      misfits.back().remedy = maker->remedy;
    } else {
      add_near_name(files, inputs, group, misfits.back());
    }
  }
}

void add_undefined(FileStore& files, ProviderStore& known, const std::vector<const Unresolved*>& all,
                   const std::vector<LinkInput>& inputs, const LinkContext& context, std::vector<Misfit>& misfits) {
  const auto missing = add_own(all, context, misfits);
  if (missing.empty()) return;
  std::set<std::string> names;
  for (const auto* one : missing) names.insert(one->symbol);
  const auto providers = find_providers(files, known, names, context.toolchain, context.shelf);
  std::map<fs::path, std::vector<const Unresolved*>> by_provider;
  for (const auto* one : missing) {
    const auto found = providers.find(one->symbol);
    by_provider[found == providers.end() ? fs::path() : found->second.path].push_back(one);
  }
  for (const auto& [path, group] : by_provider) {
    if (path.empty()) {
      add_unknown(files, group, inputs, context, misfits);
    } else {
      misfits.push_back(undefined_misfit(group, &providers.at(group.front()->symbol), context));
    }
  }
}

/// Which library is meant is for a person to say: once, in the card of the library that needs it.
Misfit ambiguity_misfit(const Ambiguity& ambiguity, const LinkContext& context) {
  const Unresolved& first = ambiguity.missing.front();
  Misfit misfit{.rule = "undefined", .subject = first.symbol, .library = context.output};
  misfit.evidence.push_back(fmt::format("{} is needed by {}", shown(first.symbol), user_of(first)));
  if (ambiguity.missing.size() > 1)
    misfit.evidence.push_back(fmt::format("and {} more", text::count(ambiguity.missing.size() - 1, "name")));
  const Toolchain& toolchain = context.toolchain;
  std::vector<std::string> stems;
  for (const auto& path : ambiguity.choices) {
    const std::string stem = library_stem(path);
    // Of several folders' libraries of one name a linker takes the first: the others are for other processors.
    const auto found = find_library(toolchain.library_directories, stem, toolchain.static_link, linking_of(toolchain));
    if ((found && *found != path) || std::find(stems.begin(), stems.end(), stem) != stems.end()) continue;
    misfit.evidence.push_back(fmt::format("{} defines it", path.string()));
    stems.push_back(stem);
  }
  misfit.remedy = ambiguity.card.empty()
                      ? fmt::format("write the one that is meant into the flags of output {}: flags = [\"-l{}\"]",
                                    context.output, text::join(stems, "\"] or [\"-l"))
                      : fmt::format("say once which one it was made for: in {}, system-inputs = [\"{}\"]",
                                    ambiguity.card.string(), text::join(stems, "\"] or [\""));
  return misfit;
}

/// Code for a fixed address among what is pulled into an output that is loaded anywhere. 32-bit x86 linkers mend it
/// when the program is loaded, with a warning.
std::optional<Misfit> pic_misfit(const BuiltLine& line, const LinkContext& context) {
  const Toolchain& toolchain = context.toolchain;
  const bool movable = context.shared || toolchain.pie;
  if (toolchain.target.format != Format::elf || toolchain.target.arch == Arch::x86 || !movable) return std::nullopt;
  for (const LinkObject* member : line.rehearsal.members) {
    const auto input = std::find_if(line.inputs.begin(), line.inputs.end(),
                                    [&](const LinkInput& each) { return each.path == member->file; });
    if (input == line.inputs.end()) continue;
    const auto image = read_image(member->bytes, want_relocations);
    if (!image || !image->pic || image->pic->level == Pic::yes) continue;
    if (!context.shared && image->pic->level == Pic::programs_only) continue;
    return Misfit{.rule = "pic",
                  .subject = member->label,
                  .library = input->library,
                  .evidence = {fmt::format("{} is not position independent: {} in section {} at {:#x}", member->label,
                                           image->pic->relocation, image->pic->section, image->pic->offset),
                               fmt::format("{} pulls it in, and is {}", context.output,
                                           context.shared ? "a shared library" : "a position-independent program")},
                  .remedy = context.shared
                                ? "build it with -fPIC, or take its shared library"
                                : "take a build made with -fPIE or -fPIC, or give the lane flags = [\"-no-pie\"]"};
  }
  return std::nullopt;
}

/// A member defines the name, and the archive's symbol table does not say so: linkers see the table only.
std::optional<Misfit> unlisted_misfit(FileStore& files, const std::vector<LinkInput>& inputs,
                                      const Unresolved& missing) {
  const NameId name = files.names().keep(missing.symbol);
  for (const auto& input : inputs) {
    auto file = files.open(input.path);
    const Archive* archive = file ? (*file)->archive() : nullptr;
    if (archive == nullptr) continue;
    for (uint32_t i = 0; i < archive->members.size(); ++i) {
      auto object = (*file)->object(i);
      if (!object) continue;
      const auto& symbols = (*object)->symbols;
      const bool defines = std::any_of(symbols.begin(), symbols.end(),
                                       [&](const LinkSymbol& symbol) { return symbol.defined && symbol.name == name; });
      if (!defines) continue;
      return Misfit{.rule = "no-symbol-table",
                    .subject = input.path.string(),
                    .library = input.library,
                    .evidence = {fmt::format("{} needs {}", user_of(missing), shown(missing.symbol)),
                                 fmt::format("{} defines it, and the archive {}", (*object)->label,
                                             archive->has_index ? "has a symbol table without it: it is stale"
                                                                : "has no symbol table")},
                    .remedy = fmt::format("run ranlib on it: ranlib {}", input.path.string())};
    }
  }
  return std::nullopt;
}

/// An object for another machine on the line: the card said otherwise, or the file was replaced.
Misfit stranger_misfit(const LinkObject& object, const LinkContext& context) {
  return {.rule = "architecture",
          .subject = object.file.string(),
          .library = context.output,
          .evidence = {fmt::format("{} is for {}", object.label, to_string(object.image.target)),
                       fmt::format("{} makes code for {}", context.toolchain.compiler.string(),
                                   to_string(context.toolchain.target))},
          .remedy = fmt::format("take a build for {}; fibula shelf check tells what changed since it was taken",
                                to_string(context.toolchain.target))};
}

/// The compiler, or an object, asks for a library that is in none of the directories.
Misfit not_found_misfit(const std::string& name, const LinkContext& context) {
  const Toolchain& toolchain = context.toolchain;
  std::vector<std::string> folders;
  for (const auto& folder : toolchain.library_directories) folders.push_back(folder.string());
  const std::string shown_name = name.starts_with(':') ? name.substr(1) : name;
  return {
      .rule = "library",
      .subject = name,
      .library = context.output,
      .evidence = {fmt::format("{} hands {} to every link, or an object names it", toolchain.compiler.string(), name),
                   folders.empty() ? "no library directory is known"
                                   : fmt::format("it is in none of {}", text::join(folders, ", "))},
      .remedy = fmt::format("install the development files for {} that have it, or give the lane flags for the "
                            "sysroot or the library directory where they are",
                            to_string(toolchain.target))};
}

/// Members of archives are labelled "libtide.a(tide.o)", the program's own objects by their names.
bool is_own_object(const std::string& label) {
  return label.find('(') == std::string::npos && label.ends_with(".o");
}

Misfit duplicate_misfit(const Duplicate& duplicate, const LinkContext& context) {
  Misfit misfit{.rule = "duplicate",
                .subject = duplicate.symbol,
                .library = context.output,
                .evidence = {fmt::format("{} defines {}", duplicate.first, shown(duplicate.symbol)),
                             fmt::format("{} defines it too, and both are linked", duplicate.second)}};
  const bool first = is_own_object(duplicate.first), second = is_own_object(duplicate.second);
  const auto archive_of = [](const std::string& label) { return label.substr(0, label.find('(')); };
  // Of two copies of one library the same members would meet.
  if (!first && !second && archive_of(duplicate.first) == archive_of(duplicate.second) &&
      duplicate.first != duplicate.second) {
    misfit.remedy = fmt::format("both lie in {}: take a build or a version of it in which one of the two has it",
                                archive_of(duplicate.first));
    return misfit;
  }
  if (!first && !second) {
    misfit.remedy = "use one of the two libraries, or a build of one that does not bring its own copy";
    return misfit;
  }
  if (first != second) {
    misfit.remedy = "give it another name in the program's own code, or make it static there";
    return misfit;
  }
  const auto header = context.header_of_both ? context.header_of_both(duplicate) : std::nullopt;
  if (!header) {
    misfit.remedy = "keep the definition in one of the two sources, or make it static in one";
    return misfit;
  }
  misfit.evidence.push_back(fmt::format("both include {}, which defines it", *header));
  misfit.remedy = fmt::format(
      "define it in one source, and only declare it in {}; a function can stay there as static inline", *header);
  return misfit;
}

/// Names that the program asks for and two of its libraries define: the first on the line serves, whichever was meant.
std::vector<Misfit> shadowed_names(FileStore& files, const BuiltLine& line, const LinkContext& context) {
  std::map<std::pair<const LinkInput*, const LinkInput*>, std::vector<std::string>> shadowed;
  std::map<std::string, const LinkInput*, std::less<>> first;
  for (const auto& name : context.wanted) first.emplace(name, nullptr);
  for (const auto& input : line.inputs) {
    auto file = files.open(input.path);
    if (!file || first.empty() || !context.attached.contains(input.library)) continue;
    each_defined_name((*file)->content(), [&](std::string_view name) {
      const auto wanted = first.find(name);
      if (wanted == first.end()) return;
      if (wanted->second == nullptr) {
        wanted->second = &input;
      } else if (wanted->second->library != input.library) {
        auto& names = shadowed[{wanted->second, &input}];
        if (names.empty() || names.back() != name) names.emplace_back(name);
      }
    });
  }
  std::vector<Misfit> said;
  for (const auto& [pair, names] : shadowed) {
    const auto& [winner, other] = pair;
    const std::string more = names.size() > 1 ? fmt::format(" and {} more", names.size() - 1) : "";
    said.push_back(
        {.rule = "duplicate",
         .verdict = Verdict::caution,
         .subject = names.front(),
         .library = context.output,
         .evidence = {fmt::format("{} defines {}{}, and so does {}", winner->path.string(), shown(names.front()), more,
                                  other->path.string()),
                      fmt::format("{} gets that of {}: it stands first on the line", context.output, winner->library)},
         .remedy =
             fmt::format("leave {} or {} out of uses, where one of them is enough", winner->library, other->library)});
  }
  return said;
}

}  // namespace

Result<std::vector<Misfit>> judge_link(FileStore& files, ProviderStore& providers, const BuiltLine& line,
                                       const LinkContext& context) {
  std::vector<Misfit> misfits;
  for (const auto& name : line.rehearsal.missing) misfits.push_back(not_found_misfit(name, context));
  for (const LinkObject* stranger : line.rehearsal.strangers) misfits.push_back(stranger_misfit(*stranger, context));
  // Without them nearly everything is undefined, and saying so would hide the cause.
  if (!misfits.empty()) return misfits;
  std::vector<const Unresolved*> nowhere;
  std::set<std::string> ambiguous;
  for (const auto& ambiguity : line.ambiguities) {
    misfits.push_back(ambiguity_misfit(ambiguity, context));
    for (const auto& missing : ambiguity.missing) ambiguous.insert(missing.symbol);
  }
  for (const auto& missing : line.rehearsal.unresolved) {
    if (ambiguous.contains(missing.symbol)) continue;
    auto definer = input_with(files, line.inputs, missing.symbol);
    if (!definer) return pass(definer);
    if (*definer != nullptr) {
      misfits.push_back(order_misfit(missing, **definer));
    } else if (auto unlisted = unlisted_misfit(files, line.inputs, missing)) {
      misfits.push_back(std::move(*unlisted));
    } else {
      nowhere.push_back(&missing);
    }
  }
  if (!nowhere.empty()) add_undefined(files, providers, nowhere, line.inputs, context, misfits);
  if (auto misfit = pic_misfit(line, context)) misfits.push_back(std::move(*misfit));
  for (const auto& duplicate : line.rehearsal.duplicates) misfits.push_back(duplicate_misfit(duplicate, context));
  if (misfits.empty()) misfits = shadowed_names(files, line, context);
  return misfits;
}

}  // namespace fibula
