/// Pure functions from what a compiler prints to a Toolchain.
#pragma once

#include "toolchain/macros.hpp"

#include <fibula/toolchain.hpp>

#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// What is preprocessed to ask: it includes the headers that tell which C and C++ library there is, as far as they are
/// there.
extern const std::string_view question_source;

/// The runs that ask a compiler, in one spelling of options. `source` holds the question, `object` stands where
/// the user's objects would.
struct Spelling {
  bool (*recognises)(const Question&);
  std::vector<std::string> (*macro_question)(const Question&, const std::string& source);
  std::vector<std::string> (*link_question)(const Question&, const std::string& object);
  /// Where C++ headers are searched; nothing to run where the macros' answer tells.
  std::vector<std::string> (*cxx_question)(const Question&, const std::string& empty);
  /// Reads the linker's command line; false when there is none.
  bool (*read_link_answer)(std::string_view err, const std::string& object, Toolchain&);
};
extern const Spelling gnu_spelling;
extern const Spelling msvc_spelling;

const Spelling& spelling_of(const Question& question);

/// Macros on standard output, search directories and target on standard error. False when it is no such answer.
bool read_macro_answer(std::string_view out, std::string_view err, Toolchain& toolchain);

/// Directories between "search starts here" and the end of the list, as they exist, each once.
std::vector<std::filesystem::path> search_directories(std::string_view err);

/// The format, architecture, word size and byte order that macros tell.
Target target_from(const Macros& macros);

/// Everything in Toolchain::answers that macros tell. `err` is what the compiler printed about itself.
void read_abi_answers(const Macros& macros, std::string_view err, Toolchain& toolchain);

/// Answers that the files of the sysroot give: which C library a loader belongs to, the versions of the C++ run-time.
void read_sysroot_answers(Toolchain& toolchain);

/// A printed command line as arguments: words, some in double quotes with back-slashes.
std::vector<std::string> split_command(std::string_view line);

}  // namespace fibula
