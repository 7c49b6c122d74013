#include "take/opened_files.hpp"

#include "base/digest.hpp"
#include "base/text.hpp"
#include "headers/declarations.hpp"
#include "headers/header_folders.hpp"
#include "os/files.hpp"
#include "os/mapped_file.hpp"
#include "take/offered_names.hpp"

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
  explicit Opened(Source& source) : source_(source) {}

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
    for (const auto* unit : draft.units) {
      if (unit == but || !unit->is_shared()) continue;
      const auto file = MappedFile::open(source_.root / unit->first().file);
      if (!file) continue;
      const Bytes bytes = (*file)->bytes();
      const std::string_view content(reinterpret_cast<const char*>(bytes.data()), bytes.size());
      if (content.find(name) != std::string_view::npos) return true;
    }
    return false;
  }

  /// A unit that others name in their texts, that none imports, and that gives users nothing.
  void move_units(Draft& draft) {
    if (draft.units.size() < 2) return;
    const auto all = draft.units;
    for (const Unit* unit : all) {
      const std::string name = fs::path(unit->first().file).filename().string();
      const std::string runtime = unit->first().facts.soname.value.value_or(name);
      const bool imported = std::any_of(all.begin(), all.end(), [&](const Unit* other) {
        const auto& needs = other->first().facts.needs.value;
        return needs && std::any_of(needs->begin(), needs->end(),
                                    [&](const Need& need) { return text::lower(need.name) == text::lower(runtime); });
      });
      if (!unit->is_shared() || imported || unit->binaries.size() > 2 || gives_users_something(*unit)) continue;
      if (!is_named(draft, unit, runtime) && !is_named(draft, unit, name)) continue;
      draft.variant.plugins.push_back(unit->first().file);
      std::erase(draft.units, unit);
    }
  }

  bool gives_users_something(const Unit& unit) {
    if (declared_.empty()) {
      for (const auto& header : source_.headers) {
        if (is_assembler_header(header)) continue;
        for (const auto& name : functions_left_to_a_binary(read_text(source_.root / header).value_or("")))
          declared_.push_back(quick_digest(name));
      }
      std::sort(declared_.begin(), declared_.end());
    }
    // C++ names are mangled in what it offers: nothing is known of them, so they count as the users'.
    const bool cxx = std::any_of(unit.rows.front().begin(), unit.rows.front().end(), [](const FactRow& row) {
      const auto* value = std::get_if<std::string>(&row.value);
      return row.id == "interface" && value != nullptr && *value == "C++";
    });
    return cxx || std::any_of(unit.offers.begin(), unit.offers.end(), [&](uint64_t name) {
             return std::binary_search(declared_.begin(), declared_.end(), name);
           });
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
    if (draft.variant.plugins.empty()) return;
    source_.remarks.push_back(
        fmt::format("its code opens {} by name while the program runs: placed beside it, and no link input",
                    text::join(draft.variant.plugins, ", ")));
  }

  Source& source_;
  std::vector<uint64_t> declared_;
};

}  // namespace

void find_opened(Source& source, std::vector<Draft>& drafts) {
  Opened opened(source);
  for (auto& draft : drafts) opened.find(draft);
}

}  // namespace fibula
