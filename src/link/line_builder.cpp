#include "link/line_builder.hpp"

#include "base/text.hpp"
#include "facts/library_name.hpp"
#include "index/library_search.hpp"
#include "link/providers.hpp"
#include "os/files.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// By its path; a shared library without a soname would be recorded under that path, so it is given by folder and name.
std::vector<std::string> arguments_for(const LinkFile& file) {
  const bool nameless = file.is_shared() && !file.image().soname;
  if (!nameless) return {file.path().string()};
  return {"-L" + file.path().parent_path().string(), "-l:" + file.path().filename().string()};
}

class Builder {
 public:
  Builder(FileStore& files, ProviderStore& providers, const LineQuestion& question, std::vector<Candidate> candidates,
          std::map<fs::path, NeedyLibrary> needy)
      : files_(files),
        providers_(providers),
        q_(question),
        candidates_(std::move(candidates)),
        needy_(std::move(needy)) {}

  Result<BuiltLine> build() {
    if (auto first = settle(); !first) return pass(first);
    if (auto done = complete(); !done) return pass(done);
    if (auto done = leave_out_unused(); !done) return pass(done);
    if (auto done = leave_out_superfluous(); !done) return pass(done);
    if (auto done = dissolve_groups(); !done) return pass(done);
    return BuiltLine{std::move(inputs_), std::move(left_out_), std::move(rehearsal_), std::move(ambiguities_)};
  }

 private:
  /// Orders the candidates, and rehearses the line that they make.
  Result<bool> settle() {
    if (auto ordered = order(); !ordered) return ordered;
    auto rehearsal = rehearse_line(inputs_);
    if (!rehearsal) return pass(rehearsal);
    rehearsal_ = std::move(*rehearsal);
    return true;
  }

  Result<bool> order() {
    std::vector<LinkFile*> libraries;
    for (const auto& candidate : candidates_) {
      auto file = files_.open(candidate.path, q_.toolchain.target);
      if (!file) return pass(file);
      libraries.push_back(*file);
    }
    auto ordered = derive_order(files_, q_.objects, with_entries(), libraries);
    if (!ordered) return pass(ordered);
    used_ = std::move(ordered->used);
    essential_ = std::move(ordered->essential);
    inputs_.clear();
    int groups = 0;
    for (const auto& place : ordered->places) {
      const int group = place.size() > 1 ? ++groups : 0;
      // What a shared library leaves open may be in an archive, and the loader finds it elsewhere too: that is no
      // circle.
      std::vector<size_t> archives;
      std::copy_if(place.begin(), place.end(), std::back_inserter(archives),
                   [&](size_t i) { return !libraries[i]->is_shared(); });
      for (const size_t i : place) {
        const bool circular = archives.size() > 1 && !libraries[i]->is_shared();
        inputs_.push_back(input(i, *libraries[i], why(circular ? archives : std::vector<size_t>{}, i), group));
      }
    }
    return true;
  }

  /// The system's start code asks for the function with which the program begins, which a library may carry.
  StandIn with_entries() const {
    StandIn needs = q_.stand_in;
    if (q_.allow_unresolved) return needs;
    for (const char* name : {"main", "_main", "wmain", "_wmain", "WinMain", "_WinMain@16", "wWinMain", "_wWinMain@16"})
      needs.needs.insert(name);
    return needs;
  }

  LinkInput input(size_t index, const LinkFile& file, std::string why, int group) const {
    const Candidate& candidate = candidates_[index];
    return {.path = candidate.path,
            .arguments = candidate.arguments.empty() ? arguments_for(file) : candidate.arguments,
            .library = candidate.library,
            .why = std::move(why),
            .group = group};
  }

  std::string why(const std::vector<size_t>& circle, size_t index) const {
    const Candidate& candidate = candidates_[index];
    const std::string own = !candidate.why.empty() ? candidate.why
                            // A program may well be called like a library that it uses.
                            : candidate.library == q_.output
                                ? fmt::format("library {} is used by output {}", candidate.library, q_.output)
                                : fmt::format("{} is used by {}", candidate.library, q_.output);
    if (circle.empty()) return own;
    std::vector<std::string> others;
    for (const size_t other : circle) {
      if (other != index) others.push_back(candidates_[other].path.filename().string());
    }
    return fmt::format("{}; needs {} and is needed by it", own, text::join(others, ", "));
  }

