/// What the project itself has of a name that a link misses: in outputs that are not used, and in sources that no
/// output lists, or that are left out of a library that comes as source.
#pragma once

#include "fit/gathered.hpp"
#include "link/link_rules.hpp"

namespace fibula {

/// For the link of one output, in a lane whose own code is this.
class OwnDefiners {
 public:
  OwnDefiners(Gathered::State& state, const Lane& lane, const Output& output, const OwnCode& own,
              const std::vector<Choice>& choices)
      : state_(state), lane_(lane), output_(output), own_(own), choices_(choices) {}

  std::optional<OwnDefiner> find(const std::string& symbol);
  /// What can be done about a link input that lacks a name which nobody has, where it was built here from a list of
  /// sources.
  std::optional<OwnDefiner> built_here(const std::filesystem::path& file) const;
  /// The header from which two objects of the output have a definition, as seen from the project.
  std::optional<std::string> header_of_both(const Duplicate& duplicate) const;

 private:
  bool is_defined_by(const Output& other, const std::string& symbol, const std::string& name);
  std::optional<OwnDefiner> in_output(const Output& other, const std::string& symbol, const std::string& name);
  const std::string& text_of(const std::filesystem::path& source);
  bool is_in(const std::filesystem::path& source, const std::string& name);
  const std::vector<std::filesystem::path>& unlisted();
  void look_through_folder();
  std::optional<OwnDefiner> in_inline_form(const std::string& name);
  std::optional<OwnDefiner> for_other_lanes(const std::string& name);
  /// In texts of which nothing made C sources yet.
  std::optional<OwnDefiner> in_grammar(const std::string& name);
  std::optional<OwnDefiner> in_library(const Choice& choice, const std::string& name);
  /// In builds of a library between which only a person can choose, and of which another is linked.
  std::optional<OwnDefiner> in_other_pick(const Choice& choice, const std::string& symbol);

  Gathered::State& state_;
  const Lane& lane_;
  const Output& output_;
  const OwnCode& own_;
  const std::vector<Choice>& choices_;
  std::map<std::filesystem::path, std::string> texts_;
  std::optional<std::vector<std::filesystem::path>> unlisted_;
  std::vector<std::filesystem::path> grammars_;
};

}  // namespace fibula
