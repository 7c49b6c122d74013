#include "take/written_tree.hpp"

#include "os/folder.hpp"
#include "os/stamp.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

Error write_error(const fs::path& path, const std::error_code& error) {
  const bool in_the_way =
      error == std::errc::file_exists || error == std::errc::not_a_directory || error == std::errc::is_a_directory;
  if (in_the_way) {
    return {.code = Code::malformed,
            .what = fmt::format("holds {} both as a file and as a folder", path.filename().string()),
            .hint = "unpack it yourself, keep the right one, and take the folder"};
  }
  Error failed = io_error(path, "cannot be written", error);
  if (error == std::errc::no_space_on_device || error == std::errc::file_too_large)
    failed.hint = "make room on the disk, or put the shelf elsewhere with --shelf; nothing was changed";
  return failed;
}

}  // namespace

Result<void> WrittenFile::write(const void* data, size_t size, int64_t offset) {
  if (const auto error = file_->write(data, size, offset)) return fail(write_error(path_, error));
  return {};
}

Result<void> WrittenFile::close() {
  if (const auto error = file_->close()) return fail(write_error(path_, error));
  return {};
}

Result<void> WrittenTree::folder(const std::string& name) {
  if (name.empty() || folders_.contains(name)) return {};
  if (auto above = folder_of(name); !above) return above;
  if (auto entered = names_.enter(name, NameBook::Entry::folder); !entered) return entered;
  const auto root = Folder::open(root_);
  if (!root) return fail(root.error());
  if (auto made = root->make_folder(name); !made) {
    if (made.error().code != Code::refused) return made;
    return fail(write_error(root_ / name, std::make_error_code(std::errc::file_exists)));
  }
  folders_.insert(name);
  return {};
}

Result<void> WrittenTree::folder_of(const std::string& name) {
  const size_t slash = name.rfind('/');
  return slash == std::string::npos ? Result<void>() : folder(name.substr(0, slash));
}

Result<WrittenFile> WrittenTree::file(const std::string& name, bool executable) {
  if (auto entered = names_.enter(name); !entered) return pass(entered);
  if (auto above = folder_of(name); !above) return pass(above);
  const fs::path path = root_ / name;
  std::unique_ptr<NewFile> made;
  if (const auto error = NewFile::make(path, executable, made)) return fail(write_error(path, error));
  return WrittenFile(std::move(made), path);
}

Result<void> WrittenTree::link(const std::string& name, std::string target, bool rooted) {
  if (auto entered = names_.enter(name); !entered) return entered;
  auto leads_to = safe_target(name, target, rooted);
  if (!leads_to) return pass(leads_to);
  if (target.starts_with('/')) {
    const fs::path from = fs::path("/" + name).parent_path();
    target = fs::path("/" + *leads_to).lexically_relative(from).generic_string();
  }
  links_.push_back({name, std::move(target)});
  return {};
}

Result<void> WrittenTree::twin(const std::string& name, const std::string& of) {
  if (auto entered = names_.enter(name); !entered) return entered;
  if (auto above = folder_of(name); !above) return above;
  const auto root = Folder::open(root_);
  if (!root) return fail(root.error());
  const auto named = root->add_name(of, name);
  if (named && *named) return {};
  if (!root->has_file(of)) {
    return fail({.code = Code::malformed,
                 .what = fmt::format("holds {} as a second name of {}, which it does not hold", name, of),
                 .hint = "fetch it again"});
  }
  return fail(write_error(root_ / name, std::make_error_code(std::errc::file_exists)));
}

Result<void> WrittenTree::finish() {
  const auto place = Folder::open(root_);
  if (!place) return fail(place.error());
  for (const auto& [name, target] : links_) {
    if (auto above = folder_of(name); !above) return above;
    if (auto made = place->link(name, target); !made) return made;
  }
  std::error_code error;
  // One link alone stays inside; several in a row may not.
  const fs::path root = fs::canonical(root_, error);
  for (const auto& [name, target] : links_) {
    // From the target: a link that leads to nothing would pass for a file of its own name.
    const fs::path real = fs::weakly_canonical((root_ / name).parent_path() / target, error);
    if (!error && is_inside(root, real)) continue;
    return fail({.code = Code::refused,
                 .what = fmt::format("holds the link {} to {}, which leads out of its folder", name, target),
                 .hint = "unpack it yourself, remove the link, and take the folder"});
  }
  return {};
}

}  // namespace fibula
