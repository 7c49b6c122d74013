#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <memory>

namespace cli {
namespace {

struct ParcelOptions {
  fibula::ParcelRequest request;
  std::string to;
};

std::string size_text(uint64_t bytes) {
  const auto number = static_cast<double>(bytes);
  return bytes < 100'000 ? fmt::format("{:.1f} kB", number / 1e3) : fmt::format("{:.1f} MB", number / 1e6);
}

void print_parcel(const fibula::Parcel& parcel) {
  for (const auto& finding : parcel.findings) {
    print_line(fmt::format(
        "{} {}", styled(finding.stands_against ? "✗" : "note:", finding.stands_against ? Style::bad : Style::warning),
        styled(finding.subject, Style::strong)));
    print_sentence(finding.what, "    ");
    if (!finding.remedy.empty()) print_sentence(finding.remedy, "    → ");
  }
  for (const auto& tried : parcel.tried)
    print_line(styled(fmt::format("tried  {}: headers, link, start", tried), Style::faint));
  for (const auto& not_tried : parcel.not_tried) print_sentence(not_tried, "not tried  ");
  if (!parcel.written) {
    print_line(
        fmt::format("no parcel was made of {} {}: mend what is marked, or say --anyway", parcel.name, parcel.version));
    return;
  }
  print_line(fmt::format("{} {} is in {}, {}{}", styled(parcel.name, Style::strong), parcel.version,
                         parcel.file.string(), size_text(parcel.size),
                         parcel.signed_with.empty() ? "" : ", signed with " + parcel.signed_with));
  print_line(styled("  elsewhere: fibula take " + parcel.file.filename().string(), Style::faint));
}

/// Where a parcel's contents come from.
enum class Maker { shelf, output, built };

Maker maker_of(const fibula::Result<fibula::Project>& project, const fibula::Shelf& shelf,
               const fibula::ParcelRequest& request) {
  if (!project) return Maker::shelf;
  for (const auto& output : project->outputs()) {
    if (output.name == request.name && output.kind != fibula::OutputKind::program) return Maker::output;
  }
  const auto& uses = project->libraries();
  const auto use = std::find_if(uses.begin(), uses.end(), [&](const auto& one) { return one.name == request.name; });
  if (use == uses.end() || request.with_source) return Maker::shelf;
  if (!use->folder.empty()) return Maker::built;
  const auto versions = shelf.versions(request.name);
  const auto comes_as_source = [](const fibula::Card& card) { return card.comes_as_source(); };
  const bool source = versions && std::any_of(versions->begin(), versions->end(), comes_as_source);
  return source ? Maker::built : Maker::shelf;
}

int run(const Session& session, ParcelOptions& options) {
  const auto shelf = session.shelf_here();
  if (!shelf) return report(session, shelf.error());
  options.request.to = options.to;
  const auto project = session.project();
  const Maker maker = maker_of(project, *shelf, options.request);
  if (maker != Maker::shelf) {
    const auto trusted = session.trusted_project();
    if (!trusted) return report(session, trusted.error());
  }
  const auto parcel = [&] {
    const SlowNotice notice("trying and packing …");
    switch (maker) {
      case Maker::output: return fibula::make_output_parcel(*project, *shelf, options.request);
      case Maker::built: return fibula::make_built_parcel(*project, *shelf, options.request);
      case Maker::shelf: break;
    }
    return fibula::make_parcel(*shelf, options.request);
  }();
  if (!parcel) return report(session, parcel.error());
  if (session.json) {
    print_json(fibula::answers::parcelled(*parcel));
  } else {
    print_parcel(*parcel);
  }
  return parcel->written ? all_good : answer_is_no;
}

}  // namespace

void add_parcel(Program& program, Session& session) {
  auto options = std::make_shared<ParcelOptions>();
  auto& request = options->request;
  program.command("parcel", "a library as one file to hand on, checked first")
      .argument("NAME", request.name, "a library on the shelf, or one that this project has built")
      .argument("VERSION", request.version, "the newest when left out", false)
      .list("--variant", "ID", request.variants, "only this variant; several may be named")
      .option("--to", "PLACE", options->to, "a folder or file; the current folder when left out")
      .option("--sign", "KEY", request.sign_with, "vouch for it with a key: see fibula shelf keys")
      .flag("--with-source", request.with_source,
            "a library that comes as source: its sources, and not what this project built")
      .flag("--untried", request.untried, "do not try it with the compilers here")
      .flag("--anyway", request.anyway, "in spite of what stands against it")
      .flag("--replace", request.replace, "write over a file that is there")
      .example("  fibula parcel tidecalc\n  fibula parcel gauge 1.0 --to out --sign office")
      .does([&session, options] { return run(session, *options); });
}

}  // namespace cli
