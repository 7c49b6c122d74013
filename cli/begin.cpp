#include "for_people.hpp"
#include "lane_words.hpp"
#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>
#include <algorithm>
#include <memory>
#include <optional>

namespace cli {
namespace {

struct BeginOptions {
  std::string folder = ".";
  std::string like;
  std::vector<std::string> lanes;
};

/// What the sources include and nothing here has, with what to do about it: else the first build would say so.
std::vector<std::string> unmet_includes(const Session& session, const fibula::Project& project) {
  const auto shelf = session.shelf_here();
  if (!shelf || project.lanes().empty()) return {};
  const auto fit = fibula::fit(project, project.lanes().front(), *shelf);
  std::vector<std::string> unmet;
  for (const auto& misfit : fit ? fit->misfits() : std::vector<fibula::Misfit>()) {
    if (misfit.rule == "include" && !misfit.evidence.empty())
      unmet.push_back(fmt::format("{}: {}", misfit.evidence.front(), misfit.remedy));
  }
  return unmet;
}

void print_begun(const Session& session, const BeginOptions& options, const fibula::Begun& begun,
                 const std::vector<std::string>& unmet) {
  const auto& project = begun.project;
  print_line(fmt::format("wrote {}", styled(project.file().string(), Style::strong)));
  if (!begun.first_source.empty()) print_line(fmt::format("wrote {}", begun.first_source.string()));
  std::vector<std::vector<Cell>> table;
  for (const auto& output : project.outputs())
    table.push_back({{std::string(fibula::to_string(output.kind)), Style::faint},
                     {output.name, Style::strong},
                     {"from " + shown_files(output.sources, 4), Style::faint, true}});
  for (const auto& use : project.libraries()) {
    const std::string where = use.folder.empty() ? use.version : "in " + use.folder.string();
    table.push_back({{"library", Style::faint}, {use.name, Style::strong}, {where, Style::faint, true}});
  }
  for (const auto& lane : project.lanes())
    table.push_back({{"lane", Style::faint},
                     {lane.name, Style::strong},
                     {lane.compiler + ", " + lane.configuration, Style::faint, true}});
  print_table(table, "  ");
  print_added(begun.lanes);
  for (const auto& remark : begun.remarks) print_sentence(remark, "note: ");
  for (const auto& include : unmet) print_sentence(include, "note: ");
  const bool elsewhere = session.directory != "." || options.folder != ".";
  const auto is_program = [](const fibula::Output& output) { return output.kind == fibula::OutputKind::program; };
  const auto& outputs = project.outputs();
  const bool runs = std::any_of(outputs.begin(), outputs.end(), is_program);
  print_line(
      styled(fmt::format("  {}{}{}: fibula build{}", unmet.empty() ? "" : "then ",
                         runs ? "build and run it" : "build it", elsewhere ? " there" : "", runs ? " --run" : ""),
             Style::faint));
}

int run(const Session& session, const BeginOptions& options) {
  std::optional<SlowNotice> notice(std::in_place, "looking at what is there …");
  auto begun = fibula::begin({.folder = std::filesystem::path(session.directory) / options.folder,
                              .lanes = options.lanes,
                              .like = options.like.empty() ? std::filesystem::path()
                                                           : std::filesystem::path(session.directory) / options.like});
  const auto unmet = begun ? unmet_includes(session, begun->project) : std::vector<std::string>();
  notice.reset();
  if (!begun) return report(session, begun.error());
  if (session.json) {
    begun->remarks.insert(begun->remarks.end(), unmet.begin(), unmet.end());
    print_json(fibula::answers::begun(*begun));
  } else {
    print_begun(session, options, *begun, unmet);
  }
  return all_good;
}

}  // namespace

void add_begin(Program& program, Session& session) {
  auto options = std::make_shared<BeginOptions>();
  program.command("begin", "a new project: empty, from the sources that are there, or like another one")
      .argument("DIR", options->folder, "its folder; here when left out", false)
      .list("--lane", "NAME", options->lanes,
            "a lane beside debug and release of this machine, as fibula lanes lists them")
      .option("--like", "PROJECT", options->like, "with the lanes, libraries and flags of this one")
      .example(
          "  fibula begin harbourlog\n  fibula begin --lane windows-x86_64-release\n"
          "  fibula begin quaylog --like harbourlog")
      .does([&session, options] { return run(session, *options); });
}

}  // namespace cli
