/// A project that is to be written: everything of it, before anything is.
#pragma once

#include <fibula/begin.hpp>
#include <fibula/source_code.hpp>

namespace fibula {

struct Beginning {
  Begun begun;
  std::string text;                   ///< of `fibula.toml`
  std::vector<SourceHeader> headers;  ///< made from templates, with their paths relative to the project
  std::string first_source;           ///< relative to the project; empty: there are sources, or none is wanted
  std::string first_text;
};

/// What `begin` would write. With `only_what_is_there` a folder without sources becomes a project without outputs.
/// Errors: as `begin`.
Result<Beginning> plan_beginning(const BeginRequest& request, bool only_what_is_there);

/// The first source and the project file. Errors: io.
Result<void> write_beginning(const Beginning& beginning);

}  // namespace fibula
