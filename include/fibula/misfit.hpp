/// Verdicts, and misfits: the reasons why a library cannot serve.
#pragma once

#include <fibula/export.hpp>
#include <fibula/project_change.hpp>

#include <string>
#include <string_view>
#include <vector>

namespace fibula {

enum class Verdict {
  ok,
  unknown,  ///< a fact that the rule needs is missing
  caution,  ///< will link, may bite
  misfit,   ///< will not compile, link or start
};
FIBULA_API std::string_view to_string(Verdict verdict);

/// A line of a file that people write.
struct Place {
  std::string file = {};  ///< absolute; empty: none
  unsigned line = 0;      ///< from 1; 0: the file as a whole
};

/// Why a variant cannot serve a lane, or why a link cannot work.
struct FIBULA_API Misfit {
  std::string rule;  ///< the id of the rule that speaks: "architecture"
  Verdict verdict = Verdict::misfit;
  std::string subject;  ///< the file or symbol it is about
  std::string library = {};
  std::vector<std::string> evidence = {};   ///< both sides, with where each was read
  std::string remedy = {};                  ///< the one thing to do
  Place place = {};                         ///< of a text that it is about, where there is one
  std::vector<ProjectChange> changes = {};  ///< of the project's files, which are the remedy; see `make_changes`

  /// `tidecalc: architecture: lib/libtidecalc.a …; …`, on one line.
  std::string sentence() const;
};

}  // namespace fibula
