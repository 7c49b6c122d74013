#include "loader/closure.hpp"

#include "base/names.hpp"
#include "base/text.hpp"
#include "loader/kept_closures.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <deque>

namespace fibula {
namespace {

constexpr Name<NeedStatus> statuses[] = {{NeedStatus::found, "found"},
                                         {NeedStatus::system, "system"},
                                         {NeedStatus::by_luck, "by-luck"},
                                         {NeedStatus::missing, "missing"},
                                         {NeedStatus::wrong_architecture, "wrong-architecture"},
                                         {NeedStatus::lacks_version, "lacks-version"},
                                         {NeedStatus::lacks_symbol, "lacks-symbol"},
                                         {NeedStatus::unloadable, "unloadable"}};

bool is_musl(const RunTimeFile& file) {
  const auto is_library = [](const Need& need) {
    return need.name == "libc.so" || need.name.starts_with("libc.musl-");
  };
  return file.interpreter.find("/ld-musl-") != std::string::npos ||
         std::any_of(file.needs.begin(), file.needs.end(), is_library);
}

/// Follows needs breadth first, as loaders do: which file asks first decides where it is looked for.
class Follower {
 public:
  Follower(RunTimeFiles& files, TargetSystem& system, const ClosureRoot& root)
      : root_(root),
        around_{system, files, root.file->path.parent_path().lexically_normal(), is_musl(*root.file), root.placed} {}

  std::vector<ClosureEntry> run() {
    const Asker program = asker_of(root_.file, {}, around_);
    // macOS' programs name dyld too, which no system is without.
    if (!root_.file->interpreter.empty() && root_.file->target.format == Format::elf) enter_interpreter();
    enter(program);
    for (const auto& plugin : root_.plugins) enter_plugin(plugin, program);
    for (; !pending_.empty(); pending_.pop_front()) follow(Pending(pending_.front()));
    return std::move(entries_);
  }

 private:
  /// Askers and needs stay where they are until the end.
  struct Pending {
    const Asker* asker;
    const Need* need;
    const std::vector<std::string>* imports;  ///< that a Windows file wants of it; null: of no interest
  };
  struct Forwarded {
    Need need;
    std::vector<std::string> imports;
  };

  std::string key_of(const std::string& name) const {
    return root_.file->target.format == Format::pe ? text::lower(name) : name;
  }

  void enter(const Asker& asker) {
    for (const auto& need : asker.file->needs) {
      const auto imports = asker.file->imports.find(need.name);
      pending_.push_back({&asker, &need, imports == asker.file->imports.end() ? nullptr : &imports->second});
    }
  }

  /// The loader itself, which the kernel starts (gABI chapter 5, "Program Interpreter").
  void enter_interpreter() {
    const std::string& name = root_.file->interpreter;
    Search search(around_, root_.file->target, {});
    search.at(name, NeedStatus::system, "the loader that the program names");
    auto found =
        std::move(search).result("the loader that the program names is not there: the system refuses to start it");
    add({.name = name, .needed_by = root_.file->path.string()}, std::move(found), {});
  }

  void enter_plugin(const fs::path& path, const Asker& program) {
    Search search(around_, root_.file->target, {});
    search.at(path, NeedStatus::found, "opened while the program runs");
    auto found = std::move(search).result("to be opened while the program runs, and not there");
    add({.name = path.filename().string(), .needed_by = root_.file->path.string()}, std::move(found), program.given_on);
  }

  void follow(const Pending& next) {
    const std::string key = key_of(next.need->name);
    size_t entry = known(key);
    if (entry == none) entry = load(next, key);
    auto& asked_by = entries_[entry].asked_by;
    const std::string& asker = next.asker->file->path.native();
    if (asked_by.empty() || asked_by.back() != asker) asked_by.push_back(asker);
    check(next, entry);
  }

  /// The entry of a need that no earlier one stands for.
  size_t load(const Pending& next, const std::string& key) {
    Found found = find(*next.asker, next.need->name);
    const auto same = found.file ? by_file_.find(identity(found.path)) : by_file_.end();
    if (same != by_file_.end()) return by_name_[key] = same->second;
    by_name_[key] = entries_.size();
    return add({.name = next.need->name, .needed_by = next.asker->file->path.string(), .kind = next.need->kind},
               std::move(found), next.asker->given_on);
  }

