#include "diagnose/load_causes.hpp"

#include "base/quoting.hpp"
#include "base/text.hpp"
#include "diagnose/built_elsewhere.hpp"
#include "diagnose/missing_symbol.hpp"
#include "diagnose/near_files.hpp"
#include "diagnose/run_time_advice.hpp"
#include "diagnose/start_words.hpp"
#include "fit/lane_system.hpp"
#include "os/files.hpp"

#include <fibula/folder.hpp>

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

using LoadKind = Complaint::Kind;

std::string name_of(const fs::path& path) {
  return path.filename().string();
}

class LoadExplainer {
 public:
  explicit LoadExplainer(const ExplainContext& context) : context_(context) {}

  Finding explain(const Complaint& complaint) {
    finding_ = {.cause = {}, .stage = "load", .subject = name_of(complaint.name), .certainty = "read"};
    complaint_ = &complaint;
    find_program();
    switch (complaint.kind) {
      case LoadKind::missing: missing(); break;
      case LoadKind::wrong_arch: wrong_arch(); break;
      case LoadKind::unloadable: unloadable(); break;
      case LoadKind::version: lacks_version(); break;
      case LoadKind::symbol: explain_missing_symbol(finding_, complaint, {program_, closure_}, context_); break;
      case LoadKind::no_loader: no_loader(); break;
      case LoadKind::other_machine: other_machine(); break;
      case LoadKind::permission: permission(); break;
      case LoadKind::sanitizer: sanitizer(); break;
      case LoadKind::instruction: instruction(); break;
      default: break;  // not a loader's
    }
    return std::move(finding_);
  }

 private:
  /// The program that did not start: as the loader names it, as it was called, or as the project made it.
  void find_program() {
    program_.clear();
    closure_.clear();
    std::vector<fs::path> candidates{complaint_->program};
    // Who lacks a file says what leads to it; who lacks a symbol may be a library deep below the program.
    if (complaint_->kind != LoadKind::symbol) candidates.emplace_back(complaint_->user);
    for (const auto& word : context_.command) candidates.emplace_back(word);
    candidates.insert(candidates.end(), {complaint_->user, complaint_->name});
    if (context_.project != nullptr) {
      for (const auto& lane : context_.project->lanes()) {
        for (const auto& output : context_.project->outputs()) {
          if (context_.toolchain != nullptr)
            candidates.push_back(context_.project->product_of(lane, *context_.toolchain, output));
        }
      }
    }
    for (const auto& candidate : candidates) {
      std::error_code ignored;
      if (candidate.empty() || !fs::is_regular_file(candidate, ignored)) continue;
      auto closure = closure_of(candidate, options_for(candidate));
      if (!closure) continue;
      program_ = absolute_path(candidate);
      closure_ = std::move(*closure);
      return;
    }
  }

  /// The lane's system where the program is for that machine, else this machine's own.
  ClosureOptions options_for(const fs::path& program) const {
    const auto facts = inspect(program);
    const bool of_lane = context_.toolchain != nullptr && facts && facts->arch.value == context_.toolchain->target.arch;
    ClosureOptions options = of_lane ? system_of(*context_.toolchain) : ClosureOptions{};
    options.variable_directories = library_variable(context_.command, absolute_path(context_.folder));
    return options;
  }

  const ClosureEntry* entry() const {
    const std::string wanted = text::lower(name_of(complaint_->name));
    const auto found = std::find_if(closure_.begin(), closure_.end(),
                                    [&](const ClosureEntry& one) { return text::lower(name_of(one.name)) == wanted; });
    return found == closure_.end() ? nullptr : &*found;
  }

  void because(std::string text) { finding_.because.push_back(std::move(text)); }

  void say_who_asks(const ClosureEntry* entry) {
    const std::string user = entry != nullptr ? entry->needed_by : complaint_->user;
    because(user.empty() ? fmt::format("the loader found no {}", name_of(complaint_->name))
                         : fmt::format("{} asks for {}", user, name_of(complaint_->name)));
  }

  void missing() {
    const ClosureEntry* need = entry();
    const fs::path user = need != nullptr ? need->needed_by : complaint_->user;
    if (asked_for_elsewhere(finding_, need != nullptr ? need->name : complaint_->name, user)) return;
    const auto opened = need == nullptr && complaint_->user.empty()
                            ? library_that_needs(program_, name_of(complaint_->name))
                            : std::nullopt;
    if (opened) {
      because(
          fmt::format("{} asks for {}, and the program opens it while it runs", opened->string(), complaint_->name));
    } else {
      say_who_asks(need);
    }
    if (need != nullptr && need->status == NeedStatus::wrong_architecture) return wrong_arch();
    if (need != nullptr && need->status == NeedStatus::by_luck) return not_searched(*need);
    if (need != nullptr && !is_bad(*need)) {
      finding_.cause = "search-path";
      finding_.culprits.push_back(need->path);
      because(fmt::format("it is found now: {} ({})", need->path, need->why));
      finding_.remedy =
          "start it again; if it still fails, it is started with other settings than here, like another "
          "folder or LD_LIBRARY_PATH";
      return;
    }
    if (other_name() || other_version() || near(opened.value_or(program_)) || beside()) return;
    finding_.cause = "runtime-file-missing";
    if (need != nullptr) because(need->why);
    advise_bringing(finding_, name_of(complaint_->name), program_, context_);
  }

