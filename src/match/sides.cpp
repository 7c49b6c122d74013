#include "match/sides.hpp"

#include "base/text.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

std::string subject_of(const Pairing& p) {
  return p.variant.link.empty() ? p.variant.id : (p.card.root / p.variant.link.front()).string();
}

/// How a value was learnt; the file is left out when the sentence has named it already.
std::string how(const Pairing& p, const std::string& fact) {
  const auto learnt = p.variant.learnt.find(fact);
  if (learnt == p.variant.learnt.end()) return {};
  Learnt told = learnt->second;
  if (!p.variant.link.empty() && told.file == p.variant.link.front()) told.file.clear();
  return " (" + to_text(told) + ")";
}

std::string asked(const Pairing& p) {
  std::string text = p.lane.compiler;
  for (const auto& flag : p.lane.flags) text += " " + flag;
  return text;
}

Misfit said(const Pairing& p, Verdict verdict, Words words) {
  return {.rule = std::move(words.rule),
          .verdict = verdict,
          .subject = subject_of(p),
          .library = p.card.name,
          .evidence = std::move(words.evidence),
          .remedy = std::move(words.remedy)};
}

}  // namespace

std::string lane_named(const Pairing& p) {
  return p.lane.name.empty() ? "the command" : "lane " + p.lane.name;
}

std::string with_flag(const Pairing& p, const std::string& flag) {
  return p.lane.name.empty() ? fmt::format("add {} to the command", flag)
                             : fmt::format("give the lane flags = [\"{}\"]", flag);
}

std::string variant_is(const Pairing& p, const std::string& fact, std::string_view what) {
  return fmt::format("{} is {}{}", subject_of(p), what, how(p, fact));
}

std::string variant_has(const Pairing& p, const std::string& fact) {
  const auto found = p.variant.facts.find(fact);
  const std::string shown = found == p.variant.facts.end() ? std::string() : to_text(found->second);
  return fmt::format("{} has {} {}{}", subject_of(p), fact, shown, how(p, fact));
}

std::string lane_needs(const Pairing& p, std::string_view what) {
  return fmt::format("{} needs {} (asked: {})", lane_named(p), what, asked(p));
}

std::string lane_is(const Pairing& p, std::string_view what) {
  return fmt::format("{} is {} (asked: {})", lane_named(p), what, asked(p));
}

std::string lane_has(const Pairing& p, const std::string& id, std::string_view named) {
  const Answer* answer = p.toolchain.answer(id);
  return fmt::format("{} has {} {} ({} of {})", lane_named(p), named, answer == nullptr ? "?" : to_text(*answer),
                     answer == nullptr ? "" : answer->from, asked(p));
}

const std::string& answer_of(const Pairing& p, std::string_view id) {
  static const std::string untold;
  const Answer* answer = p.toolchain.answer(id);
  return answer == nullptr ? untold : answer->value;
}

Misfit misfit(const Pairing& p, Words words) {
  return said(p, Verdict::misfit, std::move(words));
}

Misfit caution(const Pairing& p, Words words) {
  return said(p, Verdict::caution, std::move(words));
}

Misfit fine(const Pairing& p, Words words) {
  return said(p, Verdict::ok, std::move(words));
}

Misfit unknown(const Pairing& p, const std::string& rule, const std::string& what) {
  return said(p, Verdict::unknown, {.rule = rule, .evidence = {what}});
}

bool is_shared(const Pairing& p) {
  return p.variant.linkage == Linkage::shared;
}

namespace {

/// What a build must be for, as far as it concerns this library: one in C does not care for the C++ run-time.
std::string made_for(const Pairing& p) {
  std::string text = to_string(p.toolchain.target);
  const bool cxx = !p.variant.fact("cxx-runtime").empty() || p.variant.fact("interface") == "C++";
  const auto add = [&](const char* id, std::string_view form) {
    if (const auto value = answer_of(p, id); !value.empty()) text += fmt::format(fmt::runtime(form), value);
  };
  add("c-runtime", ", {}");
  if (cxx && answer_of(p, "cxx-runtime") != "msvc") add("cxx-runtime", ", {}");
  if (cxx) add("string-abi", " with the {} string ABI");
  if (cxx) add("threads", ", {} threads");
  add("float-abi", ", {} float ABI");
  return text;
}

std::string linkage_word(const Pairing& p) {
  const Linkage linkage = p.toolchain.static_link ? Linkage::static_ : p.use.linkage;
  return linkage == Linkage::any ? std::string() : fmt::format("{} ", to_string(linkage));
}

}  // namespace

std::string wanted_build(const Pairing& p) {
  return fmt::format("a {}build for {}", linkage_word(p), made_for(p));
}

std::string take_another(const Pairing& p) {
  return fmt::format("take a {}build of {} for {}", linkage_word(p), p.card.name, made_for(p));
}

}  // namespace fibula
