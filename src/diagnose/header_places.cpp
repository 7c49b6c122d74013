#include "diagnose/header_places.hpp"

#include "base/text.hpp"
#include "diagnose/library_advice.hpp"
#include "diagnose/target_words.hpp"
#include "headers/header_folders.hpp"
#include "headers/include_lines.hpp"
#include "headers/well_known_headers.hpp"
#include "index/header_search.hpp"
#include "project/own_making.hpp"
#include "shelf/header_lookup.hpp"
#include "take/folder_card.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

constexpr std::string_view header_endings[] = {".h", ".hpp", ".hh", ".hxx", ".inc", ".ipp", ".tcc"};
constexpr uint64_t largest_header = 4U << 20U;

bool is_there(const fs::path& file) {
  std::error_code ignored;
  return fs::is_regular_file(file, ignored);
}

std::string with_slashes(std::string name) {
  std::replace(name.begin(), name.end(), '\\', '/');
  return name;
}

/// The path below a folder that spells a name in whatever case its letters are.
std::optional<fs::path> in_any_case(const fs::path& folder, const std::string& name) {
  fs::path at = folder;
  for (const auto& part : fs::path(name)) {
    if (part == "." || part == "..") {
      at /= part;
      continue;
    }
    std::error_code error;
    std::optional<fs::path> next;
    for (fs::directory_iterator it(at, error), end; !error && it != end; it.increment(error)) {
      if (text::lower(it->path().filename().string()) == text::lower(part.string())) next = it->path();
    }
    if (!next) return std::nullopt;
    at = *next;
  }
  return is_there(at) ? std::optional(at) : std::nullopt;
}

bool ends_with_path(const fs::path& file, const std::string& name) {
  const std::string path = file.string();
  return path.size() > name.size() && path.ends_with(name) && path[path.size() - name.size() - 1] == '/';
}

/// `/a/include` of `/a/include/sub/tide.h` and `sub/tide.h`.
fs::path folder_for(const fs::path& file, const std::string& name) {
  const std::string path = file.string();
  return path.substr(0, path.size() - name.size() - 1);
}

/// `tide.hpp` and `tide.hh` of `tide.h`.
std::vector<std::string> with_other_endings(const std::string& name) {
  const std::string ending = fs::path(name).extension().string();
  if (!ending.empty() &&
      std::find(std::begin(header_endings), std::end(header_endings), ending) == std::end(header_endings))
    return {};
  const std::string bare = name.substr(0, name.size() - ending.size());
  std::vector<std::string> names;
  for (const std::string_view other : {".h", ".hpp", ".hh", ".hxx"}) {
    if (other != ending) names.push_back(fmt::format("{}{}", bare, other));
  }
  return names;
}

std::string below(const fs::path& folder, const fs::path& file) {
  return file.lexically_relative(folder).generic_string();
}

}  // namespace

HeaderPlaces::HeaderPlaces(const ToolCommand* command, Evidence& evidence, fs::path includer, std::string name)
    : command_(command), evidence_(evidence), includer_(std::move(includer)), name_(with_slashes(std::move(name))) {
  folder_ = command != nullptr ? command->folder : absolute_path(evidence.context().folder);
  if (command != nullptr) searched_ = command->include_folders;
  std::erase_if(searched_, is_there);
  searched_.insert(searched_.begin(), includer_.parent_path());
}

std::vector<fs::path> HeaderPlaces::near_headers() const {
  const ToolCommand nothing{.words = {}, .folder = folder_};
  return evidence_.files_near(command_ != nullptr ? *command_ : nothing,
                              {std::begin(header_endings), std::end(header_endings)});
}

std::optional<HeaderPlace> HeaderPlaces::spelled_otherwise() const {
  for (const auto& folder : searched_) {
    if (const auto file = in_any_case(folder, name_)) return HeaderPlace{*file, {}, below(folder, *file)};
  }
  // Without the folder before it, or with one.
  const std::string last = fs::path(name_).filename().string();
  for (const auto& folder : searched_) {
    if (last != name_ && is_there(folder / last)) return HeaderPlace{folder / last, {}, last};
  }
  for (const auto& folder : searched_) {
    for (const auto& other : with_other_endings(name_)) {
      if (is_there(folder / other)) return HeaderPlace{folder / other, {}, other};
    }
  }
  for (const auto& file : near_headers()) {
    if (!ends_with_path(file, name_)) continue;
    for (size_t i = 1; i < searched_.size(); ++i) {
      if (is_inside(searched_[i], file) && folder_for(file, name_) != searched_[i])
        return HeaderPlace{file, folder_for(file, name_), below(searched_[i], file)};
    }
  }
  return std::nullopt;
}

