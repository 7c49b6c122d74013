/// What the variables of a makefile are worth, as far as its text says: nothing is run.
#pragma once

#include "making/makefile_lines.hpp"

#include <filesystem>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// What a makefile does with some of its lines, when make is told nothing.
enum class Branch {
  taken,
  open,  ///< the machine decides, or what cannot be followed
  not_taken,
};

class MakefileVariables {
 public:
  /// `folder`: of the makefile. `configured`: what a configure step fills in; kept by reference.
  MakefileVariables(const std::filesystem::path& folder, const std::map<std::string, std::string>& configured)
      : folder_(folder), configured_(configured) {}

  /// Also of the makefiles that these lines include.
  void note(const std::vector<LogicalLine>& lines) { note(lines, 0); }

  /// None where a condition, the shell, the machine or an unknown variable decides.
  std::optional<std::string> expanded(std::string_view text) const { return expanded(text, 0); }

  /// Whether an `ifeq`, `ifneq`, `ifdef` or `ifndef` holds (GNU make manual, "Conditional Syntax").
  Branch holds(std::string_view condition) const;

 private:
  struct Variable {
    std::string value;
    bool assigned = false;
    bool open = false;  ///< a condition decides
  };

  void note(const std::vector<LogicalLine>& lines, int including);
  void note_variable(std::string_view line, Branch branch);
  std::optional<std::string> value_of(const std::string& name, int depth) const;
  std::optional<std::string> expanded(std::string_view text, int depth) const;
  std::optional<std::string> expanded_reference(std::string_view reference, int depth) const;
  std::optional<std::string> in_condition(std::string_view text) const;

  std::filesystem::path folder_;
  const std::map<std::string, std::string>& configured_;
  std::map<std::string, Variable> variables_;
};

/// Follows the conditionals of a makefile line by line.
class BranchesOfMakefile {
 public:
  explicit BranchesOfMakefile(const MakefileVariables& variables) : variables_(variables) {}
  /// Of this line, and of those that follow up to the next one that is asked about.
  Branch at(const LogicalLine& line);

 private:
  struct Level {
    Branch now = Branch::taken;   ///< of the lines that are read
    Branch rest = Branch::taken;  ///< of those behind the next `else`
  };
  Branch now() const;

  const MakefileVariables& variables_;
  std::vector<Level> levels_;
};

/// The end of `$(…)` or `${…}` whose bracket stands at `at`; npos where it has none.
size_t end_of_reference(std::string_view text, size_t at);

}  // namespace fibula
