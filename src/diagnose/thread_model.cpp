/// Threads of C++ that a compiler for Windows has not, since its run-time was made without them.
#include "base/text.hpp"
#include "diagnose/compile_scene.hpp"
#include "os/process.hpp"

#include <algorithm>

namespace fibula {
namespace {

/// What libstdc++ declares only where GCC has threads by POSIX's model, or is of 13 and later (its manual,
/// "Configuring libstdc++", gthreads).
constexpr std::string_view names_of_threads[] = {"mutex",         "recursive_mutex",
                                                 "timed_mutex",   "recursive_timed_mutex",
                                                 "shared_mutex",  "shared_timed_mutex",
                                                 "thread",        "jthread",
                                                 "this_thread",   "condition_variable",
                                                 "future",        "condition_variable_any",
                                                 "async",         "promise",
                                                 "packaged_task", "call_once",
                                                 "once_flag",     "launch"};

class ThreadModel : public CompileScene {
 public:
  using CompileScene::CompileScene;

  std::optional<Finding> explain(const Complaint& complaint) {
    const bool of_threads = complaint.kind == Complaint::Kind::unknown_name &&
                            std::find(std::begin(names_of_threads), std::end(names_of_threads), complaint.name) !=
                                std::end(names_of_threads);
    if (!of_threads || command_->family != CompilerFamily::gcc || !is_cxx_command()) return std::nullopt;
    const auto& toolchain = evidence_.toolchain(*command_);
    const Answer* model = toolchain ? toolchain->answer("threads") : nullptr;
    if (model == nullptr || to_text(*model) != "win32" || declares_it(complaint.name)) return std::nullopt;
    return found(complaint);
  }

 private:
  /// A source that includes the standard header, and nothing else: what is declared then is not what is missing.
  bool declares_it(const std::string& name) {
    const std::string text = fmt::format(
        "#include <thread>\n#include <mutex>\n#include <condition_variable>\n#include <future>\n"
        "#if __cplusplus >= 201402L\n#include <shared_mutex>\n#endif\nusing namespace std;\nnamespace tried {{\nusing "
        "::std::{};\n}}\n",
        name == "this_thread" ? "thread" : name);
    return evidence_.compile(*command_, command_->sources.front().path, text).good;
  }

  Finding found(const Complaint& complaint) {
    const Position at = position_of(complaint.user);
    const std::string compiler = fs::path(command_->words[0]).filename().string();
    Finding finding = start("thread-model", compiler);
    finding.because = {
        fmt::format("{}: {}", shown_position(at), said(complaint)),
        fmt::format("{} has the thread model win32: its C++ library declares no std::{}", compiler, complaint.name)};
    finding.culprits = {command_->words[0]};
    Words words = command_->words;
    words[0] = with_posix_threads(words[0]);
    const std::string other = fs::path(words[0]).filename().string();
    if (find_program(words[0]) && compiles(words)) {
      finding.because.push_back(fmt::format("with {}, of the model posix, it compiles", other));
      finding.remedy = fmt::format("compile and link everything with {}", other);
      edit_command(finding, words);
    } else {
      finding.remedy = "use a compiler for Windows whose thread model is posix (gcc -v tells it)";
    }
    return finding;
  }

  /// The name that Debian and others give the one of the other model.
  static std::string with_posix_threads(std::string compiler) {
    constexpr std::string_view other = "-win32";
    const size_t end = compiler.ends_with(other) ? compiler.size() - other.size() : compiler.size();
    return compiler.substr(0, end) + "-posix";
  }
};

}  // namespace

std::optional<Finding> other_thread_model(const Complaint& complaint, const ToolCommand& command, Evidence& evidence) {
  return ThreadModel(&command, evidence).explain(complaint);
}

}  // namespace fibula
