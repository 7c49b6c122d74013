#include "take/program_plugins.hpp"

#include "binary/open.hpp"
#include "os/files.hpp"
#include "take/unit_relations.hpp"
#include "take/users_names.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

std::string file_name_of(const std::string& file) {
  return fs::path(file).filename().string();
}

std::set<std::string> dynamic_names(const fs::path& file, const std::function<bool(const ImageSymbol&)>& counts) {
  std::set<std::string> names;
  const auto opened = open_binary(file, want_symbols);
  const Image* image = opened ? opened->image() : nullptr;
  if (image == nullptr) return names;
  for (const auto& symbol : image->dynamic_symbols) {
    if (counts(symbol)) names.emplace(symbol.name);
  }
  return names;
}

/// What a program of the download offers to what it opens.
struct Host {
  std::string file;
  Target target;
  std::set<std::string> offers;
};

class ProgramPlugins {
 public:
  ProgramPlugins(const Source& source, const Units& units) : source_(source), units_(units), users_(source) {
    for (const auto& file : source.programs) {
      const auto facts = inspect(source.root / file);
      if (!facts) continue;
      const auto offered = [](const ImageSymbol& symbol) {
        return symbol.defined && symbol.binding == Binding::global && symbol.version.empty();
      };
      hosts_.push_back({file, variant_target(*facts), dynamic_names(source.root / file, offered)});
    }
  }

  std::map<const Unit*, std::string> find() {
    std::map<const Unit*, std::string> found;
    if (hosts_.empty() && source_.opened_only.empty()) return found;
    for (const auto& unit : units_.all()) {
      if (!unit.is_shared() || unit.binaries.size() > 1) continue;
      std::string host = host_of(unit);
      if (host.empty()) host = opener_of(unit);
      if (!host.empty()) found[&unit] = std::move(host);
    }
    add_neighbours(found);
    return found;
  }

 private:
  /// The program that it imports from, or that defines what it leaves open. With a soname it is there for linkers.
  std::string host_of(const Unit& unit) const {
    std::set<std::string> open;
    for (const auto& host : hosts_) {
      if (host.target != variant_target(unit.first().facts)) continue;
      if (is_imported_by(unit, file_name_of(host.file))) return host.file;
      if (host.target.format != Format::elf || unit.first().facts.soname) continue;
      if (open.empty()) open = left_open(unit);
      const auto defines = [&](const std::string& name) { return host.offers.contains(name); };
      if (std::any_of(open.begin(), open.end(), defines)) return host.file;
    }
    return {};
  }

  /// What has no name for linkers and lies among plugins is one, also where it needs nothing of the program.
  void add_neighbours(std::map<const Unit*, std::string>& found) const {
    std::map<std::string, std::string> hosts;
    for (const auto& [unit, host] : found) hosts[folder_of(*unit)] = host;
    for (const auto& unit : units_.all()) {
      const auto host = hosts.find(folder_of(unit));
      const bool named = unit.first().facts.soname || file_name_of(unit.first().file).starts_with("lib");
      if (host != hosts.end() && !named && unit.is_shared()) found.try_emplace(&unit, host->second);
    }
  }

  /// Names that it needs, for which it asks no version: those of the C library have one.
  std::set<std::string> left_open(const Unit& unit) const {
    return dynamic_names(source_.root / unit.first().file, [](const ImageSymbol& symbol) {
      return !symbol.defined && symbol.binding == Binding::global && symbol.version.empty();
    });
  }

  /// The file beside it, which no linker takes, that names it, where no library here imports it.
  std::string opener_of(const Unit& unit) {
    const std::string name = file_name_of(unit.first().file);
    const std::string stem = fs::path(name).stem().string();
    const std::string runtime = unit.first().facts.soname.value.value_or(name);
    constexpr size_t telling = 8;  // shorter words are found by chance
    const auto is_named = [&](const fs::path& file) {
      return is_named_in(file, name) || (stem.size() >= telling && is_named_in(file, stem));
    };
    const auto is_for_links = [&](const Unit& other) { return &other != &unit && is_imported_by(other, runtime); };
    for (const auto& file : source_.opened_only) {
      if (fs::path(file).parent_path() != fs::path(unit.first().file).parent_path()) continue;
      const auto facts = inspect(source_.root / file);
      if (!facts || asks_for(*facts, runtime) || !is_named(source_.root / file)) continue;
      if (std::any_of(units_.all().begin(), units_.all().end(), is_for_links) || users_.are_given_by(unit)) continue;
      return file;
    }
    return {};
  }

  const Source& source_;
  const Units& units_;
  UsersNames users_;
  std::vector<Host> hosts_;
};

}  // namespace

std::map<const Unit*, std::string> program_plugins(const Source& source, const Units& units) {
  return ProgramPlugins(source, units).find();
}

void leave_out_program_plugins(const std::map<const Unit*, std::string>& plugins, Source& source) {
  std::map<std::string, std::vector<std::string>> of_host;
  for (const auto& [unit, host] : plugins) of_host[host].push_back(unit->first().file);
  for (auto& [host, files] : of_host) {
    std::sort(files.begin(), files.end());
    source.remarks.push_back(fmt::format("{} left out of links: only {} opens {}", and_more(files), host,
                                         files.size() == 1 ? "it" : "them"));
    const auto& gone = files;
    std::erase_if(source.binaries,
                  [&gone](const Binary& binary) { return std::binary_search(gone.begin(), gone.end(), binary.file); });
    source.goes_along.insert(source.goes_along.end(), files.begin(), files.end());
    source.opened_only.insert(source.opened_only.end(), files.begin(), files.end());
  }
}

}  // namespace fibula