  LinkLine line_of(const std::vector<LinkInput>& inputs) const {
    std::vector<LinkStep> steps;
    for (const auto& object : q_.objects) steps.push_back({LinkStep::Kind::file, object.string()});
    for (const auto& object : q_.pending) steps.push_back({LinkStep::Kind::file, object.string()});
    for (auto& step : steps_of(inputs)) steps.push_back(std::move(step));
    LinkLine line = whole_line(q_.toolchain, steps);
    // The libraries' own folders are told to the linker for the needs of shared ones (-rpath-link).
    for (const auto& each : inputs) line.search.push_back(each.path.parent_path());
    return line;
  }

  Result<Rehearsal> rehearse_line(const std::vector<LinkInput>& inputs) {
    return rehearse(files_, line_of(inputs),
                    {.stand_in = q_.objects.empty() ? &q_.stand_in : nullptr,
                     .allow_unresolved = q_.allow_unresolved,
                     .script_symbols = &q_.script_symbols});
  }

  /// Adds what the system has, again and again, since what is added needs things too.
  Result<bool> complete() {
    constexpr int most_rounds = 64;
    if (rehearsal_.unresolved.empty()) return true;
    const ProviderIndices index = providers_.over(q_.toolchain.library_directories);
    const std::set<fs::path> own(q_.objects.begin(), q_.objects.end());
    for (int round = 0; round < most_rounds && !rehearsal_.unresolved.empty(); ++round) {
      std::vector<fs::path> present;
      for (const auto& step : line_of(inputs_).steps) {
        if (step.kind == LinkStep::Kind::file) present.emplace_back(step.name);
      }
      auto found = find_supplies(
          files_, {q_.toolchain, providers_.over(q_.toolchain.library_directories), rehearsal_, present, own, needy_});
      ambiguities_ = std::move(found.ambiguities);
      const bool moved = put_start_code_first();
      if (found.supplies.empty() && !moved) return true;
      for (auto& supply : found.supplies)
        candidates_.push_back({supply.path, "system", std::move(supply.why), std::move(supply.arguments), true});
      if (auto settled = settle(); !settled) return settled;
    }
    return true;
  }

  /// A library of the compiler's own stands behind all others; where its start code needs what one of them defines, it
  /// must stand before that one as well.
  bool put_start_code_first() {
    for (const auto& missing : rehearsal_.unresolved) {
      const auto is_it = [&](const Candidate& candidate) { return candidate.path == missing.file; };
      if (missing.file.empty() || std::any_of(candidates_.begin(), candidates_.end(), is_it)) continue;
      auto needy = files_.open(missing.file);
      if (!needy || (*needy)->archive() == nullptr) continue;
      for (const auto& candidate : candidates_) {
        if (!defines(files_, candidate.path, missing.symbol).value_or(false)) continue;
        const std::string stem = library_stem(missing.file);
        const auto searched = find_library(q_.toolchain.library_directories, stem, q_.toolchain.static_link);
        std::vector<std::string> arguments{searched && *searched == missing.file ? "-l" + stem : missing.file.string()};
        std::string why = fmt::format("its start code needs {}, which {} defines: it must stand before that",
                                      missing.symbol, candidate.path.filename().string());
        candidates_.insert(candidates_.begin(), {missing.file, "system", std::move(why), std::move(arguments), true});
        return true;
      }
    }
    return false;
  }

  /// Whether the line does what it did, with these candidates alone.
  Result<bool> serves_with(std::vector<Candidate> fewer) {
    const auto before = names_left();
    std::swap(candidates_, fewer);
    auto settled = settle();
    if (settled && names_left() == before) return true;
    std::swap(candidates_, fewer);
    if (!settled) return settled;
    if (auto again = settle(); !again) return again;
    return false;
  }

