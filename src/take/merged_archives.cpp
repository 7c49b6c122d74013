#include "take/merged_archives.hpp"

#include "os/file_digest.hpp"
#include "take/file_roles.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

class Merging {
 public:
  Merging(const Folder& place, std::string inside) : place_(place), inside_(std::move(inside)) {}

  Result<std::vector<std::string>> run() {
    if (auto done = folder(""); !done) return pass(done);
    if (auto gone = place_.remove_tree(inside_); !gone) return pass(gone);
    return std::move(left_out_);
  }

 private:
  // NOLINTNEXTLINE(misc-no-recursion): as deep as an archive's folders, which unpacking bounds
  Result<void> folder(const std::string& name) {
    for (const auto& entry : entries(name)) {
      const std::string below = name.empty() ? entry : name + "/" + entry;
      if (auto done = move(below); !done) return done;
    }
    return {};
  }

  std::vector<std::string> entries(const std::string& name) const {
    std::vector<std::string> found;
    std::error_code error;
    for (auto it = fs::directory_iterator(place_.path() / inside_ / name, error);
         !error && it != fs::directory_iterator(); it.increment(error))
      found.push_back(it->path().filename().string());
    std::sort(found.begin(), found.end());
    return found;
  }

  Result<void> move(const std::string& name) {
    std::error_code ignored;
    const auto from = fs::symlink_status(place_.path() / inside_ / name, ignored);
    const auto to = fs::symlink_status(place_.path() / name, ignored);
    if (to.type() == fs::file_type::not_found) return place_.rename(inside_ + "/" + name, name);
    const bool folder_here = from.type() == fs::file_type::directory,
               folder_there = to.type() == fs::file_type::directory;
    if (folder_here && folder_there) return folder(name);
    if (is_same(name, from, to)) return {};
    const Role role = role_of(name);
    if (role == Role::header || role == Role::library || role == Role::source || folder_here || folder_there)
      return fail({.code = Code::refused,
                   .what = fmt::format("holds {}, which another archive holds with other content", name),
                   .hint = "take one of them, then the other with --add: each build keeps its own headers then"});
    if (role == Role::licence) left_out_.push_back(name);
    return {};
  }

  bool is_same(const std::string& name, const fs::file_status& from, const fs::file_status& to) const {
    if (from.type() != to.type()) return false;
    std::error_code error;
    const fs::path one = place_.path() / inside_ / name, other = place_.path() / name;
    if (from.type() == fs::file_type::symlink)
      return fs::read_symlink(one, error) == fs::read_symlink(other, error) && !error;
    const auto digest = sha256_of_file(one), known = sha256_of_file(other);
    return digest && known && *digest == *known;
  }

  const Folder& place_;
  std::string inside_;
  std::vector<std::string> left_out_;
};

}  // namespace

Result<std::vector<std::string>> merge_archive(const Folder& place, const std::string& inside) {
  return Merging(place, inside).run();
}

}  // namespace fibula
