/// What a command would meet, and whether the edit that mends it does.
#pragma once

#include "commands/log_reader.hpp"
#include "diagnose/findings.hpp"

namespace fibula {

class Diagnosis {
 public:
  explicit Diagnosis(const ExplainContext& context) : evidence_(context) {}
  Evidence& evidence() { return evidence_; }

  /// Why nothing can be said of a command before it runs; nothing where something can.
  std::optional<Error> not_looked_into(const ToolCommand& command);
  /// Findings of the files alone, root causes first.
  std::vector<Finding> foresee(const ToolCommand& command);
  /// What a link or program that nothing is known against would meet later, while it runs.
  std::vector<Finding> foresee_run(const ToolCommand& command);
  /// The same findings; what the first one's edit leaves open is edited too, and the whole is tried.
  std::vector<Finding> settled(std::vector<Finding> findings, const ToolCommand* command);

 private:
  std::vector<Finding> look(const ToolCommand& command);

  Evidence evidence_;
};

}  // namespace fibula
