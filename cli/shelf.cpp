#include "card_explained.hpp"
#include "print.hpp"
#include "screen.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <chrono>
#include <memory>

namespace cli {
namespace {

struct ShelfOptions {
  std::string name;
  std::string version;
  std::string to;
  unsigned days = 30;
  unsigned page = 0;  ///< counted from one; 0: none was asked for
  bool drop = false;
  bool only_builds = false;
};

/// What a person reads at once.
constexpr size_t page_length = 100;

/// The libraries that are to be listed.
struct Page {
  std::vector<std::string> names;  ///< of this page; empty: all of them
  size_t number = 0, count = 0;
};

fibula::Result<Page> page_of(const Session& session, const fibula::Shelf& shelf, const ShelfOptions& options) {
  // What a program reads is not cut, unless it asks for a page.
  const bool for_reading = !session.json && is_terminal(Stream::output);
  if (options.page == 0 && !for_reading) return Page();
  const auto names = shelf.names();
  const size_t pages = (names.size() + page_length - 1) / page_length, number = std::max(1U, options.page);
  if (options.page == 0 && pages <= 1) return Page();
  if (number > std::max<size_t>(pages, 1))
    return fibula::fail(
        {.code = fibula::Code::usage,
         .what = fmt::format("there is no page {}: {} libraries are on the shelf", number, names.size()),
         .hint = fmt::format("the last page is {}", std::max<size_t>(pages, 1))});
  const auto first = names.begin() + static_cast<std::ptrdiff_t>((number - 1) * page_length);
  const auto count = std::min(page_length, static_cast<size_t>(names.end() - first));
  return Page{{first, first + static_cast<std::ptrdiff_t>(count)}, number, pages};
}

int list_json(const Session& session, const fibula::Shelf& shelf, const Page& page) {
  std::vector<fibula::Card> all;
  const auto add = [&](fibula::Result<std::vector<fibula::Card>> cards) {
    if (!cards) return report(session, cards.error());
    std::move(cards->begin(), cards->end(), std::back_inserter(all));
    return static_cast<int>(all_good);
  };
  if (page.names.empty()) {
    if (const int status = add(shelf.libraries()); status != all_good) return status;
  }
  for (const auto& name : page.names) {
    if (const int status = add(shelf.versions(name)); status != all_good) return status;
  }
  print_json(fibula::answers::libraries(shelf, all));
  return all_good;
}

int list(const Session& session, const fibula::Shelf& shelf, const ShelfOptions& options) {
  const auto page = page_of(session, shelf, options);
  if (!page) return report(session, page.error());
  if (session.json) return list_json(session, shelf, *page);
  const auto lines = shelf.list(page->names);
  if (!lines) return report(session, lines.error());
  if (lines->empty())
    print_line(fmt::format("the shelf {} is empty: fibula take FOLDER puts a library there", shelf.shown()));
  const bool several = shelf.shown() != shelf.folder().string();
  std::vector<std::vector<Cell>> table;
  for (const auto& line : *lines) {
    std::string where = line.in_place.empty() ? "" : "in place: " + line.in_place;
    if (several) where += (where.empty() ? "on " : ", on ") + line.shelf;
    table.push_back({{line.name, Style::strong}, {line.version}, {line.variants}, {where, Style::faint}});
  }
  print_table(table);
  if (page->count > 1) {
    const std::string next =
        page->number < page->count ? fmt::format(": fibula shelf --page {}", page->number + 1) : "";
    print_line(styled(fmt::format("page {} of {}{}", page->number, page->count, next), Style::faint));
  }
  return all_good;
}

/// The version that was named, or the newest.
fibula::Result<fibula::Card> find(const fibula::Shelf& shelf, const ShelfOptions& options) {
  auto versions = shelf.versions(options.name);
  if (!versions) return fibula::pass(versions);
  for (auto& card : *versions) {
    if (options.version.empty() || card.version == options.version) return std::move(card);
  }
  return fibula::fail({.code = fibula::Code::refused,
                       .what = fmt::format("{}{}{} is not on the shelf", options.name,
                                           options.version.empty() ? "" : " ", options.version),
                       .file = shelf.shown(),
                       .hint = "fibula shelf lists what is there"});
}

int show(const Session& session, const fibula::Shelf& shelf, const ShelfOptions& options) {
  const auto card = find(shelf, options);
  if (!card) return report(session, card.error());
  if (session.json) {
    print_json(fibula::answers::libraries(shelf, {*card}));
  } else {
    print_line(styled(fmt::format("# {}", (card->entry / "card.toml").string()), Style::faint));
    print_explained(*card);
  }
  return all_good;
}

int check(const Session& session, const fibula::Shelf& shelf, const ShelfOptions& options) {
  const auto libraries = options.name.empty() ? shelf.libraries() : shelf.versions(options.name);
  if (!libraries) return report(session, libraries.error());
  if (!options.name.empty() && libraries->empty()) return report(session, find(shelf, options).error());
  std::vector<fibula::answers::CheckedVersion> checked;
  bool good = true;
  for (const auto& card : *libraries) {
    auto found = shelf.check(card);
    if (!found) return report(session, found.error());
    good = good && found->empty();
    for (const auto& change : *found) {
      if (!session.json)
        print_line(fmt::format("{} {}: {} {}", card.name, card.version, change.path.string(),
                               styled(change.what, Style::bad)));
    }
    checked.push_back({card.name, card.version, std::move(*found)});
  }
  if (session.json) print_json(fibula::answers::checked(shelf, checked));
  if (!session.json && good) print_line(fmt::format("{} checked, every file is as it was taken", checked.size()));
  return good ? all_good : answer_is_no;
}

/// "today", "3 days ago".
std::string since(std::chrono::system_clock::time_point time) {
  const auto hours = std::chrono::duration_cast<std::chrono::hours>(std::chrono::system_clock::now() - time).count();
  if (hours < 24) return "within a day";
  return hours < 48 ? "a day ago" : fmt::format("{} days ago", hours / 24);
}

int drop(const Session& session, const fibula::Shelf& shelf, const ShelfOptions& options) {
  const auto uses = shelf.uses(options.name, options.version);
  const auto dropped = shelf.drop(options.name, options.version);
  if (!dropped) return report(session, dropped.error());
  if (session.json) {
    print_json(fibula::answers::dropped(options.name, options.version, uses));
    return all_good;
  }
  print_line(fmt::format("{} {} is off the shelf", options.name, options.version));
  for (const auto& use : uses)
    print_line(
        fmt::format("  {} {} used it, {}", styled("note:", Style::warning), use.project.string(), since(use.last)));
  return all_good;
}

int publish(const Session& session, const fibula::Shelf& shelf, const ShelfOptions& options) {
  if (options.to.empty())
    return report(session,
                  {.code = fibula::Code::usage,
                   .what = "where it is to go is not said",
                   .hint = fmt::format("fibula shelf publish {} --to FOLDER, or --to https://…", options.name)});
  const auto card = find(shelf, options);
  if (!card) return report(session, card.error());
  const auto done = [&] {
    const SlowNotice notice("handing on …");
    return options.only_builds ? shelf.publish_builds(*card, options.to) : shelf.publish(*card, options.to);
  }();
  if (!done) return report(session, done.error());
  if (session.json) {
    print_json(fibula::answers::published(*card, *done));
    return all_good;
  }
  const std::string builds = done->builds == 1 ? "1 build" : fmt::format("{} builds", done->builds);
  const std::string what = done->entry && done->builds > 0 ? "it and " + builds + " handed on"
                           : done->entry                   ? "handed on"
                           : done->builds > 0              ? builds + " handed on"
                                                           : "all of it is there already";
  print_line(fmt::format("{} {}: {}", card->name, card->version, what));
  return all_good;
}

int prune(const Session& session, const fibula::Shelf& shelf, const ShelfOptions& options) {
  const auto entries = fibula::unused_versions(shelf, std::chrono::hours(24) * options.days);
  if (!entries) return report(session, entries.error());
  for (const auto& entry : options.drop ? *entries : std::vector<fibula::UnusedVersion>()) {
    if (auto gone = shelf.drop(entry.name, entry.version); !gone) return report(session, gone.error());
  }
  if (session.json) {
    print_json(fibula::answers::unused(*entries, options.drop));
    return all_good;
  }
  std::vector<std::vector<Cell>> rows;
  for (const auto& entry : *entries)
    rows.push_back({{entry.name, Style::strong}, {entry.version}, {entry.why, Style::faint}});
  print_table(rows);
  if (entries->empty()) {
    print_line("no version is without a use: each is the newest, is locked by a project, or came lately");
  } else {
    print_line(options.drop ? fmt::format("{} taken off the shelf", entries->size())
                            : fmt::format("{} could go: fibula shelf prune --drop", entries->size()));
  }
  return all_good;
}

using ShelfAction = int (*)(const Session&, const fibula::Shelf&, const ShelfOptions&);

}  // namespace

void add_shelf(Program& program, Session& session) {
  auto options = std::make_shared<ShelfOptions>();
  const auto with_shelf = [&session, options](ShelfAction action) {
    return [&session, options, action] {
      const auto shelf = session.shelf_here();
      return shelf ? action(session, *shelf, *options) : report(session, shelf.error());
    };
  };
  auto command = program.command("shelf", "what is on the shelf");
  command.below("show", "the card of a library")
      .argument("NAME", options->name, "")
      .argument("VERSION", options->version, "the newest when left out", false)
      .does(with_shelf(show));
  command.below("check", "read every file again and tell what changed")
      .argument("NAME", options->name, "all libraries when left out", false)
      .does(with_shelf(check));
  command.below("drop", "take a version off the shelf")
      .argument("NAME", options->name, "")
      .argument("VERSION", options->version, "")
      .does(with_shelf(drop));
  command.below("publish", "hand a version on to another shelf, with what was built of it")
      .argument("NAME", options->name, "")
      .argument("VERSION", options->version, "the newest when left out", false)
      .option("--to", "PLACE", options->to, "a shelf: a folder, or an address whose server takes PUT with If-Match")
      .flag("--only-builds", options->only_builds, "what was built of a library that comes as source, and not itself")
      .does(with_shelf(publish));
  command.below("prune", "versions that no lock file of the projects that used them names")
      .number("--days", "N", options->days, "only what came more than so many days ago; 30 when left out")
      .flag("--drop", options->drop, "take them off the shelf")
      .does(with_shelf(prune));
  add_keys(command, session);
  command.number("--page", "N", options->page, "a hundred libraries at a time; a terminal gets the first unasked");
  command.example("  fibula shelf\n  fibula shelf show tidecalc\n  fibula shelf check").does(with_shelf(list));
}

}  // namespace cli
