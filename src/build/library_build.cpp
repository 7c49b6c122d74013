#include "build/library_build.hpp"

#include "base/text.hpp"
#include "build/own_steps.hpp"
#include "fit/gathered.hpp"
#include "os/files.hpp"
#include "os/folder.hpp"
#include "os/stamp.hpp"
#include "shelf/built.hpp"
#include "take/sources/template_header.hpp"

#include <fibula/take.hpp>
#include <fibula/trust.hpp>

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

/// Where what is made lies before it is kept: like a prefix.
std::string product_name(const SourcePlan& plan, const Toolchain& toolchain) {
  const std::string& name = plan.card->name;
  const std::string stem = name.starts_with("lib") ? name : "lib" + name;
  const Format format = toolchain.target.format;
  if (plan.linkage == Linkage::shared && format == Format::pe) return "bin/" + name + ".dll";
  if (plan.linkage == Linkage::shared) return fmt::format("lib/{}{}", stem, format == Format::macho ? ".dylib" : ".so");
  return toolchain.family == CompilerFamily::msvc ? "lib/" + name + ".lib" : "lib/" + stem + ".a";
}

/// Of this linkage one, or each of those among which a person is to pick.
void keep_picks(std::vector<Variant>& variants, Linkage linkage) {
  std::set<std::map<std::string, std::string>> picks;
  std::erase_if(variants, [&](const Variant& variant) {
    return variant.linkage != linkage || !picks.insert(variant.choices).second;
  });
}

/// What was made, told as a card tells it: facts are read from the bytes like those of any other binary.
Result<Card> described(const fs::path& files, const SourcePlan& plan, const Lane& lane, const Toolchain& toolchain) {
  auto taken = describe(files);
  if (!taken) return pass(taken);
  Card card = std::move(taken->card);
  card.name = plan.card->name;
  card.version = plan.card->version;
  card.licence = plan.card->licence;
  card.origin = {.kind = "source", .path = plan.card->origin.path, .sha256 = {}, .commit = plan.card->origin.commit};
  card.in_place = false;
  card.source = {};
  keep_picks(card.variants, plan.linkage);
  for (auto& variant : card.variants) {
    variant.id = built_variant_id(plan, toolchain.target, lane.configuration);
    for (const auto& [name, pick] : variant.choices) variant.id += "-" + pick;
    variant.configuration = lane.configuration;
    variant.learnt["configuration"] = {
        .certainty = Certainty::read, .file = {}, .from = "the lane that it was built for"};
    variant.definitions.insert(variant.definitions.end(), plan.user_definitions.begin(), plan.user_definitions.end());
    variant.flags = plan.user_flags;
  }
  return card;
}

/// What a made header lacks is the first thing to look at.
std::string compile_remedy(const SourcePlan& plan) {
  constexpr size_t enough = 4;
  for (const auto& header : plan.headers) {
    auto open = names_left_open(header.text);
    if (open.empty()) continue;
    if (open.size() > enough) open.resize(enough);
    return fmt::format("see what the compiler said; {}, which is made, has no value for {}: give it one in {}",
                       header.path, text::join(open, ", "), (plan.card->entry / "card.toml").string());
  }
  return "see what the compiler said; correct the card's [source]";
}

}  // namespace

LibraryBuild::LibraryBuild(const Project& project, const Shelf& shelf, const GatheredLane& lane, const Choice& choice,
                           Stepped stepped)
    : project_(project),
      shelf_(shelf),
      lane_(lane),
      choice_(choice),
      stepped_(std::move(stepped)),
      work_(own_store_of(project, lane.lane) / choice.use.name) {}

void LibraryBuild::fail_because(const std::string& what, const std::string& remedy) {
  phase_ = Phase::failed;
  failure_ = Misfit{.rule = "source",
                    .subject = name(),
                    .library = name(),
                    .evidence = {fmt::format("{} {} comes as source", name(), plan().card->version), what},
                    .remedy = remedy};
  if (runner_ != nullptr) runner_->give_up(*record_);
}

Result<void> LibraryBuild::begin(JobRunner& runner, const std::vector<const Choice*>& required,
                                 const BuildOptions& options, std::function<void()> advanced) {
  runner_ = &runner;
  advanced_ = std::move(advanced);
  phase_ = Phase::building;
  record_.emplace(work_ / "record");
  fit_ = library_fit(plan(), lane_.lane, lane_.toolchain, work_ / "include", required);
  fit_->fit.folder = project_.folder_of(lane_.lane);
  if (!plan().steps.empty()) return begin_steps(required, options);
  if (auto written = write_headers(); !written) return written;
  jobs_.emplace(project_, fit_->fit);
  begin_compiling();
  return {};
}