std::optional<HeaderPlace> HeaderPlaces::to_be_generated() const {
  const ToolCommand nothing{.words = {}, .folder = folder_};
  const auto templates = evidence_.files_near(command_ != nullptr ? *command_ : nothing,
                                              {".in", ".cmake", ".cmakein", ".tmpl", ".template"});
  const std::string last = fs::path(name_).filename().string();
  const std::string bare = last.substr(0, last.rfind('.'));
  for (const auto& file : templates) {
    const std::string name = file.filename().string();
    if (name.starts_with(last + ".") || name == last + ".in" || name.starts_with(bare + ".h.")) {
      // Where it was made already, its folder is what is missing.
      const auto headers = near_headers();
      if (std::none_of(headers.begin(), headers.end(),
                       [&](const fs::path& header) { return ends_with_path(header, name_); }))
        return HeaderPlace{file};
    }
  }
  return by_own_build();
}

/// A script or a makefile that says that it makes the header.
std::optional<HeaderPlace> HeaderPlaces::by_own_build() const {
  const auto making = own_making(name_, includer_.parent_path(), folder_);
  if (!making) return std::nullopt;
  return HeaderPlace{.file = making->file, .folder = {}, .name = making->made, .line = making->line};
}

const Toolchain* HeaderPlaces::asked_toolchain() const {
  if (command_ == nullptr || command_->tool != Tool::driver) return nullptr;
  const auto& toolchain = evidence_.toolchain(*command_);
  return toolchain ? &*toolchain : nullptr;
}

/// `prebuilds/darwin-x64` for a compiler of Linux.
bool HeaderPlaces::is_for_another(const fs::path& folder) const {
  const Toolchain* toolchain = asked_toolchain();
  return toolchain != nullptr &&
         names_another_target(below(folder_, folder), toolchain->triple, toolchain->target.arch);
}

bool HeaderPlaces::is_of_other_library(const fs::path& root) const {
  if (is_inside(root, includer_)) return false;
  // What lies below one folder here may have come as one library.
  const auto top = [&](const fs::path& file) { return *file.lexically_relative(folder_).begin(); };
  return top(root) != top(includer_);
}

template <class Matches>
std::optional<HeaderPlace> HeaderPlaces::near_as(const Matches& matches) const {
  std::optional<HeaderPlace> best;
  bool best_is_foreign = false;
  for (const auto& file : near_headers()) {
    if (!matches(file)) continue;
    const fs::path folder = folder_for(file, name_);
    const bool include = folder.filename() == "include" || folder.filename() == "inc";
    const bool foreign = is_for_another(folder);
    if (best && foreign != best_is_foreign) {
      if (foreign) continue;
      best.reset();
    }
    best_is_foreign = foreign;
    const bool better =
        !best || (include && best->folder.filename() != "include") ||
        (!include && best->folder.filename() != "include" && folder.string().size() < best->folder.string().size());
    if (!better) continue;
    const fs::path root = include ? folder.parent_path() : folder;
    best = HeaderPlace{file, folder, below(folder, file), is_of_other_library(root)};
  }
  return best;
}

std::optional<HeaderPlace> HeaderPlaces::near() const {
  return near_as([&](const fs::path& file) { return ends_with_path(file, name_); });
}

std::optional<HeaderPlace> HeaderPlaces::near_with_other_ending() const {
  for (const auto& other : with_other_endings(name_)) {
    for (const auto& file : near_headers()) {
      if (!ends_with_path(file, other)) continue;
      const fs::path folder = folder_for(file, other);
      return HeaderPlace{file, folder, other, is_of_other_library(folder)};
    }
  }
  return std::nullopt;
}

std::optional<HeaderPlace> HeaderPlaces::near_in_other_letters() const {
  const std::string lower = text::lower(name_);
  return near_as([&](const fs::path& file) { return ends_with_path(text::lower(file.string()), lower); });
}

std::optional<ShelfHeader> HeaderPlaces::on_shelf() const {
  const Project* project = evidence_.context().project;
  std::vector<Card> cards;
  for (const auto& use : project == nullptr ? std::vector<LibraryUse>() : project->libraries()) {
    if (use.folder.empty()) continue;
    if (auto card = card_of_folder(use.folder, use.name)) cards.push_back(std::move(*card));
  }
  const Shelf& shelf = evidence_.context().shelf;
  for (const auto& name : libraries_to_ask(shelf, evidence_.context().cache, {name_})) {
    auto versions = shelf.versions(name);
    if (versions && !versions->empty()) cards.push_back(std::move(versions->front()));
  }
  // What is attached was meant before what is not, and the name as it is written before one like it.
  for (const auto& [attached, as_written] : {std::pair{true, true}, {true, false}, {false, true}, {false, false}}) {
    for (const auto& card : cards) {
      if (is_attached(project, card.name) != attached || (!attached && is_anybodys_header(name_))) continue;
      const auto hit = header_meant(card, name_);
      if (hit && hit->as_written == as_written)
        return ShelfHeader{hit->path, hit->name, card.name, card.version, as_written, attached};
    }
  }
  return std::nullopt;
}

