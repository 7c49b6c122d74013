#include "diagnose/near_files.hpp"

#include "base/text.hpp"
#include "binary/open.hpp"
#include "index/shelf_names.hpp"
#include "loader/search.hpp"

#include <fibula/facts.hpp>
#include <fibula/symbols.hpp>

#include <algorithm>

namespace fibula {
std::string shared_stem(const std::string& name) {
  return name.substr(0, name.find(".so"));
}

std::optional<std::pair<Card, std::string>> run_time_file_on(const Shelf& shelf, const Cache& cache,
                                                             const std::string& name) {
  for (const auto& library : libraries_with_file(shelf, cache, {name, text::lower(name)})) {
    const auto versions = shelf.versions(library);
    for (const auto& card : versions ? *versions : std::vector<Card>()) {
      for (const auto& variant : card.variants) {
        for (const auto& file : variant.runtime) {
          if (text::lower(fs::path(file).filename().string()) == text::lower(name)) return std::pair{card, file};
        }
      }
    }
  }
  return std::nullopt;
}

std::optional<fs::path> other_version_in(const std::vector<fs::path>& folders, const std::string& name) {
  if (name.find(".so") == std::string::npos) return std::nullopt;
  for (const auto& folder : folders) {
    for (const auto& file : files_directly_in(folder)) {
      const std::string other = file.string();
      const bool shared = other.find(".so") != std::string::npos;
      if (shared && other != name && shared_stem(other) == shared_stem(name)) return folder / file;
    }
  }
  return std::nullopt;
}

std::optional<fs::path> lies_near(const fs::path& program, const std::string& name) {
  if (program.empty()) return std::nullopt;
  const fs::path folder = program.parent_path();
  for (const auto& place :
       {folder / "lib", folder.parent_path() / "lib", folder / "bin", folder.parent_path() / "bin"}) {
    std::error_code ignored;
    if (fs::exists(place / name, ignored)) return place / name;
  }
  return std::nullopt;
}

std::vector<fs::path> folders_of(const fs::path& program) {
  if (program.empty()) return {};
  std::vector<fs::path> folders{program.parent_path()};
  const auto file = read_run_time_file(program, Arch::unknown);
  for (const auto& paths : file ? std::vector{file->runpath, file->rpath} : std::vector<std::vector<std::string>>()) {
    for (const auto& path : paths) folders.emplace_back(expanded(path, *file));
  }
  return folders;
}

std::optional<fs::path> file_that_says_its_name(const std::vector<fs::path>& folders, const std::string& name) {
  for (const auto& folder : folders) {
    for (const auto& file : files_directly_in(folder)) {
      if (file.string().find(".so") == std::string::npos) continue;
      const auto facts = inspect(folder / file);
      if (facts && facts->soname.value == name) return folder / file;
    }
  }
  return std::nullopt;
}

bool keeps_to_itself(const fs::path& program, const std::string& symbol) {
  const auto opened = open_binary(program, want_locals);
  const Image* image = opened ? opened->image() : nullptr;
  return image != nullptr && std::any_of(image->symbols.begin(), image->symbols.end(),
                                         [&](const ImageSymbol& one) { return one.defined && one.name == symbol; });
}

std::optional<fs::path> library_that_needs(const fs::path& program, const std::string& name) {
  for (const auto& folder : folders_of(program)) {
    for (const auto& file : files_directly_in(folder)) {
      const auto read = read_run_time_file(folder / file, Arch::unknown);
      if (!read || read->is_program()) continue;
      const auto& needs = read->needs;
      if (std::any_of(needs.begin(), needs.end(), [&](const Need& need) { return need.name == name; }))
        return folder / file;
    }
  }
  return std::nullopt;
}

std::string way_from(const fs::path& user, const fs::path& file) {
  const fs::path way = absolute_path(file).parent_path().lexically_relative(absolute_path(user).parent_path());
  return way == "." ? "$ORIGIN" : "$ORIGIN/" + way.generic_string();
}

bool gives_out(const fs::path& file, const std::string& symbol) {
  bool found = false;
  const auto look = [&](const SymbolView& one) {
    found = found || (one.defines && one.binding != Binding::local && one.name == symbol);
  };
  return visit_symbols(file, look) && found;
}

}  // namespace fibula
