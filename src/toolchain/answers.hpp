/// Pure functions from what a GCC- or Clang-style driver prints to a Toolchain.
#pragma once

#include <fibula/lane.hpp>

#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// The two runs that ask a compiler. `/dev/null` stands where the user's files would.
std::vector<std::string> macro_question(const Question& question);
std::vector<std::string> link_question(const Question& question);

/// From `-E -dM -v`: macros on standard output, search directories and target on standard error. False when it is no
/// such answer.
bool read_macro_answer(std::string_view out, std::string_view err, Toolchain& toolchain);

/// From `-###`: the command line of the linker. False when none is there.
bool read_link_answer(std::string_view err, Toolchain& toolchain);

}  // namespace fibula
