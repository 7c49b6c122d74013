#include <fibula/run.hpp>

#include "base/text.hpp"
#include "os/process.hpp"
#include "project/starter.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {

std::vector<std::string> run_command(const Lane& lane, const std::filesystem::path& program,
                                     const std::vector<std::string>& arguments) {
  std::vector<std::string> command;
  for (const auto word : text::words(lane.start_through)) command.emplace_back(word);
  command.push_back(program.string());
  command.insert(command.end(), arguments.begin(), arguments.end());
  return command;
}

Result<void> can_start(const Lane& lane, const Target& target, const Project& project) {
  const auto words = text::words(lane.start_through);
  if (!words.empty()) {
    if (auto starter = find_program(words.front()); !starter)
      return fail(
          {.code = Code::missing_tool,
           .what = fmt::format("lane {} starts programs through {}, which is not found", lane.name, words.front()),
           .file = project.file().string(),
           .line = lane.line,
           .hint = "install it, or change start-through"});
    return {};
  }
  if (starts_here(target)) return {};
  const std::string starter = starter_for(target);
  return fail(
      {.code = Code::refused,
       .what =
           fmt::format("lane {} makes programs for {}, which this machine cannot start", lane.name, to_string(target)),
       .file = project.file().string(),
       .line = lane.line,
       .hint = starter.empty() ? "name what starts them in the lane, as start-through, or run them where they belong"
                               : fmt::format("name what starts them in the lane: start-through = \"{}\"", starter)});
}

namespace {

/// "CC=gcc", and not "./a=b".
bool is_assignment(const std::string& word) {
  const std::string name = word.substr(0, word.find('='));
  return name.size() < word.size() && !name.empty() && (name[0] < '0' || name[0] > '9') &&
         std::all_of(name.begin(), name.end(), text::is_identifier_character);
}

/// A command that is to end is asked first, and given this long.
constexpr std::chrono::milliseconds between_looks{100}, patience{3'000};

void wait_for_end(ProcessPool& pool, const Listener& listener) {
  std::chrono::milliseconds asked{0};
  while (pool.running() > 0) {
    pool.wait(listener.ends ? between_looks : std::chrono::milliseconds{0});
    if (pool.running() == 0 || !listener.ends || !listener.ends()) continue;
    if (asked.count() == 0) pool.end_all(ProcessPool::End::ask);
    if (asked >= patience) pool.end_all(ProcessPool::End::at_once);
    asked += between_looks;
  }
}

}  // namespace

Result<Heard> run_and_listen(const std::vector<std::string>& command, const Listener& listener) {
  // What a shell would put into the environment.
  std::vector<std::pair<std::string, std::string>> environment{{"LC_ALL", "C.UTF-8"}};
  auto first = command.begin();
  for (; first != command.end() && is_assignment(*first); ++first) {
    const size_t equals = first->find('=');
    environment.emplace_back(first->substr(0, equals), first->substr(equals + 1));
  }
  if (first == command.end()) first = command.begin();
  Outcome outcome;
  ProcessPool pool;
  auto started = pool.start({.argv = {first, command.end()},
                             .limit = std::chrono::milliseconds(0),
                             .environment = std::move(environment),
                             .heard = listener.heard},
                            [&](Outcome ended) { outcome = std::move(ended); });
  if (!started) return pass(started);
  wait_for_end(pool, listener);
  return Heard{outcome.status, std::move(outcome.out), std::move(outcome.err)};
}

std::vector<std::string> loader_variables() {
  return {"LD_LIBRARY_PATH", "DYLD_LIBRARY_PATH", "DYLD_FALLBACK_LIBRARY_PATH", "DYLD_FRAMEWORK_PATH", "WINEPATH"};
}

Result<int> run_in_foreground(const std::vector<std::string>& command) {
  auto outcome =
      run({.argv = command, .limit = std::chrono::milliseconds(0), .without = loader_variables(), .foreground = true});
  if (!outcome) return pass(outcome);
  return outcome->status;
}

}  // namespace fibula
