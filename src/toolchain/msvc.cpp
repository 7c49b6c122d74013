/// The spelling of Microsoft's compiler, as clang-cl shares it: options begin with `/`, libraries are named in full,
/// and the linker is told behind `/link`.
#include "base/text.hpp"
#include "os/files.hpp"
#include "toolchain/answers.hpp"
#include "toolchain/options.hpp"

#include <algorithm>

namespace fibula {
namespace {

/// `clang-cl`, `clang-cl-14`, `cl`, `cl.exe`, or a Clang that was told to behave like them.
bool recognises(const Question& question) {
  const std::string name = text::lower(fs::path(question.compiler).filename().string());
  const bool told = std::find(question.flags.begin(), question.flags.end(), "--driver-mode=cl") != question.flags.end();
  return told || name.starts_with("clang-cl") || name == "cl" || name == "cl.exe";
}

std::vector<std::string> msvc_macro_question(const Question& question, const std::string& source) {
  std::vector<std::string> argv = compile_flags(question.flags);
  argv.insert(argv.begin(), question.compiler);
  // A path that begins with a letter of an option would be taken for one.
  for (const char* word : {"/nologo", "/TP", "/E", "-Xclang", "-dM", "-v", "--"}) argv.emplace_back(word);
  argv.push_back(source);
  return argv;
}

std::vector<std::string> msvc_link_question(const Question& question, const std::string& object) {
  std::vector<std::string> argv = compile_flags(question.flags);
  argv.insert(argv.begin(), question.compiler);
  argv.insert(argv.end(), {"-###", object, "/Fefibula-question.exe"});
  for (auto& word : link_flags(question.flags)) argv.push_back(std::move(word));
  return argv;
}

/// An option of the linker without its `/` or `-`, in lower case up to its colon.
std::string option_of(std::string_view word) {
  if (word.size() < 2 || (word[0] != '/' && word[0] != '-')) return {};
  return text::lower(word.substr(1, word.find(':') - 1));
}

void take_msvc_word(const std::string& word, const std::string& object, Toolchain& toolchain) {
  const std::string option = option_of(word);
  if (word == object) {
    toolchain.link_steps.push_back({LinkStep::Kind::user_inputs});
  } else if (option == "libpath") {
    std::error_code error;
    const auto folder = fs::canonical(word.substr(word.find(':') + 1), error);
    auto& known = toolchain.library_directories;
    if (!error && std::find(known.begin(), known.end(), folder) == known.end()) known.push_back(folder);
  } else if (option == "defaultlib") {
    toolchain.link_steps.push_back({LinkStep::Kind::default_library, word.substr(word.find(':') + 1)});
  } else if (option == "nodefaultlib") {
    const size_t colon = word.find(':');
    toolchain.link_steps.push_back(
        {LinkStep::Kind::no_default_library, colon == std::string::npos ? "" : word.substr(colon + 1)});
  } else if (option.empty() && text::lower(word).ends_with(".lib")) {
    toolchain.link_steps.push_back({LinkStep::Kind::library, word});
  }
}

bool read_msvc_link_answer(std::string_view err, const std::string& object, Toolchain& toolchain) {
  std::vector<std::string> argv;
  for (const auto line : text::lines(err)) {
    auto words = line.starts_with(' ') ? split_command(line) : std::vector<std::string>();
    const bool compiles = std::find(words.begin(), words.end(), "-cc1") != words.end();
    if (!compiles && std::find(words.begin(), words.end(), object) != words.end()) argv = std::move(words);
  }
  if (argv.empty()) return false;
  toolchain.linker = argv[0];
  for (size_t i = 1; i < argv.size(); ++i) take_msvc_word(argv[i], object, toolchain);
  return true;
}

}  // namespace

/// The language of a source changes nothing about where its headers are searched.
std::vector<std::string> no_question(const Question&, const std::string&) {
  return {};
}
const Spelling msvc_spelling{recognises, msvc_macro_question, msvc_link_question, no_question, read_msvc_link_answer};

}  // namespace fibula
