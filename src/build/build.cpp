#include <fibula/build.hpp>

#include "base/text.hpp"
#include "build/record.hpp"
#include "emit/arguments.hpp"
#include "fit/link_plan.hpp"
#include "os/process.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <thread>

namespace fibula {
namespace {

using Kind = BuildStep::Kind;

/// One command that may have to run, and what it makes.
struct Task {
  Kind kind;
  std::string subject;
  fs::path product;
  std::vector<std::string> command;
  std::vector<fs::path> inputs;  ///< of links and archives; a compile tells its own by its dependency file
  std::string cause = {};
};

class Builder {
 public:
  Builder(const Project& project, const Lane& lane, const Shelf& shelf, const BuildOptions& options)
      : project_(project),
        lane_(lane),
        shelf_(shelf),
        options_(options),
        record_file_(project.folder_of(lane) / "record.cbor"),
        record_(BuildRecord::load(record_file_)) {}

  Result<BuildReport> build() {
    if (auto fitted = refit(); !fitted) return pass(fitted);
    if (report_.fit.verdict() == Verdict::misfit) return std::move(report_);
    auto outcome = run_all();
    if (auto saved = record_.save(record_file_); !saved) return pass(saved);
    if (!outcome) return pass(outcome);
    report_.good = *outcome;
    return std::move(report_);
  }

 private:
  Result<bool> refit() {
    auto fitted = fit(project_, lane_, shelf_);
    if (!fitted) return pass(fitted);
    report_.fit = std::move(*fitted);
    return true;
  }

  Result<bool> run_all() {
    auto compiled = run_tasks(compile_tasks());
    if (!compiled || !*compiled) return compiled;
    auto archived = run_tasks(archive_tasks());
    if (!archived || !*archived) return archived;
    // The objects say exactly what the program needs; until now its sources' mentions had to do. Shared libraries of
    // the project come first: its programs may need them.
    for (const OutputKind kind : {OutputKind::shared_library, OutputKind::program}) {
      auto still_fits = refit_after_news();
      if (!still_fits || !*still_fits) return still_fits;
      auto linked = run_tasks(link_tasks(kind));
      if (!linked || !*linked) return linked;
    }
    return true;
  }

  /// Derives the links again when something was made since the last time; false when it does not fit any more.
  Result<bool> refit_after_news() {
    if (report_.steps.size() == steps_at_fit_) return true;
    steps_at_fit_ = report_.steps.size();
    if (auto fitted = refit(); !fitted) return fitted;
    return report_.fit.verdict() != Verdict::misfit;
  }

  std::vector<Task> compile_tasks() const {
    std::vector<Task> tasks;
    for (const auto& output : project_.outputs()) {
      for (const auto& source : project_.sources(output)) {
        auto command = compile_command(project_, report_.fit, output, source);
        command.insert(command.begin(), project_.compile_through().begin(), project_.compile_through().end());
        tasks.push_back({Kind::compile,
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
      const fs::path product = project_.product_of(lane_, report_.fit.toolchain, output);
      std::vector<std::string> command{archiver(), "rcsD", product.string()};
      for (const auto& object : objects_of(output)) command.push_back(object.string());
      tasks.push_back({Kind::archive, output.name, product, std::move(command), objects_of(output)});
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
    Task task{Kind::link,
              output.name,
              project_.product_of(lane_, report_.fit.toolchain, output),
              {report_.fit.toolchain.compiler.string()},
              objects_of(output)};
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
      if (task.kind != Kind::compile) report_.products.push_back(task.product);
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
    if (task.kind == Kind::archive) {
      // ar adds to what is there; an object that left the project must not stay.
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
      if (task.kind == Kind::compile) inputs = dependencies_in(read_text(task.product.string() + ".d").value_or(""));
      record_.made(task.product, task.command, inputs);
    }
    if (options_.progress) options_.progress(step, done, total);
    report_.steps.push_back(std::move(step));
    return report_.steps.back().good;
  }

  const Project& project_;
  const Lane& lane_;
  const Shelf& shelf_;
  const BuildOptions& options_;
  fs::path record_file_;
  BuildRecord record_;
  BuildReport report_;
  size_t steps_at_fit_ = 0;
};

}  // namespace

Result<BuildReport> build(const Project& project, const Lane& lane, const Shelf& shelf, const BuildOptions& options) {
  return Builder(project, lane, shelf, options).build();
}

}  // namespace fibula
