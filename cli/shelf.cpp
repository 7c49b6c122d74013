#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <memory>
#include <nlohmann/json.hpp>

namespace cli {
namespace {

using nlohmann::ordered_json;

struct Options {
  std::string name;
  std::string version;
};

ordered_json to_json(const fibula::Variant& v) {
  std::vector<std::string> files = v.link;
  files.insert(files.end(), v.runtime.begin(), v.runtime.end());
  return {{"id", v.id},
          {"arch", fibula::to_string(v.target.arch)},
          {"configuration", v.configuration},
          {"linkage", fibula::to_string(v.linkage)},
          {"runtime", v.fact("c-runtime")},
          {"files", files}};
}

ordered_json to_json(const fibula::Card& card) {
  ordered_json variants = ordered_json::array();
  for (const auto& variant : card.variants) variants.push_back(to_json(variant));
  return {{"name", card.name},         {"version", card.version},    {"licence", card.licence}, {"origin", card.origin},
          {"in_place", card.in_place}, {"root", card.root.string()}, {"variants", variants}};
}

std::string variants_line(const fibula::Card& card) {
  if (card.headers_only()) return "headers only";
  std::string text;
  for (const auto& variant : card.variants) text += (text.empty() ? "" : ", ") + variant.id;
  return text;
}

int list(const Session& session, const fibula::Shelf& shelf, const Options&) {
  const auto libraries = shelf.libraries();
  if (!libraries) return report(session, libraries.error());
  if (session.json) {
    ordered_json all = ordered_json::array();
    for (const auto& card : *libraries) all.push_back(to_json(card));
    print_json({{"schema", "fibula.shelf/1"}, {"folder", shelf.folder().string()}, {"libraries", all}});
    return all_good;
  }
  if (libraries->empty())
    print_line(fmt::format("the shelf {} is empty: fibula take FOLDER puts a library there", shelf.folder().string()));
  std::vector<std::vector<Cell>> table;
  for (const auto& card : *libraries) {
    table.push_back({{card.name, Style::strong},
                     {card.version},
                     {variants_line(card)},
                     {card.in_place ? "in place: " + card.origin : "", Style::faint}});
  }
  print_table(table);
  return all_good;
}

/// The version that was named, or the newest.
fibula::Result<fibula::Card> find(const fibula::Shelf& shelf, const Options& options) {
  auto versions = shelf.versions(options.name);
  if (!versions) return fibula::pass(versions);
  for (auto& card : *versions) {
    if (options.version.empty() || card.version == options.version) return std::move(card);
  }
  return fibula::fail({.code = fibula::Code::refused,
                       .what = fmt::format("{} {} is not on the shelf", options.name, options.version),
                       .file = shelf.folder().string(),
                       .hint = "fibula shelf lists what is there"});
}

int show(const Session& session, const fibula::Shelf& shelf, const Options& options) {
  const auto card = find(shelf, options);
  if (!card) return report(session, card.error());
  if (session.json) {
    print_json({{"schema", "fibula.shelf/1"}, {"folder", shelf.folder().string()}, {"libraries", {to_json(*card)}}});
  } else {
    print_line(styled(fmt::format("# {}", (shelf.folder() / card->name / card->version / "card.toml").string()),
                      Style::faint));
    print_line(fibula::card_text(*card));
  }
  return all_good;
}

int check(const Session& session, const fibula::Shelf& shelf, const Options& options) {
  const auto libraries = shelf.libraries();
  if (!libraries) return report(session, libraries.error());
  ordered_json changes = ordered_json::array();
  size_t checked = 0;
  for (const auto& card : *libraries) {
    if (!options.name.empty() && card.name != options.name) continue;
    ++checked;
    const auto found = shelf.check(card);
    if (!found) return report(session, found.error());
    for (const auto& change : *found) {
      changes.push_back({{"name", card.name}, {"version", card.version}, {"file", change.file}, {"what", change.what}});
      if (!session.json)
        print_line(fmt::format("{} {}: {} {}", card.name, card.version, (card.root / change.file).string(),
                               styled(change.what, Style::bad)));
    }
  }
  const bool good = changes.empty();
  if (session.json)
    print_json({{"schema", "fibula.shelf/1"},
                {"folder", shelf.folder().string()},
                {"checked", checked},
                {"changes", changes}});
  if (!session.json && good) print_line(fmt::format("{} checked, every file is as it was taken", checked));
  return good ? all_good : answer_is_no;
}

int drop(const Session& session, const fibula::Shelf& shelf, const Options& options) {
  const auto dropped = shelf.drop(options.name, options.version);
  if (!dropped) return report(session, dropped.error());
  if (session.json)
    print_json({{"schema", "fibula.shelf/1"}, {"dropped", {{"name", options.name}, {"version", options.version}}}});
  if (!session.json) print_line(fmt::format("{} {} is off the shelf", options.name, options.version));
  return all_good;
}

using Action = int (*)(const Session&, const fibula::Shelf&, const Options&);

}  // namespace

void add_shelf(Program& program, Session& session) {
  auto options = std::make_shared<Options>();
  const auto with_shelf = [&session, options](Action action) {
    return [&session, options, action] {
      const auto shelf = session.shelf();
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
  command.example("  fibula shelf\n  fibula shelf show tidecalc\n  fibula shelf check").does(with_shelf(list));
}

}  // namespace cli
