#include "choose/taken_back.hpp"

#include "base/digest.hpp"
#include "base/inside_path.hpp"
#include "base/text.hpp"
#include "os/folder.hpp"
#include "os/stamp.hpp"

#include <fibula/attach.hpp>

#include <fmt/format.h>

namespace fibula {
namespace {

constexpr const char *record_file = "after", *copies_folder = "files", *file_of_lock = "fibula.lock", *any_digest = "-";
constexpr uint64_t longest_record = 1U << 20U;

constexpr TakingBack attaching{".fibula/before-attach", "nothing was attached that could be taken back",
                               "was changed since the library was attached", "fibula detach NAME takes a library out"};

fs::path copy_of(const fs::path& root, const TakingBack& kind, const std::string& inside) {
  return root / kind.place / copies_folder / inside;
}

/// A file that is not there now is not there among the copies.
Result<void> keep_file(const fs::path& root, const Folder& folder, const std::string& inside) {
  const auto text = read_text(root / inside);
  if (text) return folder.write(fmt::format("{}/{}", copies_folder, inside), *text, Flush::now);
  return text.error().code == Code::absent ? Result<void>() : fail(text.error());
}

/// What a record says. Nobody but this program writes it; what leads out of the project is none of its lines.
std::vector<KeptFile> files_in(const std::string& text) {
  std::vector<KeptFile> files;
  for (const auto line : text::split(text, '\n')) {
    const size_t space = line.find(' ');
    if (space == std::string_view::npos || !InsidePath::of(line.substr(space + 1))) continue;
    const std::string_view after = line.substr(0, space);
    files.push_back({std::string(line.substr(space + 1)), after == any_digest ? std::string() : std::string(after)});
  }
  return files;
}

Result<void> check_unchanged(const fs::path& root, const TakingBack& kind, const KeptFile& file) {
  if (file.after.empty()) return {};
  const auto now = read_text(root / file.inside);
  if (now && sha256(*now) == file.after) return {};
  if (!now && now.error().code != Code::absent) return fail(now.error());
  return fail({.code = Code::refused,
               .what = kind.since,
               .file = (root / file.inside).string(),
               .hint = fmt::format("what it was before is {}", copy_of(root, kind, file.inside).string())});
}

Result<void> bring_back(const fs::path& root, const Folder& project, const TakingBack& kind, const KeptFile& file) {
  const auto text = read_text(copy_of(root, kind, file.inside));
  if (text) return project.write(file.inside, *text, Flush::now);
  if (text.error().code != Code::absent) return fail(text.error());
  auto gone = project.remove(file.inside);
  return gone ? Result<void>() : pass(gone);
}

}  // namespace

Result<void> keep_files(const fs::path& root, const TakingBack& kind, const std::vector<KeptFile>& files) {
  const auto folder = Folder::make_in(root, kind.place);
  if (!folder) return fail(folder.error());
  if (auto gone = folder->remove(record_file); !gone) return pass(gone);
  if (auto gone = folder->remove_tree(copies_folder); !gone) return gone;
  for (const auto& file : files) {
    if (auto kept = keep_file(root, *folder, file.inside); !kept) return kept;
  }
  return {};
}

Result<void> seal(const fs::path& root, const TakingBack& kind, const std::vector<KeptFile>& files) {
  std::string text;
  for (const auto& file : files)
    text += fmt::format("{} {}\n", file.after.empty() ? any_digest : file.after, file.inside);
  return write_in(root, fmt::format("{}/{}", kind.place, record_file), text, Flush::now);
}

Result<std::vector<fs::path>> take_back(const fs::path& root, const TakingBack& kind) {
  const auto text = read_text(root / kind.place / record_file, longest_record);
  const auto files = text ? files_in(*text) : std::vector<KeptFile>();
  if (files.empty())
    return fail({.code = Code::refused, .what = kind.nothing, .file = root.string(), .hint = kind.hint});
  for (const auto& file : files) {
    if (auto same = check_unchanged(root, kind, file); !same) return pass(same);
  }
  const auto project = Folder::open(root);
  if (!project) return fail(project.error());
  std::vector<fs::path> back;
  for (const auto& file : files) {
    if (auto done = bring_back(root, *project, kind, file); !done) return pass(done);
    if (!file.after.empty()) back.push_back(root / file.inside);
  }
  if (auto gone = remove_tree_in(root, kind.place); !gone) return pass(gone);
  return back;
}

Result<void> keep_before(const Project& project, const std::string& after) {
  const std::vector<KeptFile> files{{project.file().filename().string(), sha256(after)}, {file_of_lock}};
  if (auto kept = keep_files(project.root(), attaching, files); !kept) return kept;
  return seal(project.root(), attaching, files);
}

Result<void> undo_attach(const fs::path& folder) {
  const auto project = Project::open(folder);
  if (!project) return fail(project.error());
  return without_value(take_back(project->root(), attaching));
}

}  // namespace fibula