  std::vector<std::string> names_left() const {
    std::vector<std::string> names;
    for (const auto& missing : rehearsal_.unresolved) names.push_back(missing.symbol);
    return names;
  }

  /// Files of the attached libraries that nothing needs are told apart once the objects are known.
  Result<bool> leave_out_unused() {
    // Where something is missing, a file that seems unused may be the one that should have it.
    if (q_.objects.empty() || !rehearsal_.unresolved.empty()) return true;
    std::vector<Candidate> fewer;
    std::vector<LinkInput> left_out;
    for (size_t i = 0; i < candidates_.size(); ++i) {
      if (used_[i] || candidates_[i].derived) {
        fewer.push_back(candidates_[i]);
        continue;
      }
      auto file = files_.open(candidates_[i].path, q_.toolchain.target);
      if (!file) return pass(file);
      left_out.push_back(input(i, **file, fmt::format("left out: nothing in {} needs what it defines", q_.output), 0));
    }
    if (left_out.empty()) return true;
    auto serves = serves_with(std::move(fewer));
    if (serves && *serves) left_out_ = std::move(left_out);
    return serves;
  }

  /// What was added early can be served by what was added later, and a library's further files by others.
  Result<bool> leave_out_superfluous() {
    const auto may_go = [&](size_t i) {
      const Candidate& candidate = candidates_[i];
      if (candidate.derived) return !essential_[i];
      // One of a library's files may have what the C library has too; the one that was asked for by name goes only
      // where another of them has all of it.
      return candidate.several && !q_.objects.empty() && (!candidate.named || !essential_[i]);
    };
    for (size_t i = candidates_.size(); i-- > 0;) {
      if (!may_go(i)) continue;
      auto fewer = candidates_;
      fewer.erase(fewer.begin() + static_cast<std::ptrdiff_t>(i));
      if (auto serves = serves_with(std::move(fewer)); !serves) return serves;
    }
    return true;
  }

  /// A circle of needs is a group only where no order of its files serves.
  Result<bool> dissolve_groups() {
    const int groups = inputs_.empty() ? 0 : std::max_element(inputs_.begin(), inputs_.end(), by_group)->group;
    for (int group = 1; group <= groups; ++group) {
      if (auto done = dissolve(group); !done) return done;
    }
    return true;
  }

  static bool by_group(const LinkInput& a, const LinkInput& b) { return a.group < b.group; }

  Result<bool> dissolve(int group) {
    const auto is_member = [&](const LinkInput& one) { return one.group == group; };
    const auto begin = std::find_if(inputs_.begin(), inputs_.end(), is_member) - inputs_.begin();
    const auto count = std::count_if(inputs_.begin(), inputs_.end(), is_member);
    for (const bool reversed : {false, true}) {
      auto tried = inputs_;
      const auto first = tried.begin() + begin;
      if (reversed) std::reverse(first, first + count);
      for (auto each = first; each != first + count; ++each) each->group = 0;
      auto rehearsal = rehearse_line(tried);
      if (!rehearsal) return pass(rehearsal);
      if (rehearsal->unresolved.size() != rehearsal_.unresolved.size()) continue;
      inputs_ = std::move(tried);
      rehearsal_ = std::move(*rehearsal);
      return true;
    }
    return true;
  }

  FileStore& files_;
  ProviderStore& providers_;
  const LineQuestion& q_;
  std::vector<Candidate> candidates_;
  std::map<fs::path, NeedyLibrary> needy_;
  std::vector<LinkInput> inputs_;
  std::vector<LinkInput> left_out_;
  std::vector<bool> used_, essential_;  ///< by candidate
  Rehearsal rehearsal_;
  std::vector<Ambiguity> ambiguities_;
};

}  // namespace

Result<BuiltLine> build_line(FileStore& files, ProviderStore& providers, const LineQuestion& question,
                             std::vector<Candidate> candidates, std::map<fs::path, NeedyLibrary> needy) {
  return Builder(files, providers, question, std::move(candidates), std::move(needy)).build();
}

}  // namespace fibula
