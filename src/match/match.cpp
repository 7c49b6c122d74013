#include "match/match.hpp"

#include "base/names.hpp"
#include "base/text.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <optional>

namespace fibula {
namespace {

constexpr Name<Verdict> verdicts[] = {
    {Verdict::ok, "ok"}, {Verdict::unknown, "unknown"}, {Verdict::caution, "caution"}, {Verdict::misfit, "misfit"}};

/// The variant's file and how one of its facts was learnt.
std::string variant_side(const Pairing& p, const std::string& fact, std::string_view is) {
  const std::string file = p.variant.link.empty() ? p.card.name : p.variant.link.front();
  const auto learnt = p.variant.learnt.find(fact);
  std::string how = learnt == p.variant.learnt.end() ? "" : " (" + learnt->second + ")";
  // The card says from which file; the sentence has named it.
  const std::string from = " from " + file;
  if (const size_t at = how.find(from); at != std::string::npos) how.erase(at, from.size());
  return fmt::format("{} is {}{}", (p.card.root / file).string(), is, how);
}

std::string lane_side(const Pairing& p, std::string_view needs) {
  std::string flags;
  for (const auto& flag : p.lane.flags) flags += " " + flag;
  return fmt::format("lane {} needs {} (asked: {}{})", p.lane.name, needs, p.lane.compiler, flags);
}

Misfit misfit(const Pairing& p, std::string rule, std::vector<std::string> evidence, std::string remedy) {
  return {.rule = std::move(rule),
          .subject = p.variant.link.empty() ? p.variant.id : (p.card.root / p.variant.link.front()).string(),
          .library = p.card.name,
          .evidence = std::move(evidence),
          .remedy = std::move(remedy)};
}

std::string what_to_get(const Pairing& p) {
  const auto linkage = p.use.linkage == Linkage::any ? std::string() : fmt::format("{} ", to_string(p.use.linkage));
  return fmt::format("take a {}build of {} for {}", linkage, p.card.name, to_string(p.toolchain.target));
}

/// PE images are made of COFF objects: the two names are one family.
bool same_family(Format a, Format b) {
  const auto family = [](Format f) { return f == Format::coff ? Format::pe : f; };
  return family(a) == family(b);
}

std::optional<Misfit> object_format(const Pairing& p) {
  const Format file = p.variant.target.format, lane = p.toolchain.target.format;
  if (same_family(file, lane)) return std::nullopt;
  return misfit(p, "object-format", {variant_side(p, "arch", to_string(file)), lane_side(p, to_string(lane))},
                what_to_get(p));
}

std::optional<Misfit> architecture(const Pairing& p) {
  const Target &file = p.variant.target, &lane = p.toolchain.target;
  if (file.arch == lane.arch && file.bits == lane.bits && file.endian == lane.endian) return std::nullopt;
  if (!same_family(file.format, lane.format)) return std::nullopt;  // object-format has spoken
  const auto described = [](const Target& t) {
    return fmt::format("{}-bit {}, {}-endian", t.bits, to_string(t.arch), to_string(t.endian));
  };
  return misfit(p, "architecture", {variant_side(p, "arch", described(file)), lane_side(p, described(lane))},
                what_to_get(p));
}

std::optional<Misfit> linkage(const Pairing& p) {
  const Linkage wanted = p.toolchain.static_link ? Linkage::static_ : p.use.linkage;
  if (wanted == Linkage::any || wanted == p.variant.linkage) return std::nullopt;
  const std::string asker =
      p.toolchain.static_link
          ? fmt::format("lane {} links everything statically (flag -static)", p.lane.name)
          : fmt::format("{} asks for linkage = \"{}\" (fibula.toml, {})", p.card.name, to_string(wanted), p.use.place);
  return misfit(
      p, "linkage", {variant_side(p, "linkage", to_string(p.variant.linkage)), asker},
      fmt::format("take a {} build of {}, or ask for the linkage that is there", to_string(wanted), p.card.name));
}

using Rule = std::optional<Misfit> (*)(const Pairing&);
constexpr Rule rules[] = {object_format, architecture, linkage};

}  // namespace

std::vector<Misfit> match(const Pairing& pairing) {
  std::vector<Misfit> objections;
  for (const Rule rule : rules) {
    if (auto objection = rule(pairing)) objections.push_back(std::move(*objection));
  }
  return objections;
}

Verdict worst(const std::vector<Misfit>& misfits) {
  Verdict verdict = Verdict::ok;
  for (const auto& misfit : misfits) verdict = std::max(verdict, misfit.verdict);
  return verdict;
}

std::string_view to_string(Verdict verdict) {
  return name_in<Verdict>(verdicts, verdict);
}

std::string Misfit::sentence() const {
  const std::string subject_text = library.empty() ? subject : library;
  std::string text = fmt::format("{}: {}: {}", subject_text, rule, text::join(evidence, "; "));
  return remedy.empty() ? text : text + "; " + remedy;
}

}  // namespace fibula
