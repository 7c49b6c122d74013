#include "base/text.hpp"
#include "commands/command_readers.hpp"
#include "os/files.hpp"

#include <algorithm>

namespace fibula {
namespace {

using StepKind = LinkStep::Kind;

template <size_t N>
bool is_one_of(std::string_view word, const std::string_view (&words)[N]) {
  return std::find(std::begin(words), std::end(words), word) != std::end(words);
}

/// Options whose value is the next word, apart from those that are looked into.
constexpr std::string_view with_value[] = {"-D",
                                           "-U",
                                           "-include",
                                           "-imacros",
                                           "-isysroot",
                                           "-x",
                                           "-target",
                                           "-arch",
                                           "-framework",
                                           "-B",
                                           "-specs",
                                           "-wrapper",
                                           "--param",
                                           "-MF",
                                           "-MT",
                                           "-MQ",
                                           "-Xclang",
                                           "-Xassembler",
                                           "-u",
                                           "-aux-info",
                                           "-dumpbase",
                                           "-dumpdir",
                                           "-iprefix",
                                           "-iwithprefix",
                                           "-Xpreprocessor",
                                           "-install_name",
                                           "-G"};

/// The same of linkers.
constexpr std::string_view linker_values[] = {"-m",
                                              "-soname",
                                              "-h",
                                              "-u",
                                              "-Map",

                                              "-y",
                                              "-A",
                                              "-a",
                                              "--version-script",
                                              "--dynamic-list",
                                              "--exclude-libs",
                                              "--export-dynamic-symbol",
                                              "-init",
                                              "-fini",
                                              "--oformat",
                                              "--sort-section",
                                              "--auxiliary",
                                              "--filter",
                                              "-f",
                                              "-Tdata",
                                              "-Ttext",
                                              "-Tbss",
                                              "--section-start",
                                              "-plugin",
                                              "-plugin-opt",
                                              "-syslibroot",
                                              "-arch",
                                              "-dynamic-linker",
                                              "-I",
                                              "--undefined",
                                              "-rpath-link",
                                              "-install_name",
                                              "-current_version",
                                              "-compatibility_version",

                                              "-F",
                                              "--format",
                                              "-b",
                                              "--major-image-version",
                                              "--image-base",
                                              "--out-implib"};

constexpr std::string_view include_options[] = {"-isystem", "-iquote", "-idirafter", "-I"};

/// Words that decide neither what code is made nor what is linked.
bool says_nothing_of_the_target(const std::string& word) {
  static constexpr std::string_view starts[] = {"-W",    "-D", "-U", "-M", "-g", "-O", "-save-temps", "-fdiagnostics",
                                                "-pipe", "-v", "-H", "-P", "-C"};
  static constexpr std::string_view words[] = {"-c", "-S", "-E", "-w", "-s"};
  if (is_one_of(word, words)) return true;
  return std::any_of(std::begin(starts), std::end(starts), [&](std::string_view s) { return word.starts_with(s); });
}

/// Words that write files of their own.
bool writes(const std::string& word) {
  static constexpr std::string_view starts[] = {"-M",        "-save-temps",      "-dump",         "-fdump",
                                                "-aux-info", "-fcallgraph-info", "-fstack-usage", "-ftime-report",
                                                "-Wp,-M",    "-fprofile-use",    "-gsplit-dwarf", "-ftime-trace"};
  return std::any_of(std::begin(starts), std::end(starts), [&](std::string_view s) { return word.starts_with(s); });
}

class GnuReader {
 public:
  explicit GnuReader(ToolCommand& command) : command_(command), words_(command.words) {}

  void read() {
    const bool linker = command_.tool == Tool::linker;
    command_.links = linker;
    if (!linker) command_.compile_words.push_back(words_[0]);
    for (at_ = 1; at_ < words_.size(); ++at_) {
      if (linker) {
        linker_word(words_[at_]);
      } else {
        driver_word(words_[at_]);
      }
    }
    if (!linker) command_.links = !stops_early_ && !command_.inputs.empty();
    command_.refuses_unresolved = !allows_unresolved_ && (!command_.shared || wants_all_defined_);
  }

 private:
  std::string value() { return at_ + 1 < words_.size() ? words_[++at_] : std::string(); }
  fs::path place(const std::string& path) const { return (command_.folder / path).lexically_normal(); }