  /// A file that says itself that it is to be found under that name, and is not.
  bool other_name() {
    const std::string wanted = name_of(complaint_->name);
    const auto file = file_that_says_its_name(folders_of(program_), wanted);
    if (!file) return false;
    finding_.cause = "soname";
    finding_.culprits.push_back(file->string());
    because(fmt::format("{} says that its name is {}, and there is no file of that name", file->string(), wanted));
    finding_.edit = fmt::format("ln -s {} {}", shell_word(file->filename().string()),
                                shell_word((file->parent_path() / wanted).string()));
    finding_.remedy = "give it that name: " + finding_.edit;
    return true;
  }

  /// The file is there under another version's name.
  bool other_version() {
    const std::string wanted = name_of(complaint_->name);
    std::vector<fs::path> folders = folders_of(program_);
    for (const auto& one : closure_) {
      if (!one.path.empty()) folders.push_back(fs::path(one.path).parent_path());
    }
    const auto other = other_version_in(folders, wanted);
    if (!other) return false;
    const bool plain = other->extension() == ".so" || wanted.ends_with(".so");
    finding_.cause = plain ? "soname" : "soname-version";
    finding_.culprits.push_back(other->string());
    because(fmt::format("{} is there, and no {}: the loader takes the exact name", other->string(), wanted));
    finding_.remedy = plain ? fmt::format(
                                  "put it beside the program under the name {}, or link again: the linker records "
                                  "the soname of the file that it is given",
                                  wanted)
                            : fmt::format(
                                  "link the program again with the version that is there, or bring the one that "
                                  "it was linked with: {}",
                                  wanted);
    return true;
  }

  /// The file is in a folder to which nothing leads.
  bool near(const fs::path& user) {
    const auto path =
        complaint_->name.find('/') == std::string::npos ? lies_near(program_, complaint_->name) : std::nullopt;
    if (!path) return false;
    finding_.cause = "search-path";
    finding_.culprits.push_back(path->string());
    because(fmt::format("{} has it, and nothing leads the loader there", path->parent_path().string()));
    finding_.remedy =
        fmt::format("link {} with the way from it: -Wl,-rpath,'{}'", name_of(user), way_from(user, *path));
    return true;
  }

  /// Opened by a name alone, which is looked for where run paths lead, and not where the program lies.
  bool beside() {
    const std::string& name = complaint_->name;
    std::error_code ignored;
    const fs::path file = program_.parent_path() / name;
    if (program_.empty() || name.find('/') != std::string::npos || !fs::is_regular_file(file, ignored)) return false;
    finding_.cause = "search-path";
    finding_.culprits.push_back(file.string());
    because(fmt::format("{} lies beside the program, where no run path leads", file.string()));
    finding_.remedy =
        fmt::format("open it by its path (./{}), or link {} with -Wl,-rpath,'$ORIGIN'", name, name_of(program_));
    return true;
  }

  /// It lies there, and nothing leads the loader to it.
  void not_searched(const ClosureEntry& need) {
    finding_.culprits.push_back(need.path);
    because(fmt::format("{}{} {}", need.path, need.why.starts_with("the ") ? ":" : "", need.why));
    const auto file = read_run_time_file(program_, Arch::unknown);
    const bool newer = file && !file->runpath.empty() && need.needed_by != program_.string();
    finding_.cause = newer ? "search-path-not-inherited" : "search-path";
    if (newer) {
      because(fmt::format("{} has a run path (RUNPATH), which serves its own needs and not those of its libraries",
                          program_.string()));
      finding_.remedy =
          "link the program with the older kind of run path, which does: -Wl,--disable-new-dtags; or give "
          "the library a run path of its own: -Wl,-rpath,'$ORIGIN'";
      return;
    }
    finding_.remedy = fmt::format("link {} with a run path that leads there: -Wl,-rpath,'{}'", name_of(need.needed_by),
                                  way_from(need.needed_by, need.path));
  }

  void wrong_arch() {
    finding_.cause = "runtime-file-wrong-arch";
    const ClosureEntry* need = entry();
    if (need == nullptr && complaint_->name.empty()) {
      const auto bad = std::find_if(closure_.begin(), closure_.end(),
                                    [](const auto& one) { return one.status == NeedStatus::wrong_architecture; });
      if (bad != closure_.end()) need = &*bad;
      if (need != nullptr) finding_.subject = name_of(need->name);
    }
    if (need != nullptr && !need->path.empty()) {
      finding_.culprits.push_back(need->path);
      because(fmt::format("{} {}", need->path, need->why));
    } else if (!complaint_->detail.empty()) {
      because(complaint_->detail);
    }
    finding_.remedy =
        fmt::format("put the {} for the program's machine in its place: fibula build takes the right variant",
                    finding_.subject.empty() ? "file" : finding_.subject);
  }

