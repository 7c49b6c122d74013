#include <fibula/compare.hpp>

#include "base/names.hpp"
#include "base/text.hpp"
#include "compare/project_uses.hpp"
#include "compare/side.hpp"
#include "compare/staged_differences.hpp"
#include "os/parallel.hpp"
#include "os/stamp.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <array>
#include <map>
#include <optional>
#include <set>

namespace fibula {
namespace {

constexpr Name<DifferenceKind> kinds[] = {{DifferenceKind::file, "file"},
                                          {DifferenceKind::variant, "variant"},
                                          {DifferenceKind::target, "target"},
                                          {DifferenceKind::symbol, "symbol"},
                                          {DifferenceKind::symbol_version, "symbol-version"},
                                          {DifferenceKind::data_size, "data-size"},
                                          {DifferenceKind::soname, "soname"},
                                          {DifferenceKind::need, "need"},
                                          {DifferenceKind::floor, "floor"},
                                          {DifferenceKind::layout, "layout"},
                                          {DifferenceKind::enumerator, "enumerator"},
                                          {DifferenceKind::virtual_table, "virtual-table"},
                                          {DifferenceKind::signature, "signature"},
                                          {DifferenceKind::declaration, "declaration"},
                                          {DifferenceKind::default_argument, "default-argument"},
                                          {DifferenceKind::macro, "macro"},
                                          {DifferenceKind::header, "header"}};
constexpr Name<Alteration> alterations[] = {
    {Alteration::removed, "removed"}, {Alteration::added, "added"}, {Alteration::changed, "changed"}};
constexpr Name<Effect> effects[] = {
    {Effect::none, "none"}, {Effect::doubt, "doubt"}, {Effect::source, "source"}, {Effect::built, "built"}};

std::string sentence(const Difference& difference) {
  std::string text = difference.name;
  if (!difference.before.empty() && !difference.after.empty())
    text += fmt::format(" ({} -> {})", difference.before, difference.after);
  else if (difference.how == Alteration::changed && !difference.before.empty())
    text += fmt::format(" ({} -> none)", difference.before);
  return text + ": " + difference.why;
}

/// What concerns whoever uses the library at all, and not only those who use a name.
bool concerns_all(DifferenceKind kind) {
  switch (kind) {
    case DifferenceKind::file:
    case DifferenceKind::variant:
    case DifferenceKind::target:
    case DifferenceKind::soname:
    case DifferenceKind::need:
    case DifferenceKind::floor: return true;
    default: return false;
  }
}

class LibraryComparison {
 public:
  LibraryComparison(const CompareContext& context, ComparedSide first, ComparedSide second)
      : context_(context), first_(std::move(first)), second_(std::move(second)) {}

  Result<Comparison> run() {
    found_.first = first_.shown;
    found_.second = second_.shown;
    PairedVariants pairing = pair_variants(first_, second_);
    found_.differences = std::move(pairing.unpaired);
    read_headers();
    const Both<HeaderFacts> headers{headers_[0], headers_[1]};
    for (const auto& pair : pairing.pairs) {
      for (const auto& [one, other] : pair.files) {
        const size_t before = found_.differences.size();
        if (auto done = compare_files(one, other, headers); !done) return pass(done);
        for (size_t i = before; i < found_.differences.size(); ++i) {
          if (!pair.variant.empty()) found_.differences[i].variants.push_back(pair.variant);
        }
      }
    }
    compare_headers(headers, found_.differences);
    compare_header_types(headers);
    merge_repeated();
    judge_project();
    found_.everyone = verdict(false);
    return std::move(found_);
  }

 private:
  void read_headers() {
    std::optional<Toolchain> asked;
    const Toolchain* toolchain = context_.toolchain;
    const bool any = !first_.card.public_headers.empty() || !second_.card.public_headers.empty();
    if (toolchain == nullptr && any) {
      if (auto answer = ask({"g++"}, context_.cache)) toolchain = &asked.emplace(std::move(*answer));
    }
    headers_[0] = read_header_facts(first_.card, toolchain, required_folders(first_.card));
    headers_[1] = read_header_facts(second_.card, toolchain, required_folders(second_.card));
    for (size_t i = 0; i < 2; ++i) {
      if (!headers_[i].problem.empty())
        found_.not_compared.push_back(
            fmt::format("headers of {}: {}", (i == 0 ? first_ : second_).shown, headers_[i].problem));
    }
  }

  /// Of the libraries that it requires, as far as they are on the shelf.
  std::vector<std::filesystem::path> required_folders(const Card& card) const {
    std::vector<std::filesystem::path> folders;
    for (const auto& required : card.requirements) {
      if (required.library.empty()) continue;
      const auto versions = context_.shelf.versions(required.library);
      if (!versions || versions->empty()) continue;
      const Card& newest = versions->front();
      for (const auto& directory : newest.include_directories_for()) folders.push_back(newest.root / directory);
    }
    return folders;
  }

  Result<void> compare_files(const std::string& one, const std::string& other, const Both<HeaderFacts>& headers) {
    std::array<Result<ComparedBinary>, 2> read{Result<ComparedBinary>(ComparedBinary{}), ComparedBinary{}};
    each_in_parallel(2, 1, [&](size_t i) {
      read[i] = i == 0 ? read_binary(first_.card.root, one) : read_binary(second_.card.root, other);
    });
    for (auto& binary : read) {
      if (!binary) return pass(binary);
    }
    const Both<ComparedBinary> binaries{*read[0], *read[1]};
    compare_loading(binaries, found_.differences);
    compare_symbols(binaries, headers, found_.differences);
    if (read[0]->types.empty() || read[1]->types.empty()) return {};
    // Other builds may lay types out otherwise.
    std::set<std::string> of_this_build;
    compare_types({read[0]->types, read[1]->types}, headers, read[1]->shown, of_this_build, found_.differences);
    types_told_.merge(of_this_build);
    return {};
  }