/// Headers that a configure step would have made.
Result<void> LibraryBuild::write_headers() const {
  if (plan().headers.empty()) return {};
  const auto folder = Folder::make_in(project_.root(), shown_from(project_.root(), work_ / "include"));
  if (!folder) return fail(folder.error());
  const auto below = Folder::make_in(folder->path(), seen_from_below);
  if (!below) return fail(below.error());
  for (const auto& header : plan().headers) {
    if (auto written = folder->write_if_changed(header.path, header.text); !written) return pass(written);
  }
  return {};
}

fs::path LibraryBuild::object_of(const fs::path& source) const {
  return work_ / "objects" / (shown_from(plan().card->root, source) + ".o");
}

void LibraryBuild::add(Job job, std::function<void(bool)> ended) {
  job.contained = true;  // who does without this library is built all the same
  const bool added = runner_->add(std::move(job), *record_, [this, ended](const Job& done, JobOutcome outcome) {
    BuildStep step{.kind = static_cast<BuildStep::Kind>(done.kind),
                   .lane = done.lane,
                   .subject = done.subject,
                   .command = command_making(done, done.product),
                   .library = name(),
                   .good = outcome.good,
                   .log = {},
                   .cause = std::move(outcome.cause)};
    // Warnings about a library's own code are for those who make it.
    if (!outcome.good) step.log = done.kind == Job::Kind::steps ? failed_steps(outcome.log) : std::move(outcome.log);
    if (done.kind == Job::Kind::steps) {
      if (const auto folder = Folder::open(work_)) (void)folder->write("steps.log", outcome.log);
    }
    ended(outcome.good);
    stepped_(step);
    advanced_();
  });
  if (!added) ended(true);
}

void LibraryBuild::begin_compiling() {
  compiles_ = plan().sources.size();
  for (const auto& source : plan().sources) objects_.push_back(object_of(source));
  for (size_t i = 0; i < objects_.size(); ++i) {
    Job job = jobs_->compile(fit_->output, plan().sources[i]);
    job.subject = fmt::format("{}: {}", name(), shown_from(plan().card->root, plan().sources[i]));
    job.product = objects_[i].string();
    job.directory = plan().card->root;
    add(std::move(job), [this](bool good) {
      --compiles_;
      if (!good && phase_ == Phase::building)
        fail_because("compiling it failed in lane " + lane(), compile_remedy(plan()));
      if (compiles_ == 0 && phase_ == Phase::building) combine();
    });
  }
}

void LibraryBuild::combine() {
  const Toolchain& toolchain = lane_.toolchain;
  const bool shared = plan().linkage == Linkage::shared;
  Job job = shared ? jobs_->link(fit_->output, objects_) : jobs_->archive(fit_->output, objects_);
  const fs::path product = work_ / "files" / product_name(plan(), toolchain);
  job.subject = name();
  job.product = product.string();
  if (shared && toolchain.target.format == Format::pe) {
    // Whoever links it is given its import library.
    const fs::path import = work_ / "files/lib" / fmt::format("lib{}.dll.a", name());
    job.command.push_back("-Wl,--out-implib=" + import.string());
    job.in_place = true;
    if (auto made = Folder::make_in(project_.root(), shown_from(project_.root(), import.parent_path())); !made)
      return fail_because(made.error().what, "make room, or let the folder be written to");
  }
  add(std::move(job), [this](bool good) {
    if (good) return keep();
    fail_because("linking it failed in lane " + lane(), "see what the linker said; correct the card's [source]");
  });
}

/// An agreement holds for these steps in this tree: as long as both are what they were.
bool LibraryBuild::may_run(const BuildOptions& options) const {
  const Card& card = *plan().card;
  const std::string what = fmt::format("{} {}\n{}\n{}", card.name, card.version,
                                       lies_open() ? card.root.string() : card.digest, text::join(plan().steps, "\n"));
  if (is_agreed(what)) return true;
  if (!options.consent || !options.consent({name(), card.version, plan().steps, card.root.string()})) return false;
  // Where it cannot be remembered, it is asked again the next time.
  static_cast<void>(note_agreement(what));
  return true;
}

