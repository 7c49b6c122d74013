#include <fibula/trial.hpp>

#include "base/text.hpp"
#include "diagnose/header_trials.hpp"
#include "diagnose/tried_names.hpp"
#include "headers/header_folders.hpp"
#include "headers/include_lines.hpp"
#include "os/files.hpp"
#include "os/folder.hpp"
#include "take/folder_card.hpp"

#include <fibula/build.hpp>
#include <fibula/fit.hpp>
#include <fibula/run.hpp>
#include <fibula/symbols.hpp>

#include <fmt/format.h>
#include <algorithm>
#include <optional>
#include <set>

namespace fibula {

std::string_view to_string(TrialStep step) {
  switch (step) {
    case TrialStep::compile: return "compile";
    case TrialStep::link: return "link";
    case TrialStep::run: return "run";
  }
  return {};
}

std::string_view to_string(TrialOutcome outcome) {
  switch (outcome) {
    case TrialOutcome::good: return "good";
    case TrialOutcome::failed: return "failed";
    case TrialOutcome::not_tried: return "not-tried";
  }
  return {};
}

namespace {

class LibraryTrial {
 public:
  LibraryTrial(const Project& project, const Lane& lane, const Shelf& shelf, const LibraryUse& use,
               const std::vector<std::string>& functions)
      : project_(project), lane_(lane), shelf_(shelf), use_(use), functions_(functions) {}

  Result<std::vector<Trial>> run() {
    for (const auto step : {TrialStep::compile, TrialStep::link, TrialStep::run})
      trials_.push_back({.library = use_.name, .lane = lane_.name, .step = step});
    root_ = project_.root() / ".fibula" / "trial" / use_.name / lane_.name;
    auto made = Folder::make(root_);
    if (!made) return pass(made);
    auto own = project_in(root_, {});
    if (!own) return pass(own);
    if (auto chosen = choose(*own); !chosen) return fail(chosen.error());
    if (trials_.front().outcome == TrialOutcome::failed) return std::move(trials_);
    if (auto written = write_sources(*made); !written) return pass(written);
    auto tried = project_in(root_, outputs());
    if (!tried) return pass(tried);
    if (auto done = build_and_run(*tried); !done) return pass(done);
    return std::move(trials_);
  }

 private:
  Result<Project> project_in(const fs::path& root, std::vector<Output> outputs) const {
    return Project::from_values({.root = root,
                                 .outputs = std::move(outputs),
                                 .libraries = project_.libraries(),
                                 .lanes = {lane_},
                                 .shelves = project_.shelves(),
                                 .time_limit = 120});
  }

  Trial& at(TrialStep step) { return trials_[static_cast<size_t>(step)]; }
  void fail_at(TrialStep step, std::string detail) {
    at(step).outcome = TrialOutcome::failed;
    at(step).detail = std::move(detail);
  }

  /// The version and variant that the lane gets.
  Result<void> choose(const Project& own) {
    const auto fit = fibula::fit(own.with_program_made_elsewhere(), lane_, shelf_);
    if (!fit) return fail(fit.error());
    const auto chosen = std::find_if(fit->libraries.begin(), fit->libraries.end(),
                                     [&](const ChosenLibrary& one) { return one.name == use_.name; });
    if (chosen == fit->libraries.end() || chosen->verdict == Verdict::misfit) {
      const bool told = chosen != fit->libraries.end() && !chosen->misfits.empty();
      fail_at(TrialStep::compile, told ? "does not fit: " + chosen->misfits.front().sentence() : "is not on the shelf");
      return {};
    }
    auto card =
        use_.folder.empty() ? shelf_.card(chosen->name, chosen->version) : card_of_folder(use_.folder, use_.name);
    if (!card) return fail(card.error());
    card_ = std::move(*card);
    triple_ = fit->toolchain.triple;
    const Target& target = fit->toolchain.target;
    const bool underscore = family_of(target.format) == Format::macho ||
                            (family_of(target.format) == Format::pe && target.arch == Arch::x86);
    prefix_ = underscore ? "_" : "";
    for (const auto& variant : card_.variants) {
      if (variant.id == chosen->variant) variant_ = &variant;
    }
    return {};
  }

