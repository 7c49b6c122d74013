#include "os/sandbox.hpp"

#include "os/files.hpp"

#include <algorithm>
#include <array>

namespace fibula {
namespace {

/// What belongs to users, to the running system, or is made anew inside.
constexpr std::array<std::string_view, 11> left_out = {"home", "root", "tmp", "run",   "proc",      "dev",
                                                       "sys",  "mnt",  "srv", "media", "lost+found"};

/// Everything else at the top of the system, as it is there.
void add_system(std::vector<std::string>& words) {
  std::error_code error;
  std::vector<fs::path> found;
  for (auto entry = fs::directory_iterator("/", error); !error && entry != fs::directory_iterator();
       entry.increment(error))
    found.push_back(entry->path());
  std::sort(found.begin(), found.end());
  for (const auto& path : found) {
    const std::string name = path.filename().string();
    if (std::find(left_out.begin(), left_out.end(), name) != left_out.end()) continue;
    if (fs::is_symlink(path, error)) {
      words.insert(words.end(), {"--symlink", fs::read_symlink(path, error).string(), path.string()});
    } else if (fs::is_directory(path, error)) {
      words.insert(words.end(), {"--ro-bind-try", path.string(), path.string()});
    }
  }
  words.insert(words.end(), {"--proc", "/proc", "--dev", "/dev", "--tmpfs", "/tmp"});
}

}  // namespace

Result<std::vector<std::string>> sandbox_words(const std::vector<SandboxFolder>& folders, const std::string& directory,
                                               const std::vector<fs::path>& emptied) {
  const auto program = find_program("bwrap");
  if (!program) {
    return fail({.code = Code::missing_tool,
                 .what = "bubblewrap is not installed: build steps of libraries run in its sandbox",
                 .file = "bwrap",
                 .hint = "install it (Debian: apt install bubblewrap), or let the steps run as you: --unsandboxed"});
  }
  std::vector<std::string> words{program->string(), "--unshare-all", "--die-with-parent",
                                 "--new-session",   "--tmpfs",       "/"};
  add_system(words);
  for (const auto& folder : emptied) words.insert(words.end(), {"--tmpfs", folder.string()});
  for (const auto& folder : folders)
    words.insert(words.end(), {folder.writable ? "--bind" : "--ro-bind", folder.from.string(), folder.as});
  std::vector<std::string> probe = words;
  probe.insert(probe.end(), {"--", "/bin/true"});
  const auto tried = run({.argv = probe, .limit = std::chrono::seconds(20)});
  if (!tried || !tried->good()) {
    std::string said = tried ? tried->err : tried.error().what;
    while (!said.empty() && said.back() == '\n') said.pop_back();
    return fail({.code = Code::missing_tool,
                 .what = "the sandbox for build steps cannot be made here: " + said,
                 .file = program->string(),
                 .hint = "allow unprivileged user namespaces, or let the steps run as you: --unsandboxed"});
  }
  words.insert(words.end(), {"--chdir", directory, "--"});
  return words;
}

}  // namespace fibula
