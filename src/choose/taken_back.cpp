#include "choose/taken_back.hpp"

#include "base/digest.hpp"
#include "os/folder.hpp"
#include "os/stamp.hpp"

#include <fibula/attach.hpp>

#include <fmt/format.h>

namespace fibula {
namespace {

constexpr const char *kept_folder = ".fibula/before-attach", *kept_after = "after", *lock_file = "fibula.lock";

/// Where one of the two files was not there, nothing is kept of it.
Result<void> keep_file(const Folder& folder, const fs::path& file) {
  const auto text = read_text(file);
  if (text) return folder.write(file.filename().string(), *text, Flush::now);
  if (text.error().code != Code::absent) return fail(text.error());
  auto gone = folder.remove(file.filename().string());
  return gone ? Result<void>() : pass(gone);
}

Result<void> bring_back(const Folder& root, const fs::path& kept, const std::string& name) {
  const auto text = read_text(kept / name);
  if (text) return root.write(name, *text, Flush::now);
  auto gone = root.remove(name);
  return gone ? Result<void>() : pass(gone);
}

}  // namespace

Result<void> keep_before(const Project& project, const std::string& after) {
  const auto folder = Folder::make_in(project.root(), kept_folder);
  if (!folder) return fail(folder.error());
  // Written last: without it nothing is taken back.
  if (auto gone = folder->remove(kept_after); !gone) return pass(gone);
  for (const auto& file : {project.file(), project.root() / lock_file}) {
    if (auto kept = keep_file(*folder, file); !kept) return kept;
  }
  return folder->write(kept_after, sha256(after) + "\n", Flush::now);
}

Result<void> undo_attach(const fs::path& folder) {
  const auto project = Project::open(folder);
  if (!project) return fail(project.error());
  const fs::path kept = project->root() / kept_folder;
  const auto after = read_text(kept / kept_after, 1024);
  if (!after)
    return fail({.code = Code::refused,
                 .what = "nothing was attached that could be taken back",
                 .file = project->file().string(),
                 .hint = "fibula detach NAME takes a library out"});
  const auto now = read_text(project->file());
  if (!now) return fail(now.error());
  if (sha256(*now) + "\n" != *after)
    return fail({.code = Code::refused,
                 .what = "was changed since the library was attached",
                 .file = project->file().string(),
                 .hint = fmt::format("what it was before is {}", (kept / project->file().filename()).string())});
  const auto root = Folder::open(project->root());
  if (!root) return fail(root.error());
  for (const auto& name : {project->file().filename().string(), std::string(lock_file)}) {
    if (auto back = bring_back(*root, kept, name); !back) return back;
  }
  return remove_tree_in(project->root(), kept_folder);
}

}  // namespace fibula
