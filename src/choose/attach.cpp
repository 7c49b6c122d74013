#include <fibula/attach.hpp>

#include "base/text.hpp"
#include "base/toml.hpp"
#include "base/version.hpp"
#include "choose/beginning.hpp"
#include "choose/library_folders.hpp"
#include "choose/lock.hpp"
#include "choose/picks.hpp"
#include "choose/selection.hpp"
#include "choose/taken_back.hpp"
#include "os/folder.hpp"
#include "os/stamp.hpp"
#include "project/edit.hpp"
#include "take/folder_card.hpp"
#include "take/requirements.hpp"

#include <fibula/take.hpp>

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// The versions in the range, newest first; none is an error.
Result<std::vector<Card>> versions_in_range(const Shelf& shelf, const std::string& name, const VersionRange& range) {
  auto cards = shelf.versions(name);
  if (!cards) return pass(cards);
  std::vector<std::string> there;
  for (const auto& card : *cards) there.push_back(card.version);
  std::erase_if(*cards, [&](const Card& card) { return !range.contains(card.version); });
  if (!cards->empty()) return cards;
  if (!there.empty()) {
    return fail({.code = Code::refused,
                 .what = fmt::format("{} is on the shelf as {}, and none is \"{}\"", name, text::join(there, ", "),
                                     range.text()),
                 .file = shelf.shown(),
                 .hint = "take the version you need, or ask for one that is there"});
  }
  const std::string meant = text::closest(name, shelf.names());
  return fail({.code = Code::refused,
               .what = fmt::format("no library {} on the shelf", name),
               .file = shelf.shown(),
               .hint = meant.empty()
                           ? "take it first: fibula take FOLDER, or fibula take /usr --library " + name + " --in-place"
                           : fmt::format("did you mean {}?", meant)});
}

/// Looks for the newest version that fits every lane. Only the files' facts are compared; what headers need is fit's to
/// say.
class Candidates {
 public:
  Candidates(const Project& project, const Shelf& shelf, const LibraryUse& use)
      : project_(project), cards_(shelf), use_(use) {
    std::vector<Question> questions;
    for (const auto& lane : project.lanes()) questions.push_back({lane.compiler, lane.flags});
    toolchains_ = ask_all(questions);
  }

  /// Why a card cannot serve, and in which lane; nothing when it serves in all of them. A lane whose compiler does not
  /// answer says nothing.
  std::optional<PassedOver> obstacle(const Card& card) {
    for (size_t i = 0; i < toolchains_.size(); ++i) {
      if (!toolchains_[i]) continue;
      const Lane& lane = project_.lanes()[i];
      Choice choice{.use = use_, .purpose = purpose(lane), .chosen = {.name = use_.name}};
      if (take_variant(card, {project_, lane, *toolchains_[i], cards_}, choice)) continue;
      const auto worst_first = std::max_element(choice.chosen.misfits.begin(), choice.chosen.misfits.end(),
                                                [](const Misfit& a, const Misfit& b) { return a.verdict < b.verdict; });
      return PassedOver{card.version, lane.name, text::join(worst_first->evidence, "; ")};
    }
    return std::nullopt;
  }

 private:
  Purpose purpose(const Lane& lane) const {
    Purpose purpose{.definitions = lane.definitions};
    for (const auto& output : project_.outputs()) {
      const bool uses =
          !output.uses || std::find(output.uses->begin(), output.uses->end(), use_.name) != output.uses->end();
      purpose.into_program = purpose.into_program || (uses && output.kind == OutputKind::program);
      purpose.into_shared = purpose.into_shared || (uses && output.kind == OutputKind::shared_library);
    }
    return purpose;
  }

  const Project& project_;
  CardStore cards_;
  LibraryUse use_;
  std::vector<Result<Toolchain>> toolchains_;
};