  bool is_cxx() const { return is_cxx_library(card_, variant_); }

  std::vector<std::string> included() const {
    std::vector<std::string> names;
    const auto directories = card_.include_directories_for(variant_);
    for (const auto& header : card_.public_headers) {
      const std::string name = included_as(header, directories);
      if (!name.empty() && !is_assembler_header(name)) names.push_back(name);
    }
    return names;
  }

  Result<void> write_sources(const Folder& folder) {
    size_t number = 0;
    headers_ = included();
    for (const auto& header : headers_) {
      if (auto made = write_if_new(folder, fmt::format("header_{}{}", number++, ending()),
                                   fmt::format("#include <{}>\n", header));
          !made)
        return made;
    }
    tried_ = names_to_try(card_, variant_, functions_, prefix_);
    return write_if_new(folder, "trial" + ending(), program_text());
  }

  /// What did not change keeps its times, and is not compiled again.
  static Result<void> write_if_new(const Folder& folder, const std::string& name, const std::string& text) {
    const auto there = read_text(folder.path() / name);
    if (there && *there == text) return {};
    return folder.write(name, text, Flush::later);
  }

  /// Names are as they stand in binaries: no header says otherwise.
  std::string program_text() const {
    std::string text = "#include <stdio.h>\n";
    // What a person wrote into the card is written with its headers.
    for (const auto& header : card_.trial.empty() ? std::vector<std::string>() : headers_)
      text += fmt::format("#include <{}>\n", header);
    size_t number = 0;
    for (const auto& symbol : tried_.symbols) {
      text +=
          fmt::format("extern {}char fibula_name_{} __asm__(\"{}\");\n", is_cxx() ? "\"C\" " : "", number++, symbol);
    }
    if (asks_version())
      text += fmt::format("extern {}const char* {}(void);\n", is_cxx() ? "\"C\" " : "", tried_.version);
    text += "static const void* volatile names[] = {0";
    for (size_t i = 0; i < number; ++i) text += fmt::format(", &fibula_name_{}", i);
    text +=
        "};\nint main(void) {\n  unsigned long found = 0;\n"
        "  for (unsigned long i = 1; i < sizeof names / sizeof names[0]; ++i) found += names[i] != 0;\n";
    if (asks_version()) text += fmt::format("  puts({}());\n", tried_.version);
    if (!card_.trial.empty()) text += fmt::format("  {{\n{}\n  }}\n", card_.trial);
    return text + fmt::format("  return found == {} ? 0 : 1;\n}}\n", number);
  }

  bool asks_version() const { return !tried_.version.empty() && card_.trial.empty(); }

  std::string ending() const { return is_cxx() ? ".cpp" : ".c"; }

  /// What the project's own sources of that language are compiled as.
  std::string standard() const {
    for (const auto& output : project_.outputs()) {
      if (!output.standard.empty() && (output.standard.find("++") != std::string::npos) == is_cxx())
        return output.standard;
    }
    return {};
  }

  std::vector<Output> outputs() const {
    std::vector<Output> all;
    if (!headers_.empty())
      all.push_back({.name = "headers",
                     .kind = OutputKind::static_library,
                     .sources = {},
                     .uses = std::vector{use_.name},
                     .standard = standard()});
    for (size_t i = 0; i < headers_.size(); ++i) all.back().sources.push_back(fmt::format("header_{}{}", i, ending()));
    // What the library needs itself may be another one that is attached; what nothing needs is left out of the link.
    all.push_back({.name = "trial", .sources = {"trial" + ending()}, .standard = standard()});
    return all;
  }

