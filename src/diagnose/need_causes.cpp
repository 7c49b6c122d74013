/// What the shared libraries of a link need of others, and do not find: files, versions of symbols, symbols that an
/// object keeps to itself.
#include "diagnose/findings.hpp"
#include "facts/mangling.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// Those that the linker looks for and does not find, where something of theirs is needed.
std::vector<Finding> absent_needs(const LinkScene& scene, const Rehearsal& rehearsal) {
  std::vector<Finding> findings;
  for (const auto& need : rehearsal.missing_needs) {
    const bool counts = std::any_of(rehearsal.unresolved.begin(), rehearsal.unresolved.end(),
                                    [](const Unresolved& u) { return u.by_shared; });
    if (!counts) continue;
    Finding finding{.cause = "missing-transitive-input", .stage = "link", .subject = need, .certainty = "read"};
    finding.because = {
        fmt::format("a shared library of the link needs {}, and it is in no folder that is searched", need)};
    finding.remedy = fmt::format("get {}, and name its folder: -Wl,-rpath-link,FOLDER", need);
    for (const auto& file : scene.evidence().libraries_near(scene.command())) {
      if (file.filename() != need) continue;
      const std::string folder = shown_in(scene, file.parent_path());
      finding.culprits = {shown_in(scene, file)};
      finding.remedy = fmt::format("name its folder: -Wl,-rpath-link,{}", folder);
      set_command(finding, scene.command(), with_appended(scene.command(), {"-Wl,-rpath-link," + folder}));
      break;
    }
    findings.push_back(std::move(finding));
  }
  return findings;
}

/// An input of the link, by the name under which others need it.
const SceneInput* input_with(const LinkScene& scene, const std::string& soname) {
  for (const auto& input : scene.inputs()) {
    if (input.file.empty() || !input.own) continue;
    const auto& facts = scene.evidence().facts(input.file);
    if (!facts || facts->kind.value != Kind::shared_library) continue;
    if (input.file.filename() == soname || facts->soname.value == soname) return &input;
  }
  return nullptr;
}

/// The versions of symbols that a library asks for and the file that it finds does not define. What asks for a version
/// of a symbol takes no other one (binutils' manual, "VERSION").
std::optional<std::string> lacking_version(const LinkScene& scene, const Need& need, const fs::path& file) {
  auto opened = scene.evidence().files().open(file, scene.toolchain().target);
  if (!opened || !(*opened)->is_shared()) return std::nullopt;
  const auto& defined = (*opened)->image().defined_versions;
  for (const auto& version : need.versions) {
    if (std::find(defined.begin(), defined.end(), version) == defined.end()) return version;
  }
  return std::nullopt;
}

/// Another file of the same name near by that has the version.
std::optional<fs::path> with_version(const LinkScene& scene, const Need& need, const fs::path& instead_of) {
  for (const auto& file : scene.evidence().libraries_near(scene.command())) {
    if (file == instead_of) continue;
    const auto& facts = scene.evidence().facts(file);
    const Target& wanted = scene.toolchain().target;
    const bool same = facts && facts->arch.value == wanted.arch && facts->kind.value == Kind::shared_library &&
                      facts->soname.value == need.name;
    if (same && !lacking_version(scene, need, file)) return file;
  }
  return std::nullopt;
}

/// Whether a library cannot do without a symbol in that version.
bool insists_on(const LinkScene& scene, const fs::path& user, const std::string& version) {
  auto opened = scene.evidence().files().open(user, scene.toolchain().target);
  if (!opened || !(*opened)->is_shared()) return false;
  const auto& symbols = (*opened)->image().dynamic_symbols;
  return std::any_of(symbols.begin(), symbols.end(), [&](const ImageSymbol& symbol) {
    return !symbol.defined && symbol.binding == Binding::global && symbol.version == version;
  });
}

std::vector<Finding> absent_versions(const LinkScene& scene) {
  std::vector<Finding> findings;
  for (const auto& user : scene.inputs()) {
    if (user.file.empty() || !user.own) continue;
    const auto& facts = scene.evidence().facts(user.file);
    if (!facts || facts->kind.value != Kind::shared_library) continue;
    for (const auto& need : facts->needs.value.value_or(std::vector<Need>())) {
      const SceneInput* found = input_with(scene, need.name);
      const auto version = found == nullptr ? std::nullopt : lacking_version(scene, need, found->file);
      if (!version || !insists_on(scene, user.file, *version)) continue;
      const std::string file = shown_in(scene, found->file);
      Finding finding{.cause = "version-skew", .stage = "link", .subject = need.name, .certainty = "read"};
      finding.culprits = {file};
      finding.because = {
          fmt::format("{} needs version {} of symbols of {}", shown_in(scene, user.file), *version, need.name),
          fmt::format("{} does not define that version", file)};
      finding.remedy =
          fmt::format("link the {} that {} was linked with, or a newer one", need.name, shown_in(scene, user.file));
      if (const auto other = with_version(scene, need, found->file)) {
        finding.culprits.push_back(shown_in(scene, *other));
        finding.remedy = fmt::format("{} has it: link that", shown_in(scene, *other));
        set_command(finding, scene.command(),
                    with_input_replaced(scene.command(), found->asked.word, {shown_in(scene, *other)}));
      }
      findings.push_back(std::move(finding));
    }
  }
  return findings;
}

/// The BFD linker does not export what is hidden, and refuses a shared library that needs it (bfd/elflink.c,
/// "hidden symbol `%s' in %pB is referenced by DSO").
std::vector<Finding> hidden_needs(const Rehearsal& rehearsal) {
  std::vector<Finding> findings;
  for (const auto& kept : rehearsal.kept_back) {
    Finding finding{
        .cause = "hidden-symbol", .stage = "link", .subject = readable_name(kept.symbol), .certainty = "read"};
    finding.culprits = {kept.first};
    finding.because = {fmt::format("{} needs {}", kept.second, readable_name(kept.symbol)),
                       fmt::format("{} defines it with hidden visibility, for its own file only", kept.first)};
    finding.remedy = fmt::format("link the library that {} was linked with, or have {} exported where it is made",
                                 kept.second, readable_name(kept.symbol));
    findings.push_back(std::move(finding));
  }
  return findings;
}

}  // namespace

std::vector<Finding> need_findings(const LinkScene& scene, const Rehearsal& rehearsal) {
  if (scene.command().relocatable) return {};
  auto findings = scene.traits().weighs_needs ? absent_needs(scene, rehearsal) : std::vector<Finding>();
  if (findings.empty() && scene.traits().weighs_versions && scene.command().refuses_unresolved)
    findings = absent_versions(scene);
  if (findings.empty() && scene.traits().refuses_hidden) findings = hidden_needs(rehearsal);
  return findings;
}

}  // namespace fibula
