#include "base/text.hpp"
#include "commands/command_readers.hpp"
#include "os/files.hpp"
#include "os/host.hpp"

#include <algorithm>

namespace fibula {
namespace {

using StepKind = LinkStep::Kind;

class MsvcReader {
 public:
  explicit MsvcReader(ToolCommand& command) : command_(command), words_(command.words) {}

  void read() {
    bool linker = command_.tool == Tool::linker;
    command_.links = linker;
    if (!linker) command_.compile_words.push_back(words_[0]);
    for (at_ = 1; at_ < words_.size(); ++at_) {
      const std::string& word = words_[at_];
      if (!linker && is_option(word) && text::lower(word).substr(1) == "link") {
        linker = true;
      } else if (!is_option(word)) {
        file_word(word);
      } else if (linker) {
        linker_word(word.substr(1));
      } else {
        compiler_word(word);
      }
    }
    if (command_.tool == Tool::driver) command_.links = !stops_early_ && !command_.inputs.empty();
    add_environment();
  }

 private:
  /// Paths of POSIX systems begin as options do.
  static bool is_option(const std::string& word) {
    if (word.size() < 2) return false;
    if (word[0] == '-') return true;
    return word[0] == '/' && (word.find('/', 1) == std::string::npos || word.find(':') != std::string::npos);
  }
  fs::path place(std::string path) const {
    std::replace(path.begin(), path.end(), '\\', '/');
    return (command_.folder / path).lexically_normal();
  }
  std::string value() { return at_ + 1 < words_.size() ? words_[++at_] : std::string(); }
  void add(StepKind kind, std::string name = {}) { command_.inputs.push_back({{kind, std::move(name)}, at_}); }

  /// Libraries without a folder are looked for.
  void file_word(const std::string& word) {
    const fs::path path = place(word);
    std::error_code ignored;
    if (is_source_name(path)) command_.sources.push_back({path, at_});
    const bool by_name = text::lower(word).ends_with(".lib") && word.find_first_of("/\\") == std::string::npos &&
                         !fs::exists(path, ignored);
    add(by_name ? StepKind::library : StepKind::file, by_name ? word : path.string());
  }

  void compiler_word(const std::string& word) {
    const std::string option = word.substr(1), lower = text::lower(option);
    if (lower == "c" || lower == "e" || lower == "ep" || lower == "p" || lower == "zs") stops_early_ = true;
    if (lower == "e" || lower == "ep" || lower == "p") command_.only_preprocesses = true;
    if (lower == "ld" || lower == "ldd") command_.shared = true;
    if (option.starts_with("I")) return include_word(option);
    for (const std::string_view output : {"Fo", "Fe", "Fd", "Fa", "Fp", "FR", "Fm"}) {
      if (!option.starts_with(output)) continue;
      if (output == "Fe") command_.output = option.substr(2);
      return;
    }
    if (lower == "c" || lower == "e" || lower == "ep" || lower == "p") return;
    command_.compile_words.push_back(word);
    const bool with_value = lower == "d" || lower == "u" || lower == "fi";
    if (with_value) command_.compile_words.push_back(value());
    if (option.starts_with("M") || option.starts_with("-target") || option.starts_with("arch:") ||
        option.starts_with("std:") || option.starts_with("-sysroot") || option.starts_with("fuse-ld") ||
        option.starts_with("GR") || option.starts_with("EH") || option.starts_with("Zl") || lower == "ld")
      command_.target_flags.push_back(word);
  }

  void include_word(const std::string& option) {
    const fs::path folder = place(option.size() > 1 ? option.substr(1) : value());
    command_.include_folders.push_back(folder);
    command_.compile_words.emplace_back("/I" + folder.string());
  }

  void linker_word(const std::string& option) {
    const size_t colon = option.find(':');
    const std::string name = text::lower(option.substr(0, colon));
    const std::string value = colon == std::string::npos ? std::string() : option.substr(colon + 1);
    if (name == "libpath") command_.library_folders.push_back(place(value));
    if (name == "out") command_.output = value;
    if (name == "dll") command_.shared = true;
    if (name == "subsystem") command_.subsystem = value;
    if (name == "entry") command_.entry = value;
    if (name == "noentry") command_.entry = "-";
    if (name == "force") command_.refuses_unresolved = false;
    if (name == "defaultlib") add(StepKind::default_library, value);
    if (name == "nodefaultlib") add(StepKind::no_default_library, value);
    if (name == "wholearchive") add(StepKind::whole_archive);
    if (name == "machine") command_.target_flags.emplace_back("/machine:" + value);
  }

  /// `LIB` is a list of folders, behind those of the command.
  void add_environment() {
    const auto folders = environment("LIB");
    for (const auto folder : folders ? text::split(*folders, ';') : std::vector<std::string_view>()) {
      if (!folder.empty()) command_.library_folders.push_back(place(std::string(folder)));
    }
  }

  ToolCommand& command_;
  const std::vector<std::string>& words_;
  size_t at_ = 0;
  bool stops_early_ = false;
};

}  // namespace

void read_msvc_words(ToolCommand& command) {
  MsvcReader(command).read();
}

}  // namespace fibula