  /// The headers by themselves. False: the trial's own program does not compile, and nothing more can be tried.
  Result<bool> judge_compiles(const BuildReport& report) {
    HeaderTally tally;
    std::vector<HeaderFailure> failed;
    const auto parts = parts_of_others();
    for (const auto& step : report.steps) {
      if (step.good || step.kind != BuildStep::Kind::compile) continue;
      const auto number = header_number(step.subject);
      if (!number) {
        fail_at(TrialStep::compile, failure(step));
        return false;
      }
      const auto outcome = header_outcome(step.log, triple_);
      if (outcome == HeaderOutcome::other_system) {
        ++tally.other_system;
      } else if (parts.contains(*number)) {
        ++tally.parts;
      } else if (outcome == HeaderOutcome::refuses) {
        ++tally.refusing;
      } else {
        failed.push_back({headers_[*number], failure(step), name_missed_in(step.log)});
      }
    }
    tally.good = headers_.size() - tally.parts - tally.refusing - tally.other_system - failed.size();
    if (auto tried = try_in_order(failed, tally); !tried) return pass(tried);
    std::string detail = sentence(tally);
    // A header that is wrong does not keep the rest from being tried.
    if (failed.size() > 1) detail = fmt::format("{} more fail; {}", failed.size() - 1, detail);
    if (!failed.empty()) {
      fail_at(TrialStep::compile, tally.good == 0 ? failed[0].said : fmt::format("{}; {}", failed[0].said, detail));
    } else {
      at(TrialStep::compile).outcome = TrialOutcome::good;
      for (const auto& [first, then] : tally.ordered)
        at(TrialStep::compile).in_order.push_back(fmt::format("{} behind {}", then, first));
      at(TrialStep::compile).detail = std::move(detail);
    }
    return true;
  }

  /// Headers that fail alone, each behind another one that may declare what it lacks; where it compiles so, the order
  /// is told and nothing has failed.
  Result<void> try_in_order(std::vector<HeaderFailure>& failed, HeaderTally& tally) {
    const auto tries = orders_to_try(failed, headers_, card_, variant_);
    if (tries.empty()) return {};
    const auto folder = Folder::make(root_ / "orders");
    if (!folder) return fail(folder.error());
    Output output{.name = "orders",
                  .kind = OutputKind::static_library,
                  .sources = {},
                  .uses = std::vector{use_.name},
                  .standard = standard()};
    for (size_t i = 0; i < tries.size(); ++i) {
      output.sources.push_back(fmt::format("order_{}{}", i, ending()));
      const std::string text = fmt::format("#include <{}>\n#include <{}>\n", tries[i].first, tries[i].then);
      if (auto written = write_if_new(*folder, output.sources.back(), text); !written) return written;
    }
    const auto project = project_in(folder->path(), {output});
    if (!project) return fail(project.error());
    const auto report = build(*project, lane_, shelf_, {.keep_going = true});
    if (!report) return fail(report.error());
    std::set<std::string> bad;
    for (const auto& step : report->steps) {
      if (!step.good) bad.insert(fs::path(step.subject).filename().string());
    }
    for (size_t i = 0; i < tries.size(); ++i) {
      const auto is_it = [&](const HeaderFailure& one) { return one.header == tries[i].then; };
      if (bad.contains(output.sources[i]) || std::erase_if(failed, is_it) == 0) continue;
      tally.ordered.push_back(tries[i]);
    }
    return {};
  }

  Result<void> build_and_run(const Project& own) {
    auto report = build(own, lane_, shelf_, {.keep_going = true});
    if (!report) return pass(report);
    const auto compiles = judge_compiles(*report);
    if (!compiles || !*compiles) return without_value(compiles);
    for (const auto& misfit : report->misfits) {
      if (misfit.verdict == Verdict::misfit) return told(TrialStep::link, misfit.sentence());
    }
    for (const auto& step : report->steps) {
      if (!step.good && step.kind != BuildStep::Kind::compile) return told(TrialStep::link, failure(step));
    }
    const auto product = std::find_if(report->products.begin(), report->products.end(),
                                      [](const BuiltOutput& one) { return one.output == "trial"; });
    if (product == report->products.end()) return told(TrialStep::link, "nothing was linked");
    at(TrialStep::link).outcome = TrialOutcome::good;
    at(TrialStep::link).detail = text::count(tried_.symbols.size(), "function");
    const bool only_headers = variant_ == nullptr && !card_.comes_as_source();
    if (tried_.symbols.empty())
      at(TrialStep::link).detail = only_headers ? "headers only" : "no function that its headers declare by name";
    return start(own, report->target, product->path);
  }