  /// The value of an option that may stand in the same word or in the next one.
  std::optional<std::string> value_of(const std::string& word, std::string_view option) {
    if (!word.starts_with(option)) return std::nullopt;
    if (word.size() > option.size()) return word.substr(option.size());
    return value();
  }

  void add(StepKind kind, std::string name = {}) { command_.inputs.push_back({{kind, std::move(name)}, at_}); }

  void driver_word(const std::string& word) {
    static constexpr std::string_view stop[] = {"-c",        "-S",          "-E", "-M", "-MM", "-fsyntax-only",
                                                "--version", "-dumpversion"};
    if (word == "-E" || word == "-M" || word == "-MM") command_.only_preprocesses = true;
    if (is_one_of(word, stop)) stops_early_ = true;
    if (word.empty() || word[0] != '-' || word == "-") return file_word(word);
    if (const auto file = value_of(word, "-o")) {
      command_.output = *file;
    } else if (word.starts_with("-Wl,")) {
      for (const auto part : text::split(std::string_view(word).substr(4), ',')) linker_word(std::string(part));
    } else if (word == "-Xlinker") {
      linker_word(value());
    } else if (link_word(word)) {
      return;
    } else if (!include_word(word)) {
      option_word(word);
    }
  }

  bool link_word(const std::string& word) {
    if (const auto folder = value_of(word, "-L")) {
      command_.library_folders.push_back(place(*folder));
      return true;
    }
    if (const auto name = value_of(word, "-l")) {
      add(StepKind::library, *name);
      return true;
    }
    if (word == "-T") {
      command_.scripts.push_back(place(value()));
      return true;
    }
    if (word.starts_with("-T") && !word.starts_with("-Ttext") && !word.starts_with("-Tdata") &&
        !word.starts_with("-Tbss")) {
      command_.scripts.push_back(place(word.substr(2)));
      return true;
    }
    if (word == "-z") {
      z_word(value());
      return true;
    }
    if (word == "-e") {
      command_.entry = value();
      return true;
    }
    return false;
  }

  bool include_word(const std::string& word) {
    for (const auto option : include_options) {
      const auto folder = value_of(word, option);
      if (!folder) continue;
      command_.include_folders.push_back(place(*folder));
      command_.compile_words.emplace_back(option);
      command_.compile_words.push_back(place(*folder).string());
      return true;
    }
    return false;
  }

  void option_word(const std::string& word) {
    std::vector<std::string> all{word};
    if (is_one_of(word, with_value)) all.push_back(value());
    if (word == "-shared" || word == "-dynamiclib" || word == "-bundle") command_.shared = true;
    if (word == "-r") command_.relocatable = true;
    if (word == "-mwindows") command_.subsystem = "windows";
    if (word == "-static" || word == "-static-pie") add(StepKind::only_static);
    if (!says_nothing_of_the_target(word) && word != "-x" && word != "-include" && word != "-imacros" && word != "-u")
      command_.target_flags.insert(command_.target_flags.end(), all.begin(), all.end());
    static constexpr std::string_view not_for_compiles[] = {"-c", "-S", "-E", "-shared", "-r", "-s", "-fsyntax-only"};
    if (!writes(word) && !is_one_of(word, not_for_compiles))
      command_.compile_words.insert(command_.compile_words.end(), all.begin(), all.end());
  }

  void file_word(const std::string& word) {
    const fs::path path = place(word);
    if (is_source_name(path)) command_.sources.push_back({path, at_});
    if (!word.empty()) add(StepKind::file, path.string());
  }

  void z_word(const std::string& word) {
    if (word == "defs") wants_all_defined_ = true;
    if (word == "undefs") wants_all_defined_ = false;
  }

