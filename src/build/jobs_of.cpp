#include "build/jobs_of.hpp"

#include "os/files.hpp"
#include "os/process.hpp"
#include "os/stamp.hpp"
#include "project/source_kind.hpp"
#include "toolchain/cache.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

const std::string mark(1, product_mark);

/// Options that make the compiler write further files beside the object, or the object's own name into it.
bool writes_beside(const std::vector<std::string>& command) {
  static constexpr std::string_view options[] = {"--coverage",    "-fprofile",   "-ftest-coverage",
                                                 "-gsplit-dwarf", "-save-temps", "--save-temps",
                                                 "-fstack-usage", "-fdump-",     "-fcallgraph-info"};
  return std::any_of(command.begin(), command.end(), [](const std::string& word) {
    return std::any_of(std::begin(options), std::end(options),
                       [&](std::string_view option) { return word.starts_with(option); });
  });
}

/// Response files in a command are read with it.
void add_response_files(Job& job) {
  for (const auto& word : job.command) {
    if (word.size() > 1 && word[0] == '@') job.inputs.push_back(absolute_path(job.directory / word.substr(1)).string());
  }
}

}  // namespace

std::string identity_of_program(const fs::path& program) {
  Stamp stamp = stamp_of(program);
  stamp.changed = 0;
  return program.string() + " " + to_text(stamp);
}

std::string tool_beside(const fs::path& compiler, const std::string& tool) {
  const std::string name = compiler.filename().string();
  const auto look = [&](const std::string& wanted) -> std::string {
    const auto found = find_program(compiler.has_parent_path() ? (compiler.parent_path() / wanted).string() : wanted);
    return found ? found->string() : std::string();
  };
  for (const std::string_view driver : {"clang++", "clang", "g++", "gcc", "c++", "cc"}) {
    const size_t at = name.rfind(driver);
    if (at == std::string::npos || (at > 0 && name[at - 1] != '-')) continue;
    const std::string behind = name.substr(at + driver.size());
    const bool clang = driver.starts_with("clang");
    for (const auto& wanted :
         {name.substr(0, at) + (clang ? "llvm-" + tool + behind : tool + behind), name.substr(0, at) + tool}) {
      if (at == 0 && !clang) break;  // the machine's own
      if (auto found = look(wanted); !found.empty()) return found;
    }
    break;
  }
  const auto found = find_program(tool);
  return found ? found->string() : tool;
}

std::vector<fs::path> objects_of(const Gathered::State& gathered, const Lane& lane, const Output& output) {
  std::vector<fs::path> objects;
  for (const auto& source : gathered.sources_for(output, lane))
    objects.push_back(gathered.project.object_of(lane, output, source));
  for (const auto& given : gathered.given_for(output, lane)) {
    if (source_kind(given) == SourceKind::object) objects.push_back(given);
  }
  return objects;
}

LaneJobs::LaneJobs(const Project& project, const Fit& fit)
    : project_(project), fit_(fit), workshop_(fit.folder / "making") {
  identity_ = identity_of_program(fit.toolchain.compiler) + "\n" + fit.toolchain.version;
  for (const auto& variable : influencing_environment()) identity_ += "\n" + variable;
  std::vector<std::string> searched;
  for (const auto& directory : fit.include_directories) searched.push_back(directory.path.string());
  for (const auto* directories : {&fit.toolchain.include_directories, &fit.toolchain.cxx_include_directories}) {
    for (const auto& directory : *directories) searched.push_back(directory.string());
  }
  searched_ = std::make_shared<const std::vector<std::string>>(std::move(searched));
}

Job LaneJobs::job(Job::Kind kind, std::string subject, const fs::path& product) const {
  Job job{.kind = kind,
          .lane = fit_.lane.name,
          .subject = std::move(subject),
          .product = product.string(),
          .command = {},
          .identity = identity_,
          .directory = project_.root(),
          .workshop = workshop_};
  return job;
}

Job LaneJobs::compile(const Output& output, const fs::path& source) {
  Job made =
      job(Job::Kind::compile, shown_from(project_.root(), source), project_.object_of(fit_.lane, output, source));
  made.command = commands_.try_emplace(output.name, fit_, output).first->second.command(source, mark);
  made.through = source_kind(source) == SourceKind::nasm ? std::vector<std::string>() : project_.compile_through();
  made.inputs = {source.string()};
  made.searched = searched_;
  made.tells_inputs = true;
  // NASM 2.16 leaves the files that a source includes out of the list that it writes while it assembles.
  if (source_kind(source) == SourceKind::nasm) {
    made.lister = made.command;
    made.lister.insert(made.lister.begin() + 1, "-M");
    std::replace(made.lister.begin(), made.lister.end(), mark, made.product);
  }
  made.in_place = writes_beside(made.command);
  add_response_files(made);
  return made;
}

Job LaneJobs::archive(const Output& output, const std::vector<fs::path>& objects) const {
  Job made = job(Job::Kind::archive, output.name, project_.product_of(fit_.lane, fit_.toolchain, output));
  if (fit_.toolchain.family == CompilerFamily::msvc) {
    made.command = {tool_beside(fit_.toolchain.compiler, "lib"), "/nologo", "/out:" + mark};
  } else {
    made.command = {tool_beside(fit_.toolchain.compiler, "ar"), "qcsD", mark};
  }
  for (const auto& object : objects) {
    made.command.push_back(object.string());
    made.inputs.push_back(object.string());
  }
  made.identity = identity_of_program(made.command.front());
  return made;
}

Job LaneJobs::link(const Output& output, const std::vector<fs::path>& objects) const {
  const OutputLink& link = *fit_.link(output.name);
  Job made = job(Job::Kind::link, output.name, project_.product_of(fit_.lane, fit_.toolchain, output));
  made.identity += "\n" + identity_of_program(fit_.toolchain.linker);
  made.command = {fit_.toolchain.compiler.string()};
  const auto add = [&](std::initializer_list<std::string> words) { made.command.insert(made.command.end(), words); };
  // Behind /link everything is the linker's: the product is named before.
  const bool msvc = fit_.toolchain.family == CompilerFamily::msvc;
  if (msvc) add({"/nologo", "/Fe" + mark});
  if (output.kind == OutputKind::shared_library && msvc) add({"/LD"});
  if (output.kind == OutputKind::shared_library && !msvc) {
    add({"-shared"});
    const std::string name = fs::path(made.product).filename().string();
    if (fit_.toolchain.target.format == Format::elf) add({"-Wl,-soname," + name});
    if (fit_.toolchain.target.format == Format::macho) add({"-install_name", "@rpath/" + name});
  }
  for (const auto& object : objects) {
    add({object.string()});
    made.inputs.push_back(object.string());
  }
  for (auto& argument : emit::link_arguments(fit_, link, {"$ORIGIN"})) add({std::move(argument)});
  // The linker tells what it read: what the compiler adds to the line by itself, and what scripts name.
  made.tells_inputs = fit_.toolchain.target.format == Format::elf && tells_its_inputs(fit_.toolchain);
  if (made.tells_inputs) add({"-Wl,--dependency-file=" + mark + ".d"});
  if (!msvc) add({"-o", mark});
  for (const auto& input : link.inputs) made.inputs.push_back(input.path.string());
  if (!link.settings.script.empty()) made.inputs.push_back(link.settings.script.string());
  add_response_files(made);
  return made;
}

}  // namespace fibula
