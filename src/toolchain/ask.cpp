#include "base/names.hpp"
#include "base/text.hpp"
#include "os/folder.hpp"
#include "os/host.hpp"
#include "os/process.hpp"
#include "toolchain/answers.hpp"
#include "toolchain/cache.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <memory>
#include <optional>

namespace fibula {
namespace {

constexpr auto patience = std::chrono::seconds(20);

/// The files that the questions are about. Every compiler reads the same ones.
struct QuestionFiles {
  TemporaryFolder folder;
  std::string source, object;

  static Result<QuestionFiles> make() {
    auto folder = TemporaryFolder::make(temporary_place(), "fibula-question");
    if (!folder) return pass(folder);
    const fs::path source = folder->path() / "question.h", object = folder->path() / "question.obj";
    if (auto written = write_in(folder->path(), "question.h", question_source, Flush::later); !written)
      return pass(written);
    if (auto written = write_in(folder->path(), "question.obj", "", Flush::later); !written) return pass(written);
    return QuestionFiles{std::move(*folder), source.string(), object.string()};
  }
};

/// One question on its way: the runs, and what they said.
struct Asking {
  const Question* question;
  const Spelling* spelling;
  fs::path compiler;
  std::string key;
  std::string object;
  Outcome macros = {};
  Outcome link = {};
  Outcome cxx = {};  ///< of a C driver
};

Command command(std::vector<std::string> argv) {
  return {.argv = std::move(argv), .limit = patience, .environment = {{"LC_ALL", "C"}}};
}

/// The compiler's own complaint: the first line with an error, else the first line.
std::string complaint(std::string_view err) {
  const auto lines = text::lines(err);
  const auto found = std::find_if(lines.begin(), lines.end(),
                                  [](std::string_view line) { return line.find("error: ") != std::string_view::npos; });
  const auto line = found != lines.end() ? *found : lines.empty() ? std::string_view() : lines.front();
  return std::string(text::trim(line));
}

Error refusal(const Asking& asking, const Outcome& outcome) {
  Error error{.code = Code::refused, .what = {}, .file = asking.question->compiler};
  if (outcome.timed_out) {
    error.what = fmt::format("gave no answer within {} seconds when it was asked what it targets", patience.count());
    error.hint = "run it by hand with -v; a wrapper script that waits for something is a common cause";
  } else if (outcome.signal != 0) {
    error.what = fmt::format("ended with signal {} when it was asked what it targets", outcome.signal);
    error.hint = "install the compiler again, or name another";
  } else if (!outcome.good()) {
    error.what = "refuses the lane's flags: " + complaint(outcome.err);
    error.hint = "correct the flags of the lane, or install what the compiler names";
  } else {
    error.what = "does not answer as a compiler of the GCC, Clang or MSVC-style family does";
    error.hint = "name a g++, clang++ or clang-cl as the lane's compiler";
  }
  return error;
}

/// A folder was named for headers and libraries, and it has no C library's headers: every compile would fail with a
/// message about some header.
std::optional<Error> empty_sysroot(const Asking& asking, const Toolchain& toolchain) {
  constexpr std::string_view option = "--sysroot=";
  for (const auto& flag : asking.question->flags) {
    if (!flag.starts_with(option) || toolchain.answers.contains("c-headers")) continue;
    return Error{.code = Code::refused,
                 .what = fmt::format("finds no stdio.h in the sysroot {}", flag.substr(option.size())),
                 .file = asking.question->compiler,
                 .hint = "name a folder that has usr/include and usr/lib of the target system"};
  }
  return std::nullopt;
}

/// How the linker names itself: the first line that it prints.
void ask_linkers(std::vector<Toolchain*>& toolchains) {
  ProcessPool pool;
  for (Toolchain* toolchain : toolchains) {
    const auto keep = [toolchain](const Outcome& outcome) {
      const auto lines = text::lines(outcome.out);
      if (!lines.empty()) toolchain->linker_version = std::string(text::trim(lines.front()));
    };
    // A linker that does not say who it is links all the same.
    (void)pool.start(command({toolchain->linker.string(), "--version"}), keep);
  }
  while (pool.wait()) {}
}

Result<Toolchain> conclude(const Asking& asking) {
  Toolchain toolchain;
  toolchain.compiler = asking.compiler;
  if (asking.spelling == &msvc_spelling) toolchain.family = CompilerFamily::msvc;
  toolchain.environment = influencing_environment();
  if (!asking.macros.good() || !read_macro_answer(asking.macros.out, asking.macros.err, toolchain))
    return fail(refusal(asking, asking.macros));
  if (!asking.link.good() || !asking.spelling->read_link_answer(asking.link.err, asking.object, toolchain))
    return fail(refusal(asking, asking.link));
  if (auto empty = empty_sysroot(asking, toolchain)) return fail(std::move(*empty));
  if (!toolchain.cxx && asking.cxx.good()) toolchain.cxx_include_directories = search_directories(asking.cxx.err);
  read_sysroot_answers(toolchain);
  return toolchain;
}

/// Every question that no kept answer serves, asked side by side.
class Inquiry {
 public:
  Inquiry(const std::vector<Question>& questions, const Cache& cache, std::vector<Result<Toolchain>>& answers)
      : questions_(questions), cache_(cache), answers_(answers) {}

