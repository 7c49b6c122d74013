/// Command lines for single sources, for the build and for the compilation database.
#pragma once

#include <fibula/emit.hpp>

#include "project/source_kind.hpp"

#include <map>

namespace fibula {

/// The driver for a source: the lane's compiler, or its C sister for C and assembly (`g++` -> `gcc`).
std::string driver_for(const Fit& fit, SourceKind kind);

/// What the lane's configuration asks of each compile, in the compiler's spelling.
const std::vector<std::string>& configuration_flags(const Fit& fit);

/// Whether code for libraries has to be independent of its place: only where a loader may put it anywhere.
bool is_loaded_anywhere(const Toolchain& toolchain);

/// The commands that compile the sources of one output: what they share is put together once.
class CompileCommands {
 public:
  CompileCommands(const Fit& fit, const Output& output) : fit_(fit), output_(output) {}

  /// The whole command that compiles a source to `object`, with a dependency file beside it.
  std::vector<std::string> command(const std::filesystem::path& source, const std::string& object);

 private:
  std::vector<std::string> shared_words(SourceKind kind) const;

  const Fit& fit_;
  const Output& output_;
  std::map<SourceKind, std::vector<std::string>> shared_;
};

/// Whether the lane's linker can write a list of what it read.
bool tells_its_inputs(const Toolchain& toolchain);

/// Where a program that is made by hand at the top of the project finds its run-time files: beside itself, and where
/// the build puts them.
std::vector<std::string> run_paths_by_hand(const Fit& fit);

}  // namespace fibula
