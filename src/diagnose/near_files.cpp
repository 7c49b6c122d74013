#include "diagnose/near_files.hpp"

#include "base/text.hpp"

namespace fibula {
namespace {

/// `libtide` of `libtide.so.2.1` and `libtide.so`.
std::string stem_of(const std::string& name) {
  return name.substr(0, name.find(".so"));
}

}  // namespace

std::optional<std::pair<Card, std::string>> run_time_file_on(const Shelf& shelf, const std::string& name) {
  for (const auto& library : shelf.names()) {
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
      if (shared && other != name && stem_of(other) == stem_of(name)) return folder / file;
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

}  // namespace fibula
