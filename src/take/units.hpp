/// The files of a download that are one library each, and what their names say of the configuration.
#pragma once

#include "take/offered_names.hpp"
#include "take/source.hpp"

#include <fibula/variant.hpp>

#include <deque>
#include <set>
#include <string>
#include <vector>

namespace fibula {

/// What a binary is for, and how it is linked, as far as a variant says it.
Target variant_target(const Facts& facts);
Linkage variant_linkage(const Facts& facts);

/// What a name says of the configuration: used where the bytes are silent.
struct Hint {
  std::string configuration = "unknown";
  Learnt learnt = {};
};

/// Files that are one library: a DLL with what stands for it, a shared library under several names; else one file.
struct Unit {
  std::vector<const Binary*> binaries;  ///< the one that says most of it first
  std::vector<std::vector<FactRow>> rows;
  Hint hint;
  OfferedNames offers;

  const Binary& first() const { return *binaries.front(); }
  std::string stem() const;
  bool is_shared() const { return variant_linkage(first().facts) == Linkage::shared; }
};

/// Puts files together that are one library. Import libraries join their DLL, whichever comes first.
class Units {
 public:
  /// Both must live as long as this.
  Units(const Source& source, const std::vector<Binary>& binaries);

  const std::deque<Unit>& all() const { return units_; }
  /// Small archives that carry the function with which programs begin: they go with every build of the library, and a
  /// link takes them only where the program has none of its own.
  const std::vector<const Binary*>& helpers() const { return helpers_; }

 private:
  Unit& unit_for(const Binary& binary);
  void add(const Binary& binary, const std::set<std::string>& stems, Unit& unit);

  const Source& source_;
  std::deque<Unit> units_;  ///< which drafts point to
  std::vector<const Binary*> helpers_;
};

}  // namespace fibula
