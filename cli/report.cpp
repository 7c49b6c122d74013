#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <filesystem>
#include <memory>

namespace cli {
namespace {

struct ReportOptions {
  std::vector<std::string> lanes;
  std::string format = "html";
  std::string to;
};

int run(const Session& session, const ReportOptions& options) {
  const auto trusted = session.trusted_project();
  if (!trusted) return report(session, trusted.error());
  const auto here = project_at_hand(session, options.lanes);
  if (!here) return report(session, here.error());
  const auto made = [&] {
    const SlowNotice notice("asking compilers, rehearsing links, reading what is built …");
    return fibula::report(here->project, here->lanes, here->shelf);
  }();
  if (!made) return report(session, made.error());
  const bool json = session.json || options.format == "json", page = options.format == "html" && !json;
  if (!page && options.to.empty()) {
    print_raw((json ? made->json() : made->markdown()) + "\n");
    return all_good;
  }
  const std::string text = json ? made->json() : page ? made->html() : made->markdown();
  std::filesystem::path file = options.to;
  if (file.empty()) {
    auto kept = fibula::keep_report(here->project, text);
    if (!kept) return report(session, kept.error());
    file = std::move(*kept);
  } else if (auto written = fibula::emit::write_text(file, text); !written) {
    return report(session, written.error());
  }
  print_line(fmt::format("{}: {} in {}", file.string(), made->project,
                         made->fits.size() == 1 ? "1 lane" : fmt::format("{} lanes", made->fits.size())));
  return all_good;
}

}  // namespace

void add_report(Program& program, Session& session) {
  auto options = std::make_shared<ReportOptions>();
  program.command("report", "one page with everything about this project")
      .list("--lane", "NAME", options->lanes, "only this lane; several may be named")
      .choice("--format", {"html", "markdown", "json"}, options->format, "what to write; html when left out")
      .option("--to", "FILE", options->to, "where to; a page goes to .fibula/report.html, the others are printed")
      .example("  fibula report\n  fibula report --to public/libraries.html\n  fibula report --format markdown")
      .does([&session, options] { return run(session, *options); });
}

}  // namespace cli
