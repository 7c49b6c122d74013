#include "take/draft_facts.hpp"

#include "base/version.hpp"

#include <algorithm>

namespace fibula {
namespace {

/// Facts that a card keeps of its variants, because a rule compares them.
constexpr std::string_view kept[] = {
    "kind",       "cpu-floor",  "float-abi",  "os-floor",    "subsystem", "c-runtime", "libc-floor", "cxx-runtime",
    "cxx-floor",  "string-abi", "interface",  "own-strings", "stl-debug", "language",  "link-time",  "toolset",
    "exceptions", "threads",    "sanitizers", "pic",         "entry",     "soname",    "dll-name",   "install-name"};

/// What of a fact decides; empty where the file does not tell it.
std::string fact_of(const std::vector<FactRow>& rows, std::string_view id) {
  const auto found = std::find_if(rows.begin(), rows.end(), [&](const FactRow& row) { return row.id == id; });
  return found == rows.end() ? std::string() : decisive_value(found->value);
}

Learnt told_by(const FactRow& row, const std::string& file) {
  return {row.certainty, file, row.from};
}

/// Whether a later file's value stands for the whole variant: a floor as the highest, position dependence as the worst.
struct Outdoes {
  std::string_view id;

  bool operator()(const std::string& fresh, const std::string& known) const {
    if (id.ends_with("-floor")) return compare_versions(fresh, known) > 0;
    if (id == "string-abi" || id == "own-strings") return is_open_value(known) && known != "both";
    return (id == "language" || id == "interface") && fresh == "C++";
  }
  bool operator()(const NamedVersion& fresh, const NamedVersion& known) const {
    return id.ends_with("-floor") && fresh.name == known.name && compare_versions(fresh.version, known.version) > 0;
  }
  bool operator()(const PicReport& fresh, const PicReport& known) const { return fresh.level > known.level; }
  template <class One, class Other>
  bool operator()(const One&, const Other&) const {
    return false;
  }
};

bool outdoes(std::string_view id, const FactValue& fresh, const FactValue& known) {
  return std::visit(Outdoes{id}, fresh, known);
}

void learn(const std::vector<FactRow>& rows, const Binary& binary, Variant& variant) {
  const std::string& file = binary.file;
  // Programs ask for a DLL as their import library says, whatever it calls itself.
  const bool imports = binary.facts.kind.value == Kind::import_library;
  for (const auto& row : rows) {
    if (row.id == "arch" || row.id == "kind")
      variant.learnt.try_emplace(row.id == "kind" ? "linkage" : row.id, told_by(row, file));
    if (std::find(std::begin(kept), std::end(kept), row.id) == std::end(kept)) continue;
    const auto known = variant.facts.find(row.id);
    if (known != variant.facts.end() && !(imports && row.id == "dll-name") &&
        !outdoes(row.id, row.value, known->second))
      continue;
    variant.facts[row.id] = row.value;
    variant.learnt[row.id] = told_by(row, file);
  }
}

void learn_configuration(const std::vector<FactRow>& rows, const Binary& binary, Draft& draft) {
  Variant& variant = draft.variant;
  if (variant.configuration != "unknown") return;
  for (const auto& row : rows) {
    if (row.id != "configuration") continue;
    variant.configuration = std::get<std::string>(row.value);
    variant.learnt["configuration"] = told_by(row, binary.file);
    return;
  }
  if (draft.hint.configuration == "unknown") return;
  variant.configuration = draft.hint.configuration;
  variant.learnt["configuration"] = draft.hint.learnt;
}

}  // namespace

bool agrees(const Draft& draft, const std::vector<FactRow>& rows) {
  return std::none_of(std::begin(decisive_facts), std::end(decisive_facts), [&](std::string_view id) {
    const std::string theirs = fact_of(rows, id);
    const std::string ours = id == "configuration" ? draft.variant.configuration : decisive_value(draft.variant, id);
    return !is_open_value(ours) && !is_open_value(theirs) && ours != theirs;
  });
}

void add_unit(const Unit& unit, Draft& draft) {
  draft.units.push_back(&unit);
  for (size_t i = 0; i < unit.binaries.size(); ++i) {
    learn(unit.rows[i], *unit.binaries[i], draft.variant);
    learn_configuration(unit.rows[i], *unit.binaries[i], draft);
  }
}

}  // namespace fibula
