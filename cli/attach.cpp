#include "for_people.hpp"
#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <memory>
#include <optional>

namespace cli {
namespace {

struct AttachOptions {
  std::string name;
  std::string range;
  std::string linkage;  ///< empty: as the project says
  bool undo = false;
};

std::optional<fibula::Linkage> linkage_named(const std::string& name) {
  if (name.empty()) return std::nullopt;
  if (name == "static") return fibula::Linkage::static_;
  return name == "shared" ? fibula::Linkage::shared : fibula::Linkage::any;
}

void print_attachment(const fibula::Attachment& attached, const fibula::Shelf& shelf) {
  if (!attached.created.empty())
    print_line(fmt::format("wrote {}: {}, with a debug and a release lane", attached.created.string(),
                           attached.outputs == 0 ? "it builds nothing itself yet (fibula begin, when sources are here)"
                                                 : "it builds what the sources here make"));
  const char* done = attached.changed ? "attached" : "was attached like this already";
  const std::string from = !attached.folder.empty() ? fmt::format("from {}", attached.folder.string())
                                                    : fmt::format("any version {} will do", attached.range);
  print_line(fmt::format("{}{} {}; {}", styled(attached.name, Style::strong), shown_version(attached.version, " "),
                         done, from));
  constexpr std::string_view note = "note: ";
  if (!attached.fits_everywhere)
    print_sentence("no version fits every lane, so the newest was taken: fibula fit says what is missing", note);
  for (const auto& newer : attached.passed_over) {
    if (attached.fits_everywhere)
      print_sentence(fmt::format("{} was passed over: in lane {}, {}", newer.version, newer.lane, newer.reason), note);
  }
  for (const auto& remark : attached.remarks) print_sentence(remark, note);
  for (const auto& library : attached.also_needed) {
    const auto versions = shelf.versions(library);
    const bool there = versions && !versions->empty();
    const std::string where =
        there ? "which is on the shelf and used with it"
              : fmt::format("which is not on the shelf: take it, fibula take FOLDER --name {}", library);
    print_sentence(fmt::format("it requires {}, {}", library, where), note);
  }
}

/// Another version is compared with the one that is used, before anything changes. False: whoever sits there declines.
bool show_change(const Session& session, const fibula::Shelf& shelf, const fibula::Attachment& planned) {
  const auto project = session.project();
  if (planned.before.empty() || planned.before == planned.version || !project) return true;
  const auto found = [&] {
    const SlowNotice notice("comparing the versions …");
    return fibula::compare(planned.name + "/" + planned.before, planned.version,
                           {.shelf = project->shelf(shelf), .project = &*project});
  }();
  // The version that was used may be gone: then there is nothing to compare with.
  if (!found) return true;
  const auto& answer = found->for_project ? found->project : found->everyone;
  print_line(fmt::format("{} -> {}: {}", found->first, found->second,
                         answer.yes ? styled("nothing that this project uses breaks", Style::good)
                                    : styled("breaks what this project uses", Style::bad)));
  for (const auto& difference : found->differences) {
    const bool matters = difference.effect == fibula::Effect::built || difference.effect == fibula::Effect::source;
    if (!matters || difference.used_by.empty()) continue;
    const auto& use = difference.used_by.front();
    print_sentence(fmt::format("{}: {} ({}{})", difference.name, difference.why, use.file.string(),
                               use.line == 0 ? "" : fmt::format(":{}", use.line)),
                   "  ");
  }
  print_line(styled(fmt::format("  all of it: fibula compare {}/{} {}", planned.name, planned.before, planned.version),
                    Style::faint));
  const bool somebody = input_is_terminal() && is_terminal(Stream::error);
  return answer.yes || !somebody || says_yes("attach it all the same?");
}

int run_undo(const Session& session) {
  if (auto undone = fibula::undo_attach(session.directory); !undone) return report(session, undone.error());
  if (session.json) print_json(fibula::answers::attach_undone());
  if (!session.json) print_line("fibula.toml and fibula.lock are as they were before the last attach");
  return all_good;
}

int run_attach(const Session& session, const AttachOptions& options) {
  if (options.undo) return run_undo(session);
  if (options.name.empty())
    return report(session, {.code = fibula::Code::usage,
                            .what = "no library is named",
                            .hint = "fibula attach NAME; fibula shelf lists what is there"});
  const auto shelf = session.shelf();
  if (!shelf) return report(session, shelf.error());
  // Which version fits is asked of the lanes' compilers.
  if (const auto project = session.trusted_project(); !project && project.error().code == fibula::Code::refused)
    return report(session, project.error());
  if (!session.json) {
    const auto planned =
        fibula::plan_attach(session.directory, *shelf, options.name, options.range, linkage_named(options.linkage));
    if (!planned) return report(session, planned.error());
    if (!show_change(session, *shelf, *planned)) {
      print_line("nothing was changed");
      return answer_is_no;
    }
  }
  const auto attached =
      fibula::attach(session.directory, *shelf, options.name, options.range, linkage_named(options.linkage));
  if (!attached) return report(session, attached.error());
  if (session.json) {
    print_json(fibula::answers::attached(*attached));
  } else {
    print_attachment(*attached, *shelf);
  }
  return all_good;
}

int run_detach(const Session& session, const std::string& name) {
  const auto detached = fibula::detach(session.directory, name);
  if (!detached) return report(session, detached.error());
  if (session.json) print_json(fibula::answers::detached(name));
  if (!session.json) print_line(fmt::format("{} detached; it stays on the shelf", name));
  return all_good;
}

}  // namespace

void add_attach(Program& program, Session& session) {
  auto options = std::make_shared<AttachOptions>();
  program.command("attach", "use a library of the shelf in this project")
      .argument("NAME", options->name, "a library of the shelf, or a folder with one", false)
      .argument("VERSION", options->range, "\"2.1\", \">=2.1 <3\" or \"=2.1.3\"; the newest and later when left out",
                false)
      .flag("--undo", options->undo, "take the last attach back")
      .choice("--linkage", {"any", "static", "shared"}, options->linkage, "how to link it")
      .example("  fibula attach tidecalc\n  fibula attach tidecalc \">=2.1 <3\" --linkage static")
      .does([&session, options] { return run_attach(session, *options); });
}

void add_detach(Program& program, Session& session) {
  auto name = std::make_shared<std::string>();
  program.command("detach", "stop using a library in this project")
      .argument("NAME", *name, "one that is attached")
      .example("  fibula detach tidecalc")
      .does([&session, name] { return run_detach(session, *name); });
}

}  // namespace cli
