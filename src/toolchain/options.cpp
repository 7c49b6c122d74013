#include "toolchain/options.hpp"

#include <algorithm>

namespace fibula {
namespace {

auto link_word(const std::vector<std::string>& flags) {
  return std::find(flags.begin(), flags.end(), "/link");
}

}  // namespace

const OptionSpelling& options_of(CompilerFamily family) {
  static const OptionSpelling gnu{{"-g", "-O0"}, {"-O2", "-DNDEBUG"}, "-std=", "-D", "-I", "-isystem"};
  // Debug information inside the objects: a file of its own would be written by several compilers at once.
  static const OptionSpelling msvc{{"/Od", "/Z7"}, {"/O2", "/DNDEBUG"}, "/std:", "/D", "/I", "/external:I", true};
  return family == CompilerFamily::msvc ? msvc : gnu;
}

std::vector<std::string> compile_flags(const std::vector<std::string>& flags) {
  return {flags.begin(), link_word(flags)};
}

std::vector<std::string> link_flags(const std::vector<std::string>& flags) {
  return {link_word(flags), flags.end()};
}

}  // namespace fibula