/// The newest card that fits, with what was passed over; the newest of all where none does.
const Card& choose_card(const std::vector<Card>& cards, const Project& project, const Shelf& shelf,
                        const LibraryUse& use, Attachment& attachment) {
  Candidates candidates(project, shelf, use);
  for (const auto& card : cards) {
    auto obstacle = candidates.obstacle(card);
    if (!obstacle) return card;
    attachment.passed_over.push_back(std::move(*obstacle));
  }
  attachment.fits_everywhere = false;
  return cards.front();
}

/// From this version on, and before the first one that was passed over.
std::string range_from(const Attachment& attachment) {
  const std::string least = ">=" + attachment.version;
  // Between a version and the same one with something added there is no range that anybody would write.
  const auto is_same_release = [](std::string_view one, std::string_view other) {
    return other.starts_with(one) && other.size() > one.size() &&
           (other[one.size()] < '0' || other[one.size()] > '9') && other[one.size()] != '.';
  };
  if (attachment.fits_everywhere && !attachment.passed_over.empty()) {
    const std::string& next = attachment.passed_over.back().version;
    if (is_same_release(attachment.version, next) || is_same_release(next, attachment.version))
      return "=" + attachment.version;
  }
  const bool newest = attachment.passed_over.empty() || !attachment.fits_everywhere;
  return newest ? least : fmt::format("{} <{}", least, attachment.passed_over.back().version);
}

bool names(const std::vector<std::string>& names, const std::string& name) {
  return std::find(names.begin(), names.end(), name) != names.end();
}

std::vector<std::string> attached_in(const Project& project) {
  std::vector<std::string> attached;
  for (const auto& use : project.libraries()) attached.push_back(use.name);
  return attached;
}

/// Edits go by lines, as people write these files. Whether one did what it should is read from its result.
Error uneditable(const Project& project, const std::string& name, const std::string& what) {
  return {.code = Code::malformed,
          .what = fmt::format("names {} in a way that is not edited here", name),
          .file = project.file().string(),
          .hint = what + " by hand; nothing was changed"};
}

Result<void> check_attached(const Project& project, const std::string& text, const LibraryUse& wanted) {
  const auto after = Project::from_text(text, project.root());
  const auto there = [&](const LibraryUse& use) {
    return use.name == wanted.name && use.version == wanted.version && use.linkage == wanted.linkage;
  };
  if (after && std::count_if(after->libraries().begin(), after->libraries().end(), there) == 1) return {};
  return fail(uneditable(project, wanted.name, fmt::format("write version = \"{}\"", wanted.version)));
}

Result<void> check_detached(const Project& project, const std::string& text, const std::string& name) {
  const auto after = Project::from_text(text, project.root());
  if (after && !names(attached_in(*after), name)) return {};
  return fail(uneditable(project, name, "remove it"));
}

/// The project of a folder, and the text of its file.
struct Edited {
  Project project;
  std::string text;
  std::optional<Beginning> beginning = {};  ///< where it is one that has yet to be written
};

/// A folder without a project becomes one.
Result<Edited> open_for_edit(const fs::path& folder) {
  auto project = Project::open(folder);
  if (!project && project.error().code != Code::absent) return pass(project);
  if (project) {
    auto text = read_text(project->file());
    if (!text) return pass(text);
    return Edited{std::move(*project), std::move(*text)};
  }
  auto beginning = plan_beginning({.folder = folder}, true);
  if (!beginning) return pass(beginning);
  return Edited{beginning->begun.project, beginning->text, std::move(*beginning)};
}

/// Whether a library is named by where it lies.
bool is_path(const std::string& name) {
  return name.find('/') != std::string::npos || name == "." || name == "..";
}

