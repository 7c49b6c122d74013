#include "build/own_steps.hpp"

#include "base/quoting.hpp"
#include "base/text.hpp"
#include "build/jobs_of.hpp"
#include "emit/arguments.hpp"
#include "os/files.hpp"
#include "os/host.hpp"
#include "os/process.hpp"
#include "os/sandbox.hpp"
#include "shelf/storage.hpp"
#include "toolchain/options.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <thread>

namespace fibula {
namespace {

/// A whole set of steps may take this long: one that asks a question, or waits for a network that is not there, ends.
constexpr int seconds_at_most = 3600;

/// What was installed is moved to where it is kept: links with whole paths would lead nowhere.
constexpr const char* links_made_relative =
    "find \"$PREFIX\" -type l | while read -r link; do\n"
    "  target=$(readlink \"$link\")\n"
    "  case $target in \"$PREFIX\"/*)\n"
    "    ln -snf \"$(realpath -ms --relative-to=\"$(dirname \"$link\")\" \"$target\")\" \"$link\" ;;\n"
    "  esac\n"
    "done\n";

constexpr std::string_view marker = "fibula: step ";

/// Where the steps meet their folders: in the sandbox always under the same names, so that none of this machine's gets
/// into what they make.
struct Names {
  std::string tree = "/fibula/source";
  std::string prefix = "/fibula/prefix";
};

std::string joined(const std::vector<std::string>& words) {
  return text::join(words, " ");
}

/// The variables that configure scripts and makefiles know, and those of the steps.
std::vector<std::pair<std::string, std::string>> variables(const SourcePlan& plan, const Fit& fit,
                                                           const std::vector<const Choice*>& required,
                                                           const Names& names) {
  const Toolchain& toolchain = fit.toolchain;
  std::vector<std::string> preprocessor, compile, link;
  const OptionSpelling& spelling = options_of(toolchain.family);
  compile = configuration_flags(fit);
  for (const auto* flags : {&plan.flags, &plan.user_flags}) compile.insert(compile.end(), flags->begin(), flags->end());
  for (const auto* definitions : {&plan.definitions, &plan.user_definitions, &fit.lane.definitions}) {
    for (const auto& definition : *definitions) preprocessor.push_back(spelling.definition + definition);
  }
  if (is_loaded_anywhere(toolchain)) compile.emplace_back("-fPIC");
  if (toolchain.family != CompilerFamily::msvc) {
    compile.push_back(fmt::format("-fdebug-prefix-map={}={}-{}", names.tree, plan.card->name, plan.card->version));
  }
  for (const Choice* choice : required) {
    for (const auto& directory : choice->card->include_directories_for(choice->variant))
      preprocessor.push_back("-I" + (choice->card->root / directory).lexically_normal().string());
    for (const auto& file : choice->variant != nullptr ? choice->variant->link : std::vector<std::string>())
      link.push_back("-L" + (choice->card->root / file).parent_path().string());
  }
  const std::string flags = joined(fit.lane.flags);
  const std::string c = driver_for(fit, SourceKind::c), cxx = toolchain.compiler.string();
  const unsigned cores = std::max(1U, std::thread::hardware_concurrency());
  const auto with_flags = [&](const std::string& driver) { return flags.empty() ? driver : driver + " " + flags; };
  return {{"CC", with_flags(c)},
          {"CXX", with_flags(cxx)},
          {"AR", tool_beside(toolchain.compiler, "ar")},
          {"RANLIB", tool_beside(toolchain.compiler, "ranlib")},
          {"STRIP", tool_beside(toolchain.compiler, "strip")},
          {"CPPFLAGS", joined(preprocessor)},
          {"CFLAGS", joined(compile)},
          {"CXXFLAGS", joined(compile)},
          {"LDFLAGS", joined(link)},
          {"HOST", toolchain.triple},
          {"PREFIX", names.prefix},
          {"LINKAGE_OPTIONS",
           plan.linkage == Linkage::shared ? "--enable-shared --disable-static" : "--disable-shared --enable-static"},
          {"LINKAGE", plan.linkage == Linkage::shared ? "shared" : "static"},
          {"JOBS", fmt::format("{}", cores)},
          {"HOME", names.tree},
          {"SOURCE_DATE_EPOCH", "1"}};
}

/// Configure scripts ask a list that came with them which machines there are; one that is older than a machine refuses
/// it. What it would have answered is told instead (Autoconf's manual, "Canonicalizing" and "Cache Variable Names").
std::string told_of_newer_machines(const std::string& triple) {
  const size_t kernel = triple.find("-linux-");
  const bool short_form = kernel != std::string::npos && triple.find('-') == kernel;
  const std::string whole = short_form ? triple.substr(0, kernel) + "-unknown" + triple.substr(kernel) : triple;
  return fmt::format(
      "for list in config.sub */config.sub; do\n"
      "  if [ -f \"$list\" ] && ! sh \"$list\" {0} >/dev/null 2>&1; then\n"
      "    echo \"fibula: $list does not know {0}: configure is told that it is {1}\"\n"
      "    export ac_cv_host={1}\n"
      "  fi\n"
      "done\n",
      triple, whole);
}

std::string script_of(const SourcePlan& plan, const std::vector<std::pair<std::string, std::string>>& variables,
                      const std::string& tree, const std::string& triple) {
  std::string script = "set -e\n";
  for (const auto& [name, value] : variables) script += fmt::format("export {}={}\n", name, shell_word(value));
  // All files count as equally old: which came first is lost on the way, and would let make write what came written.
  script += fmt::format("cd {}\nexec </dev/null\nfind . -type f -exec touch -d @1000000000 {{}} +\n", shell_word(tree));
  script += told_of_newer_machines(shell_word(triple));
  for (size_t i = 0; i < plan.steps.size(); ++i) {
    script += fmt::format("echo {}\n{}\n",
                          shell_word(fmt::format("{}{} of {}: {}", marker, i + 1, plan.steps.size(), plan.steps[i])),
                          plan.steps[i]);
  }
  return script;
}

/// What of this machine the steps must see beside the system: the compiler where it is somebody's own, and what the
/// library requires.
void add_seen(std::vector<SandboxFolder>& folders, const fs::path& path) {
  std::error_code ignored;
  const fs::path real = fs::canonical(path, ignored);
  for (const auto& folder : {path, real}) {
    const std::string top = folder.begin() == folder.end() ? "" : (*std::next(folder.begin())).string();
    const bool hidden =
        top == "home" || top == "root" || top == "tmp" || top == "srv" || top == "mnt" || top == "media";
    const auto known = [&](const SandboxFolder& one) { return one.from == folder; };
    if (hidden && std::none_of(folders.begin(), folders.end(), known)) folders.push_back({folder, folder.string()});
  }
}

bool is_for_another_machine(const Target& target) {
  return target.arch != host_architecture() || target.format != Format::elf;
}

/// Where steps read which libraries this machine has: true for its own programs alone.
std::vector<fs::path> lists_of_installed_libraries() {
  std::vector<fs::path> folders;
  std::error_code error;
  for (const fs::path above : {"/usr/lib", "/usr/local/lib", "/usr/share", "/usr/local/share"}) {
    std::vector<fs::path> places{above};
    for (auto entry = fs::directory_iterator(above, error); !error && entry != fs::directory_iterator();
         entry.increment(error))
      places.push_back(entry->path());
    for (const auto& place : places) {
      if (fs::is_directory(place / "pkgconfig", error)) folders.push_back(place / "pkgconfig");
    }
  }
  std::sort(folders.begin(), folders.end());
  return folders;
}

}  // namespace

Result<void> lay_out_tree(const SourcePlan& plan, const StepsPlace& place) {
  const auto files = files_below(plan.card->root);
  if (!files) return fail(files.error());
  std::vector<std::string> names;
  for (const auto& file : *files) {
    if (!file.generic_string().starts_with(".fibula/")) names.push_back(file.generic_string());
  }
  return copy_files(plan.card->root, place.tree, names);
}

Result<Job> steps_job(const SourcePlan& plan, const Fit& fit, const std::vector<const Choice*>& required,
                      const StepsPlace& place, bool unsandboxed) {
  Names names;
  std::vector<std::string> command;
  if (unsandboxed) {
    names = {place.tree.string(), place.prefix.string()};
  } else {
    std::vector<SandboxFolder> folders{{place.tree, names.tree, true},
                                       {place.prefix, names.prefix, true},
                                       {place.done.parent_path(), "/fibula/done", true}};
    const fs::path compiler = fit.toolchain.compiler;
    add_seen(folders, compiler.parent_path());
    for (const Choice* choice : required) {
      add_seen(folders, choice->card->root);
      for (const auto& file : choice->variant != nullptr ? choice->variant->link : std::vector<std::string>())
        add_seen(folders, (choice->card->root / file).parent_path());
    }
    auto words = sandbox_words(
        folders, names.tree,
        is_for_another_machine(fit.toolchain.target) ? lists_of_installed_libraries() : std::vector<fs::path>());
    if (!words) return pass(words);
    command = std::move(*words);
  }
  const auto values = variables(plan, fit, required, names);
  const fs::path done = unsandboxed ? place.done : fs::path("/fibula/done") / place.done.filename();
  const std::string script = script_of(plan, values, names.tree, fit.toolchain.triple) + links_made_relative +
                             fmt::format(": > {}\n", shell_word(done.string()));
  command.insert(command.end(), {"timeout", "--kill-after=5", fmt::format("{}", seconds_at_most), "sh", "-c", script});
  return Job{.kind = Job::Kind::steps,
             .lane = fit.lane.name,
             .subject = plan.card->name,
             .product = place.done.string(),
             .command = std::move(command),
             .directory = place.tree,
             .in_place = true};
}

namespace {

/// What a step says of what it found in order, or did not like: not why it failed.
bool is_chatter(std::string_view line) {
  return line.starts_with("checking ") || line.find("warning:") != std::string_view::npos ||
         line.find("Entering directory") != std::string_view::npos ||
         line.find("Leaving directory") != std::string_view::npos;
}

}  // namespace

std::string option_advised(std::string_view log) {
  const size_t error = log.rfind("configure: error:");
  if (error == std::string_view::npos) return {};
  for (const std::string_view begins : {"--disable-", "--without-"}) {
    const size_t at = log.find(begins, error);
    if (at == std::string_view::npos) continue;
    size_t end = at;
    while (end < log.size() && (text::is_identifier_character(log[end]) || log[end] == '-')) ++end;
    if (end > at + begins.size()) return std::string(log.substr(at, end - at));
  }
  return {};
}

std::string failed_steps(const std::string& log) {
  constexpr size_t shown = 25;
  std::vector<std::string_view> lines;
  std::string_view step;
  for (const auto line : text::lines(log)) {
    if (line.starts_with(marker)) {
      step = line.substr(std::string_view("fibula: ").size());
      lines.clear();
    } else if (!line.empty() && (!is_chatter(line) || line.find("error") != std::string_view::npos)) {
      lines.push_back(line);
    }
  }
  std::string said = fmt::format("{}\n", step);
  for (size_t i = lines.size() > shown ? lines.size() - shown : 0; i < lines.size(); ++i)
    said += std::string(lines[i]) + "\n";
  return said;
}

}  // namespace fibula
