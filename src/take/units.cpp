#include "take/units.hpp"

#include "base/text.hpp"
#include "facts/library_name.hpp"
#include "os/file_digest.hpp"
#include "os/files.hpp"
#include "take/offered_names.hpp"
#include "take/pairing.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

Hint folder_hint(const std::string& file) {
  for (const auto& part : fs::path(file).parent_path()) {
    std::string name = text::lower(part.string());
    for (char& c : name) {
      if (!text::is_letter(c)) c = ' ';
    }
    // `release`, `x64-Release`, `desk_debug`.
    const auto words = text::words(name);
    const bool debug = std::find(words.begin(), words.end(), "debug") != words.end();
    const bool release = std::find(words.begin(), words.end(), "release") != words.end();
    if (debug != release) return {debug ? "debug" : "release", {Certainty::guessed, file, "a folder's name"}};
  }
  return {};
}

/// How makers tell a debug build from the release build beside it.
constexpr std::string_view debug_endings[] = {"d", "_d", "-d", "-gd", "_debug", "-debug", "debug"};

/// `libsaltlogd.a` beside `libsaltlog.a` is the debug build of the two. `beside` are the stems in the same folder.
Hint name_hint(const std::string& file, const std::set<std::string>& beside) {
  const std::string stem = library_stem(file);
  for (const auto ending : debug_endings) {
    const std::string folder = fs::path(file).parent_path().generic_string();
    if (stem.size() > ending.size() && text::lower(stem).ends_with(ending)) {
      const std::string release = stem.substr(0, stem.size() - ending.size());
      if (beside.contains(folder + "/" + release))
        return {"debug", {Certainty::guessed, file, fmt::format("its name, beside {}", release)}};
    }
    for (const std::string& debug : {stem + std::string(ending), stem + text::upper(ending)}) {
      if (beside.contains(folder + "/" + debug))
        return {"release", {Certainty::guessed, file, fmt::format("its name, beside {}", debug)}};
    }
  }
  return {};
}

/// The stems of all libraries, each behind its folder.
std::set<std::string> stems_of(const std::vector<Binary>& binaries) {
  std::set<std::string> stems;
  for (const auto& binary : binaries)
    stems.insert(fs::path(binary.file).parent_path().generic_string() + "/" + library_stem(binary.file));
  return stems;
}

/// A small archive that carries the function with which programs begin: it goes with every build of the library, and a
/// link takes it only where the program has none of its own.
bool is_helper(const Source& source, const Binary& binary) {
  constexpr size_t small = 3;
  if (binary.facts.kind.value != Kind::static_library || !binary.facts.entry) return false;
  const auto members = member_count(source.root / binary.file);
  return members && *members <= small;
}

bool are_one_library(const Source& source, const Binary& one, const Binary& other) {
  if (variant_target(one.facts) != variant_target(other.facts) || !one.facts.slices.empty()) return false;
  std::error_code error;
  const fs::path a = source.root / one.file, b = source.root / other.file;
  if (fs::canonical(a, error) == fs::canonical(b, error)) return true;
  return a.parent_path() == b.parent_path() && library_stem(one.file) == library_stem(other.file) &&
         one.facts.kind.value == Kind::shared_library && other.facts.kind.value == Kind::shared_library &&
         has_same_content(a, b);
}

}  // namespace

Target variant_target(const Facts& facts) {
  return {family_of(facts.format.value.value_or(Format::unknown)), facts.arch.value.value_or(Arch::unknown),
          facts.bits.value.value_or(0), facts.endian.value.value_or(Endian::little)};
}

Linkage variant_linkage(const Facts& facts) {
  const bool shared = facts.kind.value == Kind::shared_library || facts.kind.value == Kind::import_library;
  return shared ? Linkage::shared : Linkage::static_;
}

std::string Unit::stem() const {
  return library_stem(first().file);
}

Units::Units(const Source& source, const std::vector<Binary>& binaries) : source_(source) {
  const auto stems = source.from_prefix ? std::set<std::string>() : stems_of(binaries);
  std::vector<PairedFile> files;
  for (const auto& binary : binaries) files.push_back({binary.file, &binary.facts});
  std::map<size_t, size_t> unit_of;  // by position of the first binary
  for (const bool imports : {false, true}) {
    for (size_t i = 0; i < binaries.size(); ++i) {
      const Binary& binary = binaries[i];
      if (binary.facts.kind.value == Kind::program || !binary.facts.format) continue;
      if ((binary.facts.kind.value == Kind::import_library) != imports) continue;
      if (is_helper(source, binary) && binaries.size() > 1) {
        helpers_.push_back(&binary);
        continue;
      }
      const auto dll = imports ? dll_behind(files[i], files) : std::nullopt;
      const auto known = dll ? unit_of.find(*dll) : unit_of.end();
      Unit& unit = known != unit_of.end() ? units_[known->second] : unit_for(binary);
      if (unit.binaries.empty()) unit_of[i] = units_.size() - 1;
      add(binary, stems, unit);
    }
  }
}

Unit& Units::unit_for(const Binary& binary) {
  for (auto& unit : units_) {
    if (unit.is_shared() && are_one_library(source_, unit.first(), binary)) return unit;
  }
  return units_.emplace_back();
}

void Units::add(const Binary& binary, const std::set<std::string>& stems, Unit& unit) {
  unit.rows.push_back(rows(binary.facts));
  unit.binaries.push_back(&binary);
  if (unit.hint.configuration == "unknown") unit.hint = folder_hint(binary.file);
  if (unit.hint.configuration == "unknown") unit.hint = name_hint(binary.file, stems);
  // The packages of a system hold libraries together that a link tells apart.
  const bool compared = !source_.from_prefix && unit.offers.empty() && binary.facts.slices.empty();
  if (compared) unit.offers = OfferedNames(source_.root / binary.file);
}

}  // namespace fibula
