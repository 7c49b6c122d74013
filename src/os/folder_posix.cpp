#include "os/folder.hpp"
#include "os/posix.hpp"

#include <dirent.h>
#include <fcntl.h>
#include <fmt/format.h>
#include <linux/fs.h>
#include <linux/openat2.h>
#include <sys/ioctl.h>
#include <sys/sendfile.h>
#include <sys/stat.h>
#include <sys/syscall.h>
#include <atomic>

namespace fibula {
namespace {

using posix::Descriptor;

constexpr int folder_flags = O_PATH | O_DIRECTORY | O_CLOEXEC;

/// The folder of a path and the name in it; both lent.
std::pair<std::string_view, std::string_view> parted(std::string_view inside) {
  const size_t slash = inside.rfind('/');
  if (slash == std::string_view::npos) return {{}, inside};
  return {inside.substr(0, slash), inside.substr(slash + 1)};
}

enum class Missing { is_an_error, is_made };

/// One part after another, none of which may be a link.
Descriptor step_down(int from, std::string_view inside, Missing missing) {
  Descriptor at(::openat(from, ".", folder_flags));
  while (at && !inside.empty()) {
    const size_t slash = inside.find('/');
    const std::string part(inside.substr(0, slash));
    const bool makes = missing == Missing::is_made;
    if (makes && ::mkdirat(at.get(), part.c_str(), 0777) != 0 && errno != EEXIST) return Descriptor();
    at = Descriptor(::openat(at.get(), part.c_str(), folder_flags | O_NOFOLLOW));
    inside = slash == std::string_view::npos ? std::string_view() : inside.substr(slash + 1);
  }
  return at;
}

/// A folder below another one; errno is ELOOP or ENOTDIR where a part is a link.
Descriptor open_below(int from, std::string_view inside) {
  if (inside.empty()) return Descriptor(::openat(from, ".", folder_flags));
  static std::atomic<bool> in_one_step = true;
  if (in_one_step) {
    open_how how{};
    how.flags = folder_flags;
    how.resolve = RESOLVE_BENEATH | RESOLVE_NO_SYMLINKS | RESOLVE_NO_MAGICLINKS;
    const auto fd = ::syscall(SYS_openat2, from, std::string(inside).c_str(), &how, sizeof how);
    if (fd >= 0) return Descriptor(static_cast<int>(fd));
    if (errno != ENOSYS && errno != EPERM) return Descriptor();
    in_one_step = false;
  }
  // Kernels before Linux 5.6, and where a filter forbids the call.
  return step_down(from, inside, Missing::is_an_error);
}

/// The same, making what is not there.
Descriptor make_below(int from, std::string_view inside) {
  Descriptor there = open_below(from, inside);
  return there || errno != ENOENT ? std::move(there) : step_down(from, inside, Missing::is_made);
}

/// A new file beside the place where it is to appear.
class Beside {
 public:
  Beside(int folder, std::string_view name) : folder_(folder) {
    static std::atomic<unsigned> number = 0;
    for (int tries = 0; tries < 100 && !file_; ++tries) {
      name_ = fmt::format(".{}.{}-{}.new", name.substr(0, 200), ::getpid(), ++number);
      file_ = Descriptor(::openat(folder, name_.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, 0644));
      if (!file_ && errno != EEXIST) return;
    }
  }
  ~Beside() {
    const int before = errno;  // why it was not placed
    if (!name_.empty() && !placed_) ::unlinkat(folder_, name_.c_str(), 0);
    errno = before;
  }
  Beside(const Beside&) = delete;
  Beside& operator=(const Beside&) = delete;

  int get() const { return file_.get(); }
  explicit operator bool() const { return static_cast<bool>(file_); }
  /// False, with errno.
  bool place(const std::string& name, Flush flush) {
    if (flush == Flush::now && ::fsync(file_.get()) != 0) return false;
    placed_ = file_.close() && ::renameat(folder_, name_.c_str(), folder_, name.c_str()) == 0;
    return placed_;
  }

 private:
  int folder_;
  Descriptor file_;
  std::string name_;
  bool placed_ = false;
};

/// False, with errno.
bool copy_content(int from, int to, off_t size) {
  if (::ioctl(to, FICLONE, from) == 0) return true;
  off_t at = 0;
  while (at < size) {
    const ssize_t count = ::sendfile(to, from, &at, static_cast<size_t>(size - at));
    if (count < 0 && errno == EINTR) continue;
    if (count < 0) return false;
    if (count == 0) break;  // it was cut short: what is there is the copy
  }
  return true;
}

/// False, with errno; goes into no link.
bool remove_below(int folder, const std::string& name) {
  if (::unlinkat(folder, name.c_str(), 0) == 0 || errno == ENOENT) return true;
  if (errno != EISDIR && errno != EPERM) return false;
  const int inner = ::openat(folder, name.c_str(), O_RDONLY | O_DIRECTORY | O_NOFOLLOW | O_CLOEXEC);
  if (inner < 0) return false;
  DIR* listing = ::fdopendir(inner);
  if (listing == nullptr) {
    ::close(inner);
    return false;
  }
  bool good = true;
  while (const dirent* entry = ::readdir(listing)) {
    const std::string_view inner_name = entry->d_name;
    if (inner_name != "." && inner_name != "..") good = remove_below(inner, std::string(inner_name)) && good;
  }
  ::closedir(listing);
  return good && (::unlinkat(folder, name.c_str(), AT_REMOVEDIR) == 0 || errno == ENOENT);
}

/// Where something is, or is to be: its folder, and its name there.
struct Spot {
  Descriptor folder;
  std::string name;
  explicit operator bool() const { return static_cast<bool>(folder); }
};

}  // namespace

struct Folder::Handle {
  Descriptor folder;

