#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <filesystem>
#include <memory>

namespace cli {
namespace {

struct CompareOptions {
  std::string first, second, third;
  bool all = false;
};

constexpr size_t most_lines = 12;

const char* heading(fibula::Effect effect) {
  switch (effect) {
    case fibula::Effect::built: return "breaks what was compiled with the first";
    case fibula::Effect::source: return "asks for changes when compiled again";
    case fibula::Effect::doubt: return "may matter; the files do not tell";
    case fibula::Effect::none: return "does not matter to programs";
  }
  return "";
}

Style style_of_effect(fibula::Effect effect) {
  switch (effect) {
    case fibula::Effect::built: return Style::bad;
    case fibula::Effect::source:
    case fibula::Effect::doubt: return Style::warning;
    case fibula::Effect::none: return Style::faint;
  }
  return Style::plain;
}

std::string shown_change(const fibula::Difference& difference) {
  const char* sign = difference.how == fibula::Alteration::removed ? "−"
                     : difference.how == fibula::Alteration::added ? "+"
                                                                   : "±";
  std::string text = fmt::format("{} {}", sign, difference.name);
  if (!difference.before.empty() || !difference.after.empty())
    text += fmt::format(": {}{}{}", difference.before,
                        difference.before.empty() || difference.after.empty() ? "" : " → ", difference.after);
  return text;
}

/// As somebody in the project's folder would name it.
std::string shown_file(const std::filesystem::path& file, const std::filesystem::path& root) {
  const auto inside = root.empty() ? std::filesystem::path() : file.lexically_relative(root);
  return inside.empty() || *inside.begin() == ".." ? file.string() : inside.string();
}

void print_group(const fibula::Comparison& found, fibula::Effect effect, bool all, const std::filesystem::path& root) {
  std::vector<const fibula::Difference*> group;
  for (const auto& difference : found.differences) {
    if (difference.effect == effect) group.push_back(&difference);
  }
  if (group.empty()) return;
  print_line("");
  print_line(styled(fmt::format("{} ({})", heading(effect), group.size()), style_of_effect(effect)));
  std::vector<std::vector<Cell>> rows;
  const size_t shown = all ? group.size() : std::min(group.size(), most_lines);
  for (size_t i = 0; i < shown; ++i) {
    const auto& difference = *group[i];
    rows.push_back({{std::string(fibula::to_string(difference.kind)), Style::faint},
                    {shown_change(difference)},
                    {difference.why, Style::faint}});
    if (effect == fibula::Effect::none) continue;
    for (const auto& use : difference.used_by) {
      const std::string line = use.line == 0 ? "" : fmt::format(":{}", use.line);
      const std::string by = use.name.empty() ? "" : fmt::format(", by {}", use.name);
      rows.push_back(
          {{""}, {fmt::format("  used in {}{}{}", shown_file(use.file, root), line, by), Style::plain, true}});
    }
  }
  print_table(rows, "  ");
  if (shown < group.size()) print_line(styled(fmt::format("  and {} more: --all", group.size() - shown), Style::faint));
}

void print_verdict(const std::string& for_whom, const fibula::StandInAnswer& answer, bool all_compared) {
  std::string more;
  if (answer.yes && !answer.doubts.empty()) more = fmt::format(", but for {} that may matter", answer.doubts.size());
  if (answer.yes && !all_compared) more += ", as far as they could be compared";
  print_line(
      fmt::format("{} {}{}", for_whom, answer.yes ? styled("yes", Style::good) : styled("no", Style::bad), more));
}

void print_comparison(const fibula::Comparison& found, bool all, const std::filesystem::path& root) {
  if (found.of_folders) {
    if (found.differences.empty()) print_line("the same files");
    std::vector<std::vector<Cell>> rows;
    for (const auto& difference : found.differences)
      rows.push_back({{shown_change(difference)}, {difference.why, Style::faint}});
    print_table(rows);
    return;
  }
  print_line(
      fmt::format("can {} stand in for {}?", styled(found.second, Style::strong), styled(found.first, Style::strong)));
  const bool all_compared = found.not_compared.empty();
  print_verdict("  for all that was compiled with it:", found.everyone, all_compared);
  if (found.for_project) print_verdict("  for what this project uses:       ", found.project, all_compared);
  for (const auto& part : found.not_compared) print_sentence(part, "  not compared: ");
  for (const auto effect : {fibula::Effect::built, fibula::Effect::source, fibula::Effect::doubt, fibula::Effect::none})
    print_group(found, effect, all, root);
  if (found.differences.empty()) print_line("  no difference was found");
}

/// `compare tidecalc 2.1.0 2.2.0` is `compare tidecalc/2.1.0 2.2.0`.
void settle_words(CompareOptions& options) {
  if (options.third.empty()) return;
  options.first += "/" + options.second;
  options.second = options.third;
  options.third.clear();
}

int run(const Session& session, CompareOptions& options) {
  settle_words(options);
  const auto shelf = session.shelf_here();
  if (!shelf) return report(session, shelf.error());
  const auto project = session.project();
  fibula::CompareContext context{.shelf = *shelf, .project = project ? &*project : nullptr};
  const auto found = [&] {
    const SlowNotice notice("reading both …");
    return fibula::compare(options.first, options.second, context);
  }();
  if (!found) return report(session, found.error());
  if (session.json) {
    print_json(fibula::answers::compared(*found));
  } else {
    print_comparison(*found, options.all, project ? project->root() : std::filesystem::path());
  }
  if (found->of_folders) return found->differences.empty() ? all_good : answer_is_no;
  return (found->for_project ? found->project : found->everyone).yes ? all_good : answer_is_no;
}

}  // namespace

void add_compare(Program& program, Session& session) {
  auto options = std::make_shared<CompareOptions>();
  program.command("compare", "what changed between two versions, and whether the second can stand in for the first")
      .argument("FIRST", options->first, "NAME/VERSION on the shelf, a folder or a file")
      .argument("SECOND", options->second, "the same; a version alone is one of the same library")
      .argument("THIRD", options->third, "a version, behind NAME and VERSION: compare tidecalc 2.1.0 2.2.0", false)
      .flag("--all", options->all, "tell every difference")
      .example("  fibula compare tidecalc/2.1.0 2.2.0\n  fibula compare old/libtidecalc.so new/libtidecalc.so")
      .does([&session, options] { return run(session, *options); });
}

}  // namespace cli
