#include <fibula/gather.hpp>

#include "card/source_form.hpp"
#include "choose/source_choice.hpp"
#include "fit/changed_in_place.hpp"
#include "fit/gathered.hpp"
#include "fit/given_program.hpp"
#include "fit/lane_headers.hpp"
#include "link/mentions.hpp"
#include "os/digest_list.hpp"
#include "os/host.hpp"
#include "os/parallel.hpp"
#include "project/only_for.hpp"
#include "project/uses.hpp"
#include "toolchain/options.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// A lane in which nothing of the project can be made: microcontrollers have nobody to load a shared library.
std::optional<Error> useless(const Project& project, const Lane& lane, const Toolchain& toolchain) {
  const auto& outputs = project.outputs();
  const auto is_shared = [](const Output& output) { return output.kind == OutputKind::shared_library; };
  if (outputs.empty() || !toolchain.bare_metal() || !std::all_of(outputs.begin(), outputs.end(), is_shared))
    return std::nullopt;
  return Error{.code = Code::refused,
               .what = fmt::format("lane {} can make none of the outputs: all are shared libraries, and {} makes code "
                                   "for a machine without a loader",
                                   lane.name, lane.compiler),
               .file = project.file().string(),
               .line = lane.line,
               .hint = "remove the lane, or add an output of kind program or static-library"};
}

/// Finds out what one lane needs.
class LaneGatherer {
 public:
  LaneGatherer(Gathered::State& state, GatheredLane& lane) : state_(state), project_(state.project), lane_(lane) {}

  /// What is chosen; lanes can do this side by side.
  Result<void> choose() {
    if (auto error = useless(project_, lane_.lane, lane_.toolchain)) return fail(std::move(*error));
    find_uses();
    return choose_libraries();
  }

  /// What was chosen is brought.
  Result<void> bring() {
    for (const auto& [name, choice] : lane_.choices) {
      if (!choice.card) continue;
      if (auto here = state_.shelf.bring(*choice.card); !here) return here;
    }
    for (const auto& [name, choice] : lane_.choices) {
      if (auto changed = changed_in_place(choice, state_.cache)) lane_.changed.push_back(std::move(*changed));
    }
    find_placed();
    return {};
  }

 private:
  /// What every output uses, and what every library is used for.
  void find_uses() {
    for (const auto& output : project_.outputs()) {
      auto& uses = lane_.uses[output.name] = project_.uses(output, lane_.lane);
      for (const auto& use : uses) {
        auto [purpose, fresh] = purposes_.try_emplace(use.name);
        auto& [program, shared, definitions] = purpose->second;
        if (fresh) definitions = lane_.lane.definitions;
        program = program || output.kind == OutputKind::program;
        shared = shared || output.kind == OutputKind::shared_library;
        definitions.insert(definitions.end(), output.definitions.begin(), output.definitions.end());
      }
    }
  }

  /// One version of each library, of those that are required too; what uses the one then uses the other.
  Result<void> choose_libraries() {
    std::vector<Wanted> wanted;
    for (const auto& output : project_.outputs()) {
      for (const auto& use : lane_.uses.at(output.name)) {
        const auto known = [&](const Wanted& one) { return one.use.name == use.name; };
        if (std::none_of(wanted.begin(), wanted.end(), known)) wanted.push_back({use, purposes_.at(use.name)});
      }
    }
    const Chooser chooser{project_, lane_.lane, lane_.toolchain, state_.cards, &state_.lock};
    auto set = choose_set(wanted, chooser);
    if (!set) return pass(set);
    if (auto settled = settle_sources(*set, chooser, own_store_of(project_, lane_.lane)); !settled) return settled;
    lane_.choices = std::move(set->choices);
    for (auto& [output, uses] : lane_.uses) {
      for (size_t i = 0; i < uses.size(); ++i) {
        for (const auto& required : set->requires_[uses[i].name]) {
          const auto known = [&](const LibraryUse& use) { return use.name == required; };
          if (std::none_of(uses.begin(), uses.end(), known)) uses.push_back(lane_.choices.at(required).use);
        }
      }
    }
    return {};
  }

  /// What an earlier build put beside the programs is not there by itself.
  void find_placed() {
    const auto list = read_digest_list(project_.folder_of(lane_.lane) / "placed.sha256", "");
    for (const auto& file : list.value_or(DigestList())) lane_.placed.insert(file.file);
  }

  Gathered::State& state_;
  const Project& project_;
  GatheredLane& lane_;
  std::map<std::string, Purpose> purposes_;  ///< by library
};

void note(GatheredLane& lane, Result<void> done) {
  if (!done) lane.problem = std::move(done.error());
}

Error about_lane(Error error, const Project& project, const Lane& lane) {
  error.what = fmt::format("lane {}: compiler {} {}", lane.name, error.file, error.what);
  error.file = project.file().string();
  error.line = lane.line;
  return error;
}

/// An output's own flags (`-nostartfiles`, `-static`) change what the driver adds to its link. The lane's are later on
/// the line, and win.
void ask_for_outputs(const Project& project, std::vector<GatheredLane>& lanes, const Cache& cache) {
  std::vector<Question> questions;
  std::vector<std::pair<GatheredLane*, const Output*>> whose;
  for (auto& lane : lanes) {
    if (lane.problem) continue;
    for (const auto& output : project.outputs()) {
      Question question{lane.lane.compiler, driver_flags(lane.toolchain.family, output.flags)};
      if (question.flags.empty()) continue;
      question.flags.insert(question.flags.end(), lane.lane.flags.begin(), lane.lane.flags.end());
      questions.push_back(std::move(question));
      whose.emplace_back(&lane, &output);
    }
  }
  auto answers = ask_all(questions, cache);
  for (size_t i = 0; i < answers.size(); ++i) {
    const auto [lane, output] = whose[i];
    if (answers[i]) {
      lane->linking.emplace(output->name, std::move(*answers[i]));
    } else {
      lane->problem = about_lane(answers[i].error(), project, lane->lane);
      lane->problem->what += fmt::format(", with the flags of output {}", output->name);
    }
  }
}

}  // namespace