Result<void> LibraryBuild::begin_steps(const std::vector<const Choice*>& required, const BuildOptions& options) {
  if (!may_run(options)) {
    fail_because("its own build steps run only when you agree: " + text::join(plan().steps, "; "),
                 "look at the steps, then: fibula build --allow-steps");
    return {};
  }
  const StepsPlace place{work_ / "tree", work_ / "prefix", work_ / "done/steps"};
  const auto lane = Folder::make_in(project_.root(), shown_from(project_.root(), project_.folder_of(lane_.lane)));
  if (!lane) return fail(lane.error());
  // Of an earlier try nothing may be left: what it installed would count as this one's.
  for (const auto& folder : {place.tree, place.prefix, place.done.parent_path()}) {
    if (auto removed = lane->remove_tree(inside_of(*lane, folder)); !removed) return removed;
    if (auto made = lane->make_folder(inside_of(*lane, folder)); !made) return made;
  }
  if (auto laid = lay_out_tree(plan(), place); !laid) return laid;
  auto job = steps_job(plan(), fit_->fit, required, place, options.unsandboxed);
  if (!job) {
    fail_because(job.error().what, job.error().hint);
    return {};
  }
  job->workshop = project_.folder_of(lane_.lane) / "making";
  add(std::move(*job), [this](bool good) {
    if (good) return keep();
    if (is_full(work_)) return give_back();
    fail_because("its own build steps failed in lane " + this->lane(), steps_remedy());
  });
  return {};
}

std::string LibraryBuild::steps_remedy() const {
  const fs::path log = work_ / "steps.log", card = plan().card->entry / "card.toml";
  const std::string option = option_advised(read_text(log).value_or(""));
  if (option.empty())
    return fmt::format("see what they said, whole in {}; correct steps in {}", log.string(), card.string());
  return fmt::format(
      "its configure script says {} would do without what it misses: add that to its line of steps in {}", option,
      card.string());
}

/// Steps filled the disk: what they wrote is in everybody's way.
void LibraryBuild::give_back() {
  for (const auto* written : {"tree", "prefix"}) {
    // Where it cannot be removed, the next build tries again.
    if (const auto folder = Folder::open(work_)) static_cast<void>(folder->remove_tree(written));
  }
  fail_because(
      fmt::format("its own build steps failed in lane {}, with no space left on the disk; what they wrote is removed",
                  lane()),
      "make room on the disk for them, or correct steps in the card");
}

fs::path LibraryBuild::store() const {
  const fs::path shelf = project_.shelf(shelf_).folder();
  return lies_open() || shelf.empty() ? own_store_of(project_, lane_.lane) : shelf;
}

void LibraryBuild::keep() {
  phase_ = Phase::kept;
  if (auto kept = keep_outcome(); !kept) fail_because(render(kept.error()), kept.error().hint);
}

Error LibraryBuild::nothing_made(const fs::path& files) const {
  return {.code = Code::refused,
          .what = fmt::format("no {} library was made", to_string(plan().linkage)),
          .file = files.string(),
          .hint = plan().steps.empty() ? "ask for the other linkage, or correct what its card builds"
                                       : "its steps must install one below $PREFIX: correct them in the card, or ask "
                                         "for the other linkage"};
}

Result<void> LibraryBuild::keep_outcome() {
  const fs::path files = work_ / (plan().steps.empty() ? "files" : "prefix");
  auto card = described(files, plan(), lane_.lane, lane_.toolchain);
  if (!card && card.error().code == Code::refused) return fail(nothing_made(files));
  if (!card) return pass(card);
  if (card->variants.empty()) return fail(nothing_made(files));
  // Of what was changed while it was built nobody knows what went in.
  if (!is_unchanged(plan()))
    return fail({.code = Code::refused,
                 .what = "was changed while it was built",
                 .file = plan().card->root.string(),
                 .hint = "fibula build, once it is as it should be"});
  const auto headers = Folder::open(files);
  if (!headers) return fail(headers.error());
  for (const auto& header : plan().headers) {
    if (!header.for_users) continue;
    if (auto written = headers->write_if_changed("include/" + header.path, header.text); !written) return pass(written);
    for (auto& variant : card->variants) variant.include_directories = {"include"};
  }
  const auto own = Folder::make_in(project_.root(), shown_from(project_.root(), own_store_of(project_, lane_.lane)));
  if (!own) return fail(own.error());
  if (lies_open()) {
    // Only the last one of a folder that people work in is of use.
    if (auto removed = own->remove_tree(fmt::format("{}/{}", built_folder, name())); !removed) return removed;
  }
  auto kept = keep_built(store(), plan().place(), *card, files);
  // A shelf that cannot be written to serves as it is: what is built stays here then.
  if (!kept && store() != own_store_of(project_, lane_.lane))
    kept = keep_built(own_store_of(project_, lane_.lane), plan().place(), *card, files);
  if (!kept) return kept;
  return lies_open() ? Result<void>() : own->remove_tree(name());
}

}  // namespace fibula