  /// Of a path below the folder; errno where it cannot be reached.
  Spot spot(std::string_view inside, Descriptor (*reach)(int, std::string_view) = open_below) const {
    if (!InsidePath::of(inside)) {
      errno = EINVAL;
      return Spot();
    }
    const auto [above, name] = parted(inside);
    return {reach(folder.get(), above), std::string(name)};
  }
};

Error Folder::about(std::string_view inside, std::string_view doing, int number) const {
  const fs::path place = path_ / inside;
  if (!InsidePath::of(inside)) {
    return {.code = Code::refused,
            .what = fmt::format("{}: the path {}", doing, InsidePath::why_not(inside)),
            .file = place.string()};
  }
  // The first part that is a link, or a file where a folder must be, is what people have to look at.
  fs::path part = path_;
  const bool all_folders = number == ENOTDIR || number == ELOOP;
  for (const auto& name : fs::path(all_folders ? inside : parted(inside).first)) {
    part /= name;
    std::error_code ignored;
    const auto type = fs::symlink_status(part, ignored).type();
    if (type == fs::file_type::not_found || type == fs::file_type::directory) continue;
    return {.code = Code::refused,
            .what = type == fs::file_type::symlink
                        ? fmt::format("is a link, and what is made in {} stays in it", path_.string())
                        : std::string("is a file where a folder must be"),
            .file = part.string(),
            .hint = "move it away"};
  }
  return io_error(place, doing, number);
}

Result<Folder> Folder::open(const fs::path& path) {
  Descriptor folder(::open(path.c_str(), folder_flags));
  if (folder) return Folder(path, std::make_shared<const Handle>(Handle{std::move(folder)}));
  if (errno == ENOENT) return fail({.code = Code::absent, .what = "No such file or directory", .file = path.string()});
  return fail(io_error(path, "cannot be opened", errno));
}

Result<Folder> Folder::make(const fs::path& path) {
  if (auto made = fibula::make_folder(path); !made) return pass(made);
  return open(path);
}

Result<Folder> Folder::make_in(const fs::path& root, std::string_view inside) {
  auto whole = open(root);
  if (!whole) return whole;
  if (auto made = whole->make_folder(inside); !made) return pass(made);
  Descriptor folder = open_below(whole->handle_->folder.get(), inside);
  if (!folder) return fail(whole->about(inside, "cannot be opened", errno));
  return Folder(root / inside, std::make_shared<const Handle>(Handle{std::move(folder)}));
}

Result<void> Folder::make_folder(std::string_view inside) const {
  if (inside.empty() || inside == ".") return {};
  if (!InsidePath::of(inside) || !make_below(handle_->folder.get(), inside))
    return fail(about(inside, "cannot be made", errno));
  return {};
}

Result<void> Folder::write(std::string_view inside, std::string_view content, Flush flush) const {
  const Spot spot = handle_->spot(inside, make_below);
  if (spot) {
    Beside file(spot.folder.get(), spot.name);
    if (file && posix::write_all(file.get(), content) && file.place(spot.name, flush)) return {};
  }
  return fail(about(inside, "cannot be written", errno));
}

Result<bool> Folder::write_if_changed(std::string_view inside, std::string_view content, Flush flush) const {
  if (has_file(inside)) {
    if (const auto before = read_text(path_ / inside); before && *before == content) return false;
  }
  if (auto written = write(inside, content, flush); !written) return pass(written);
  return true;
}

Result<void> Folder::copy_in(const fs::path& from, std::string_view inside) const {
  const Descriptor source(::open(from.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK));
  struct stat info {};
  if (!source || ::fstat(source.get(), &info) != 0 || !S_ISREG(info.st_mode)) {
    const bool absent = !source && errno == ENOENT;
    return fail({.code = absent ? Code::absent : Code::unreadable,
                 .what = absent ? "is not there any more" : "cannot be read",
                 .file = from.string()});
  }
  const Spot spot = handle_->spot(inside, make_below);
  if (spot) {
    Beside copy(spot.folder.get(), spot.name);
    const timespec times[] = {{0, UTIME_OMIT}, info.st_mtim};
    const bool made = copy && copy_content(source.get(), copy.get(), info.st_size) &&
                      ::fchmod(copy.get(), (info.st_mode & 0777U) | S_IWUSR) == 0 &&
                      ::futimens(copy.get(), times) == 0 && copy.place(spot.name, Flush::later);
    if (made) return {};
  }
  return fail(about(inside, "cannot be put in place", errno));
}

Result<void> Folder::rename(std::string_view from, std::string_view to) const {
  constexpr std::string_view doing = "cannot be put in place";
  const Spot source = handle_->spot(from);
  if (!source) return fail(about(from, doing, errno));
  const Spot target = handle_->spot(to, make_below);
  if (!target || ::renameat(source.folder.get(), source.name.c_str(), target.folder.get(), target.name.c_str()) != 0)
    return fail(about(to, doing, errno));
  return {};
}

Result<void> Folder::exchange(std::string_view one, std::string_view other) const {
  constexpr std::string_view doing = "cannot be replaced";
  const Spot first = handle_->spot(one);
  if (!first) return fail(about(one, doing, errno));
  const Spot second = handle_->spot(other);
  const bool done = second && ::renameat2(first.folder.get(), first.name.c_str(), second.folder.get(),
                                          second.name.c_str(), RENAME_EXCHANGE) == 0;
  if (done) return {};
  if (errno != ENOSYS && (errno != EINVAL || !second)) return fail(about(other, doing, errno));
  return fail({.code = Code::unsupported,
               .what = "cannot be replaced in one step on this file system",
               .file = (path_ / other).string()});
}

Result<bool> Folder::add_name(std::string_view file, std::string_view name) const {
  constexpr std::string_view doing = "cannot be put in place";
  const Spot from = handle_->spot(file);
  if (!from) return fail(about(file, doing, errno));
  const Spot to = handle_->spot(name, make_below);
  if (!to) return fail(about(name, doing, errno));
  return ::linkat(from.folder.get(), from.name.c_str(), to.folder.get(), to.name.c_str(), 0) == 0;
}

Result<void> Folder::link(std::string_view inside, const fs::path& target) const {
  const Spot spot = handle_->spot(inside, make_below);
  if (!spot || ::symlinkat(target.c_str(), spot.folder.get(), spot.name.c_str()) != 0)
    return fail(about(inside, "cannot be put in place", errno));
  return {};
}

Result<void> Folder::keep_to_owner() const {
  if (::fchmodat(handle_->folder.get(), ".", 0700, 0) == 0) return {};
  return fail(io_error(path_, "cannot be closed to others", errno));
}

void Folder::protect(std::string_view inside) const {
  const Spot spot = handle_->spot(inside);
  struct stat info {};
  const bool there = spot && ::fstatat(spot.folder.get(), spot.name.c_str(), &info, AT_SYMLINK_NOFOLLOW) == 0;
  if (!there || !S_ISREG(info.st_mode)) return;
  ::fchmodat(spot.folder.get(), spot.name.c_str(), (info.st_mode & 0111U) != 0 ? 0555 : 0444, 0);
}

Result<bool> Folder::remove(std::string_view inside) const {
  const Spot spot = handle_->spot(inside);
  if (spot && ::unlinkat(spot.folder.get(), spot.name.c_str(), 0) == 0) return true;
  const bool may_be_folder = spot && (errno == EISDIR || errno == EPERM);
  if (may_be_folder && ::unlinkat(spot.folder.get(), spot.name.c_str(), AT_REMOVEDIR) == 0) return true;
  if (errno == ENOENT || errno == ENOTEMPTY || errno == EEXIST) return false;
  return fail(about(inside, "cannot be removed", errno));
}

Result<void> Folder::remove_tree(std::string_view inside) const {
  const Spot spot = handle_->spot(inside);
  if (!spot && errno == ENOENT) return {};
  if (!spot || !remove_below(spot.folder.get(), spot.name)) return fail(about(inside, "cannot be removed", errno));
  return {};
}

bool Folder::has_file(std::string_view inside) const {
  const Spot spot = handle_->spot(inside);
  struct stat info {};
  return spot && ::fstatat(spot.folder.get(), spot.name.c_str(), &info, AT_SYMLINK_NOFOLLOW) == 0 &&
         S_ISREG(info.st_mode);
}

Result<void> write_in(const fs::path& folder, std::string_view inside, std::string_view content, Flush flush) {
  const auto opened = Folder::open(folder);
  return opened ? opened->write(inside, content, flush) : fail(opened.error());
}

Result<bool> write_if_changed_in(const fs::path& folder, std::string_view inside, std::string_view content,
                                 Flush flush) {
  const auto opened = Folder::open(folder);
  return opened ? opened->write_if_changed(inside, content, flush) : fail(opened.error());
}

Result<void> remove_tree_in(const fs::path& folder, std::string_view inside) {
  const auto opened = Folder::open(folder);
  return opened ? opened->remove_tree(inside) : fail(opened.error());
}

std::string inside_of(const Folder& folder, const fs::path& path) {
  if (!is_inside(folder.path(), path)) return {};
  std::string inside = shown_from(folder.path(), path);
  return inside == "." ? std::string() : inside;
}

}  // namespace fibula