  void ask() {
    for (size_t i = 0; i < questions_.size(); ++i) start(i);
    while (pool_.wait()) {}
    std::vector<Toolchain*> fresh;
    for (const auto& [index, asking] : open_) {
      answers_[index] = conclude(*asking);
      if (answers_[index]) fresh.push_back(&*answers_[index]);
    }
    ask_linkers(fresh);
    for (const auto& [index, asking] : open_) {
      if (answers_[index]) keep_toolchain(cache_, asking->key, *answers_[index]);
    }
    // The same question twice is asked once.
    for (const auto& [index, first] : repeated_) answers_[index] = answers_[first];
  }

 private:
  void start(size_t index) {
    const Question& question = questions_[index];
    auto compiler = find_program(question.compiler);
    if (!compiler) {
      answers_[index] = pass(compiler);
      return;
    }
    const std::string key = key_of(*compiler, question);
    if (auto kept = kept_toolchain(cache_, key)) {
      answers_[index] = std::move(*kept);
      return;
    }
    for (const auto& [first, asking] : open_) {
      if (asking->key != key) continue;
      repeated_.emplace_back(index, first);
      return;
    }
    if (auto started = start_runs(index, *compiler, key); !started) answers_[index] = pass(started);
  }

  Result<void> start_runs(size_t index, const fs::path& compiler, const std::string& key) {
    if (!files_) {
      auto made = QuestionFiles::make();
      if (!made) return pass(made);
      files_.emplace(std::move(*made));
    }
    const Question& question = questions_[index];
    auto asking = std::make_unique<Asking>(Asking{&question, &spelling_of(question), compiler, key, files_->object});
    Asking* target = asking.get();
    auto started = run(asking->spelling->macro_question(question, files_->source), target->macros);
    if (started) started = run(asking->spelling->link_question(question, files_->object), target->link);
    if (auto argv = asking->spelling->cxx_question(question, files_->object); started && !argv.empty())
      started = run(std::move(argv), target->cxx);
    // What was started is awaited even when the second run could not be.
    open_.emplace_back(index, std::move(asking));
    return started;
  }

  Result<void> run(std::vector<std::string> argv, Outcome& said) {
    return pool_.start(command(std::move(argv)), [&said](Outcome outcome) { said = std::move(outcome); });
  }

  const std::vector<Question>& questions_;
  const Cache& cache_;
  std::vector<Result<Toolchain>>& answers_;
  std::optional<QuestionFiles> files_;
  std::vector<std::pair<size_t, std::unique_ptr<Asking>>> open_;
  std::vector<std::pair<size_t, size_t>> repeated_;
  ProcessPool pool_;
};

}  // namespace

const Spelling& spelling_of(const Question& question) {
  return msvc_spelling.recognises(question) ? msvc_spelling : gnu_spelling;
}

std::vector<Result<Toolchain>> ask_all(const std::vector<Question>& questions, const Cache& cache) {
  std::vector<Result<Toolchain>> answers(questions.size());
  Inquiry(questions, cache, answers).ask();
  return answers;
}

Result<Toolchain> ask(const Question& question, const Cache& cache) {
  return std::move(ask_all({question}, cache).front());
}

const Answer* Toolchain::answer(std::string_view id) const {
  const auto found = answers.find(id);
  return found == answers.end() ? nullptr : &found->second;
}

std::string to_text(const Answer& answer) {
  return answer.version.empty() ? answer.value : answer.value + " " + answer.version;
}

bool Toolchain::bare_metal() const {
  return target.format == Format::elf && loader.empty() && !static_link;
}

std::string_view to_string(CompilerFamily family) {
  static constexpr Name<CompilerFamily> names[] = {
      {CompilerFamily::gcc, "gcc"}, {CompilerFamily::clang, "clang"}, {CompilerFamily::msvc, "msvc-style"}};
  return name_in<CompilerFamily>(names, family);
}

}  // namespace fibula
