/// What a linker is given for one output, in order, with the reasons.
#pragma once

#include <fibula/lane.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace fibula {

/// One thing the linker is given.
struct LinkInput {
  std::filesystem::path path;
  std::vector<std::string> arguments;  ///< how the linker is told: the path, or "-lm"
  std::string library;                 ///< the attached library, output or "system"
  std::string why;
  int group = 0;  ///< inputs of one number above zero are searched together until nothing new is found
};

/// The link of one program or shared library of the project.
struct OutputLink {
  std::string output;
  std::vector<LinkInput> inputs;
  std::vector<LinkInput> left_out = {};  ///< files of attached libraries that nothing in the output needs
  std::vector<std::string> needs = {};   ///< shared libraries that it will ask the loader for, by soname
  LinkSettings settings = {};            ///< of the output in this lane
};

}  // namespace fibula
