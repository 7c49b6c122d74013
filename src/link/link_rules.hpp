/// The rules that speak about a link as a whole: `undefined`, `order`, `duplicate`.
#pragma once

#include "link/line_builder.hpp"

#include <fibula/misfit.hpp>
#include <fibula/shelf.hpp>

#include <functional>
#include <optional>
#include <set>

namespace fibula {

/// What the project itself has of a name that is missing.
struct OwnDefiner {
  std::string evidence;  ///< "knot/knot.c defines it, and belongs to output knot"
  std::string remedy;
  auto operator<=>(const OwnDefiner&) const = default;
};

struct LinkContext {
  const Toolchain& toolchain;
  const Shelf& shelf;
  std::string output;
  bool shared = false;  ///< the output is a shared library
  /// Attached to the project; `attach` is no remedy for what they define.
  std::set<std::string> attached = {};
  std::set<std::string> wanted = {};  ///< names that the program's own code asks for
  /// Asked for each name that is missing, before libraries are looked through.
  std::function<std::optional<OwnDefiner>(const std::string& symbol)> own = {};
  /// Asked for an input that needs a name which nobody has: what can be done about it, where it was built here.
  std::function<std::optional<OwnDefiner>(const std::filesystem::path& file)> built_here = {};
  /// Asked for a name that two objects of the output define: the header from which both have it, as people know it.
  std::function<std::optional<std::string>(const Duplicate& duplicate)> header_of_both = {};
};

/// What a rehearsal found, as misfits with evidence and remedy. Names that several users miss are told once for each
/// provider.
Result<std::vector<Misfit>> judge_link(FileStore& files, ProviderStore& providers, const BuiltLine& line,
                                       const LinkContext& context);

}  // namespace fibula
