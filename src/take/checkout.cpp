#include "take/checkout.hpp"

#include "base/address.hpp"
#include "base/text.hpp"
#include "os/download.hpp"
#include "os/folder.hpp"
#include "os/process.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

Result<Outcome> git(const fs::path& folder, std::vector<std::string> arguments) {
  // Commands that a repository or a helper of a protocol brings do not run here.
  Command command{.argv = {"git", "-c", "core.hooksPath=/dev/null", "-c", "protocol.ext.allow=never", "-c",
                           "core.fsmonitor=false", "-c", "advice.detachedHead=false", "-C", folder.string()}};
  command.argv.insert(command.argv.end(), arguments.begin(), arguments.end());
  command.limit = std::chrono::hours(1);
  command.environment = {{"GIT_TERMINAL_PROMPT", "0"}, {"LC_ALL", "C.UTF-8"}};
  return run(command);
}

std::string first_complaint(const Outcome& outcome) {
  for (const auto line : text::lines(outcome.err)) {
    for (const std::string_view start : {"fatal: ", "error: "}) {
      if (line.starts_with(start)) return std::string(line.substr(start.size()));
    }
  }
  return fmt::format("git ended with {}", outcome.status);
}

Error no_such_ref(const CheckoutRequest& request, const fs::path& into) {
  std::vector<std::string> tags;
  if (const auto listed = git(into, {"ls-remote", "--tags", "--refs", "--", request.repository}); listed) {
    for (const auto line : text::lines(listed->out)) {
      if (const size_t at = line.find("refs/tags/"); at != std::string_view::npos)
        tags.emplace_back(line.substr(at + 10));
    }
  }
  const std::string meant = text::closest(request.at, tags);
  const size_t shown = std::min<size_t>(tags.size(), 5);
  return {.code = Code::refused,
          .what = fmt::format("has no tag, branch or commit {}", request.at),
          .file = request.repository,
          .hint = !meant.empty() ? fmt::format("did you mean {}?", meant)
                  : tags.empty() ? "it has no tags: name a branch or a commit"
                                 : "its newest tags: " + text::join({tags.data() + tags.size() - shown, shown}, ", ")};
}

/// The one commit where the server gives it alone, else the whole history.
Result<void> fetch(const CheckoutRequest& request, const fs::path& into) {
  const std::string wanted = request.at.empty() ? "HEAD" : request.at;
  auto shallow = git(into, {"fetch", "--quiet", "--depth=1", "--no-tags", "--", request.repository, wanted});
  if (!shallow) return pass(shallow);
  if (shallow->good()) return {};
  auto whole = git(into, {"fetch", "--quiet", "--", request.repository, "+refs/heads/*:refs/remotes/origin/*",
                          "+refs/tags/*:refs/tags/*"});
  if (!whole) return pass(whole);
  if (!whole->good()) {
    return fail({.code = Code::absent,
                 .what = "cannot be fetched by git: " + first_complaint(*whole),
                 .file = request.repository,
                 .hint = "check the address; git fetch must work with it"});
  }
  auto known = git(into, {"rev-parse", "--verify", "--quiet", "--end-of-options", wanted + "^{commit}"});
  if (!known) return pass(known);
  if (!known->good()) return fail(no_such_ref(request, into));
  auto kept = git(into, {"update-ref", "FETCH_HEAD", std::string(text::trim(known->out))});
  if (!kept) return pass(kept);
  if (kept->good()) return {};
  return fail({.code = Code::refused,
               .what = "the commit cannot be noted: " + first_complaint(*kept),
               .file = request.repository,
               .hint = "try the same with git itself"});
}

Result<void> expect(Result<Outcome> ran, const CheckoutRequest& request, std::string_view doing) {
  if (!ran) return pass(ran);
  if (ran->good()) return {};
  return fail({.code = Code::refused,
               .what = fmt::format("{}: {}", doing, first_complaint(*ran)),
               .file = request.repository,
               .hint = "try the same with git itself"});
}

}  // namespace

bool is_repository(const std::string& source) {
  std::error_code ignored;
  if (source.starts_with("git://") || source.starts_with("ssh://")) return true;
  if (is_url(source)) return source.ends_with(".git");
  if (fs::exists(source, ignored))
    return fs::is_regular_file(fs::path(source) / "HEAD", ignored) &&
           fs::is_directory(fs::path(source) / "objects", ignored);
  // user@host:path
  const size_t colon = source.find(':'), at = source.find('@');
  return at != std::string::npos && colon != std::string::npos && at < colon;
}

static Result<std::string> check_out(const CheckoutRequest& request, const fs::path& into) {
  std::error_code error;
  CheckoutRequest absolute = request;
  if (!is_url(request.repository) && fs::exists(request.repository, error))
    absolute.repository = absolute_path(request.repository).string();
  if (absolute.at.starts_with('-') || absolute.repository.starts_with('-'))
    return fail({.code = Code::usage, .what = "begins with a dash", .file = request.repository + " " + request.at});
  if (auto made = expect(git(into, {"init", "--quiet", "--template="}), absolute, "no repository can be made"); !made)
    return pass(made);
  if (auto fetched = fetch(absolute, into); !fetched) return pass(fetched);
  if (auto done =
          expect(git(into, {"checkout", "--quiet", "--detach", "FETCH_HEAD"}), absolute, "cannot be checked out");
      !done)
    return pass(done);
  if (request.submodules) {
    // Submodules may name the repository they stand in by a relative path.
    (void)git(into, {"remote", "add", "origin", absolute.repository});
    const std::vector<std::string> update{"submodule", "--quiet", "update", "--init", "--recursive"};
    if (auto done = expect(git(into, update), absolute, "its submodules cannot be fetched"); !done) return pass(done);
  }
  auto commit = git(into, {"rev-parse", "HEAD"});
  if (!commit) return pass(commit);
  if (auto removed = remove_tree_in(into, ".git"); !removed) return pass(removed);
  return std::string(text::trim(commit->out));
}

Result<std::string> checkout(const CheckoutRequest& request, const fs::path& into) {
  auto commit = check_out(request, into);
  return commit ? std::move(commit) : fail(without_secrets(std::move(commit.error())));
}

}  // namespace fibula
