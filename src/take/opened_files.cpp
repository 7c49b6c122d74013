#include "take/opened_files.hpp"

#include "base/text.hpp"
#include "os/files.hpp"
#include "take/users_names.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// Folders that hold what is opened by name.
constexpr std::string_view plugin_folders[] = {"plugins", "plugin", "modules", "backends", "drivers", "codecs"};

std::string folder_name(const std::string& file) {
  return text::lower(fs::path(file).parent_path().filename().string());
}

bool is_in_plugin_folder(const std::string& file) {
  const std::string folder = folder_name(file);
  return std::find(std::begin(plugin_folders), std::end(plugin_folders), folder) != std::end(plugin_folders);
}

class Opened {
 public:
  explicit Opened(Source& source) : source_(source), users_(source) {}

  void find(Draft& draft) {
    if (draft.variant.linkage != Linkage::shared) return;
    move_units(draft);
    for (const auto& file : source_.goes_along) {
      if (is_in_plugin_folder(file) && has_library_name(file)) add_plugin(file, draft);
    }
    tell(draft);
  }

 private:
  /// Whether the bytes of one of the variant's libraries hold a text.
  bool is_named(const Draft& draft, const Unit* but, const std::string& name) {
    return std::any_of(draft.units.begin(), draft.units.end(), [&](const Unit* unit) {
      return unit != but && unit->is_shared() && is_named_in(source_.root / unit->first().file, name);
    });
  }

  /// A unit that others name in their texts, that none imports, and that gives users nothing.
  void move_units(Draft& draft) {
    if (draft.units.size() < 2) return;
    const auto all = draft.units;
    for (const Unit* unit : all) {
      const std::string name = fs::path(unit->first().file).filename().string();
      const std::string runtime = unit->first().facts.soname.value.value_or(name);
      const bool imported =
          std::any_of(all.begin(), all.end(), [&](const Unit* other) { return is_imported_by(*other, runtime); });
      if (!unit->is_shared() || imported || unit->binaries.size() > 2 || users_.are_given_by(*unit)) continue;
      if (!is_named(draft, unit, runtime) && !is_named(draft, unit, name)) continue;
      draft.variant.plugins.push_back(unit->first().file);
      std::erase(draft.units, unit);
    }
  }

  void add_plugin(const std::string& file, Draft& draft) {
    const auto facts = inspect(source_.root / file);
    if (!facts || variant_target(*facts) != draft.variant.target) return;
    if (facts->kind.value != Kind::shared_library && facts->kind.value != Kind::plugin) return;
    const std::string name = fs::path(file).filename().string();
    const bool named = is_named(draft, nullptr, name) || is_named(draft, nullptr, folder_name(file));
    if (named) draft.variant.plugins.push_back(file);
  }

  void tell(const Draft& draft) {
    const auto& plugins = draft.variant.plugins;
    if (plugins.empty()) return;
    const size_t shown = std::min<size_t>(plugins.size(), 3);
    source_.remarks.push_back(
        fmt::format("its code opens {}{} by name while the program runs: placed beside it, and no link input",
                    text::join({plugins.data(), shown}, ", "),
                    plugins.size() > shown ? fmt::format(" and {} more", plugins.size() - shown) : ""));
  }

  Source& source_;
  UsersNames users_;
};

}  // namespace

void find_opened(Source& source, std::vector<Draft>& drafts) {
  Opened opened(source);
  for (auto& draft : drafts) opened.find(draft);
}

}  // namespace fibula
