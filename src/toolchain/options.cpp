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

namespace {

bool is_link_file(const std::string& word) {
  if (word.empty() || word[0] == '-' || word[0] == '/' || word[0] == '@') {
    // Options of MSVC-style compilers begin as absolute paths do.
    if (word.empty() || word[0] != '/' || word.find('/', 1) == std::string::npos) return false;
  }
  const std::string ending = std::filesystem::path(word).extension().string();
  return ending == ".a" || ending == ".o" || ending == ".so" || ending == ".lib" || ending == ".obj" ||
         word.find(".so.") != std::string::npos;
}

/// Calls with each flag's words: an option whose value is a word of its own comes with it.
template <class F>
void each_flag(const std::vector<std::string>& flags, const F& call) {
  static constexpr std::string_view with_value[] = {
      "-l",          "-L",      "-x",      "-Xlinker", "-framework", "-include", "-isystem", "-I",
      "-D",          "-T",      "-u",      "-z",       "-e",         "-o",       "-arch",    "-target",
      "-Xassembler", "-Xclang", "--param", "-iquote",  "-idirafter", "-imacros", "-U"};
  for (size_t i = 0; i < flags.size(); ++i) {
    const bool pair = i + 1 < flags.size() &&
                      std::find(std::begin(with_value), std::end(with_value), flags[i]) != std::end(with_value);
    call(flags[i], pair ? flags[i + 1] : std::string());
    i += pair ? 1 : 0;
  }
}

void put(std::vector<std::string>& to, const std::string& word, const std::string& value) {
  to.push_back(word);
  if (!value.empty()) to.push_back(value);
}

/// How flags begin that change what a driver does at a link.
constexpr std::string_view for_driver[] = {
    "-nostart", "-nostdlib", "-nodefault",  "-nolibc",   "-static",  "-pie",     "-no-pie",
    "-pthread", "-fopenmp",  "-fsanitize=", "-fuse-ld=", "-stdlib=", "--rtlib=", "-rtlib=",
    "-specs=",  "--specs=",  "--coverage",  "-pg",       "-B"};

bool is_for_linker(const std::string& word) {
  return word.starts_with("-l") || word.starts_with("-L") || word.starts_with("-Wl,") || word == "-Xlinker" ||
         is_link_file(word);
}

}  // namespace

std::vector<std::string> without_link_inputs(const std::vector<std::string>& flags) {
  std::vector<std::string> kept;
  each_flag(flags, [&](const std::string& word, const std::string& value) {
    if (!is_for_linker(word)) put(kept, word, value);
  });
  return kept;
}

std::vector<std::string> without_language(const std::vector<std::string>& flags) {
  std::vector<std::string> kept;
  each_flag(flags, [&](const std::string& word, const std::string& value) {
    if (!word.starts_with("-x")) put(kept, word, value);
  });
  return kept;
}

std::vector<std::string> link_time_flags(const std::vector<std::string>& flags) {
  std::vector<std::string> kept;
  each_flag(without_language(compile_flags(flags)), [&](const std::string& word, const std::string& value) {
    const bool input = word.starts_with("-l") || is_link_file(word);
    if (!input) put(kept, word, value);
  });
  return kept;
}

std::vector<std::string> driver_flags(CompilerFamily family, const std::vector<std::string>& flags) {
  std::vector<std::string> kept;
  if (family == CompilerFamily::msvc) return kept;
  each_flag(link_time_flags(flags), [&](const std::string& word, const std::string& value) {
    const auto begins = [&](std::string_view beginning) { return word.starts_with(beginning); };
    if (std::any_of(std::begin(for_driver), std::end(for_driver), begins)) put(kept, word, value);
  });
  return kept;
}

std::vector<FlagInput> link_inputs_in(const std::vector<std::string>& flags) {
  std::vector<FlagInput> found;
  each_flag(compile_flags(flags), [&](const std::string& word, const std::string& value) {
    if (word == "-l") {
      found.push_back({"-l" + value, value});
    } else if (word.starts_with("-l")) {
      found.push_back({word, word.substr(2)});
    } else if (is_link_file(word)) {
      found.push_back({word, {}});
    }
  });
  return found;
}

std::vector<std::filesystem::path> library_folders_in(const std::vector<std::string>& flags) {
  std::vector<std::filesystem::path> folders;
  each_flag(compile_flags(flags), [&](const std::string& word, const std::string& value) {
    if (word == "-L") {
      folders.emplace_back(value);
    } else if (word.starts_with("-L")) {
      folders.emplace_back(word.substr(2));
    }
  });
  return folders;
}

std::vector<std::filesystem::path> include_folders_in(const std::vector<std::string>& flags) {
  static constexpr std::string_view words[] = {"-isystem", "-iquote", "-idirafter", "-I", "/I"};
  std::vector<std::filesystem::path> folders;
  for (size_t i = 0; i < flags.size(); ++i) {
    for (const auto word : words) {
      if (!flags[i].starts_with(word)) continue;
      if (flags[i].size() > word.size()) {
        folders.emplace_back(flags[i].substr(word.size()));
      } else if (i + 1 < flags.size()) {
        folders.emplace_back(flags[++i]);
      }
      break;
    }
  }
  return folders;
}

}  // namespace fibula
