/// The GCC and Clang families: how they are asked, and the linker's command line as their drivers print it for `-###`.
#include "base/text.hpp"
#include "os/files.hpp"
#include "os/process.hpp"
#include "toolchain/answers.hpp"
#include "toolchain/options.hpp"

#include <algorithm>
#include <optional>

namespace fibula {
namespace {

using StepKind = LinkStep::Kind;

/// Options of GNU-style linkers that take the next word with them.
constexpr std::string_view with_value[] = {"-plugin",
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
                                           "-macosx_version_min",
                                           "-macos_version_min",
                                           "-ios_version_min",
                                           "-iphoneos_version_min",
                                           "-ios_simulator_version_min",
                                           "-tvos_version_min",
                                           "-watchos_version_min",
                                           "-lto_library",
                                           "-Tdata",
                                           "-Ttext",
                                           "-Tbss",
                                           "--section-start",
                                           "-arch",
                                           "--entry",
                                           "--subsystem",
                                           "--major-image-version"};

struct Switch {
  std::string_view option;
  StepKind kind;
};
constexpr Switch switches[] = {
    {"--start-group", StepKind::group_begin},     {"-(", StepKind::group_begin},
    {"--end-group", StepKind::group_end},         {"-)", StepKind::group_end},
    {"--whole-archive", StepKind::whole_archive}, {"--no-whole-archive", StepKind::no_whole_archive},
    {"--as-needed", StepKind::as_needed},         {"--no-as-needed", StepKind::no_as_needed},
    {"--push-state", StepKind::push_state},       {"--pop-state", StepKind::pop_state},
    {"-Bstatic", StepKind::only_static},          {"-static", StepKind::only_static},
    {"-Bdynamic", StepKind::any_linkage},
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

void take_word(const std::string& word, const std::string& object, Toolchain& toolchain) {
  for (const auto& row : switches) {
    if (row.option != word) continue;
    toolchain.link_steps.push_back({row.kind});
    if (word == "-static") toolchain.static_link = true;
    return;
  }
  if (word == object) {
    toolchain.link_steps.push_back({StepKind::user_inputs});
  } else if (word.starts_with("-L")) {
    add_directory(word.substr(2), toolchain);
  } else if (word.starts_with("-l")) {
    toolchain.link_steps.push_back({StepKind::library, word.substr(2)});
  } else if (word.starts_with("--sysroot=")) {
    toolchain.sysroot = word.substr(10);
  } else if (word == "-pie" || word == "-static-pie") {
    toolchain.pie = true;
  } else if (!word.starts_with('-')) {
    // A driver that does not find one of its own files hands on the bare name.
    const bool found = word.find('/') != std::string::npos;
    toolchain.link_steps.push_back(found ? LinkStep{StepKind::file, absolute_path(word).string()}
                                         : LinkStep{StepKind::library, ":" + word});
  }
}

/// Where a driver looks for the programs that it starts: collect2 is no linker, it runs the first `ld` from there, or
/// `ld.gold` when it was told to use gold.
fs::path linker_behind(const std::vector<std::string>& argv, std::string_view err) {
  if (fs::path(argv[0]).filename() != "collect2") return argv[0];
  std::string name = "ld";
  for (const auto& word : argv) {
    if (word.starts_with("-fuse-ld=")) name = "ld." + word.substr(9);
  }
  constexpr std::string_view variable = "COMPILER_PATH=";
  for (const auto line : text::lines(err)) {
    if (!line.starts_with(variable)) continue;
    for (const auto folder : text::split(line.substr(variable.size()), ':')) {
      std::error_code error;
      const auto found = fs::canonical(fs::path(folder) / name, error);
      if (!error) return found;
    }
  }
  const auto found = find_program(name);
  return found ? *found : fs::path(argv[0]);
}

bool is_cxx_driver(const Question& question) {
  return fs::path(question.compiler).filename().string().find("++") != std::string::npos;
}

std::vector<std::string> with_flags(const Question& question, std::initializer_list<std::string> more) {
  std::vector<std::string> argv{question.compiler};
  argv.insert(argv.end(), question.flags.begin(), question.flags.end());
  argv.insert(argv.end(), more);
  return argv;
}

std::vector<std::string> macro_question(const Question& question, const std::string& source) {
  auto argv = with_flags(question, {"-x", is_cxx_driver(question) ? "c++" : "c", "-E", "-dM", "-v", source});
  // GCC does not even ask for a header where no folder is searched.
  const bool bare = std::any_of(question.flags.begin(), question.flags.end(),
                                [](const std::string& flag) { return flag.starts_with("-nostdinc"); });
  if (bare) argv.push_back("-I" + fs::path(source).parent_path().string());
  return argv;
}

std::vector<std::string> link_question(const Question& question, const std::string& object) {
  return with_flags({question.compiler, without_language(question.flags)}, {"-###", object, "-o", "fibula-question"});
}

std::vector<std::string> cxx_question(const Question& question, const std::string& empty) {
  if (is_cxx_driver(question)) return {};
  return with_flags(question, {"-x", "c++", "-E", "-v", empty});
}

bool read_link_answer(std::string_view err, const std::string& object, Toolchain& toolchain) {
  std::vector<std::string> argv;
  for (const auto line : text::lines(err)) {
    if (!line.starts_with(' ')) continue;
    auto words = split_command(line);
    if (!words.empty() && is_linker(words[0])) argv = std::move(words);
  }
  if (argv.empty()) return false;
  toolchain.linker = linker_behind(argv, err);
  for (size_t i = 1; i < argv.size(); ++i) {
    if (argv[i] == "-dynamic-linker" && i + 1 < argv.size()) {
      toolchain.loader = argv[++i];
    } else if ((argv[i] == "-L" || argv[i] == "-l") && i + 1 < argv.size()) {
      take_word(argv[i] + argv[i + 1], object, toolchain);  // apart, they mean the same as in one word
      ++i;
    } else if (argv[i] == "-plugin" && i + 1 < argv.size()) {
      const std::string plugin = argv[++i];
      std::error_code ignored;
      if (fs::exists(plugin, ignored))
        toolchain.answers["link-time-plugin"] = {plugin, "what the driver hands to the linker"};
    } else if (argv[i] == "-platform_version") {
      i += 3;  // system, its least version, that of its headers (ld64's manual)
    } else if (std::find(std::begin(with_value), std::end(with_value), argv[i]) != std::end(with_value)) {
      ++i;
    } else {
      take_word(argv[i], object, toolchain);
    }
  }
  return true;
}

}  // namespace

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

const Spelling gnu_spelling{[](const Question&) { return true; }, macro_question, link_question, cxx_question,
                            read_link_answer};

}  // namespace fibula