  /// A word for the linker, on its way through the driver or to the linker itself.
  void linker_word(const std::string& word) {
    struct Row {
      std::string_view option;
      StepKind kind;
    };
    static constexpr Row rows[] = {
        {"--start-group", StepKind::group_begin},     {"-(", StepKind::group_begin},
        {"--end-group", StepKind::group_end},         {"-)", StepKind::group_end},
        {"--whole-archive", StepKind::whole_archive}, {"--no-whole-archive", StepKind::no_whole_archive},
        {"--as-needed", StepKind::as_needed},         {"--no-as-needed", StepKind::no_as_needed},
        {"--push-state", StepKind::push_state},       {"--pop-state", StepKind::pop_state},
        {"-Bstatic", StepKind::only_static},          {"-dn", StepKind::only_static},
        {"-non_shared", StepKind::only_static},       {"-static", StepKind::only_static},
        {"-Bdynamic", StepKind::any_linkage},         {"-dy", StepKind::any_linkage},
        {"-all_load", StepKind::whole_archive}};
    if (passed_over_ > 0) {
      --passed_over_;
      return;
    }
    if (!pending_.empty()) return linker_value(std::exchange(pending_, {}), word);
    if (word == "-platform_version") passed_over_ = 3;  // system, its least version, that of its headers
    for (const auto& row : rows) {
      if (row.option == word) return add(row.kind);
    }
    if (word.empty()) return;
    if (word[0] != '-') return file_word(word);
    if (word == "--no-undefined") wants_all_defined_ = true;
    if (word == "--allow-shlib-undefined" || word == "--unresolved-symbols=ignore-in-shared-libs")
      command_.trusts_shared = true;
    if (word == "--no-allow-shlib-undefined") command_.trusts_shared = false;
    if (word.starts_with("--unresolved-symbols=ignore") || word == "--warn-unresolved-symbols" ||
        word == "--noinhibit-exec")
      allows_unresolved_ = true;
    if (word == "-shared" || word == "-Bshareable" || word == "-dylib" || word == "-bundle") command_.shared = true;
    if (word == "-r" || word == "-i") command_.relocatable = true;
    split_linker_option(word);
  }

  /// `-rpath X`, `-rpath=X`, `--entry=X`, `-lX`, `-LX`.
  void split_linker_option(const std::string& word) {
    static constexpr std::string_view looked_into[] = {
        "-rpath",   "--rpath", "-e",        "--entry",        "-T",         "--script",    "-z",          "-o",
        "-L",       "-l",      "--library", "--library-path", "-subsystem", "--subsystem", "-force_load", "-R",
        "--defsym", "-defsym", "--wrap",    "-wrap"};
    // Long options may begin with one dash or two (ld's manual, "Options").
    const std::string other = word.starts_with("--") ? word.substr(1) : "-" + word;
    const auto is_listed = [&](const std::string& one) {
      return is_one_of(one, looked_into) || is_one_of(one, linker_values);
    };
    if (is_listed(word) || (word.size() > 2 && is_listed(other))) {
      pending_ = word;
      return;
    }
    const size_t equals = word.find('=');
    if (equals != std::string::npos && is_one_of(word.substr(0, equals), looked_into))
      return linker_value(word.substr(0, equals), word.substr(equals + 1));
    for (const std::string_view option : {"-L", "-l", "-T", "-z"}) {
      if (word.starts_with(option) && word[1] != '-') return linker_value(std::string(option), word.substr(2));
    }
  }

  void linker_value(const std::string& option, const std::string& value) {
    if (option == "-rpath" || option == "--rpath" || option == "-R") command_.run_paths.push_back(value);
    if (option == "-e" || option == "--entry") command_.entry = value;
    if (option == "-T" || option == "--script") command_.scripts.push_back(place(value));
    if (option == "-z") z_word(value);
    if (option.ends_with("defsym")) command_.given_names.push_back(value.substr(0, value.find('=')));
    if (option.ends_with("-wrap")) command_.wrapped.push_back(value);
    if (option == "-o") command_.output = value;
    if (option == "-L" || option == "--library-path") command_.library_folders.push_back(place(value));
    if (option == "-l" || option == "--library") add(StepKind::library, value);
    if (option == "-force_load") add(StepKind::file, place(value).string());
    if (option.ends_with("subsystem")) command_.subsystem = value;
  }

  ToolCommand& command_;
  const std::vector<std::string>& words_;
  size_t at_ = 0;
  std::string pending_;  ///< an option of the linker whose value comes next
  int passed_over_ = 0;  ///< words that belong to the option before
  bool stops_early_ = false;
  bool wants_all_defined_ = false;
  bool allows_unresolved_ = false;
};

}  // namespace

void read_gnu_words(ToolCommand& command) {
  GnuReader(command).read();
}

}  // namespace fibula
