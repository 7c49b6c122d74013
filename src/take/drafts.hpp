/// Variants while they are put together, and those that only a person can tell apart.
#pragma once

#include "take/units.hpp"

namespace fibula {

/// A variant while it is put together.
struct Draft {
  Variant variant;
  Hint hint;
  std::vector<const Unit*> units;

  std::vector<const Binary*> binaries() const {
    std::vector<const Binary*> all;
    for (const auto* unit : units) all.insert(all.end(), unit->binaries.begin(), unit->binaries.end());
    return all;
  }
};

/// Two files whose values of one of these differ cannot be in one program.
inline constexpr std::string_view decisive_facts[] = {"c-runtime",  "float-abi",     "cxx-runtime",
                                                      "string-abi", "stl-debug",     "exceptions",
                                                      "threads",    "configuration", "os-floor"};

/// What of a fact's value decides: a name; of a system with its least version the system. Empty for other values.
std::string decisive_value(const FactValue& value);
std::string decisive_value(const Variant& variant, std::string_view id);

/// Whether a value says nothing that could stand against another one.
bool is_open_value(const std::string& value);

/// What a library's files say that they need, each once.
void add_needs(const Facts& facts, Variant& variant);

/// Builds that no byte tells apart are a choice; the one with the plainest name comes first, and is used where nobody
/// picks.
void make_choices(const Source& source, std::vector<Draft>& drafts);

/// An id for each: its machine, format, linkage and configuration, and what tells it from others of that name.
void give_ids(std::vector<Draft>& drafts);

}  // namespace fibula
