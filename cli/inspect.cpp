#include "inspect.hpp"

#include "needs.hpp"
#include "print.hpp"
#include "session.hpp"

#include <algorithm>
#include <memory>
#include <nlohmann/json.hpp>
#include <utility>

namespace cli {
namespace {

namespace fs = std::filesystem;

struct Options {
  std::vector<std::string> paths;
  std::string sysroot;
  InspectWishes wishes;
};

fibula::Result<Inspected> look_at_folder(const std::string& path, const InspectWishes& wishes) {
  auto view = fibula::look_over(path);
  if (!view) return fibula::pass(view);
  if (wishes.members) {
    for (auto& binary : view->binaries) {
      if (auto facts = fibula::inspect(fs::path(path) / binary.path, {.members = true}))
        binary.facts.members = facts->members;
    }
  }
  return Inspected{.path = path, .folder = std::move(*view)};
}

/// Calls `use` with what each path is, in their order. Files are read side by side, as many at once as do not take much
/// memory.
template <typename Use>
void look_at_all(const Options& options, const Use& use) {
  constexpr size_t at_once = 256;
  const InspectWishes& wishes = options.wishes;
  std::error_code error;
  for (size_t from = 0; from < options.paths.size(); from += at_once) {
    const size_t end = std::min(from + at_once, options.paths.size());
    std::vector<fs::path> files;
    for (size_t i = from; i < end; ++i) {
      if (!fs::is_directory(options.paths[i], error)) files.emplace_back(options.paths[i]);
    }
    auto facts = fibula::inspect_all(files, {.members = wishes.members});
    size_t next = 0;
    for (size_t i = from; i < end; ++i) {
      const auto& path = options.paths[i];
      const bool is_file = next < files.size() && files[next] == path;
      use(path, is_file ? fibula::Result<Inspected>(Inspected{.path = path, .facts = std::move(facts[next++])})
                        : look_at_folder(path, wishes));
    }
  }
}

/// What was asked for beside the facts.
int print_more(const Session& session, const std::string& path, const InspectWishes& wishes) {
  if (wishes.symbols) {
    if (auto printed = print_symbols(path); !printed) return report(session, printed.error());
  }
  if (!wishes.needs) return all_good;
  const auto closure = fibula::closure_of(path, wishes.closure);
  if (!closure) return report(session, closure.error());
  std::error_code ignored;
  print_needs_tree(fs::absolute(path, ignored).lexically_normal().string(), *closure, session.verbose);
  return std::any_of(closure->begin(), closure->end(), fibula::is_bad) ? answer_is_no : all_good;
}

/// The needs of everything in folders, or of many files: what is wrong, not every file's card.
int print_many_needs(const Options& options) {
  const SlowNotice notice("following what programs and libraries need …");
  const std::vector<fs::path> places(options.paths.begin(), options.paths.end());
  const auto closures = fibula::closures_of(places, options.wishes.closure);
  return print_troubles(closures) == 0 ? all_good : answer_is_no;
}

int print_folder(const Session& session, const Inspected& inspected, const InspectWishes& wishes) {
  print_tree(inspected.path, *inspected.folder);
  int status = all_good;
  for (const auto& binary : inspected.folder->binaries) {
    if (!wishes.symbols && !wishes.members) break;
    const std::string path = (fs::path(inspected.path) / binary.path).string();
    print_line("");
    print_card(binary.facts, path);
    status = std::max(status, print_more(session, path, wishes));
  }
  for (const auto& error : inspected.folder->refused) status = report(session, error);
  return status;
}

int print_one(const Session& session, const Inspected& inspected, const InspectWishes& wishes) {
  if (inspected.folder) return print_folder(session, inspected, wishes);
  if (!inspected.facts) return report(session, inspected.facts.error());
  print_card(*inspected.facts, inspected.path);
  return print_more(session, inspected.path, wishes);
}

int run_json(const Options& options) {
  nlohmann::ordered_json files = nlohmann::ordered_json::array(), folders = nlohmann::ordered_json::array();
  look_at_all(options, [&](const std::string& path, fibula::Result<Inspected> inspected) {
    if (!inspected) inspected = Inspected{.path = path, .facts = fibula::pass(inspected)};
    add_json(*inspected, options.wishes, files, folders);
  });
  int status = all_good;
  for (const auto& file : files) status = file.contains("problem") ? static_cast<int>(bad_input) : status;
  print_json({{"schema", "fibula.inspect/1"}, {"files", std::move(files)}, {"folders", std::move(folders)}});
  return status;
}

int run(const Session& session, const Options& options) {
  if (session.json) return run_json(options);
  std::error_code error;
  const bool many = options.paths.size() > 1 || fs::is_directory(options.paths.front(), error);
  if (options.wishes.needs && many && !options.wishes.symbols && !options.wishes.members)
    return print_many_needs(options);
  int status = all_good;
  bool first = true;
  look_at_all(options, [&](const std::string&, const fibula::Result<Inspected>& inspected) {
    if (!std::exchange(first, false)) print_line("");
    status = std::max(status,
                      inspected ? print_one(session, *inspected, options.wishes) : report(session, inspected.error()));
  });
  return status;
}

}  // namespace

void add_inspect(Program& program, Session& session) {
  auto options = std::make_shared<Options>();
  program.command("inspect", "what these files are")
      .arguments("PATH", options->paths, "files, or folders as they came")
      .flag("--symbols", options->wishes.symbols, "every symbol that is defined or needed")
      .flag("--needs", options->wishes.needs,
            "the run-time files it needs, to the last one, and where each is found; of folders and many files what is "
            "wrong")
      .option("--sysroot", "DIR", options->sysroot, "with --needs: the root of the system that the file is for")
      .flag("--members", options->wishes.members, "facts of each member of an archive")
      .example("  fibula inspect tidecalc-2.1.0\n  fibula inspect tidecalc-2.1.0/lib/libtidecalc.a --symbols")
      .does([&session, options] {
        options->wishes.closure.sysroot = options->sysroot;
        return run(session, *options);
      });
}

}  // namespace cli
