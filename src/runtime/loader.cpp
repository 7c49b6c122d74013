#include "runtime/loader.hpp"

#include "base/files.hpp"
#include "base/text.hpp"
#include "binary/open.hpp"
#include "facts/system_files.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// `$ORIGIN` and `${ORIGIN}`; dyld's `@loader_path` and `@executable_path` mean the same for what is asked here.
std::string expanded(std::string path, const fs::path& folder) {
  for (const std::string_view token : {"${ORIGIN}", "$ORIGIN", "@loader_path"}) {
    const size_t at = path.find(token);
    if (at != std::string::npos) path = path.substr(0, at) + folder.string() + path.substr(at + token.size());
  }
  return path;
}

std::vector<std::string> expanded(const std::vector<std::string>& paths, const fs::path& folder) {
  std::vector<std::string> result;
  for (const auto& path : paths) result.push_back(expanded(path, folder));
  return result;
}

/// A line of ld.so.conf names a directory or includes further files.
void read_configuration(const fs::path& path, int depth, std::vector<std::string>& directories) {
  const auto content = read_text(path, 1U << 20U);
  if (!content || depth > 8) return;
  for (auto line : text::lines(*content)) {
    line = text::trim(line.substr(0, line.find('#')));
    if (line.starts_with("include ")) {
      const fs::path pattern(text::trim(line.substr(8)));
      for (const auto& name : files_directly_in(pattern.parent_path())) {
        if (text::glob_matches(pattern.filename().string(), name.filename().string()))
          read_configuration(pattern.parent_path() / name.filename(), depth + 1, directories);
      }
    } else if (line.starts_with('/')) {
      directories.emplace_back(line);
    }
  }
}

/// The directories of this machine's loader, in its order.
const std::vector<std::string>& standard_directories() {
  static const std::vector<std::string> directories = [] {
    std::vector<std::string> list;
    read_configuration("/etc/ld.so.conf", 0, list);
    for (const char* folder : {"/lib", "/usr/lib", "/lib64", "/usr/lib64", "/lib32", "/usr/lib32"})
      list.emplace_back(folder);
    return list;
  }();
  return directories;
}

/// What lies at a path: nothing, a file for the wanted machine, or one for another.
enum class There { nothing, fits, other_machine };

There look_at(const fs::path& path, const Target& wanted) {
  std::error_code error;
  if (!fs::is_regular_file(path, error)) return There::nothing;
  const auto file = open_binary(path, 0);
  if (!file) return There::other_machine;
  if (const Image* image = file->image()) return image->target == wanted ? There::fits : There::other_machine;
  if (const auto* universal = std::get_if<Universal>(&file->content)) {
    const bool has = std::any_of(universal->slices.begin(), universal->slices.end(),
                                 [&](const Slice& slice) { return slice.target.arch == wanted.arch; });
    return has ? There::fits : There::other_machine;
  }
  return There::nothing;  // a linker script or an archive: loaders read neither
}

/// Looks through directories; a file for another machine is passed over, as the loaders do, and remembered.
class Search {
 public:
  Search(const Asker& asker, const std::string& name) : asker_(asker), name_(name) {}

  bool through(const std::vector<std::string>& directories, NeedStatus status, std::string_view why) {
    for (const auto& directory : directories) {
      if (at(fs::path(directory) / name_, status, fmt::format("{} {}", why, directory))) return true;
    }
    return false;
  }

  bool at(const fs::path& path, NeedStatus status, std::string why) {
    switch (look_at(path, asker_.target)) {
      case There::nothing: return false;
      case There::fits: found_ = {path, status, std::move(why)}; return true;
      case There::other_machine:
        if (other_.empty()) other_ = path;
        return false;
    }
    return false;
  }

  /// What was found; else what was passed over.
  Found result(std::string missing) && {
    if (!found_.path.empty()) return std::move(found_);
    if (!other_.empty())
      return {other_, NeedStatus::wrong_architecture, fmt::format("is not for {}", to_string(asker_.target))};
    return {{}, NeedStatus::missing, std::move(missing)};
  }

 private:
  const Asker& asker_;
  const std::string& name_;
  Found found_;
  fs::path other_;
};