  size_t add(ClosureEntry entry, Found found, const std::vector<RunPath>& inherited) {
    const size_t position = entries_.size();
    entry.path = found.path.string();
    entry.status = found.status;
    entry.why = std::move(found.why);
    entry.passed_over = std::move(found.passed_over);
    if (entry.kind != NeedKind::ordinary && entry.status == NeedStatus::missing)
      entry.why += fmt::format("; it is a {} need", to_string(entry.kind));
    entries_.push_back(std::move(entry));
    Asker& asker = loaded_.emplace_back();
    if (!found.file) return position;
    by_file_.emplace(identity(found.path), position);
    // A need is served by what is loaded under its soname, wherever that was found (glibc's _dl_map_object).
    if (!found.file->soname.empty() && root_.file->target.format == Format::elf && !around_.musl)
      by_name_.try_emplace(found.file->soname, position);
    asker = asker_of(found.file, inherited, around_);
    enter(asker);
    return position;
  }

  Found find(const Asker& asker, const std::string& name) const {
    switch (asker.file->target.format) {
      case Format::pe: return find_windows(around_, asker, name);
      case Format::macho: return find_macos(around_, asker, name);
      default: return find_elf(around_, asker, name);
    }
  }

  /// Each file that asks says what it needs of the one that serves it.
  void check(const Pending& next, size_t position) {
    const auto& file = loaded_[position].file;
    if (!file) return;
    ClosureEntry& entry = entries_[position];
    const auto user = [&] { return next.asker->file->path.filename().string(); };
    // A library without any versions serves those who ask for one (glibc's _dl_check_map_versions).
    for (size_t i = 0; i < next.need->versions.size() && !file->versions.empty(); ++i) {
      const std::string& version = next.need->versions[i];
      if (file->versions.contains(version)) continue;
      entry.status = NeedStatus::lacks_version;
      entry.lacks = version;
      entry.why = fmt::format("does not define version {}, which {} needs", version, user());
      return;
    }
    for (size_t i = 0; next.imports != nullptr && i < next.imports->size(); ++i) {
      const std::string& name = (*next.imports)[i];
      if (!file->exports.contains(name)) {
        entry.status = NeedStatus::lacks_symbol;
        entry.lacks = name;
        entry.why = fmt::format("does not export {}, which {} imports", name, user());
        return;
      }
      if (const auto forward = file->forwards.find(name); forward != file->forwards.end())
        follow_forward(loaded_[position], forward->second);
    }
  }

  /// `OTHER.name`: the DLL is loaded when somebody imports what it forwards.
  void follow_forward(const Asker& asker, const std::string& forward) {
    const size_t dot = forward.rfind('.');
    if (dot == std::string::npos || !known_forwards_.insert(forward).second) return;
    const Forwarded& made =
        forwarded_.emplace_back(Forwarded{{.name = forward.substr(0, dot) + ".dll"}, {forward.substr(dot + 1)}});
    pending_.push_back({&asker, &made.need, &made.imports});
  }

  std::pair<uint64_t, uint64_t> identity(const fs::path& path) const { return around_.files.stamp(path).identity(); }

  static constexpr size_t none = SIZE_MAX;
  size_t known(const std::string& key) const {
    const auto found = by_name_.find(key);
    return found == by_name_.end() ? none : found->second;
  }

  const ClosureRoot& root_;
  Surroundings around_;
  std::unordered_map<std::string, size_t> by_name_;
  std::map<std::pair<uint64_t, uint64_t>, size_t> by_file_;
  std::set<std::string> known_forwards_;
  std::deque<Forwarded> forwarded_;
  std::deque<Pending> pending_;
  std::vector<ClosureEntry> entries_;
  std::deque<Asker> loaded_;  ///< by entry; without a file where none was found
};

}  // namespace

std::string_view to_string(NeedStatus status) {
  return name_in<NeedStatus>(statuses, status);
}

bool is_bad(const ClosureEntry& entry) {
  switch (entry.status) {
    case NeedStatus::found:
    case NeedStatus::system:
    case NeedStatus::by_luck: return false;
    case NeedStatus::missing: return entry.kind != NeedKind::weak;
    case NeedStatus::wrong_architecture:
    case NeedStatus::lacks_version:
    case NeedStatus::lacks_symbol:
    case NeedStatus::unloadable: return true;
  }
  return true;
}

std::vector<ClosureEntry> follow_needs(RunTimeFiles& files, TargetSystem& system, const ClosureRoot& root) {
  for (const auto& path : root.hidden) files.hide(path);
  return Follower(files, system, root).run();
}

namespace {

/// What several closures share.
struct Walk {
  explicit Walk(const ClosureOptions& options) : system(rooted(options)) {
    for (const auto& plugin : options.plugins) plugins.push_back(absolute_path(plugin));
    std::error_code error;
    if (!options.sysroot.empty() && !fs::is_directory(options.sysroot, error)) missing_root = options.sysroot;
  }

