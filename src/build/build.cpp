#include <fibula/build.hpp>
#include <fibula/emit.hpp>

#include "base/text.hpp"
#include "build/record.hpp"
#include "emit/arguments.hpp"
#include "os/process.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <thread>

namespace fibula {
namespace {

using StepKind = BuildStep::Kind;

/// One command that may have to run, and what it makes.
struct Task {
  StepKind kind;
  std::string subject;
  fs::path product;
  std::vector<std::string> command;
  std::vector<fs::path> inputs;  ///< of links and archives; a compile tells its own by its dependency file
  std::string cause = {};
};

fs::path record_of(const Project& project, const Lane& lane) {
  return project.folder_of(lane) / "record.cbor";
}

std::vector<std::string> whole_compile_command(const Project& project, const Fit& fit, const Output& output,
                                               const fs::path& source) {
  auto command = compile_command(project, fit, output, source);
  command.insert(command.begin(), project.compile_through().begin(), project.compile_through().end());
  return command;
}

/// Objects that were made by the commands of this fit from sources and headers as they are now, where an output has all
/// of them; and products made from them.
OwnCode code_that_holds(const Project& project, const Fit& fit, BuildRecord& record) {
  OwnCode own;
  for (const auto& output : project.outputs()) {
    OwnOutput held;
    bool all = true;
    for (const auto& source : project.sources(output)) {
      held.objects.push_back(project.object_of(fit.lane, output, source));
      all = all && record.cause(held.objects.back(), whole_compile_command(project, fit, output, source)).empty();
    }
    if (!all || held.objects.empty()) continue;
    fs::path product = project.product_of(fit.lane, fit.toolchain, output);
    if (record.holds(product)) held.product = std::move(product);
    own.emplace(output.name, std::move(held));
  }
  return own;
}

class Builder {
 public:
  Builder(const Gathered& gathered, const Lane& lane, const BuildOptions& options)
      : gathered_(gathered),
        project_(gathered.project()),
        lane_(lane),
        options_(options),
        record_file_(record_of(project_, lane)),
        record_(BuildRecord::load(record_file_)) {}

  Result<BuildReport> build() {
    if (auto planned = foresee(); !planned) return pass(planned);
    if (report_.fit.verdict() == Verdict::misfit) return std::move(report_);
    if (auto written = emit::shared_headers(report_.fit); !written) return pass(written);
    auto outcome = run_all();
    if (auto saved = record_.save(record_file_); !saved) return pass(saved);
    if (!outcome) return pass(outcome);
    report_.good = *outcome;
    return std::move(report_);
  }

 private:
  Result<void> plan_through(PlanThrough through) {
    auto planned = plan(gathered_, lane_, {.own = own_, .through = through});
    if (!planned) return pass(planned);
    report_.fit = std::move(*planned);
    return {};
  }

  /// Before the first compile the sources' mentions have to do, as far as there are no objects that still hold.
  Result<void> foresee() {
    if (auto planned = plan_through(PlanThrough::compiling); !planned) return planned;
    if (report_.fit.verdict() == Verdict::misfit) return {};
    own_ = code_that_holds(project_, report_.fit, record_);
    return plan_through(PlanThrough::linking);
  }

  Result<bool> run_all() {
    auto compiled = run_tasks(compile_tasks());
    if (!compiled || !*compiled) return compiled;
    // Where nothing ran and all products hold, the links are those that were foreseen.
    const bool foreseen = report_.steps.empty() && all_made();
    for (const auto& output : project_.outputs()) {
      if (!foreseen) own_[output.name] = {objects_of(output), {}};
    }
    auto archived = run_tasks(archive_tasks());
    if (!archived || !*archived) return archived;
    note_products(OutputKind::static_library);
    // The objects say exactly what the program needs. Shared libraries of the project come first: its programs may need
    // them.
    for (const OutputKind kind : {OutputKind::shared_library, OutputKind::program}) {
      if (!foreseen || !report_.steps.empty()) {
        if (auto planned = plan_through(PlanThrough::linking); !planned) return pass(planned);
      }
      if (report_.fit.verdict() == Verdict::misfit) return false;
      auto linked = run_tasks(link_tasks(kind));
      if (!linked || !*linked) return linked;
      note_products(kind);
    }
    if (auto planned = plan_through(PlanThrough::running); !planned) return pass(planned);
    return true;
  }

  bool all_made() const {
    return std::all_of(project_.outputs().begin(), project_.outputs().end(), [&](const Output& output) {
      const auto own = own_.find(output.name);
      return own != own_.end() && !own->second.product.empty();
    });
  }

  void note_products(OutputKind kind) {
    for (const auto& output : project_.outputs()) {
      if (output.kind == kind) own_[output.name].product = product_of(output);
    }
  }

  fs::path product_of(const Output& output) const { return project_.product_of(lane_, report_.fit.toolchain, output); }

  std::vector<Task> compile_tasks() const {
    std::vector<Task> tasks;
    for (const auto& output : project_.outputs()) {
      for (const auto& source : project_.sources(output)) {
        auto command = whole_compile_command(project_, report_.fit, output, source);
        tasks.push_back({StepKind::compile,
                         shown_from(project_.root(), source),
                         project_.object_of(lane_, output, source),
                         std::move(command),
                         {}});
      }
    }
    return tasks;
  }

  std::vector<fs::path> objects_of(const Output& output) const {
    std::vector<fs::path> objects;
    for (const auto& source : project_.sources(output)) objects.push_back(project_.object_of(lane_, output, source));
    return objects;
  }

