#include "base/files.hpp"
#include "base/names.hpp"
#include "base/process.hpp"
#include "base/text.hpp"
#include "toolchain/answers.hpp"
#include "toolchain/cache.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

constexpr auto patience = std::chrono::seconds(20);

/// One question on its way: the two runs, and what they said.
struct Asking {
  const Question* question;
  fs::path compiler;
  std::string key;
  Outcome macros;
  Outcome link;
};

Command command(std::vector<std::string> argv) {
  return {.argv = std::move(argv), .limit = patience, .environment = {{"LC_ALL", "C"}}};
}

/// The compiler's own complaint: the first line that says error, else the first line.
std::string complaint(std::string_view err) {
  const auto lines = text::lines(err);
  const auto found = std::find_if(lines.begin(), lines.end(),
                                  [](std::string_view line) { return line.find("error") != std::string_view::npos; });
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
    error.what = "does not answer as a compiler of the GCC or Clang family does";
    error.hint = "name a g++ or clang++ as the lane's compiler";
  }
  return error;
}

Result<Toolchain> conclude(const Asking& asking) {
  Toolchain toolchain;
  toolchain.compiler = asking.compiler;
  toolchain.environment = influencing_environment();
  if (!asking.macros.good() || !read_macro_answer(asking.macros.out, asking.macros.err, toolchain))
    return fail(refusal(asking, asking.macros));
  if (!asking.link.good() || !read_link_answer(asking.link.err, toolchain)) return fail(refusal(asking, asking.link));
  keep_answer(asking.key, toolchain);
  return toolchain;
}

}  // namespace

std::vector<Result<Toolchain>> ask_all(const std::vector<Question>& questions) {
  std::vector<Result<Toolchain>> answers(questions.size());
  std::vector<std::pair<size_t, std::unique_ptr<Asking>>> open;
  ProcessPool pool;
  for (size_t i = 0; i < questions.size(); ++i) {
    auto compiler = find_program(questions[i].compiler);
    if (!compiler) {
      answers[i] = pass(compiler);
      continue;
    }
    const std::string key = cache_key(*compiler, questions[i]);
    if (auto kept = kept_answer(key)) {
      answers[i] = std::move(*kept);
      continue;
    }
    auto asking = std::make_unique<Asking>(Asking{&questions[i], *compiler, key, {}, {}});
    Asking* target = asking.get();
    auto first =
        pool.start(command(macro_question(questions[i])), [target](Outcome o) { target->macros = std::move(o); });
    if (first)
      first = pool.start(command(link_question(questions[i])), [target](Outcome o) { target->link = std::move(o); });
    if (!first) answers[i] = pass(first);
    if (first) open.emplace_back(i, std::move(asking));
  }
  while (pool.wait()) {}
  for (const auto& [index, asking] : open) answers[index] = conclude(*asking);
  return answers;
}

Result<Toolchain> ask(const Question& question) {
  return std::move(ask_all({question}).front());
}

std::string_view to_string(Family family) {
  return family == Family::gcc ? "gcc" : "clang";
}

std::string_view to_string(Linkage linkage) {
  static constexpr Name<Linkage> names[] = {
      {Linkage::any, "any"}, {Linkage::static_, "static"}, {Linkage::shared, "shared"}};
  return name_in<Linkage>(names, linkage);
}

}  // namespace fibula
