#include "for_people.hpp"

#include <fmt/format.h>
#include <filesystem>
#include <map>
#include <set>
#include <string>

namespace cli {
namespace {

namespace fs = std::filesystem;

class Shortener {
 public:
  explicit Shortener(const std::vector<fibula::Fit>& fits) {
    for (const auto& fit : fits) {
      for (const auto& library : fit.libraries) {
        // A copy inside a project has its own place, which says more than its version.
        const fs::path& entry = library.entry;
        const bool on_shelf = entry.filename() == library.version && entry.parent_path().filename() == library.name;
        if (on_shelf) {
          const std::string shelf = entry.parent_path().parent_path().string() + '/';
          known_[shelf].insert(fmt::format("{}/{}", library.name, library.version));
        }
      }
    }
  }

  void text(std::string& text) const {
    for (const auto& [shelf, entries] : known_) {
      for (size_t at = text.find(shelf); at != std::string::npos; at = text.find(shelf, at + 1)) {
        const size_t from = at + shelf.size(), end = text.find(files, from);
        if (end == std::string::npos) break;
        const std::string entry = text.substr(from, end - from);
        if (entries.contains(entry)) text.replace(at, end + files.size() - at, "shelf: " + entry);
      }
    }
  }

  void path(fs::path& path) const {
    std::string written = path.string();
    text(written);
    path = written;
  }

  void misfits(std::vector<fibula::Misfit>& misfits) const {
    for (auto& misfit : misfits) {
      text(misfit.subject);
      for (auto& evidence : misfit.evidence) text(evidence);
    }
  }

 private:
  static constexpr std::string_view files = "/files";

  std::map<std::string, std::set<std::string>> known_;  ///< `NAME/VERSION`, by the folder of their shelf
};

void shorten(const Shortener& with, fibula::Fit& fit) {
  for (auto& directory : fit.include_directories) with.path(directory.path);
  for (auto& link : fit.links) {
    for (auto& input : link.inputs) {
      for (auto& argument : input.arguments) with.text(argument);
    }
  }
  for (auto& closure : fit.closures) {
    for (auto& entry : closure.entries) {
      for (auto* text : {&entry.path, &entry.needed_by, &entry.why}) with.text(*text);
      for (auto& asker : entry.asked_by) with.text(asker);
    }
  }
  for (auto* misfits : {&fit.compile_misfits, &fit.link_misfits, &fit.run_misfits}) with.misfits(*misfits);
  for (auto& library : fit.libraries) {
    with.misfits(library.misfits);
    with.misfits(library.notes);
    for (auto& refusal : library.refused) {
      with.text(refusal.first.subject);
      for (auto& evidence : refusal.first.evidence) with.text(evidence);
    }
  }
}

}  // namespace

std::vector<fibula::Fit> with_short_paths(std::vector<fibula::Fit> fits) {
  const Shortener with(fits);
  for (auto& fit : fits) shorten(with, fit);
  return fits;
}

std::string shown_files(const std::vector<std::string>& files, size_t few) {
  return files.size() > few ? fmt::format("{} and {} more", files.front(), files.size() - 1)
                            : fmt::format("{}", fmt::join(files, ", "));
}

std::string shown_version(const std::string& version, const char* before) {
  return version == "0" ? std::string() : before + version;
}

}  // namespace cli
