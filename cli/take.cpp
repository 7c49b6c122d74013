#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <memory>
#include <nlohmann/json.hpp>

namespace cli {
namespace {

void print_taken(const fibula::Taken& taken, const fibula::TakeRequest& request) {
  const auto& card = taken.card;
  if (request.dry_run) {
    print_line(fibula::card_text(card));
    return;
  }
  const std::string done = taken.already_there ? "was on the shelf already, the same"
                           : request.in_place  ? "is on the shelf, its files stay where they are"
                                               : "is on the shelf";
  print_line(fmt::format("{} {} {}", styled(card.name, Style::strong), card.version, done));
  std::vector<std::vector<Cell>> table;
  for (const auto& directory : card.include_directories) table.push_back({{"headers", Style::faint}, {directory}});
  for (const auto& variant : card.variants) {
    std::string files;
    for (const auto& link : variant.link) files += (files.empty() ? "" : ", ") + link;
    table.push_back({{std::string(fibula::to_string(variant.linkage)), Style::faint},
                     {fibula::to_string(variant.target)},
                     {files}});
  }
  print_table(table, "  ");
  for (const auto& remark : taken.remarks) print_line("  " + styled("note: ", Style::warning) + remark);
  if (!taken.already_there)
    print_line(styled(fmt::format("  use it in a project: fibula attach {}", card.name), Style::faint));
}

int run(const Session& session, const fibula::TakeRequest& request) {
  const auto shelf = session.shelf();
  if (!shelf) return report(session, shelf.error());
  const auto taken = fibula::take(*shelf, request);
  if (!taken) return report(session, taken.error());
  if (session.json) {
    print_json({{"schema", "fibula.take/1"},
                {"name", taken->card.name},
                {"version", taken->card.version},
                {"root", taken->card.root.string()},
                {"already_there", taken->already_there},
                {"written", !request.dry_run},
                {"card", fibula::card_text(taken->card)},
                {"remarks", taken->remarks}});
  } else {
    print_taken(*taken, request);
  }
  return all_good;
}

}  // namespace

void add_take(Program& program, Session& session) {
  struct Options {
    std::string source;
    fibula::TakeRequest request;
  };
  auto options = std::make_shared<Options>();
  auto& request = options->request;
  program.command("take", "put a library on the shelf")
      .argument("SOURCE", options->source, "an unpacked folder, or a prefix such as /usr")
      .option("--library", "NAME", request.library, "with a prefix: which of its libraries")
      .option("--name", "NAME", request.name, "what to call it, when the folder's name is not it")
      .option("--version", "VERSION", request.version, "its version, when the files do not say it")
      .flag("--in-place", request.in_place, "leave the files where they are")
      .flag("--replace", request.replace, "take the place of what is on the shelf under this version")
      .flag("--headers-only", request.headers_only, "these headers need no library file")
      .flag("--dry-run", request.dry_run, "show the card, write nothing")
      .example("  fibula take tidecalc-2.1.0\n  fibula take /usr --library zlib --in-place")
      .does([&session, options] {
        options->request.source = options->source;
        return run(session, options->request);
      });
}

}  // namespace cli