  Error no_root() const {
    return {.code = Code::absent,
            .what = "is no folder with a system below it",
            .file = missing_root.string(),
            .hint = "name the root of the system: the folder that holds its lib and usr"};
  }

  static ClosureOptions rooted(ClosureOptions options) {
    if (!options.sysroot.empty()) options.sysroot = absolute_path(options.sysroot);
    return options;
  }

  Result<std::vector<ClosureEntry>> closure(const fs::path& path) {
    auto root = root_at(path);
    if (!root) return pass(root);
    return follow_needs(files, system, *root);
  }

  /// A program's own place is where its real file is: that is what the system tells its loader.
  Result<ClosureRoot> root_at(const fs::path& path) const {
    if (!missing_root.empty()) return fail(no_root());
    auto file = read_run_time_file(absolute_path(path), Arch::unknown);
    if (!file) return pass(file);
    std::error_code error;
    if (const fs::path real = fs::canonical(path, error); !error && file->is_program()) file->path = real;
    return ClosureRoot{std::make_shared<const RunTimeFile>(std::move(*file)), {}, plugins};
  }

  RunTimeFiles files;
  TargetSystem system;
  std::vector<fs::path> plugins;
  fs::path missing_root;  ///< a root that is named and is not there
};

/// No file with a readable name is opened in vain: most of a system's files are texts and pictures.
bool may_be_binary(const fs::path& path) {
  static const std::set<std::string, std::less<>> texts = {
      ".h",  ".hpp", ".html", ".xml", ".txt",  ".py", ".pl", ".pm", ".pyc", ".png",   ".svg",  ".json",
      ".mo", ".gz",  ".sh",   ".css", ".conf", ".a",  ".o",  ".la", ".pc",  ".cmake", ".debug"};
  std::error_code error;
  return !fs::is_symlink(path, error) && !texts.contains(path.extension().string());
}

void add_below(Walk& walk, const fs::path& folder, std::vector<FileClosure>& closures) {
  const auto files = files_below(folder);
  if (!files) return closures.push_back({folder, {}, files.error()});
  for (const auto& file : *files) {
    const fs::path path = folder / file;
    if (!may_be_binary(path)) continue;
    auto closure = walk.closure(path);
    if (closure) closures.push_back({path, std::move(*closure)});
    const Code code = closure ? Code::refused : closure.error().code;
    // What needs no run-time files by its nature is passed over; what could not be read is told.
    const bool told = code != Code::refused && code != Code::not_a_library;
    if (told) closures.push_back({path, {}, std::move(closure.error())});
  }
}

}  // namespace

Result<std::vector<ClosureEntry>> closure_of(const fs::path& path, const ClosureOptions& options) {
  Walk walk(options);
  auto root = walk.root_at(path);
  if (!root) return pass(root);
  return followed_or_kept(walk.system, *root, Walk::rooted(options));
}

std::vector<FileClosure> closures_of(const std::vector<fs::path>& places, const ClosureOptions& options) {
  Walk walk(options);
  std::vector<FileClosure> closures;
  for (const auto& place : places) {
    std::error_code error;
    if (fs::is_directory(place, error)) {
      add_below(walk, place, closures);
      continue;
    }
    auto closure = walk.closure(place);
    if (closure) closures.push_back({place, std::move(*closure)});
    if (!closure) closures.push_back({place, {}, std::move(closure.error())});
  }
  return closures;
}

}  // namespace fibula
