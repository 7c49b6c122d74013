#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <map>
#include <memory>
#include <nlohmann/json.hpp>

namespace cli {
namespace {

namespace fs = std::filesystem;
using nlohmann::ordered_json;

struct Options {
  std::vector<std::string> paths;
  bool symbols = false;
  bool members = false;
};

/// One file that was looked at.
struct Inspected {
  std::string path;
  fibula::Result<fibula::Facts> facts;
  std::vector<std::string> links = {};  ///< other names of the same file, in the folder that was named
};

ordered_json fact_table(const fibula::Facts& facts) {
  ordered_json table = ordered_json::object();
  for (const auto& row : fibula::rows(facts)) {
    table[row.id] = {{"value", row.value}, {"certainty", fibula::to_string(row.certainty)}, {"from", row.from}};
  }
  return table;
}

ordered_json to_json(const fibula::Facts& facts) {
  ordered_json object{{"path", facts.path},
                      {"format", facts.format ? fibula::to_string(*facts.format.value) : "unknown"},
                      {"kind", facts.kind ? fibula::to_string(*facts.kind.value) : "unknown"},
                      {"facts", fact_table(facts)},
                      {"defined", facts.defined_count},
                      {"undefined", facts.undefined_count},
                      {"notes", facts.notes}};
  if (facts.members.empty()) return object;
  object["members"] = ordered_json::array();
  for (const auto& member : facts.members) object["members"].push_back(to_json(member));
  return object;
}

ordered_json to_json(const std::vector<fibula::Symbol>& symbols) {
  ordered_json list = ordered_json::array();
  for (const auto& symbol : symbols) {
    list.push_back({{"name", symbol.name},
                    {"role", symbol.defines ? "defines" : "needs"},
                    {"binding", fibula::to_string(symbol.binding)},
                    {"visibility", fibula::to_string(symbol.visibility)},
                    {"kind", fibula::to_string(symbol.kind)},
                    {"size", symbol.size},
                    {"version", symbol.version},
                    {"member", symbol.member}});
  }
  return list;
}

ordered_json to_json(const Inspected& file, const Options& options) {
  if (!file.facts) {
    const auto& error = file.facts.error();
    return {{"path", file.path},
            {"format", "unknown"},
            {"kind", "unknown"},
            {"facts", ordered_json::object()},
            {"problem",
             {{"code", fibula::to_string(error.code)},
              {"what", error.what},
              {"place", error.place},
              {"hint", error.hint}}}};
  }
  ordered_json object = to_json(*file.facts);
  if (!file.links.empty()) object["links"] = file.links;
  if (!options.symbols) return object;
  const auto symbols = fibula::symbols_of(file.path);
  object["symbols"] = symbols ? to_json(*symbols) : ordered_json::array();
  return object;
}

void print_facts(const fibula::Facts& facts, const std::vector<std::string>& links, std::string_view indent) {
  print_line(std::string(indent) + styled(facts.path, Style::strong));
  const std::string inner = std::string(indent) + "  ";
  std::vector<std::vector<Cell>> table;
  for (const auto& row : fibula::rows(facts)) {
    const std::string source = fmt::format("{}: {}", fibula::to_string(row.certainty), row.from);
    table.push_back({{row.id, Style::faint}, {row.value}, {source, Style::faint}});
  }
  table.push_back(
      {{"symbols", Style::faint}, {fmt::format("{} defined, {} needed", facts.defined_count, facts.undefined_count)}});
  if (!links.empty()) table.push_back({{"also as", Style::faint}, {fmt::format("{}", fmt::join(links, ", "))}});
  print_table(table, inner);
  for (const auto& note : facts.notes) print_line(inner + styled("note: ", Style::warning) + note);
  for (const auto& member : facts.members) print_facts(member, {}, inner);
}

void print_symbols(const std::string& path) {
  const auto symbols = fibula::symbols_of(path);
  if (!symbols) return;
  std::vector<std::vector<Cell>> table;
  for (const auto& symbol : *symbols) {
    const std::string version = symbol.version.empty() ? "" : "@" + symbol.version;
    table.push_back({{symbol.defines ? "defines" : "needs", symbol.defines ? Style::good : Style::faint},
                     {std::string(fibula::to_string(symbol.kind))},
                     {std::string(fibula::to_string(symbol.binding))},
                     {symbol.member},
                     {fibula::readable_name(symbol.name) + version}});
  }
  print_table(table, "  ");
}

/// A folder gives every file in it that a reader takes; what is no binary is passed over there, and told when it was
/// named itself.
std::vector<Inspected> look_at(const Options& options) {
  std::vector<Inspected> found;
  for (const auto& path : options.paths) {
    std::error_code error;
    if (!fs::is_directory(path, error)) {
      found.push_back({path, fibula::inspect(path, {.members = options.members})});
      continue;
    }
    std::vector<fs::path> paths;
    std::map<fs::path, std::vector<std::string>> names;  // a file and the links to it
    for (auto walk = fs::recursive_directory_iterator(path, error);
         !error && walk != fs::recursive_directory_iterator(); walk.increment(error)) {
      std::error_code gone;
      if (walk->is_symlink(gone) && walk->is_regular_file(gone))
        names[fs::canonical(walk->path(), gone)].push_back(walk->path().filename().string());
      if (walk->is_regular_file(gone) && !walk->is_symlink(gone)) paths.push_back(walk->path());
    }
    std::sort(paths.begin(), paths.end());
    for (const auto& file : paths) {
      auto facts = fibula::inspect(file, {.members = options.members});
      const bool other = !facts && facts.error().code == fibula::Code::not_a_library;
      if (other && !fibula::has_library_name(file)) continue;
      std::error_code gone;
      auto links = names[fs::canonical(file, gone)];
      std::sort(links.begin(), links.end());
      found.push_back({file.string(), std::move(facts), std::move(links)});
    }
  }
  return found;
}

int run(const Session& session, const Options& options) {
  const auto files = look_at(options);
  int status = all_good;
  ordered_json list = ordered_json::array();
  for (const auto& file : files) {
    if (session.json) list.push_back(to_json(file, options));
    if (!file.facts) status = session.json ? static_cast<int>(bad_input) : report(session, file.facts.error());
    if (session.json || !file.facts) continue;
    if (&file != &files.front()) print_line("");
    print_facts(*file.facts, file.links, "");
    if (options.symbols) print_symbols(file.path);
  }
  if (session.json) print_json({{"schema", "fibula.inspect/1"}, {"files", std::move(list)}});
  if (!session.json && files.empty()) print_line("no object file, archive or shared library in there");
  return status;
}

}  // namespace

void add_inspect(Program& program, Session& session) {
  auto options = std::make_shared<Options>();
  program.command("inspect", "what these files are")
      .arguments("PATH", options->paths, "files or folders")
      .flag("--symbols", options->symbols, "every symbol that is defined or needed")
      .flag("--members", options->members, "facts of each member of an archive")
      .example("  fibula inspect tidecalc-2.1.0/lib/libtidecalc.a --symbols")
      .does([&session, options] { return run(session, *options); });
}

}  // namespace cli
