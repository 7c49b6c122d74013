/// What an object shows to linkers: an object made anew that shows the same changes no plan of a link.
#pragma once

#include "binary/image.hpp"

#include <fibula/result.hpp>

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

namespace fibula {

/// A symbol that other files see.
struct ShownSymbol {
  std::string name;
  std::string group;  ///< signature of its COMDAT group
  bool defined = false, weak = false, hidden = false, common = false, in_thread = false;

  bool operator==(const ShownSymbol&) const = default;
};

struct ObjectInterface {
  Target target;
  std::vector<ShownSymbol> symbols;
  std::vector<std::string> groups;    ///< signatures of COMDAT groups
  std::vector<std::string> sections;  ///< sorted, each once; without those that no name of a symbol speaks of
};

/// Of an ELF object. Errors: those of a file that cannot be read; not_a_library for what is no such object.
Result<ObjectInterface> interface_of(const std::filesystem::path& object);

/// Whether every link that was planned with the first is planned the same with the second in its place: it asks for the
/// same, and defines the same but for names that no other file of these links speaks of.
bool links_alike(const ObjectInterface& before, const ObjectInterface& after,
                 const std::function<bool(std::string_view)>& is_spoken_of);

}  // namespace fibula
