#include "for_people.hpp"
#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <chrono>
#include <iostream>
#include <memory>
#include <optional>
#include <set>

namespace cli {
namespace {

/// The system that a file was made for, where it says one.
std::string system_of(const fibula::Variant& variant) {
  const auto* system = variant.fact_as<fibula::NamedVersion>("os-floor");
  return system == nullptr ? std::string() : system->name;
}

/// What tells a variant from others of its machine, linkage and configuration.
std::string difference(const fibula::Variant& variant, const fibula::Card& card) {
  std::string text;
  const auto other_system = [&](const fibula::Variant& other) {
    return other.target == variant.target && !system_of(other).empty() && system_of(other) != system_of(variant);
  };
  if (!system_of(variant).empty() && std::any_of(card.variants.begin(), card.variants.end(), other_system))
    text += ", " + system_of(variant);
  for (const char* fact : {"cpu-floor", "float-abi", "c-runtime", "runtime-flavour", "threads", "exceptions",
                           "string-abi", "cxx-runtime", "pic"}) {
    const std::string& own = variant.fact(fact);
    const auto differs = [&](const fibula::Variant& other) {
      return other.target == variant.target && other.linkage == variant.linkage &&
             other.configuration == variant.configuration && other.choices == variant.choices &&
             other.fact(fact) != own;
    };
    if (!own.empty() && std::any_of(card.variants.begin(), card.variants.end(), differs))
      text += fmt::format(", {} {}", fact, own);
  }
  return text;
}

void print_contents(const fibula::Card& card) {
  std::vector<std::vector<Cell>> table;
  const auto row = [&](std::string label, std::string text, std::string more = "") {
    // What has no second half keeps no column.
    const bool alone = more.empty();
    table.push_back({{std::move(label), Style::faint}, {std::move(text), Style::plain, alone}});
    if (!alone) table.back().push_back({std::move(more)});
  };
  for (const auto& directory : card.include_directories) row("headers", directory);
  std::set<std::string> own;  // of some variants alone
  for (const auto& variant : card.variants) {
    for (const auto& directory : variant.include_directories) {
      if (own.insert(directory).second) row("headers", directory, "for " + fibula::to_string(variant.target));
    }
  }
  for (const auto& variant : card.variants) {
    std::string what = fibula::to_string(variant.target);
    if (variant.configuration != "unknown") what += ", " + variant.configuration;
    for (const auto& [name, alternative] : variant.choices) what += fmt::format(", {} = {}", name, alternative);
    what += difference(variant, card);
    row(std::string(fibula::to_string(variant.linkage)), what, shown_files(variant.link));
  }
  if (!card.source.compile.empty())
    row("source", fmt::format("{} to compile", card.source.compile.size()), shown_files(card.source.compile));
  for (const auto& part : card.source.parts) {
    std::vector<std::string> when = part.systems;
    when.insert(when.end(), part.archs.begin(), part.archs.end());
    row("source", fmt::format("{} for {}", part.set.compile.size(), fmt::join(when, ", ")),
        shown_files(part.set.compile));
  }
  for (const auto& choice : card.source.choices) {
    std::vector<std::string> names;
    for (const auto& one : choice.alternatives) names.push_back(one.name);
    row("choice", fmt::format("{}: {}", choice.name, fmt::join(names, ", ")),
        choice.by_default + " unless a project picks");
  }
  for (const auto& step : card.source.steps) row("step", step);
  if (!card.files.data.empty()) row("data", shown_files(card.files.data));
  if (!card.files.licences.empty()) row("licence", shown_files(card.files.licences));
  for (const auto& requirement : card.requirements) {
    if (!requirement.library.empty()) row("needs", requirement.library, requirement.because);
  }
  print_table(table, "  ");
}

void print_taken(const fibula::Taken& taken, const fibula::TakeRequest& request) {
  const auto& card = taken.card;
  if (request.dry_run) {
    print_lines(fibula::card_text(card));
  } else {
    const std::string done = taken.already_there ? "was on the shelf already, the same"
                             : request.add       ? "has more builds on the shelf now"
                             : request.in_place  ? "is on the shelf, its files stay where they are"
                                                 : "is on the shelf";
    print_line(fmt::format("{} {} {}", styled(card.name, Style::strong), card.version, done));
    print_contents(card);
  }
  for (const auto& remark : taken.remarks) print_sentence(remark, "note: ");
  if (!taken.already_there && !request.dry_run)
    print_line(
        styled(fmt::format("  use it in a project: fibula attach {0}; fibula trial {0} proves it there", card.name),
               Style::faint));
}

std::string megabytes(uint64_t bytes) {
  return fmt::format("{:.1f} MB", static_cast<double>(bytes) / 1e6);
}

/// Tells on a terminal how far a long transfer is, from half a second on.
fibula::ProgressSink told_progress() {
  using Clock = std::chrono::steady_clock;
  return [start = Clock::now(), last = Clock::time_point()](const fibula::Progress& p) mutable {
    const auto now = Clock::now();
    if (now - start < std::chrono::milliseconds(500) || now - last < std::chrono::milliseconds(100)) return;
    last = now;
    progress(p.total == 0 ? fmt::format("{} {}", p.doing, megabytes(p.done))
                          : fmt::format("{} {} of {}", p.doing, megabytes(p.done), megabytes(p.total)));
  };
}

/// Asks whoever sits there, and nobody else: scripts give options.
std::string ask(const std::string& what) {
  if (!input_is_terminal() || !is_terminal(Stream::error)) return {};
  progress("");
  std::cerr << what << ", which its files do not say: " << std::flush;
  std::string answer;
  std::getline(std::cin, answer);
  return answer;
}

struct TakeOptions {
  fibula::TakeRequest request;
  std::string output;
  bool here = false;
  bool only_needed = false;
};

/// A library of the user's shelf that is named like one, not as a path.
std::optional<fibula::Card> card_meant(const fibula::Shelf& users, const fibula::TakeRequest& request) {
  std::error_code ignored;
  if (request.sources.size() != 1 || std::filesystem::exists(request.sources.front(), ignored)) return std::nullopt;
  const auto versions = users.versions(request.sources.front());
  if (!versions) return std::nullopt;
  for (const auto& card : *versions) {
    if (!card.in_place && (request.version.empty() || card.version == request.version)) return card;
  }
  return std::nullopt;
}

fibula::Result<void> prepare(const Session& session, TakeOptions& options) {
  auto& request = options.request;
  if (options.only_needed && !options.here)
    return fibula::fail({.code = fibula::Code::usage,
                         .what = "--only-needed is for a copy inside a project",
                         .hint = "say --here too: the shelf keeps libraries whole, for all projects"});
  if (request.sources.empty() && options.output.empty())
    return fibula::fail(
        {.code = fibula::Code::usage,
         .what = "nothing is named that could be taken",
         .hint = "fibula take FOLDER, an archive or a URL; --output NAME for a library of this project"});
  if (!options.only_needed) return {};
  const auto project = session.trusted_project();
  if (!project) return fibula::fail(project.error());
  request.variants = [project = *project](const fibula::Card& card) { return fibula::variants_used(project, card); };
  return {};
}

fibula::Result<fibula::Taken> take_it(const Session& session, const fibula::Shelf& shelf, const TakeOptions& options) {
  const SlowNotice notice("reading …");
  if (!options.output.empty()) {
    const auto project = session.trusted_project();
    if (!project) return fibula::fail(project.error());
    return fibula::take_output(shelf, *project, options.output, options.request);
  }
  if (const auto users = session.shelf(); options.here && users) {
    const auto card = card_meant(*users, options.request);
    if (card) {
      if (auto here = users->bring(*card); !here) return fibula::fail(here.error());
      return fibula::take_entry(shelf, *card, options.request);
    }
  }
  return fibula::take(shelf, options.request);
}

int run(const Session& session, TakeOptions& options) {
  auto& request = options.request;
  if (auto ready = prepare(session, options); !ready) return report(session, ready.error());
  const auto shelf = options.here ? fibula::own_shelf(session.directory) : session.shelf();
  if (!shelf) return report(session, shelf.error());
  request.portable = options.here;
  request.progress = told_progress();
  if (!session.json) request.ask = ask;
  const auto taken = take_it(session, *shelf, options);
  progress("");
  if (!taken) return report(session, taken.error());
  if (options.here && !taken->already_there) {
    // What came into the project is what its lanes are to use from now on.
    if (auto anew = fibula::choose_anew(session.directory, taken->card.name); !anew)
      return report(session, anew.error());
  }
  if (session.json) {
    print_json(fibula::answers::taken(*taken, !request.dry_run && !taken->already_there));
  } else {
    print_taken(*taken, request);
  }
  return all_good;
}

}  // namespace

void add_take(Program& program, Session& session) {
  auto options = std::make_shared<TakeOptions>();
  auto& request = options->request;
  program.command("take", "put a library on the shelf")
      .arguments("SOURCE", request.sources,
                 "a folder, an archive or system package, a header, a URL, a git repository, or a prefix such as /usr",
                 false)
      .option("--library", "NAME", request.library, "with a prefix: which of its libraries")
      .option("--at", "REF", request.at, "with a repository: the tag, branch or commit")
      .flag("--submodules", request.submodules, "with a repository: its submodules too")
      .option("--sha256", "DIGEST", request.sha256, "the digest that the file must have")
      .option("--name", "NAME", request.name, "what to call it, when the source's name is not it")
      .option("--version", "VERSION", request.version, "its version, when the files do not say it")
      .option("--output", "NAME", options->output, "instead of SOURCE: a library that this project makes and has built")
      .flag("--add", request.add, "more builds of the version that is on the shelf")
      .flag("--only-needed", options->only_needed, "with --here: only the variants that the project's lanes use")
      .flag("--here", options->here, "onto a shelf inside this project, to be kept with it")
      .flag("--in-place", request.in_place, "leave the files where they are")
      .flag("--replace", request.replace, "take the place of what is on the shelf under this version")
      .flag("--headers-only", request.headers_only, "these headers need no library file")
      .flag("--signed", request.signed_only, "only a parcel that is signed with a key that is trusted here")
      .flag("--dry-run", request.dry_run, "show the card, write nothing")
      .example(
          "  fibula take tidecalc-2.1.0.tar.gz\n  fibula take /usr --library zlib --in-place\n"
          "  fibula take https://example.org/tide.git --at v2.1.0")
      .does([&session, options] { return run(session, *options); });
}

}  // namespace cli
