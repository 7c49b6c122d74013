/// The linker's command line, as a driver prints it for `-###`.
#include "base/files.hpp"
#include "base/text.hpp"
#include "toolchain/answers.hpp"

#include <algorithm>
#include <map>

namespace fibula {
namespace {

using Kind = LinkStep::Kind;

constexpr std::string_view user_file = "/dev/null";

/// Options of GNU-style linkers that take the next word with them.
constexpr std::string_view with_value[] = {"-plugin",
                                           "-dynamic-linker",
                                           "-o",
                                           "-m",
                                           "-z",
                                           "-rpath",
                                           "-rpath-link",
                                           "-soname",
                                           "-h",
                                           "-T",
                                           "-e",
                                           "-u",
                                           "-Map",
                                           "--defsym",
                                           "-y",
                                           "-A",
                                           "--version-script",
                                           "-syslibroot",
                                           "-arch",
                                           "-platform_version",
                                           "--entry",
                                           "--subsystem",
                                           "--major-image-version"};

struct Switch {
  std::string_view option;
  Kind kind;
};
constexpr Switch switches[] = {
    {"--start-group", Kind::group_begin}, {"-(", Kind::group_begin},
    {"--end-group", Kind::group_end},     {"-)", Kind::group_end},
    {"--as-needed", Kind::as_needed},     {"--no-as-needed", Kind::no_as_needed},
    {"--push-state", Kind::push_state},   {"--pop-state", Kind::pop_state},
    {"-Bstatic", Kind::only_static},      {"-static", Kind::only_static},
    {"-Bdynamic", Kind::any_linkage},
};

bool is_linker(std::string_view path) {
  const std::string name = fs::path(path).filename().string();
  for (const char* known : {"collect2", "ld", "lld", "mold", "gold"}) {
    if (name.find(known) != std::string::npos) return true;
  }
  return false;
}

void add_directory(const std::string& text, Toolchain& toolchain) {
  std::error_code error;
  const auto path = fs::canonical(text, error);
  auto& known = toolchain.library_directories;
  if (!error && std::find(known.begin(), known.end(), path) == known.end()) known.push_back(path);
}

void take_word(const std::string& word, Toolchain& toolchain) {
  for (const auto& row : switches) {
    if (row.option != word) continue;
    toolchain.link_steps.push_back({row.kind});
    if (word == "-static") toolchain.static_link = true;
    return;
  }
  if (word == user_file) {
    toolchain.link_steps.push_back({Kind::user_inputs});
  } else if (word.starts_with("-L")) {
    add_directory(word.substr(2), toolchain);
  } else if (word.starts_with("-l")) {
    toolchain.link_steps.push_back({Kind::library, word.substr(2)});
  } else if (word.starts_with("--sysroot=")) {
    toolchain.sysroot = word.substr(10);
  } else if (word == "-pie" || word == "-static-pie") {
    toolchain.pie = true;
  } else if (!word.starts_with('-')) {
    toolchain.link_steps.push_back({Kind::file, absolute_path(word).string()});
  }
}

/// A printed command line as arguments: words, some in double quotes with back-slashes.
std::vector<std::string> split_command(std::string_view line) {
  std::vector<std::string> found;
  std::string word;
  bool inside = false, quoted = false;
  for (size_t i = 0; i < line.size(); ++i) {
    const char c = line[i];
    if (c == '\\' && i + 1 < line.size()) {
      word += line[++i];
      inside = true;
    } else if (c == '"') {
      quoted = !quoted;
      inside = true;
    } else if (c == ' ' && !quoted) {
      if (inside) found.push_back(std::move(word));
      word.clear();
      inside = false;
    } else {
      word += c;
      inside = true;
    }
  }
  if (inside) found.push_back(std::move(word));
  return found;
}

}  // namespace

std::vector<std::string> link_question(const Question& question) {
  std::vector<std::string> argv{question.compiler};
  argv.insert(argv.end(), question.flags.begin(), question.flags.end());
  argv.insert(argv.end(), {"-###", std::string(user_file), "-o", "fibula-question"});
  return argv;
}

bool read_link_answer(std::string_view err, Toolchain& toolchain) {
  std::vector<std::string> argv;
  for (const auto line : text::lines(err)) {
    if (!line.starts_with(' ')) continue;
    auto words = split_command(line);
    if (!words.empty() && is_linker(words[0])) argv = std::move(words);
  }
  if (argv.empty()) return false;
  toolchain.linker = argv[0];
  for (size_t i = 1; i < argv.size(); ++i) {
    if (std::find(std::begin(with_value), std::end(with_value), argv[i]) != std::end(with_value)) {
      ++i;
      continue;
    }
    take_word(argv[i], toolchain);
  }
  return true;
}

}  // namespace fibula