  Result<void> start(const Project& own, const Target& target, const fs::path& program) {
    if (const auto can = can_start(lane_, target, own); !can) {
      at(TrialStep::run).detail = can.error().what;
      return {};
    }
    const auto heard = run_and_listen(run_command(lane_, program, {}));
    if (!heard) return told(TrialStep::run, heard.error().what);
    if (heard->status != 0)
      return told(TrialStep::run,
                  fmt::format("ends with status {}: {}", heard->status, text::trim(heard->err + heard->out)));
    at(TrialStep::run).outcome = TrialOutcome::good;
    const std::string said(text::trim(heard->out));
    at(TrialStep::run).detail = asks_version() ? fmt::format("{}() says {}", tried_.version, said) : "starts and ends";
    if (!card_.trial.empty())
      at(TrialStep::run).detail = said.empty() ? "the card's trial runs" : "the card's trial says " + said;
    return {};
  }

  Result<void> told(TrialStep step, std::string detail) {
    fail_at(step, std::move(detail));
    return {};
  }

  /// Of the file that includes one header alone: which.
  std::optional<size_t> header_number(const std::string& subject) const {
    const std::string name = fs::path(subject).stem().string();
    if (!name.starts_with("header_")) return std::nullopt;
    const size_t number = std::strtoul(name.c_str() + 7, nullptr, 10);
    return number < headers_.size() ? std::optional(number) : std::nullopt;
  }

  /// Headers that another one of the library includes: they may be parts of it, and not meant to stand alone.
  std::set<size_t> parts_of_others() const {
    const auto included = included_names(card_.root, card_.public_headers);
    std::set<size_t> parts;
    for (size_t i = 0; i < headers_.size(); ++i) {
      if (is_included(headers_[i], included)) parts.insert(i);
    }
    return parts;
  }

  /// The first line with an error, and which header it is about.
  std::string failure(const BuildStep& step) const {
    std::string name = fs::path(step.subject).stem().string();
    if (const auto number = header_number(step.subject)) name = headers_[*number] + " alone";
    for (const auto line : text::lines(step.log)) {
      if (line.find("error") != std::string_view::npos || line.find("undefined") != std::string_view::npos)
        return fmt::format("{}: {}", name, text::trim(line));
    }
    return name + ": " + std::string(text::trim(step.log));
  }

  const Project& project_;
  const Lane& lane_;
  const Shelf& shelf_;
  const LibraryUse& use_;
  const std::vector<std::string>& functions_;
  fs::path root_;  ///< of what is made
  Card card_;
  std::string prefix_;  ///< before C names of the lane's objects
  std::string triple_;  ///< of its compiler
  const Variant* variant_ = nullptr;
  std::vector<std::string> headers_;
  TriedNames tried_;
  std::vector<Trial> trials_;
};

}  // namespace

Result<std::vector<Trial>> try_libraries(const Project& project, const std::vector<Lane>& lanes, const Shelf& shelf,
                                         const std::string& name, const std::vector<std::string>& functions) {
  std::vector<Trial> all;
  std::vector<std::string> known;
  bool found = false;
  for (const auto& use : project.libraries()) {
    known.push_back(use.name);
    if (!name.empty() && use.name != name) continue;
    found = true;
    for (const auto& lane : lanes) {
      auto tried = LibraryTrial(project, lane, shelf, use, functions).run();
      if (!tried) return tried;
      all.insert(all.end(), std::make_move_iterator(tried->begin()), std::make_move_iterator(tried->end()));
    }
  }
  if (found || name.empty()) return all;
  return fail({.code = Code::usage,
               .what = fmt::format("does not attach {}", name),
               .file = project.file().string(),
               .hint = known.empty() ? fmt::format("attach it first: fibula attach {}", name)
                                     : fmt::format("it attaches {}", text::join(known, ", "))});
}

}  // namespace fibula
