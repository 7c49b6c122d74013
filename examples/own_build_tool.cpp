// A build tool of one's own: a project from values, the compiler's and the linker's arguments from the library, the
// commands run by the tool itself.
#include <fibula/emit.hpp>
#include <fibula/gather.hpp>

#include <cstdlib>
#include <iostream>

namespace {

int run(const std::string& program, const std::vector<std::string>& arguments) {
  std::string line = program;
  for (const auto& argument : arguments) line += " '" + argument + "'";
  return std::system(line.c_str());
}

int complain(const fibula::Error& error) {
  std::cerr << fibula::render(error) << '\n';
  return 1;
}

}  // namespace

int main() {
  const auto shelf = fibula::Shelf::standard();
  const fibula::Lane lane{.name = "mine", .compiler = "g++", .configuration = "debug"};
  const auto project = fibula::Project::from_values(
      {.root = ".",
       .outputs = {{.name = "log", .sources = {"harbourlog/src/*.cpp"}, .standard = "c++17"}},
       .libraries = {{.name = "tidecalc", .linkage = fibula::Linkage::static_}, {.name = "moonphase"}},
       .lanes = {lane}});
  if (!shelf || !project) return complain(project ? shelf.error() : project.error());
  const auto gathered = fibula::gather(*project, {lane}, *shelf);
  if (!gathered) return complain(gathered.error());

  const auto compile = fibula::plan(*gathered, lane, {.through = fibula::PlanThrough::compiling});
  if (!compile) return complain(compile.error());
  fibula::OwnOutput own;
  for (const auto& source : project->sources(project->outputs().front())) {
    own.objects.push_back(source.filename().string() + ".o");
    auto arguments = fibula::emit::compile_arguments(*compile, "log");
    for (const auto& more : {std::string("-c"), source.string(), std::string("-o"), own.objects.back().string()})
      arguments.push_back(more);
    if (run(lane.compiler, arguments) != 0) return 1;
  }

  // What is linked follows from these very objects.
  const auto link = fibula::plan(*gathered, lane, {.own = {{"log", own}}, .through = fibula::PlanThrough::linking});
  if (!link) return complain(link.error());
  for (const auto& misfit : link->misfits()) std::cout << misfit.sentence() << '\n';
  std::vector<std::string> arguments(own.objects.begin(), own.objects.end());
  for (auto& word : fibula::emit::link_arguments(*link, *link->link("log"), {"$ORIGIN"})) arguments.push_back(word);
  arguments.insert(arguments.end(), {"-o", "log"});
  if (run(lane.compiler, arguments) != 0) return 1;
  for (const auto& input : link->link("log")->inputs)
    std::cout << input.path.filename().string() << ": " << input.library << '\n';
  std::cout.flush();
  return std::system("./log >tables && head -n 1 tables");
}
