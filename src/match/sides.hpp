/// How rules speak: both sides with where each was read, and what to do.
#pragma once

#include "match/match.hpp"

namespace fibula {

using Rule = std::optional<Misfit> (*)(const Pairing&);

/// The tables, one for each concern.
std::vector<Rule> target_rules();
std::vector<Rule> run_time_rules();
std::vector<Rule> definition_rules();
std::vector<Rule> code_rules();

/// "lane counter"; a lane without a name is a command's: "the command".
std::string lane_named(const Pairing& p);
/// How to add a flag: "give the lane flags = [\"-m32\"]", or "add -m32 to the command".
std::string with_flag(const Pairing& p, const std::string& flag);
/// "/shelf/…/libtide.a is 32-bit x86 (read: ELF header, e_machine)": the variant's file and how the fact was learnt.
std::string variant_is(const Pairing& p, const std::string& fact, std::string_view what);
/// The same with the fact's own value: "… has float-abi soft (read: …)".
std::string variant_has(const Pairing& p, const std::string& fact);
/// "lane counter needs 64-bit x86_64 (asked: g++ -m64)".
std::string lane_needs(const Pairing& p, std::string_view what);
/// "lane counter is clang 14.0.6 (asked: clang++)".
std::string lane_is(const Pairing& p, std::string_view what);
/// "lane counter has float-abi hard (macro __ARM_PCS_VFP of arm-none-eabi-gcc -mcpu=cortex-m4)".
std::string lane_has(const Pairing& p, const std::string& answer, std::string_view named);

/// The lane's answer, or an empty text.
const std::string& answer_of(const Pairing& p, std::string_view id);

struct Words {
  std::string rule;
  std::vector<std::string> evidence;
  std::string remedy;
};
Misfit misfit(const Pairing& p, Words words);
Misfit caution(const Pairing& p, Words words);
/// It looks different, and is none: with the reason.
Misfit fine(const Pairing& p, Words words);
/// A fact that the rule needs is missing on one side.
Misfit unknown(const Pairing& p, const std::string& rule, const std::string& what);

/// "take a static build of tidecalc for …".
std::string take_another(const Pairing& p);

bool is_shared(const Pairing& p);

}  // namespace fibula