/// Where in the project's folder the library lies that is meant: by a path, by what the project says, by what lies
/// there. Empty: nowhere, or the shelf has it.
fs::path folder_meant(const Project& project, const fs::path& from, const Shelf& shelves, const std::string& name) {
  if (is_path(name)) return absolute_path(absolute_path(from) / name);
  for (const auto& use : project.libraries()) {
    if (use.name == name && !use.folder.empty()) return use.folder;
  }
  // The names of all libraries are many; whether there is this one costs little.
  if (const auto versions = shelves.versions(name); versions && !versions->empty()) return {};
  for (const auto& library : library_folders(project.root()).found) {
    if (library.name == name) return project.root() / library.folder;
  }
  return {};
}

/// What a library is called that is named by its folder.
Result<std::string> name_in(const fs::path& folder, const std::string& named) {
  if (!is_path(named)) return named;
  if (stamp_of(folder / "card.toml").is_file()) {
    auto card = read_card(folder);
    if (!card) return pass(card);
    return card->name;
  }
  auto described = describe(folder);
  if (!described) return pass(described);
  return described->card.name;
}

void note_requirements(const Card& card, const Project& project, Attachment& attachment) {
  for (const auto& requirement : card.requirements) {
    if (!names(attached_in(project), requirement.library)) attachment.also_needed.push_back(requirement.library);
  }
}

/// Builds or sources of which a person has to pick one.
void note_choices(const Card& card, const LibraryUse& use, Attachment& attachment) {
  for (const auto& [name, alternatives] : choices_of(card)) {
    if (use.choices.contains(name)) continue;
    const std::string set = default_pick(card, name);
    const std::string& used = set.empty() ? alternatives.front() : set;
    const auto other =
        std::find_if(alternatives.rbegin(), alternatives.rend(), [&](const auto& one) { return one != used; });
    attachment.remarks.push_back(fmt::format(
        "it has {} of which one is used: {} = {}, unless [library.{}] of fibula.toml says choices = {{ {} }}",
        set.empty() ? "builds" : "sources", name, used, card.name,
        written_picks({{name, other == alternatives.rend() ? used : *other}})));
  }
}

/// The version that the lanes used before; empty where they used none.
std::string version_before(const Project& project, const std::string& name) {
  const auto lock = Lock::read(project);
  for (const auto& lane : project.lanes()) {
    const Locked* known = lock ? lock->find(lane.name, name) : nullptr;
    if (known != nullptr) return known->version;
  }
  return {};
}

enum class Writing { yes, no };

/// Writes what was decided, or nothing.
Result<Attachment> finish(Edited& edited, const LibraryUse& use, Attachment attachment, Writing writing) {
  const Project& project = edited.project;
  const std::string after = with_library(edited.text, use);
  attachment.changed = edited.beginning || after != edited.text;
  if (!edited.beginning) attachment.before = version_before(project, use.name);
  if (auto right = check_attached(project, after, use); !right) return pass(right);
  if (writing == Writing::no) return attachment;
  if (attachment.changed || (!attachment.before.empty() && attachment.before != attachment.version)) {
    if (auto kept = keep_before(project, after); !kept) return pass(kept);
  }
  if (edited.beginning) {
    attachment.created = project.file();
    attachment.outputs = project.outputs().size();
    const auto& remarks = edited.beginning->begun.remarks;
    attachment.remarks.insert(attachment.remarks.end(), remarks.begin(), remarks.end());
    edited.beginning->text = after;
    if (auto written = write_beginning(*edited.beginning); !written) return pass(written);
  } else if (attachment.changed) {
    if (auto written = write_in(project.root(), project.file().filename().string(), after, Flush::now); !written)
      return pass(written);
  }
  if (auto forgotten = forget_lock(project, use.name); !forgotten) return pass(forgotten);
  return attachment;
}

