/// Looks a folder over: headers, binaries, and which of them belong together.
#include <fibula/folder.hpp>

#include "base/text.hpp"
#include "binary/open.hpp"
#include "facts/system_files.hpp"
#include "headers/header_folders.hpp"
#include "os/files.hpp"
#include "os/host.hpp"
#include "os/stamp.hpp"
#include "take/file_roles.hpp"
#include "take/folder_oddities.hpp"
#include "take/pairing.hpp"
#include "take/unpack.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <map>
#include <tuple>

namespace fibula {
namespace {

bool is_inside_folder(const std::string& file, const std::string& folder) {
  return folder == "." || file.starts_with(folder + "/");
}

std::vector<FilesInFolder> header_folders(const std::vector<std::string>& headers) {
  std::vector<FilesInFolder> folders;
  for (const auto& path : include_directories(headers)) folders.push_back({.path = path});
  for (const auto& header : headers) {
    FilesInFolder* best = nullptr;  // a folder inside another one has its own headers
    for (auto& folder : folders) {
      if (is_inside_folder(header, folder.path) && (best == nullptr || folder.path.size() > best->path.size()))
        best = &folder;
    }
    if (best == nullptr) continue;
    if (best->count++ == 0) best->first = best->path == "." ? header : header.substr(best->path.size() + 1);
  }
  return folders;
}

std::vector<FilesInFolder> source_folders(const std::vector<std::string>& files) {
  std::map<std::string, FilesInFolder> folders;
  for (const auto& file : files) {
    if (!is_source_name(file)) continue;
    const fs::path path(file);
    const std::string folder = path.has_parent_path() ? path.parent_path().string() : ".";
    FilesInFolder& found = folders[folder];
    if (found.count++ == 0) found.first = path.filename().string();
    found.path = folder;
  }
  std::vector<FilesInFolder> list;
  for (auto& [path, found] : folders) list.push_back(std::move(found));
  return list;
}

/// Files and the links to them: a link in the folder is another name, not another library.
struct Names {
  std::vector<std::string> files;
  std::map<std::string, std::vector<std::string>> links;  ///< by the file that is meant
};

Names tell_links(const fs::path& folder, const std::vector<fs::path>& paths, FolderView& view) {
  Names names;
  for (const auto& path : paths) {
    std::error_code error;
    const std::string file = path.generic_string();
    if (!fs::is_symlink(folder / path, error)) {
      names.files.push_back(file);
      continue;
    }
    const fs::path target = fs::weakly_canonical(folder / path, error);
    if (!fs::exists(target, error)) {
      view.odd.push_back(
          {file, fmt::format("is a link to {}, which is not there", fs::read_symlink(folder / path, error).string())});
      continue;
    }
    names.links[shown_from(fs::weakly_canonical(folder, error), target)].push_back(path.filename().string());
  }
  return names;
}

/// Libraries of Windows are coff, what they run with is pe: people look for them side by side.
std::string group_of(const Facts& facts) {
  const std::string target = target_of(facts);
  const auto format = facts.format.value;
  if (format != Format::coff && format != Format::pe) return target;
  return target.substr(0, target.rfind(' ')) + " pe/coff";
}

void read_binaries(const fs::path& folder, Names& names, FolderView& view) {
  std::vector<fs::path> paths;
  std::erase_if(names.files, is_header_name);
  const auto debris = std::stable_partition(names.files.begin(), names.files.end(),
                                            [](const std::string& file) { return role_of(file) != Role::debris; });
  if (debris != names.files.end())
    view.odd.push_back({*debris, text::count(static_cast<size_t>(names.files.end() - debris), "file") +
                                     " of packers, editors or other systems lie here, and are no part of a library"});
  names.files.erase(debris, names.files.end());
  for (const auto& file : names.files) paths.push_back(folder / file);
  auto all = inspect_all(paths);
  for (size_t i = 0; i < all.size(); ++i) {
    const auto& file = names.files[i];
    auto& facts = all[i];
    if (!facts) {
      const bool other = facts.error().code == Code::not_a_library && !has_library_name(file);
      if (!other) view.refused.push_back(std::move(facts.error()));
      continue;
    }
    std::string group = group_of(*facts);
    view.binaries.push_back(
        {.path = file, .facts = std::move(*facts), .group = std::move(group), .links = names.links[file]});
  }
  std::sort(view.binaries.begin(), view.binaries.end(), [](const FolderBinary& a, const FolderBinary& b) {
    return std::tie(a.group, a.path) < std::tie(b.group, b.path);
  });
}

std::string name_of(const std::string& path) {
  return fs::path(path).filename().string();
}

void relate_import(FolderView& view, FolderBinary& binary) {
  if (!binary.facts.soname) return;
  std::vector<PairedFile> files;
  for (const auto& other : view.binaries) files.push_back({other.path, &other.facts});
  if (const auto dll = dll_behind({binary.path, &binary.facts}, files)) {
    binary.belongs_to = "runs with " + view.binaries[*dll].path;
    return;
  }
  binary.belongs_to = "for " + *binary.facts.soname.value;
  if (is_windows_dll(*binary.facts.soname.value)) return;  // which Windows has
  view.odd.push_back(
      {binary.path, fmt::format("stands for {}, which is not in here for this machine", *binary.facts.soname.value)});
}

/// Programs look for the soname: without a file or link of that name, they do not start.
void relate_shared(FolderView& view, FolderBinary& binary) {
  if (binary.facts.format.value != Format::elf || !binary.facts.soname) return;
  const std::string& soname = *binary.facts.soname.value;
  const std::string beside = (fs::path(binary.path).parent_path() / soname).generic_string();
  const auto is_it = [&](const FolderBinary& other) { return other.path == beside; };
  const bool there = name_of(binary.path) == soname || std::any_of(view.binaries.begin(), view.binaries.end(), is_it) ||
                     std::find(binary.links.begin(), binary.links.end(), soname) != binary.links.end();
  binary.belongs_to = "found as " + soname;
  if (!there) {
    view.odd.push_back(
        {binary.path,
         fmt::format("programs will look for it as {}, and there is no file or link of that name beside it", soname)});
  }
}

}  // namespace

bool is_download(const fs::path& file) {
  return stamp_of(file).is_file() && is_archive(file) && !open_binary(file, 0);
}

Result<LookedInto> look_into(const fs::path& archive) {
  auto folder = TemporaryFolder::make(temporary_place(), "fibula-look-");
  if (!folder) return pass(folder);
  const fs::path root = folder->path();
  if (auto unpacked = unpack(archive, root, {}, {}); !unpacked) return pass(unpacked);
  auto view = look_over(root);
  if (!view) return pass(view);
  return LookedInto{std::move(*view), root, std::make_shared<const TemporaryFolder>(std::move(*folder))};
}

std::string target_of(const Facts& facts) {
  if (!facts.slices.empty()) {
    std::string archs;
    for (const auto& slice : facts.slices) {
      const auto arch = slice.arch ? to_string(*slice.arch.value) : "unknown";
      if (archs.find(arch) == std::string::npos) archs += fmt::format("{}{}", archs.empty() ? "" : " and ", arch);
    }
    return fmt::format("{} {}", archs, facts.format ? to_string(*facts.format.value) : "");
  }
  std::string text;
  const bool avr = facts.arch.value == Arch::avr;
  if (facts.bits && facts.arch)
    text = fmt::format("{}-bit {} ", avr ? 8 : *facts.bits.value, to_string(*facts.arch.value));
  if (facts.arch && !facts.bits) text = fmt::format("{} ", to_string(*facts.arch.value));
  return text + std::string(facts.format ? to_string(*facts.format.value) : "without members");
}

void relate(FolderView& view) {
  for (auto& binary : view.binaries) {
    if (binary.facts.kind.value == Kind::import_library) relate_import(view, binary);
    if (binary.facts.kind.value == Kind::shared_library) relate_shared(view, binary);
    add_oddities(binary, view.odd);
  }
}

Result<FolderView> look_over(const fs::path& folder) {
  auto paths = files_below(folder);
  if (!paths) return pass(paths);
  FolderView view;
  Names names = tell_links(folder, *paths, view);
  std::vector<std::string> headers;
  std::copy_if(names.files.begin(), names.files.end(), std::back_inserter(headers), is_header_name);
  view.headers = header_folders(headers);
  view.sources = source_folders(names.files);
  read_binaries(folder, names, view);
  relate(view);
  add_oddities_of_whole(view);
  return view;
}

}  // namespace fibula
