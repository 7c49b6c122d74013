#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <memory>

namespace cli {
namespace {

struct LocateOptions {
  std::string name;
  std::vector<std::string> folders;
  bool only_shelf = false;
};

void print_hits(const std::vector<fibula::Hit>& hits) {
  std::vector<std::vector<Cell>> rows;
  for (const auto& hit : hits) {
    const std::string readable = fibula::readable_name(hit.name);
    const std::string where =
        hit.member.empty() ? hit.path.string() : fmt::format("{}({})", hit.path.string(), hit.member);
    rows.push_back({{std::string(fibula::to_string(hit.role)),
                     hit.role == fibula::HitRole::defines ? Style::strong : Style::plain},
                    {hit.library, Style::faint},
                    {where},
                    {readable}});
  }
  print_table(rows);
}

int run(const Session& session, const LocateOptions& options) {
  const auto shelf = session.shelf_here();
  if (!shelf) return report(session, shelf.error());
  const auto toolchain =
      options.only_shelf ? fibula::Result<fibula::Toolchain>(fibula::fail({})) : fibula::ask({"g++"});
  fibula::LocateContext context{.shelf = *shelf, .toolchain = toolchain ? &*toolchain : nullptr};
  for (const auto& folder : options.folders) context.folders.emplace_back(folder);
  const auto hits = [&] {
    const SlowNotice notice("reading the names of libraries …");
    return fibula::locate(options.name, context);
  }();
  if (!hits) return report(session, hits.error());
  if (session.json) {
    print_json(fibula::answers::located(*hits));
  } else if (hits->empty()) {
    print_line(fmt::format("nothing on the shelf{} has {}", options.only_shelf ? "" : " or in the compiler's folders",
                           options.name));
  } else {
    print_hits(*hits);
  }
  return hits->empty() ? answer_is_no : all_good;
}

}  // namespace

void add_locate(Program& program, Session& session) {
  auto options = std::make_shared<LocateOptions>();
  program.command("locate", "who defines, declares or needs a symbol, header or file")
      .argument("NAME", options->name, "a symbol, plain or mangled, a C++ name, a file's name; * stands for anything")
      .list("--in", "DIR", options->folders, "look into this folder too")
      .flag("--only-shelf", options->only_shelf, "leave the system's folders out")
      .example("  fibula locate tide_height\n  fibula locate 'harbour::*' --in build\n  fibula locate zlib.h")
      .does([&session, options] { return run(session, *options); });
}

}  // namespace cli