std::optional<HeaderPlace> HeaderPlaces::in_system_folder() const {
  if (is_anybodys_header(name_)) return std::nullopt;
  std::vector<fs::path> system{"/usr/include", "/usr/local/include"};
  const Toolchain* toolchain = asked_toolchain();
  if (toolchain != nullptr) system = toolchain->include_directories;
  for (const auto& root : system) {
    std::error_code error;
    std::vector<fs::path> folders;
    for (fs::directory_iterator it(root, error), end; !error && it != end; it.increment(error)) {
      std::error_code ignored;
      if (it->is_directory(ignored)) folders.push_back(it->path());
    }
    std::sort(folders.begin(), folders.end());
    for (const auto& folder : folders) {
      const std::string name = folder.filename().string();
      // Those of other machines and of compilers are no libraries.
      static constexpr std::string_view parts_of_the_system[] = {"c++", "bits", "asm", "asm-generic", "gnu", "sys"};
      const bool part = std::find(std::begin(parts_of_the_system), std::end(parts_of_the_system), name) !=
                        std::end(parts_of_the_system);
      if (part || name.find("-linux-") != std::string::npos || name.starts_with("linux")) continue;
      if (is_there(folder / name_)) return HeaderPlace{folder / name_, folder, name_};
    }
  }
  return std::nullopt;
}

namespace {

/// What the command's sources include, each name once.
std::set<std::string> included_names(const ToolCommand& command) {
  std::set<std::string> names;
  for (const auto& source : command.sources) {
    const auto text = read_text(source.path, largest_header);
    if (!text) continue;
    for (const auto& line : include_lines(*text)) names.insert(line.name);
  }
  return names;
}

bool differ(const fs::path& one, const fs::path& other) {
  const auto a = read_text(one, largest_header), b = read_text(other, largest_header);
  return a && b && *a != *b;
}

}  // namespace

std::vector<RivalFolder> rival_folders(const ToolCommand& command, Evidence& evidence) {
  std::vector<RivalFolder> rivals;
  const auto near = evidence.files_near(command, {std::begin(header_endings), std::end(header_endings)});
  for (const auto& name : included_names(command)) {
    std::vector<fs::path> folders = command.include_folders;
    for (const auto& file : near) {
      if (ends_with_path(file, name)) folders.push_back(folder_for(file, name));
    }
    std::optional<fs::path> found;
    for (const auto& folder : folders) {
      if (!is_there(folder / name)) continue;
      if (!found) {
        found = folder / name;
      } else if (folder / name != *found && rivals.size() < 6 && differ(*found, folder / name)) {
        rivals.push_back({folder, *found, name});
      }
    }
  }
  return rivals;
}

std::vector<std::string> headers_with(const std::string& name, const ToolCommand& command, Evidence& evidence) {
  struct Row {
    std::string_view name, header;
  };
  static constexpr Row rows[] = {{"uint8_t", "stdint.h"},
                                 {"uint16_t", "stdint.h"},
                                 {"uint32_t", "stdint.h"},
                                 {"uint64_t", "stdint.h"},
                                 {"int8_t", "stdint.h"},
                                 {"int16_t", "stdint.h"},
                                 {"int32_t", "stdint.h"},
                                 {"int64_t", "stdint.h"},
                                 {"uintptr_t", "stdint.h"},
                                 {"intptr_t", "stdint.h"},
                                 {"size_t", "stddef.h"},
                                 {"ptrdiff_t", "stddef.h"},
                                 {"NULL", "stddef.h"},
                                 {"FILE", "stdio.h"},
                                 {"bool", "stdbool.h"},
                                 {"time_t", "time.h"},
                                 {"va_list", "stdarg.h"},
                                 {"ssize_t", "sys/types.h"},
                                 {"off_t", "sys/types.h"},
                                 {"pid_t", "sys/types.h"},
                                 {"string", "string"},
                                 {"vector", "vector"},
                                 {"map", "map"},
                                 {"unique_ptr", "memory"},
                                 {"shared_ptr", "memory"},
                                 {"function", "functional"},
                                 {"optional", "optional"},
                                 {"mutex", "mutex"},
                                 {"thread", "thread"},
                                 {"array", "array"},
                                 {"set", "set"},
                                 {"std", "string"},
                                 {"std", "vector"},
                                 {"std", "memory"},
                                 {"std", "functional"},
                                 {"exception", "exception"},
                                 {"runtime_error", "stdexcept"},
                                 {"ostream", "ostream"},
                                 {"string_view", "string_view"}};
  std::vector<std::string> headers;
  for (const auto& row : rows) {
    if (row.name == name) headers.emplace_back(row.header);
  }
  for (const auto& file : evidence.files_near(command, {std::begin(header_endings), std::end(header_endings)})) {
    const auto text = read_text(file, largest_header);
    if (headers.size() >= 6 || !text || !text::has_word(*text, name)) continue;
    for (const auto& folder : command.include_folders) {
      if (!is_inside(folder, file)) continue;
      headers.push_back(below(folder, file));
      break;
    }
  }
  return headers;
}

}  // namespace fibula
