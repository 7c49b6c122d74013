#include "session.hpp"

#include "print.hpp"

#include <fibula/words.hpp>

#include <fmt/format.h>
#include <fmt/ranges.h>
#include <iostream>

namespace cli {
namespace {

int exit_for(fibula::Code code) {
  switch (code) {
    case fibula::Code::usage: return wrong_usage;
    case fibula::Code::refused: return answer_is_no;
    case fibula::Code::missing_tool:
    case fibula::Code::io: return something_missing;
    case fibula::Code::absent:
    case fibula::Code::unreadable:
    case fibula::Code::truncated:
    case fibula::Code::malformed:
    case fibula::Code::not_a_library:
    case fibula::Code::unsupported:
    case fibula::Code::limit: return bad_input;
  }
  return bad_input;
}

}  // namespace

fibula::Result<fibula::Shelf> Session::shelf() const {
  return shelves.empty() ? fibula::Shelf::standard() : fibula::Shelf::in_order(shelves);
}

fibula::Result<fibula::Shelf> Session::shelf_here() const {
  auto users = shelf();
  const auto here = project();
  if (!users || (!here && here.error().code == fibula::Code::absent)) return users;
  if (!here) return fibula::fail(here.error());
  return here->shelf(*users);
}

namespace {}  // namespace

bool says_yes(const std::string& what) {
  if (!input_is_terminal() || !is_terminal(Stream::error)) return false;
  progress("");
  note(what + " Type yes to let it:");
  std::string answer;
  std::getline(std::cin, answer);
  return answer == "yes";
}

fibula::Result<fibula::Project> Session::trusted_project() const {
  auto opened = project();
  if (!opened) return opened;
  const auto own = fibula::programs_of_its_own(*opened);
  if (own.empty() || fibula::is_trusted(*opened)) return opened;
  const std::string what = fmt::format("brings what would run here: {}", fmt::join(own, ", "));
  if (!trust && (json || !says_yes(fmt::format("The project in {} {}.", opened->root().string(), what)))) {
    return fibula::fail({.code = fibula::Code::refused,
                         .what = what,
                         .file = opened->file().string(),
                         .hint = "look at it; where it may run, say --trust once"});
  }
  // Where it cannot be remembered, it is said again the next time.
  static_cast<void>(fibula::trust(*opened));
  return opened;
}

fibula::Result<ProjectAtHand> project_at_hand(const Session& session, const std::vector<std::string>& lanes) {
  auto shelf = session.shelf();
  if (!shelf) return fibula::pass(shelf);
  auto project = session.trusted_project();
  if (!project) return fibula::pass(project);
  auto chosen = project->lanes_named(lanes);
  if (!chosen) return fibula::pass(chosen);
  return ProjectAtHand{std::move(*shelf), std::move(*project), std::move(*chosen)};
}

fibula::Result<void> write_sarif(const fibula::Project& project, const std::vector<fibula::Fit>& fits,
                                 const std::string& file, const std::vector<fibula::Finding>& findings) {
  if (file.empty()) return {};
  return fibula::emit::write_text(file, fibula::sarif(project, fits, findings) + "\n");
}

namespace {

/// Of what is not there: what lies beside it under nearly the same name.
std::string hint_for_absent(const std::string& file) {
  const std::filesystem::path path(file);
  std::vector<std::string> names;
  std::error_code error;
  for (auto entry = std::filesystem::directory_iterator(path.has_parent_path() ? path.parent_path() : ".", error);
       !error && entry != std::filesystem::directory_iterator(); entry.increment(error))
    names.push_back(entry->path().filename().string());
  const std::string meant = fibula::closest_word(path.filename().string(), names);
  return meant.empty() ? "check its name, and the folder that you are in"
                       : fmt::format("did you mean {}?", (path.parent_path() / meant).string());
}

}  // namespace

int report(const Session& session, const fibula::Error& failed) {
  fibula::Error error = failed;
  if (error.hint.empty() && error.code == fibula::Code::absent && !error.file.empty())
    error.hint = hint_for_absent(error.file);
  if (session.json) {
    print_json(fibula::answers::error(error));
  } else {
    complain(fibula::render(error), error.hint);
  }
  return exit_for(error.code);
}

void report_error(const Session& session, const fibula::Error& error) {
  static_cast<void>(report(session, error));
}

int status_of(const fibula::Error& error) {
  return exit_for(error.code);
}

}  // namespace cli
