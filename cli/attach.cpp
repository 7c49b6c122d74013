#include "print.hpp"
#include "session.hpp"

#include <fmt/format.h>
#include <memory>

namespace cli {
namespace {

struct Options {
  std::string name;
  std::string range;
  std::string linkage = "any";
};

fibula::Linkage linkage_named(const std::string& name) {
  if (name == "static") return fibula::Linkage::static_;
  return name == "shared" ? fibula::Linkage::shared : fibula::Linkage::any;
}

int run_attach(const Session& session, const Options& options) {
  const auto shelf = session.shelf();
  if (!shelf) return report(session, shelf.error());
  const auto attached = fibula::attach(session.directory, *shelf, options.name, options.range, linkage_named(options.linkage));
  if (!attached) return report(session, attached.error());
  if (session.json) {
    print_json({{"schema", "fibula.attach/1"}, {"name", attached->name}, {"version", attached->version}, {"range", attached->range},
                {"changed", attached->changed}, {"created", attached->created.string()}});
    return all_good;
  }
  if (!attached->created.empty()) print_line(fmt::format("wrote {}: a program from the sources here, with a debug and a release lane", attached->created.string()));
  const char* done = attached->changed ? "attached" : "was attached like this already";
  print_line(fmt::format("{} {} {}; any version {} will do", styled(attached->name, Style::strong), attached->version, done, attached->range));
  return all_good;
}

int run_detach(const Session& session, const std::string& name) {
  const auto detached = fibula::detach(session.directory, name);
  if (!detached) return report(session, detached.error());
  if (session.json) print_json({{"schema", "fibula.detach/1"}, {"name", name}});
  if (!session.json) print_line(fmt::format("{} detached; it stays on the shelf", name));
  return all_good;
}

}  // namespace

void add_attach(CLI::App& app, Session& session) {
  auto* command = app.add_subcommand("attach", "use a library of the shelf in this project");
  auto options = std::make_shared<Options>();
  command->add_option("NAME", options->name)->required();
  command->add_option("VERSION", options->range, "\"2.1\", \">=2.1 <3\" or \"=2.1.3\"; the newest and later when left out");
  command->add_option("--linkage", options->linkage, "any, static or shared")->check(CLI::IsMember({"any", "static", "shared"}))->type_name("KIND");
  command->footer("Example:\n  fibula attach tidecalc\n  fibula attach tidecalc \">=2.1 <3\" --linkage static");
  command->callback([&session, options] { session.run = [&session, options] { return run_attach(session, *options); }; });
}

void add_detach(CLI::App& app, Session& session) {
  auto* command = app.add_subcommand("detach", "stop using a library in this project");
  auto name = std::make_shared<std::string>();
  command->add_option("NAME", *name)->required();
  command->footer("Example:\n  fibula detach tidecalc");
  command->callback([&session, name] { session.run = [&session, name] { return run_detach(session, *name); }; });
}

}  // namespace cli
