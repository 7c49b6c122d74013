/// Names that the files of a link define in another form than one that is asked for.
#pragma once

#include "diagnose/link_scene.hpp"
#include "diagnose/name_forms.hpp"

#include <unordered_map>

namespace fibula {

struct OtherForm {
  fs::path file;
  std::string name;
  FormDifference difference;
};

class FormsOnLine {
 public:
  explicit FormsOnLine(const LinkScene& scene) : scene_(scene) {}

  /// The definition of what a source would call the same; differences that say most come first.
  std::optional<OtherForm> find(const std::string& symbol);

 private:
  using Defined = std::unordered_multimap<std::string, std::pair<fs::path, std::string>>;
  const Defined& named();

  const LinkScene& scene_;
  Defined named_;  ///< names of the program's and its libraries' files, by what sources call them
};

}  // namespace fibula
