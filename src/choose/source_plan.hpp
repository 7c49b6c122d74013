/// How a library that comes as source is built for one lane: its sources, what they are compiled with, and the key
/// under which the outcome is kept.
#pragma once

#include "choose/selection.hpp"

#include <map>

namespace fibula {

/// Paths are absolute.
struct SourcePlan {
  const Card* card = nullptr;
  Linkage linkage = Linkage::static_;
  std::vector<std::filesystem::path> sources;              ///< in the order of their names
  std::vector<std::filesystem::path> include_directories;  ///< for its own sources
  std::vector<std::string> definitions, user_definitions, flags, user_flags;
  std::string standard;
  std::vector<SourceHeader> headers;  ///< with the lane's values in their texts
  std::vector<std::string> steps;
  std::map<std::string, std::string> choices;  ///< which alternative of each
  std::vector<std::string> needs;              ///< libraries that it requires and that are there
  std::vector<std::filesystem::path> watched;  ///< files that are part of the key by their content
  std::string content;                         ///< of these
  std::string key;                             ///< SHA-256 over everything that decides what is made
  std::optional<Misfit> problem;               ///< why it cannot be built as the project asks

  /// Where in a store the outcome lies: ".built/<name>/<version>/<key>".
  std::string place() const;
  /// "twelve sources to compile", "its own build steps".
  std::string work() const;
};

/// The lane's flags without those that ask for warnings: whoever uses a library does not mend it.
std::vector<std::string> flags_for_libraries(const std::vector<std::string>& flags);

/// What was chosen of the libraries that one requires, as text, for its key.
using RequirementKeys = std::map<std::string, std::string>;

/// Errors: a source that cannot be read, of a library that lies open to changes.
Result<SourcePlan> plan_source(const Card& card, const Choice& choice, const Chooser& chooser,
                               const RequirementKeys& requirements);

/// Whether the files that count by their content are as they were planned with.
bool is_unchanged(const SourcePlan& plan);

/// The card as it serves once the plan's outcome is there: with its variant, whose files lie in the outcome's folder.
Card built_card(const SourcePlan& plan, const Card& outcome);

/// What the built variant is called: "x86_64-elf-static-debug".
std::string built_variant_id(const SourcePlan& plan, const Target& target, const std::string& configuration);

/// The variant that the outcome will have, as far as it is known before.
Variant promised_variant(const SourcePlan& plan, const Chooser& chooser);

}  // namespace fibula
