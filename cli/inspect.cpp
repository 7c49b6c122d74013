#include "inspect.hpp"

#include "misfits.hpp"
#include "needs.hpp"
#include "print.hpp"
#include "session.hpp"

#include <algorithm>
#include <memory>
#include <utility>

namespace cli {
namespace {

namespace fs = std::filesystem;

struct InspectOptions {
  std::vector<std::string> paths;
  std::string whom;  ///< a lane, or a compiler with its flags
  std::string sysroot;
  InspectWishes wishes;
};

fibula::Result<Inspected> open_folder(const std::string& path) {
  std::error_code error;
  if (fs::is_directory(path, error)) {
    auto view = fibula::look_over(path);
    if (!view) return fibula::pass(view);
    return Inspected{.path = path, .folder = std::move(*view), .root = path};
  }
  const SlowNotice notice("unpacking …");
  auto into = fibula::look_into(path);
  if (!into) return fibula::pass(into);
  return Inspected{.path = path, .folder = std::move(into->view), .root = into->root.string(), .place = into->place};
}

fibula::Result<Inspected> look_at_folder(const std::string& path, const InspectWishes& wishes) {
  auto inspected = open_folder(path);
  if (!inspected || !wishes.members) return inspected;
  for (auto& binary : inspected->folder->binaries) {
    if (auto facts = fibula::inspect(fs::path(inspected->root) / binary.path, {.members = true}))
      binary.facts.members = facts->members;
  }
  return inspected;
}

/// Which of the paths serves a lane of the project here, or a compiler.
struct ForWhom {
  fibula::Lane lane;
  fibula::Toolchain toolchain;
};

fibula::Result<ForWhom> for_whom(const Session& session, const std::string& named) {
  ForWhom whom;
  // A project's compiler is started only where it may be.
  const auto project = session.trusted_project();
  if (!project && project.error().code == fibula::Code::refused) return fibula::fail(project.error());
  const auto lanes = project ? project->lanes_named({named}) : fibula::fail(project.error());
  if (lanes) {
    whom.lane = lanes->front();
  } else {
    std::istringstream words(named);
    words >> whom.lane.compiler;
    for (std::string word; words >> word;) whom.lane.flags.push_back(word);
    whom.lane.name = named;
  }
  auto answer = fibula::ask({whom.lane.compiler, whom.lane.flags});
  if (!answer) {
    auto error = answer.error();
    if (error.hint.empty()) error.hint = "name a compiler with its flags, or a lane of the project here";
    return fibula::fail(error);
  }
  whom.toolchain = std::move(*answer);
  return whom;
}

/// One half of an evidence, without the path that it begins with.
std::string said_of(const fibula::Misfit& misfit) {
  if (misfit.evidence.empty()) return {};
  const std::string& text = misfit.evidence.front();
  const std::string shown = text.starts_with(misfit.subject + " ") ? text.substr(misfit.subject.size() + 1) : text;
  return misfit.evidence.size() > 1 ? shown + "; " + misfit.evidence.back() : shown;
}

/// The question before every download: which of these is mine?
int print_which_serves(const Session& session, const InspectOptions& options) {
  std::optional<SlowNotice> notice(std::in_place, "looking into them …");
  const auto whom = for_whom(session, options.whom);
  if (!whom) return report(session, whom.error());
  const std::vector<fs::path> paths(options.paths.begin(), options.paths.end());
  const auto judged = fibula::judge_paths(paths, whom->lane, whom->toolchain);
  notice.reset();
  // What could not be looked into is no answer: not that it does not fit either.
  for (const auto& one : judged) {
    if (one.problem && one.problem->code == fibula::Code::missing_tool) return report(session, *one.problem);
  }
  const auto serves = [](const fibula::JudgedPath& one) {
    return !one.problem && one.verdict != fibula::Verdict::misfit;
  };
  if (session.json) {
    print_json(fibula::answers::inspected_for(options.whom, judged));
  } else {
    std::vector<std::vector<Cell>> table;
    for (const auto& one : judged) {
      const auto verdict = one.problem ? fibula::Verdict::misfit : one.verdict;
      const std::string which = one.problem ? "" : one.variant.empty() ? one.what : one.variant;
      const std::string why = one.problem ? one.problem->what : one.first ? said_of(*one.first) : "";
      table.push_back({{std::string(mark_of(verdict)), style_of(verdict)},
                       {one.path.string(), Style::strong},
                       {which},
                       {one.first && !one.problem ? one.first->rule : ""},
                       {why, Style::faint, true}});
    }
    print_table(table);
  }
  return std::any_of(judged.begin(), judged.end(), serves) ? all_good : answer_is_no;
}

/// Calls `use` with what each path is, in their order. Files are read side by side, as many at once as do not take much
/// memory.
template <typename Use>
void look_at_all(const InspectOptions& options, const Use& use) {
  constexpr size_t at_once = 256;
  const InspectWishes& wishes = options.wishes;
  std::error_code error;
  for (size_t from = 0; from < options.paths.size(); from += at_once) {
    const size_t end = std::min(from + at_once, options.paths.size());
    std::vector<fs::path> files;
    for (size_t i = from; i < end; ++i) {
      const bool whole = fs::is_directory(options.paths[i], error) || fibula::is_download(options.paths[i]);
      if (!whole) files.emplace_back(options.paths[i]);
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
int print_many_needs(const InspectOptions& options) {
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
    const std::string path = (fs::path(inspected.root) / binary.path).string();
    print_line("");
    print_card(binary.facts, (fs::path(inspected.path) / binary.path).string());
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

int run_json(const InspectOptions& options) {
  const auto& wishes = options.wishes;
  fibula::answers::Inspection all(
      {.symbols = wishes.symbols, .needs = wishes.needs ? std::optional(wishes.closure) : std::nullopt});
  look_at_all(options, [&](const std::string& path, const fibula::Result<Inspected>& inspected) {
    if (!inspected) {
      all.add(path, inspected.error());
    } else if (inspected->folder) {
      all.add(path, *inspected->folder, inspected->place ? path : std::string());
    } else if (inspected->facts) {
      all.add(path, *inspected->facts);
    } else {
      all.add(path, inspected->facts.error());
    }
  });
  print_json(all.text());
  return all.has_problems() ? bad_input : all_good;
}

int run(const Session& session, const InspectOptions& options) {
  if (session.json && options.whom.empty()) return run_json(options);
  if (!options.whom.empty()) return print_which_serves(session, options);
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
  auto options = std::make_shared<InspectOptions>();
  program.command("inspect", "what these files are")
      .arguments("PATH", options->paths, "files, and folders or downloads as they came")
      .flag("--symbols", options->wishes.symbols, "every symbol that is defined or needed")
      .flag("--needs", options->wishes.needs,
            "the run-time files it needs, to the last one, and where each is found; of folders and many files what is "
            "wrong")
      .option("--sysroot", "DIR", options->sysroot, "with --needs: the root of the system that the file is for")
      .option("--for", "LANE|COMPILER", options->whom,
              "which of them serves a lane of the project here, or a compiler with its flags: --for \"g++ -m32\"")
      .flag("--members", options->wishes.members, "facts of each member of an archive")
      .example("  fibula inspect tidecalc-2.1.0\n  fibula inspect tidecalc-2.1.0/lib/libtidecalc.a --symbols")
      .does([&session, options] {
        options->wishes.closure.sysroot = options->sysroot;
        return run(session, *options);
      });
}

}  // namespace cli
