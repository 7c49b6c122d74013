/// The rules that speak about a link as a whole: `undefined`, `order`, `duplicate`.
#pragma once

#include "link/line_builder.hpp"

#include <fibula/misfit.hpp>
#include <fibula/shelf.hpp>

namespace fibula {

struct LinkContext {
  const Toolchain& toolchain;
  const Shelf& shelf;
  std::string output;
  bool shared = false;  ///< the output is a shared library
};

/// What a rehearsal found, as misfits with evidence and remedy. Names that several users miss are told once for each
/// provider.
Result<std::vector<Misfit>> judge_link(FileStore& files, ProviderStore& providers, const BuiltLine& line,
                                       const LinkContext& context);

}  // namespace fibula
