#include "take/sources/rivals.hpp"

#include "base/text.hpp"

#include <algorithm>

namespace fibula {
namespace {

const std::vector<std::string> all_systems = {"linux", "macos", "windows"};

const std::vector<std::string>& systems_of(const SourceSystem& system) {
  return system.systems.empty() ? all_systems : system.systems;
}

bool is_for(const SourceSystem& system, const std::string& name) {
  const auto& systems = systems_of(system);
  return std::find(systems.begin(), systems.end(), name) != systems.end();
}

class Rivals {
 public:
  explicit Rivals(const std::map<std::string, PlacedSource>& sources) : sources_(sources) {
    for (const auto& [file, source] : sources) {
      for (const auto& name : source.names) definers_[name].push_back(file);
    }
  }

  /// Whether on a system others serve instead of it.
  bool outdone(const std::string& file, const std::string& system) const {
    const PlacedSource& source = sources_.at(file);
    return is_part_of_another(file, system) || serve_instead(source, file, system);
  }

 private:
  bool serve_instead(const PlacedSource& source, const std::string& file, const std::string& system) const {
    return !source.names.empty() && std::all_of(source.names.begin(), source.names.end(), [&](const std::string& name) {
      const auto& files = definers_.at(name);
      return std::any_of(files.begin(), files.end(), [&](const std::string& other) {
        return other != file && is_for(sources_.at(other).system, system) && beats(other, file);
      });
    });
  }

  /// Another defines all of it and, by itself, as much again that others want: that one is needed in any case, and both
  /// together would clash. So it is with models for checkers, and with mocks.
  bool is_part_of_another(const std::string& file, const std::string& system) const {
    const auto& names = sources_.at(file).names;
    if (names.empty()) return false;
    const auto& others = definers_.at(*names.begin());
    return std::any_of(others.begin(), others.end(), [&](const std::string& other) {
      const auto& more = sources_.at(other).names;
      if (other == file || !is_for(sources_.at(other).system, system) || more.size() < 2 * names.size()) return false;
      if (!std::includes(more.begin(), more.end(), names.begin(), names.end())) return false;
      const auto alone = std::count_if(more.begin(), more.end(),
                                       [&](const std::string& name) { return definers_.at(name).size() == 1; });
      return static_cast<size_t>(alone) >= names.size();
    });
  }

  bool beats(const std::string& one, const std::string& other) const {
    const SourceSystem& a = sources_.at(one).system;
    const SourceSystem& b = sources_.at(other).system;
    if (!a.archs.empty() && a.archs != b.archs) return false;
    const size_t fewer = systems_of(a).size(), more = systems_of(b).size();
    return fewer < more || (fewer == more && is_called_a_stand_in(other) && !is_called_a_stand_in(one));
  }

  const std::map<std::string, PlacedSource>& sources_;
  std::map<std::string, std::vector<std::string>> definers_;
};

}  // namespace

std::vector<std::string> settle_rivals(std::map<std::string, PlacedSource>& sources) {
  const Rivals rivals(sources);
  std::map<std::string, std::vector<std::string>> left;
  for (const auto& [file, source] : sources) {
    for (const auto& system : systems_of(source.system)) {
      if (!rivals.outdone(file, system)) left[file].push_back(system);
    }
  }
  std::vector<std::string> without;
  for (auto entry = sources.begin(); entry != sources.end();) {
    auto& systems = left[entry->first];
    if (systems.empty()) {
      without.push_back(entry->first);
      entry = sources.erase(entry);
      continue;
    }
    if (systems.size() < systems_of(entry->second.system).size()) entry->second.system.systems = systems;
    ++entry;
  }
  return without;
}

}  // namespace fibula