Result<Attachment> attach_folder(Edited& edited, const Shelf& shelves, const fs::path& folder, const std::string& named,
                                 std::optional<Linkage> linkage, Writing writing) {
  const auto name = name_in(folder, named);
  if (!name) return fail(name.error());
  auto card = card_of_folder(folder, *name);
  if (!card) return fail(card.error());
  complete_requirements(*card, shelves);
  LibraryUse use{.name = *name};
  for (const auto& known : edited.project.libraries()) {
    if (known.name == *name) use = known;
  }
  if (linkage) use.linkage = *linkage;
  const fs::path relative = folder.lexically_relative(edited.project.root());
  use.folder = relative.empty() ? folder : relative;
  Attachment attachment{.name = *name, .version = card->version, .range = use.version, .folder = folder};
  note_requirements(*card, edited.project, attachment);
  note_choices(*card, use, attachment);
  return finish(edited, use, std::move(attachment), writing);
}

Result<Attachment> attach_or_plan(const fs::path& folder, const Shelf& shelf, const std::string& name,
                                  const std::string& range, std::optional<Linkage> linkage, Writing writing) {
  auto wanted = VersionRange::parse(range);
  if (!wanted) return pass(wanted);
  auto edited = open_for_edit(folder);
  if (!edited) return pass(edited);
  const Project& project = edited->project;
  const Shelf shelves = project.shelf(shelf);
  if (const auto lies_in = folder_meant(project, folder, shelves, name); !lies_in.empty()) {
    if (!range.empty())
      return fail({.code = Code::usage,
                   .what = "is used where it lies, as it is there: a version cannot be asked for",
                   .file = lies_in.string(),
                   .hint = "leave the version out"});
    return attach_folder(*edited, shelves, lies_in, name, linkage, writing);
  }
  auto cards = versions_in_range(shelves, name, *wanted);
  if (!cards) return pass(cards);
  Attachment attachment{.name = name};
  LibraryUse use{.name = name};
  for (const auto& known : project.libraries()) {
    if (known.name == name) use = known;
  }
  if (linkage) use.linkage = *linkage;
  const Card& card = choose_card(*cards, project, shelves, use, attachment);
  attachment.version = card.version;
  attachment.range = use.version = range.empty() ? range_from(attachment) : range;
  Card completed = card;
  complete_requirements(completed, shelves);
  note_requirements(completed, project, attachment);
  note_choices(card, use, attachment);
  auto done = finish(*edited, use, std::move(attachment), writing);
  if (done && writing == Writing::yes) shelves.note_use(card.entry, project.root());
  return done;
}

}  // namespace

Result<Attachment> attach(const fs::path& folder, const Shelf& shelf, const std::string& name, const std::string& range,
                          std::optional<Linkage> linkage) {
  return attach_or_plan(folder, shelf, name, range, linkage, Writing::yes);
}

Result<Attachment> plan_attach(const fs::path& folder, const Shelf& shelf, const std::string& name,
                               const std::string& range, std::optional<Linkage> linkage) {
  return attach_or_plan(folder, shelf, name, range, linkage, Writing::no);
}

Result<void> choose_anew(const fs::path& folder, const std::string& name) {
  const auto project = Project::open(folder);
  return project ? forget_lock(*project, name) : fail(project.error());
}

Result<void> detach(const fs::path& folder, const std::string& name) {
  auto project = Project::open(folder);
  if (!project) return pass(project);
  const auto attached = attached_in(*project);
  if (!names(attached, name)) {
    const std::string meant = text::closest(name, attached);
    return fail({.code = Code::refused,
                 .what = fmt::format("{} is not attached", name),
                 .file = project->file().string(),
                 .hint = meant.empty() ? "attached: " + (attached.empty() ? "nothing" : text::join(attached, ", "))
                                       : fmt::format("did you mean {}?", meant)});
  }
  auto before = read_text(project->file());
  if (!before) return pass(before);
  const std::string after = without_library(*before, name);
  if (auto right = check_detached(*project, after, name); !right) return right;
  if (auto written = write_in(project->root(), project->file().filename().string(), after, Flush::now); !written)
    return written;
  return forget_lock(*project, name);
}

}  // namespace fibula