  void unloadable() {
    const ClosureEntry* need = entry();
    const fs::path path = need != nullptr && !need->path.empty() ? fs::path(need->path) : fs::path(complaint_->name);
    const auto facts = inspect(path);
    const bool damaged = !facts && (facts.error().code == Code::truncated || facts.error().code == Code::malformed);
    finding_.cause = damaged ? "damaged-file" : "not-a-library";
    finding_.culprits.push_back(path.string());
    say_who_asks(need);
    if (!facts) because(render(facts.error()));
    if (facts && facts->kind) because(fmt::format("it is a {}", to_string(*facts->kind.value)));
    finding_.remedy = "put the library itself in its place: fetch or build it again";
  }

  void lacks_version() {
    const std::string& version = complaint_->detail;
    finding_.subject = version;
    const bool libc = version.starts_with("GLIBC_");
    const bool cxx = version.starts_with("GLIBCXX_") || version.starts_with("CXXABI_");
    finding_.cause = libc ? "libc-floor" : cxx ? "cxx-floor" : "runtime-symbol-missing";
    finding_.culprits.push_back(complaint_->name);
    because(fmt::format("{} was linked with a {} that has {}", complaint_->user, name_of(complaint_->name), version));
    because(fmt::format("{} does not have it", complaint_->name));
    if (libc || cxx) {
      finding_.remedy = fmt::format(
          "build {} on a system as old as this one, or in a lane with its sysroot; or run it on a newer system",
          name_of(complaint_->user));
      return;
    }
    if (const ClosureEntry* need = entry(); need != nullptr && !need->passed_over.empty()) {
      finding_.cause = "wrong-library-found-first";
      because(
          fmt::format("{} is another file of that name, and the loader takes the first", need->passed_over.front()));
    }
    finding_.remedy =
        fmt::format("bring the {} that the program was linked with: fibula build puts it beside the program",
                    name_of(complaint_->name));
  }

  void no_loader() {
    finding_.cause = "c-runtime";
    finding_.subject = complaint_->detail.empty() && !closure_.empty() ? closure_.front().name : complaint_->detail;
    if (finding_.subject.empty()) finding_.subject = complaint_->name;
    if (!program_.empty()) finding_.culprits.push_back(program_.string());
    because(fmt::format("the loader {} that it names is not on this system", finding_.subject));
    finding_.remedy =
        complaint_->user.starts_with("qemu-")
            ? fmt::format("tell the emulator where the system is: start-through = \"{} -L SYSROOT\"", complaint_->user)
            : "it was built for a system with another C library: build it in a lane for this one, or install that "
              "system's C library";
  }

  void other_machine() {
    finding_.cause = "architecture";
    const auto facts = inspect(complaint_->name);
    if (facts) because(fmt::format("{} is for {}", complaint_->name, target_of(*facts)));
    finding_.culprits.push_back(complaint_->name);
    finding_.remedy =
        "this machine does not run it by itself: give the lane start-through, or build a lane for this machine";
  }

  void permission() {
    finding_.cause = "permission";
    finding_.culprits.push_back(complaint_->name);
    because(fmt::format("the system does not let {} be {}", complaint_->name,
                        complaint_->user.empty() ? "started" : "read"));
    finding_.remedy = fmt::format("chmod {} {}", complaint_->user.empty() ? "+x" : "+r", complaint_->name);
  }

  void sanitizer() {
    finding_.cause = "sanitizer-runtime";
    for (const auto& one : closure_) {
      if (!one.name.starts_with("libasan.so")) continue;
      finding_.culprits = {one.needed_by};
      because(fmt::format("{} asks for {}", one.needed_by, one.name));
    }
    because("a library was compiled for a sanitizer, and the program was not");
    finding_.remedy =
        "build the program with -fsanitize=address too (flags of its lane), or take a build of the library without it";
  }

  void instruction() {
    finding_.cause = "cpu-level";
    finding_.subject = program_.empty() ? "the program" : name_of(program_);
    finding_.certainty = "guessed";
    because("the processor met an instruction that it does not have");
    finding_.remedy =
        "fibula inspect tells the least processor of each file (cpu-floor): take or build one for this machine's level";
  }

  const ExplainContext& context_;
  const Complaint* complaint_ = nullptr;
  fs::path program_;
  std::vector<ClosureEntry> closure_;
  Finding finding_;
};

}  // namespace

std::vector<Finding> load_findings(const std::vector<Complaint>& complaints, const ExplainContext& context) {
  std::vector<Finding> findings;
  LoadExplainer explainer(context);
  for (const auto& complaint : complaints) {
    Finding finding = explainer.explain(complaint);
    // A loader says of one fault more than once: that a file is missing, and then each name in it.
    const auto same = [&](const Finding& known) {
      return known.cause == finding.cause && known.subject == finding.subject;
    };
    const bool follows = complaint.kind == Complaint::Kind::symbol && !findings.empty() &&
                         findings.front().cause == "runtime-file-missing";
    if (!follows && std::none_of(findings.begin(), findings.end(), same)) findings.push_back(std::move(finding));
  }
  return findings;
}

}  // namespace fibula
