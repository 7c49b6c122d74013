/// Everything in one unpacked folder, sorted by what it is there for.
#include "base/text.hpp"
#include "binary/open.hpp"
#include "facts/system_files.hpp"
#include "headers/header_folders.hpp"
#include "headers/header_roots.hpp"
#include "os/files.hpp"
#include "take/file_roles.hpp"
#include "take/naming.hpp"
#include "take/source.hpp"
#include "take/users_names.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <functional>
#include <map>
#include <optional>

namespace fibula {
namespace {

/// A script in place of a library has the facts of the first file that it names beside itself.
Result<Facts> facts_behind(const fs::path& path, const Facts& facts) {
  for (const auto& need : *facts.needs.value) {
    const fs::path target = fs::path(need.name).is_absolute() ? fs::path(need.name) : path.parent_path() / need.name;
    std::error_code ignored;
    if (fs::is_regular_file(target, ignored)) return inspect(target);
  }
  return fail({.code = Code::absent,
               .what = "is a linker script, and none of the files it names is there",
               .file = path.string(),
               .hint = "take the package that has them as well"});
}

/// Systems keep empty archives under the names of libraries whose functions moved into the C library. In a download it
/// is an accident, and linkers say no word about it.
Result<void> told_empty(Source& source, const std::string& file) {
  if (source.from_prefix) {
    source.remarks.push_back(file + " is an archive without members, and left out");
    return {};
  }
  return fail({.code = Code::refused,
               .what = "is an archive without members: nothing in it can be linked",
               .file = (source.root / file).string(),
               .hint = "unpack or build the library again, or remove this file if it is not needed"});
}

/// Links may lead to other files of the library only. True when the file is to be taken.
bool keeps_inside(Source& source, const fs::path& root, const std::string& file) {
  std::error_code error;
  const fs::path path = root / file;
  if (!fs::is_symlink(path, error)) return true;
  const auto target = fs::read_symlink(path, error).string();
  const fs::path real = fs::weakly_canonical(path, error);
  if (error || !is_inside(root, real)) {
    source.remarks.push_back(fmt::format("{} is a link to {}, out of the library: left out", file, target));
    return false;
  }
  if (fs::exists(real, error)) return !fs::is_directory(real, error);
  source.remarks.push_back(fmt::format("{} is a link to {}, which is not there", file, target));
  return false;
}

void put_by_role(Source& source, const std::string& file, std::vector<std::string>& libraries,
                 std::vector<std::string>& debris) {
  switch (role_of(file, source.own_folders)) {
    case Role::unwanted: return;
    case Role::debris: debris.push_back(file); return;
    case Role::header: source.headers.push_back(file); break;
    case Role::library: libraries.push_back(file); break;
    case Role::source: source.code.push_back(file); break;
    case Role::licence: source.files.licences.push_back(file); break;
    case Role::debug: source.debug.push_back(file); break;
    case Role::data: source.files.data.push_back(file); break;
    case Role::sample: source.files.samples.push_back(file); [[fallthrough]];
    case Role::test:
      if (is_source_name(file)) source.samples.push_back(file);
      break;
    case Role::document: source.files.documents.push_back(file); break;
    case Role::foreign:
    case Role::other: break;
  }
  source.goes_along.push_back(file);
}

/// What a text of one line in the place of a library says that it stands for; nothing where the file is no such text.
/// Systems without links write their targets so; large files kept elsewhere leave a few lines (Git LFS, "The Pointer").
std::optional<std::string> pointer_in(const fs::path& file) {
  constexpr uintmax_t largest = 1024;
  std::error_code error;
  if (fs::file_size(file, error) > largest || error) return std::nullopt;
  const auto text = read_text(file);
  if (!text || text->empty()) return std::nullopt;
  if (text->starts_with("version https://git-lfs")) return std::string("a file that was not fetched");
  const std::string target(text::trim(*text));
  const bool plain = std::all_of(target.begin(), target.end(), [](char c) { return c > ' ' && c < 127; });
  if (!plain || target.empty() || target.starts_with('!') || target.find('(') != std::string::npos) return std::nullopt;
  return fs::exists(file.parent_path() / target, error) ? std::optional(target) : std::nullopt;
}

/// A text in the place of a link or of a large file is told and left out, where the rest stands without it.
void leave_out_pointers(Source& source, std::vector<std::string>& libraries) {
  std::vector<std::string> pointers;
  for (const auto& file : libraries) {
    const auto target = pointer_in(source.root / file);
    if (!target) continue;
    pointers.push_back(file);
    source.remarks.push_back(fmt::format("{} is a text that stands for {}, and is left out", file, *target));
  }
  if (pointers.size() == libraries.size()) return;  // then nothing would be left, and each is told as an error
  std::erase_if(libraries, [&](const std::string& file) {
    return std::find(pointers.begin(), pointers.end(), file) != pointers.end();
  });
}

/// Takes these out of the binaries; gives their files.
template <class Which>
std::vector<std::string> taken_out(Source& source, Which which) {
  std::vector<std::string> out;
  std::erase_if(source.binaries, [&](const Binary& binary) {
    if (!which(binary)) return false;
    out.push_back(binary.file);
    return true;
  });
  return out;
}

/// What a packer put beside programs so that they start. It is no library of this one's, unless one asks for it.
void leave_out_run_times(Source& source) {
  const auto of_windows = taken_out(
      source, [](const Binary& binary) { return is_universal_run_time(fs::path(binary.file).filename().string()); });
  if (!of_windows.empty())
    source.remarks.push_back(and_more(of_windows) + " left out: the C run-time that is part of Windows");
  const auto maker_of = [](const Binary& binary) {
    return maker_of_run_time_dll(fs::path(binary.file).filename().string());
  };
  const auto is_asked_for = [&](const std::string& name) {
    return std::any_of(source.binaries.begin(), source.binaries.end(),
                       [&](const Binary& binary) { return maker_of(binary).empty() && asks_for(binary.facts, name); });
  };
  // One run-time file may need another.
  std::map<std::string_view, std::vector<std::string>> out;
  for (const auto& binary : source.binaries) {
    const auto maker = maker_of(binary);
    if (!maker.empty() && !is_asked_for(fs::path(binary.file).filename().string())) out[maker].push_back(binary.file);
  }
  for (const auto& [maker, files] : out) {
    const auto& unasked = files;
    std::erase_if(source.binaries, [&](const Binary& binary) {
      return std::find(unasked.begin(), unasked.end(), binary.file) != unasked.end();
    });
    source.remarks.push_back(
        fmt::format("{} left out: the run-time of {}, which no library here needs", and_more(files), maker));
  }
}

/// Code for machines that have no name here, such as those of signal processors: no lane can use it.
Result<void> leave_out_unknown_machines(Source& source) {
  const auto out = taken_out(source, [](const Binary& binary) {
    const auto& facts = binary.facts;
    const bool has_code = facts.format.value == Format::elf || facts.format.value == Format::pe ||
                          facts.format.value == Format::coff || facts.format.value == Format::macho;
    return has_code && !facts.arch;
  });
  if (out.empty()) return {};
  for (const auto& file : out)
    std::erase_if(source.remarks, [&](const std::string& one) { return one.starts_with(file + ": "); });
  if (source.binaries.empty())
    return fail({.code = Code::refused,
                 .what = "is for a machine that is not one of those known here",
                 .file = (source.root / out.front()).string(),
                 .hint = "no compiler that Fibula knows links it: take the build for the machine of a lane"});
  source.remarks.push_back(
      fmt::format("{} left out: for a machine that is not one of those known here", and_more(out)));
  return {};
}

}  // namespace

std::string and_more(const std::vector<std::string>& files) {
  return files.size() == 1 ? files.front() : fmt::format("{} and {} more", files.front(), files.size() - 1);
}

Result<void> add_binaries(Source& source, const std::vector<std::string>& files) {
  for (const auto& file : files) {
    const fs::path path = source.root / file;
    std::error_code ignored;
    if (fs::is_symlink(path, ignored) && !fs::exists(path, ignored)) {
      source.remarks.push_back(
          fmt::format("{} is a link to {}, which is not there", file, fs::read_symlink(path, ignored).string()));
      continue;
    }
    auto facts = inspect(path);
    if (facts && facts->kind.value == Kind::script) facts = facts_behind(path, *facts);
    if (!facts) return pass(facts);
    if (facts->mixed) {
      return fail({.code = Code::refused,
                   .what = facts->notes.back(),
                   .file = path.string(),
                   .hint = "no program can use all of it: ask for a library that was built for one machine"});
    }
    if (facts->kind.value == Kind::empty) {
      auto empty = told_empty(source, file);
      if (!empty) return empty;
      continue;
    }
    for (const auto& note : facts->notes) source.remarks.push_back(file + ": " + note);
    source.binaries.push_back({file, std::move(*facts)});
  }
  return {};
}

void settle_headers(Source& source, const std::string& name) {
  auto roots = header_roots({source.root, name, source.headers, source.samples, {}});
  source.directories = std::move(roots.directories);
  source.elsewhere = std::move(roots.elsewhere);
  source.headers = headers_below(source.headers, source.directories);
}

/// `singleheader/tern.cpp` is the whole library once more, where its parts came too.
void leave_out_copies(Source& source) {
  static constexpr std::string_view folders[] = {"singleheader",   "single-header", "single_header",
                                                 "single_include", "amalgamation",  "amalgamated"};
  const auto is_copy = [&](const std::string& file) {
    for (const auto& part : fs::path(file).parent_path()) {
      if (std::find(std::begin(folders), std::end(folders), text::lower(part.string())) != std::end(folders))
        return true;
    }
    return false;
  };
  const auto copies = std::stable_partition(source.code.begin(), source.code.end(), std::not_fn(is_copy));
  const std::vector<std::string> left(copies, source.code.end());
  const bool are_made_of_others = std::any_of(left.begin(), left.end(), [&](const std::string& copy) {
    return std::any_of(source.code.begin(), copies, [&](const std::string& other) {
      return fs::path(other).filename() == fs::path(copy).filename();
    });
  });
  if (!are_made_of_others) return;
  source.code.erase(copies, source.code.end());
  source.remarks.push_back(and_more(left) + " left out: all of it once more, beside the sources that it is made of");
}

Result<Source> source_in_folder(const fs::path& folder) {
  auto files = files_below(folder);
  if (!files) return pass(files);
  Source source{.root = absolute_path(folder), .called = absolute_path(folder).filename().string()};
  std::error_code ignored;
  const fs::path root = fs::canonical(folder, ignored);
  std::vector<std::string> libraries, debris;
  source.own_folders = own_folder_names(*files, split_name(source.called).name);
  for (const auto& path : *files) {
    const std::string file = path.generic_string();
    if (keeps_inside(source, root, file)) put_by_role(source, file, libraries, debris);
  }
  leave_out_copies(source);
  if (!debris.empty())
    source.remarks.push_back(
        fmt::format("{} left out: what packers, editors and other systems left behind", and_more(debris)));
  leave_out_pointers(source, libraries);
  if (auto added = add_binaries(source, libraries); !added) return pass(added);
  if (auto left = leave_out_unknown_machines(source); !left) return pass(left);
  leave_out_run_times(source);
  find_unread(source);
  return source;
}

}  // namespace fibula