const Toolchain& GatheredLane::toolchain_for(const std::string& output) const {
  const auto own = linking.find(output);
  return own == linking.end() ? toolchain : own->second;
}

bool has_its_headers(const Choice& choice) {
  return !choice.is_pending() || (choice.source->headers.empty() && choice.source->steps.empty());
}

fs::path own_store_of(const Project& project, const Lane& lane) {
  return project.folder_of(lane) / "libraries";
}

const GatheredLane* Gathered::State::lane_named(const std::string& name) const {
  const auto place = std::find_if(found.begin(), found.end(), [&](const auto& one) { return one.lane.name == name; });
  return place == found.end() ? nullptr : &*place;
}

const std::set<std::string, std::less<>>& Gathered::State::mentions_of(const std::string& output) {
  const std::lock_guard alone(reading_);
  const auto [known, fresh] = mentions_.try_emplace(output);
  if (fresh) known->second = identifiers_in_files(sources.at(output));
  return known->second;
}

namespace {

std::vector<fs::path> for_lane(const Gathered::State& state, const Output& output, const Lane& lane,
                               const std::vector<fs::path>& files) {
  const GatheredLane* found = state.lane_named(lane.name);
  const std::string system = found == nullptr ? std::string() : system_name(found->toolchain);
  return files_for_lane(state.project, output, files, lane.name, system);
}

}  // namespace

std::vector<fs::path> Gathered::State::sources_for(const Output& output, const Lane& lane) const {
  return for_lane(*this, output, lane, sources.at(output.name));
}

std::vector<fs::path> Gathered::State::given_for(const Output& output, const Lane& lane) const {
  return for_lane(*this, output, lane, given.at(output.name));
}

const Project& Gathered::project() const {
  return state_->project;
}

const std::vector<Lane>& Gathered::lanes() const {
  return state_->lanes;
}

Result<Gathered> gather_choices(const Project& project, const std::vector<Lane>& lanes, const Shelf& shelf,
                                const GatherOptions& options) {
  if (auto known = check_uses(project.libraries(), project.outputs(), project.file()); !known) return pass(known);
  const Project whole = project.with_program_made_elsewhere();
  auto files = whole.files();
  if (!files) return pass(files);
  auto state = std::make_shared<Gathered::State>(whole, shelf, options.cache);
  if (!options.anew) {
    auto lock = Lock::read(project, options.cache);
    if (!lock) return pass(lock);
    state->lock = std::move(*lock);
  }
  for (size_t i = 0; i < files->size(); ++i) {
    state->sources[whole.outputs()[i].name] = std::move((*files)[i].sources);
    state->given[whole.outputs()[i].name] = std::move((*files)[i].given);
  }
  state->cards.read_ahead(project.libraries());
  std::vector<Question> questions;
  for (const auto& lane : lanes) questions.push_back({lane.compiler, lane.flags});
  auto answers = ask_all(questions, options.cache);
  state->lanes = lanes;
  state->found.resize(lanes.size());
  for (size_t i = 0; i < lanes.size(); ++i) {
    GatheredLane& lane = state->found[i];
    lane.lane = lanes[i];
    if (!answers[i]) {
      lane.problem = about_lane(answers[i].error(), project, lanes[i]);
      continue;
    }
    lane.toolchain = std::move(*answers[i]);
  }
  ask_for_outputs(whole, state->found, options.cache);
  each_in_parallel(state->found.size(), 2, [&](size_t i) {
    GatheredLane& lane = state->found[i];
    if (!lane.problem) note(lane, LaneGatherer(*state, lane).choose());
  });
  return Gathered(std::move(state));
}

void read_choices(const Gathered& gathered, const std::vector<Lane>& lanes) {
  auto& state = gathered.state();
  std::vector<GatheredLane*> asked;
  for (auto& found : state.found) {
    const auto is_it = [&](const Lane& lane) { return lane.name == found.lane.name; };
    if (found.problem || std::none_of(lanes.begin(), lanes.end(), is_it)) continue;
    note(found, LaneGatherer(state, found).bring());
    if (!found.problem) asked.push_back(&found);
  }
  std::vector<std::optional<Result<LaneHeaders>>> headers(asked.size());
  each_in_parallel(asked.size(), 2, [&](size_t i) { headers[i].emplace(headers_of_lane(state, *asked[i])); });
  for (size_t i = 0; i < asked.size(); ++i) {
    if (const auto& found = *headers[i]) {
      read_headers(*found, *asked[i], state.cache);
    } else {
      note(*asked[i], fail(found.error()));
    }
  }
}

void refuse_not_built(const Gathered& gathered, const std::string& lane, const std::map<std::string, Misfit>& failed) {
  for (auto& found : gathered.state().found) {
    if (found.lane.name != lane) continue;
    for (auto& [name, choice] : found.choices) {
      const auto why = failed.find(name);
      if (why == failed.end() || !choice.is_pending()) continue;
      choice.chosen.misfits.push_back(why->second);
      choice.chosen.verdict = Verdict::misfit;
    }
  }
}

Result<Gathered> gather(const Project& project, const std::vector<Lane>& lanes, const Shelf& shelf,
                        const GatherOptions& options) {
  auto gathered = gather_choices(project, lanes, shelf, options);
  if (!gathered) return gathered;
  if (auto added = add_program(gathered->state(), options.program); !added) return pass(added);
  read_choices(*gathered, lanes);
  return gathered;
}

}  // namespace fibula
