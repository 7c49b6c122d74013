#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <memory>

namespace cli {
namespace {

void print_taken(const fibula::Taken& taken, const fibula::TakeRequest& request) {
  const auto& card = taken.card;
  if (request.dry_run) {
    print_line(fibula::card_text(card));
    return;
  }
  const std::string done = taken.already_there ? "was on the shelf already, the same" : request.in_place ? "is on the shelf, its files stay where they are" : "is on the shelf";
  print_line(fmt::format("{} {} {}", styled(card.name, Style::strong), card.version, done));
  std::vector<std::vector<Cell>> table;
  for (const auto& directory : card.include_directories) table.push_back({{"headers", Style::faint}, {directory}});
  for (const auto& variant : card.variants) {
    std::string files;
    for (const auto& link : variant.link) files += (files.empty() ? "" : ", ") + link;
    table.push_back({{std::string(fibula::to_string(variant.linkage)), Style::faint}, {fibula::to_string(variant.target)}, {files}});
  }
  print_table(table, "  ");
  for (const auto& remark : taken.remarks) print_line("  " + styled("note: ", Style::warning) + remark);
  if (!taken.already_there) print_line(styled(fmt::format("  use it in a project: fibula attach {}", card.name), Style::faint));
}

int run(const Session& session, const fibula::TakeRequest& request) {
  const auto shelf = session.shelf();
  if (!shelf) return report(session, shelf.error());
  const auto taken = fibula::take(*shelf, request);
  if (!taken) return report(session, taken.error());
  if (session.json) {
    print_json({{"schema", "fibula.take/1"}, {"name", taken->card.name}, {"version", taken->card.version}, {"root", taken->card.root.string()},
                {"already_there", taken->already_there}, {"written", !request.dry_run}, {"card", fibula::card_text(taken->card)}, {"remarks", taken->remarks}});
  } else {
    print_taken(*taken, request);
  }
  return all_good;
}

}  // namespace

void add_take(CLI::App& app, Session& session) {
  auto* command = app.add_subcommand("take", "put a library on the shelf");
  auto request = std::make_shared<fibula::TakeRequest>();
  command->add_option("SOURCE", request->source, "an unpacked folder, or a prefix such as /usr")->required();
  command->add_option("--library", request->library, "with a prefix: which of its libraries")->type_name("NAME");
  command->add_option("--name", request->name, "what to call it, when the folder's name is not it")->type_name("NAME");
  command->add_option("--version", request->version, "its version, when the files do not say it")->type_name("VERSION");
  command->add_flag("--in-place", request->in_place, "leave the files where they are");
  command->add_flag("--replace", request->replace, "take the place of what is on the shelf under this version");
  command->add_flag("--headers-only", request->headers_only, "these headers need no library file");
  command->add_flag("--dry-run", request->dry_run, "show the card, write nothing");
  command->footer("Example:\n  fibula take tidecalc-2.1.0\n  fibula take /usr --library zlib --in-place");
  command->callback([&session, request] { session.run = [&session, request] { return run(session, *request); }; });
}

}  // namespace cli