/// musl's library and its loader are one file, known under the loader's name.
bool find_musl(const Asker& asker, Search& search) {
  const std::string_view arch = asker.target.arch == Arch::x86 ? "i386" : to_string(asker.target.arch);
  return search.at(fmt::format("/lib/ld-musl-{}.so.1", arch), NeedStatus::system, "musl's loader is the library too");
}

Found find_elf(const Asker& asker, const std::string& name) {
  Search search(asker, name);
  if (name == "libc.so" && find_musl(asker, search)) return std::move(search).result({});
  const fs::path folder = asker.path.parent_path();
  if (name.find('/') != std::string::npos) {
    search.at(folder / name, NeedStatus::found, "by its path");
    return std::move(search).result("nothing is at this path");
  }
  if (search.through(asker.runpath.empty() ? asker.rpath : asker.runpath, NeedStatus::found, "run path") ||
      search.through(standard_directories(), NeedStatus::system, "standard directory") ||
      search.at(folder / name, NeedStatus::by_luck, "lies beside the file that needs it, where no run path leads"))
    return std::move(search).result({});
  return std::move(search).result("not on a run path, not in a standard directory, not beside the file");
}

/// Windows does not tell letter case apart: the name in the folder that is meant, or the name itself.
std::string name_in_folder(const fs::path& folder, const std::string& name) {
  const std::string wanted = text::lower(name);
  for (const auto& entry : files_directly_in(folder)) {
    if (text::lower(entry.filename().string()) == wanted) return entry.filename().string();
  }
  return name;
}

Found find_pe(const Asker& asker, const std::string& name, const fs::path& root) {
  const std::string real = name_in_folder(root, name);
  Search search(asker, real);
  if (search.at(root / real, NeedStatus::found, "beside the program")) return std::move(search).result({});
  if (is_windows_dll(name)) return {{}, NeedStatus::system, "part of Windows"};
  const std::string lower = text::lower(name);
  const bool msvc = lower.starts_with("vcruntime") || lower.starts_with("msvcp") || lower.starts_with("concrt");
  const bool gnu =
      lower.starts_with("libgcc_s") || lower.starts_with("libstdc++") || lower.starts_with("libwinpthread");
  return std::move(search).result(msvc  ? "not beside the program; the compiler's redistributable brings it"
                                  : gnu ? "not beside the program; it lies among the compiler's own files"
                                        : "not beside the program, and no part of Windows");
}

Found find_macho(const Asker& asker, const std::string& name, const fs::path& root) {
  Search search(asker, name);
  if (is_macos_file(name)) return {{}, NeedStatus::system, "part of the system"};
  if (name.starts_with("@rpath/")) {
    const std::string rest = name.substr(7);
    Search by_rpath(asker, rest);
    if (by_rpath.through(asker.rpath, NeedStatus::found, "run path") ||
        by_rpath.at(asker.path.parent_path() / rest, NeedStatus::by_luck,
                    "lies beside the file that needs it, where no run path leads"))
      return std::move(by_rpath).result({});
    return std::move(by_rpath).result("not on a run path");
  }
  std::string path = expanded(name, asker.path.parent_path());
  if (path.starts_with("@executable_path")) path = root.string() + path.substr(16);
  search.at(path, NeedStatus::found, "by its path");
  return std::move(search).result("nothing is at this path");
}

}  // namespace

Asker asker_of(const fs::path& path, const Image& image, const std::vector<std::string>& inherited) {
  Asker asker{.path = path, .target = image.target, .runpath = {}, .rpath = {}};
  const fs::path folder = path.parent_path();
  const bool macho = image.target.format == Format::macho;
  if (!macho) asker.runpath = expanded(image.runpath, folder);
  // DT_RUNPATH switches DT_RPATH off for the file that has it; LC_RPATH is given on.
  if (asker.runpath.empty()) asker.rpath = expanded(macho ? image.runpath : image.rpath, folder);
  asker.rpath.insert(asker.rpath.end(), inherited.begin(), inherited.end());
  return asker;
}

Found find_as_loader(const Asker& asker, const std::string& name, const fs::path& root) {
  switch (asker.target.format) {
    case Format::pe: return find_pe(asker, name, root);
    case Format::macho: return find_macho(asker, name, root);
    default: return find_elf(asker, name);
  }
}

}  // namespace fibula
