/// Why a compile, a link or the start of a program failed, from its log and the real files.
#pragma once

#include <fibula/lane.hpp>
#include <fibula/project.hpp>
#include <fibula/shelf.hpp>

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

struct Finding {
  std::string cause;                       ///< an id: "header-not-found", "library-not-linked"
  std::string stage;                       ///< compile, link, load
  std::string subject;                     ///< the header, symbol or library that the tool named
  std::vector<std::string> culprits = {};  ///< files, with the fact
  std::vector<std::string> because = {};   ///< evidence
  std::string remedy = {};
  std::string edit = {};       ///< a command that mends it, where there is one
  std::string certainty = {};  ///< "read" when the files prove it, "guessed" when only names fit
};

/// Where to look. Everything but the shelf may be missing.
struct ExplainContext {
  const Shelf& shelf;
  const Project* project = nullptr;
  const Toolchain* toolchain = nullptr;
  std::vector<std::string> command = {};  ///< the words that were run, where they are known
};

/// Findings, best first; empty when the log holds no failure. A failure that is not about libraries gives one finding
/// that says so. Reads GCC, Clang, the BFD linker, the loaders of glibc, musl, Windows with its stand-in, and macOS, in
/// English wording. Programs that the log names are looked at where they are.
FIBULA_API std::vector<Finding> explain(std::string_view log, const ExplainContext& context);

}  // namespace fibula