  std::vector<Task> archive_tasks() const {
    std::vector<Task> tasks;
    for (const auto& output : project_.outputs()) {
      if (output.kind != OutputKind::static_library) continue;
      const fs::path product = product_of(output);
      std::vector<std::string> command{archiver(), "qcsD", product.string()};
      for (const auto& object : objects_of(output)) command.push_back(object.string());
      tasks.push_back({StepKind::archive, output.name, product, std::move(command), objects_of(output)});
    }
    return tasks;
  }

  /// `aarch64-linux-gnu-g++` -> `aarch64-linux-gnu-ar`; `ar` where there is none of that name.
  std::string archiver() const {
    const fs::path compiler = report_.fit.toolchain.compiler;
    const std::string name = compiler.filename().string();
    const size_t at = name.rfind("g++");
    const bool prefixed = at != std::string::npos && at > 0 && name[at - 1] == '-';
    const auto found =
        prefixed ? find_program((compiler.parent_path() / (name.substr(0, at) + "ar")).string()) : find_program("ar");
    return found ? found->string() : "ar";
  }

  std::vector<Task> link_tasks(OutputKind kind) const {
    std::vector<Task> tasks;
    for (const auto& output : project_.outputs()) {
      if (output.kind == kind) tasks.push_back(link_task(output));
    }
    return tasks;
  }

  Task link_task(const Output& output) const {
    const OutputLink& link = *report_.fit.link(output.name);
    Task task{
        StepKind::link, output.name, product_of(output), {report_.fit.toolchain.compiler.string()}, objects_of(output)};
    if (output.kind == OutputKind::shared_library)
      task.command.insert(task.command.end(), {"-shared", "-Wl,-soname," + task.product.filename().string()});
    // Behind /link everything is the linker's: the product is named before.
    const bool msvc = report_.fit.toolchain.family == CompilerFamily::msvc;
    if (msvc) task.command.insert(task.command.end(), {"/nologo", "/Fe" + task.product.string()});
    for (const auto& object : task.inputs) task.command.push_back(object.string());
    for (auto& argument : emit::link_arguments(report_.fit, link, {"$ORIGIN"}))
      task.command.push_back(std::move(argument));
    if (!msvc) task.command.insert(task.command.end(), {"-o", task.product.string()});
    for (const auto& input : link.inputs) task.inputs.push_back(input.path);
    if (!link.settings.script.empty()) task.inputs.push_back(link.settings.script);
    return task;
  }

  /// Runs what is out of date, side by side; after a failure what is running is finished and nothing more is started.
  Result<bool> run_tasks(std::vector<Task> tasks) {
    for (const auto& task : tasks) {
      if (task.kind != StepKind::compile) report_.products.push_back(task.product);
    }
    std::erase_if(tasks, [&](Task& task) {
      task.cause = record_.cause(task.product, task.command);
      return task.cause.empty();
    });
    const size_t jobs = options_.jobs != 0 ? options_.jobs : std::max(1U, std::thread::hardware_concurrency());
    ProcessPool pool;
    bool good = true;
    size_t done = 0, next = 0;
    while (next < tasks.size() || pool.running() > 0) {
      while (good && next < tasks.size() && pool.running() < jobs) {
        const Task& task = tasks[next++];
        if (auto started = start(pool, task,
                                 [&, count = tasks.size()](Outcome outcome) {
                                   good = finish(task, std::move(outcome), ++done, count) && good;
                                 });
            !started) {
          return pass(started);
        }
      }
      if (!pool.wait()) break;
    }
    return good;
  }

  Result<void> start(ProcessPool& pool, const Task& task, std::function<void(Outcome)> done) {
    if (auto made = make_folder(task.product.parent_path()); !made) return made;
    record_.forget(task.product);
    if (task.kind == StepKind::archive) {
      // ar adds to what is there; an object that left the project must not stay. Two objects of one name both do.
      std::error_code ignored;
      fs::remove(task.product, ignored);
    }
    // English wording, so that what goes wrong can be explained; UTF-8, so that file names stay whole.
    return pool.start({.argv = task.command, .directory = project_.root(), .environment = {{"LC_ALL", "C.UTF-8"}}},
                      std::move(done));
  }

  bool finish(const Task& task, Outcome outcome, size_t done, size_t total) {
    BuildStep step{task.kind, task.subject, task.command, outcome.good(), outcome.out + outcome.err, task.cause};
    if (outcome.timed_out) step.log += "stopped: it ran longer than ten minutes\n";
    if (step.good) {
      auto inputs = task.inputs;
      if (task.kind == StepKind::compile)
        inputs = dependencies_in(read_text(task.product.string() + ".d").value_or(""));
      record_.made(task.product, task.command, inputs);
    }
    if (options_.progress) options_.progress(step, done, total);
    report_.steps.push_back(std::move(step));
    return report_.steps.back().good;
  }

  const Gathered& gathered_;
  const Project& project_;
  const Lane& lane_;
  const BuildOptions& options_;
  fs::path record_file_;
  BuildRecord record_;
  BuildReport report_;
  OwnCode own_;
};

}  // namespace

Result<BuildReport> build(const Project& project, const Lane& lane, const Shelf& shelf, const BuildOptions& options) {
  const auto gathered = gather(project, {lane}, shelf);
  if (!gathered) return fail(gathered.error());
  return build(*gathered, lane, options);
}

Result<BuildReport> build(const Gathered& gathered, const Lane& lane, const BuildOptions& options) {
  return Builder(gathered, lane, options).build();
}

Result<OwnCode> own_code(const Gathered& gathered, const Lane& lane) {
  if (!stamp_of(record_of(gathered.project(), lane)).is_file()) return OwnCode();  // nothing was built yet
  const auto fit = plan(gathered, lane, {.own = {}, .through = PlanThrough::compiling});
  if (!fit) return fail(fit.error());
  auto record = BuildRecord::load(record_of(gathered.project(), lane));
  return code_that_holds(gathered.project(), *fit, record);
}

}  // namespace fibula