  /// What binaries do not tell of types, the headers do.
  void compare_header_types(const Both<HeaderFacts>& headers) {
    if (headers.first.read && headers.second.read) {
      compare_types({headers.first.types, headers.second.types}, headers, second_.shown, types_told_,
                    found_.differences);
    } else if (types_told_.empty()) {
      found_.not_compared.push_back(
          first_.single.empty() && (headers.first.there || headers.second.there)
              ? "layouts of types: no debugging records on both sides, and no headers that were read on both"
              : "layouts of types: no debugging records on both sides, and no headers");
    }
  }

  /// The same in several builds is told once, at its worst; that a function went says that its declaration did.
  void merge_repeated() {
    std::stable_sort(found_.differences.begin(), found_.differences.end(),
                     [](const Difference& a, const Difference& b) { return a.effect > b.effect; });
    std::map<std::tuple<DifferenceKind, Alteration, std::string, std::string, std::string>, size_t> seen;
    std::vector<Difference> told;
    for (auto& d : found_.differences) {
      const std::string last = last_part(d.name);
      const bool said = d.kind == DifferenceKind::declaration && gone_.contains(last);
      if (d.kind == DifferenceKind::symbol && d.effect == Effect::built) gone_.insert(last);
      const auto [at, fresh] = seen.try_emplace({d.kind, d.how, d.name, d.before, d.after}, told.size());
      if (!fresh) {
        auto& first = told[at->second].variants;
        first.insert(first.end(), d.variants.begin(), d.variants.end());
      } else if (!said) {
        told.push_back(std::move(d));
      } else {
        seen.erase(at);
      }
    }
    found_.differences = std::move(told);
  }

  void judge_project() {
    if (context_.project == nullptr) return;
    const Project& project = *context_.project;
    const std::string& name = first_.card.name;
    const bool attached = std::any_of(project.libraries().begin(), project.libraries().end(),
                                      [&](const LibraryUse& use) { return use.name == name; });
    if (!attached) return;
    std::vector<Fit> fits;
    for (auto& fit : fit_all(project, project.lanes(), context_.shelf, {.cache = context_.cache})) {
      if (fit) fits.push_back(std::move(*fit));
    }
    for (const auto& fit : fits) {
      for (const auto& library : fit.libraries) {
        if (library.name == name && !library.variant.empty()) variants_.insert(library.variant);
        if (library.name == name && library.linkage == Linkage::shared) shared_ = true;
      }
    }
    find_uses(project, fits, name, found_.differences);
    found_.for_project = true;
    found_.project = verdict(true);
  }

  bool concerns_project(const Difference& difference) const {
    const bool of_others = !difference.variants.empty() && !variants_.empty() &&
                           std::none_of(difference.variants.begin(), difference.variants.end(),
                                        [&](const std::string& variant) { return variants_.contains(variant); });
    if (of_others) return false;
    if (!concerns_all(difference.kind)) return !difference.used_by.empty();
    if (difference.kind == DifferenceKind::variant) return variants_.contains(difference.name);
    const bool of_loading = difference.kind == DifferenceKind::soname || difference.kind == DifferenceKind::need;
    return !of_loading || shared_;
  }

  StandInAnswer verdict(bool of_project) const {
    StandInAnswer answer;
    for (const auto& difference : found_.differences) {
      if (of_project && !concerns_project(difference)) continue;
      if (difference.effect == Effect::built) answer.because.push_back(sentence(difference));
      if (difference.effect == Effect::doubt) answer.doubts.push_back(sentence(difference));
    }
    answer.yes = answer.because.empty();
    return answer;
  }

  const CompareContext& context_;
  ComparedSide first_, second_;
  std::array<HeaderFacts, 2> headers_;
  Comparison found_;
  std::set<std::string> variants_;    ///< that the project's lanes use
  bool shared_ = false;               ///< one of them is
  std::set<std::string> gone_;        ///< functions without a definition now
  std::set<std::string> types_told_;  ///< by debugging records
};

}  // namespace

std::string_view to_string(DifferenceKind kind) {
  return name_in<DifferenceKind>(kinds, kind);
}
std::string_view to_string(Alteration how) {
  return name_in<Alteration>(alterations, how);
}
std::string_view to_string(Effect effect) {
  return name_in<Effect>(effects, effect);
}

Result<Comparison> compare(const std::string& first, const std::string& second, const CompareContext& context) {
  const auto unlike = [&] {
    return fail({.code = Code::usage,
                 .what = fmt::format("{} and {} are not of one kind", first, second),
                 .hint = "name two files, two folders, or two versions on the shelf"});
  };
  const Stamp here = stamp_of(first), there = stamp_of(second);
  if (here.there() && there.there() && here.is_file() != there.is_file()) return unlike();
  auto one = find_side(first, {}, context.shelf);
  if (!one) return pass(one);
  auto other = find_side(second, first, context.shelf);
  if (!other) return pass(other);
  if (!one->staged.empty() && !other->staged.empty()) {
    auto found = compare_staged(one->staged, other->staged);
    if (!found) return pass(found);
    return Comparison{
        .first = one->shown, .second = other->shown, .differences = std::move(*found), .of_folders = true};
  }
  if (one->single.empty() != other->single.empty() || one->staged.empty() != other->staged.empty()) return unlike();
  return LibraryComparison(context, std::move(*one), std::move(*other)).run();
}

}  // namespace fibula
