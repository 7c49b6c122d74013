/// Sources: the x86-64 psABI ("Micro-Architecture Levels"), the Arm ABI's addendum on build attributes (which
/// architectures are upwards compatible), and the AVR options of GCC's manual.
#include "match/levels.hpp"

#include <algorithm>
#include <array>
#include <iterator>
#include <optional>
#include <span>

namespace fibula {
namespace {

constexpr std::string_view x86_levels[] = {"x86-64", "x86-64-v2", "x86-64-v3", "x86-64-v4"};
constexpr std::string_view arm_classic[] = {"Pre-v4", "v4", "v4T", "v5T", "v5TE", "v5TEJ", "v6", "v6K", "v6KZ", "v6T2"};
constexpr std::string_view arm_applications[] = {"v7-A", "v8-A", "v8.1-A", "v8.2-A", "v8.3-A", "v9-A"};
constexpr std::string_view arm_controllers[] = {"v6-M", "v6S-M", "v7-M", "v7E-M", "v8-M.mainline", "v8.1-M.mainline"};

std::optional<size_t> place_in(std::span<const std::string_view> levels, std::string_view level) {
  const auto found = std::find(levels.begin(), levels.end(), level);
  if (found == levels.end()) return std::nullopt;
  return static_cast<size_t>(found - levels.begin());
}

Reach in_one_line(std::span<const std::string_view> levels, std::string_view code, std::string_view guaranteed) {
  const auto has = place_in(levels, guaranteed), needs = place_in(levels, code);
  if (!has || !needs) return Reach::not_known;
  return *needs <= *has ? Reach::runs : Reach::needs_more;
}

/// Compilers call the Cortex-M0 v6-M in their macros and v6S-M, which has one more instruction, in their files.
std::string_view without_os_extension(std::string_view level) {
  return level == "v6S-M" ? "v6-M" : level;
}

Reach arm(std::string_view code, std::string_view guaranteed) {
  if (without_os_extension(code) == without_os_extension(guaranteed)) return Reach::runs;
  const bool controller = guaranteed.find("-M") != std::string_view::npos;
  const bool for_controller = code.find("-M") != std::string_view::npos;
  const bool for_applications = code.ends_with("-A");
  if ((controller && for_applications) || (for_controller && guaranteed.ends_with("-A"))) return Reach::other_kind;
  if (controller && for_controller) {
    // The small v8-M has all of v6-M and less than v7-M.
    if (guaranteed == "v8-M.baseline")
      return code.starts_with("v6") || code == guaranteed ? Reach::runs : Reach::needs_more;
    if (code == "v8-M.baseline") return guaranteed.starts_with("v8") ? Reach::runs : Reach::needs_more;
    return in_one_line(arm_controllers, code, guaranteed);
  }
  if (!controller && place_in(arm_classic, code)) {
    if (place_in(arm_applications, guaranteed)) return Reach::runs;
    return in_one_line(arm_classic, code, guaranteed);
  }
  // A lane that names no core gets the oldest, which runs the code of none of the later ones.
  if (place_in(arm_classic, guaranteed) && (for_applications || for_controller)) return Reach::needs_more;
  return in_one_line(arm_applications, code, guaranteed);
}

/// One row of GCC's table of AVR devices.
struct AvrLevel {
  std::string_view name;
  bool far_calls;     ///< CALL and JMP, for more than 8 KB of program memory
  bool multiplies;    ///< MUL
  bool moves_words;   ///< MOVW and LPM Rd, Z+
  bool large;         ///< ELPM, for more than 64 KB
  int address_bytes;  ///< that a call leaves on the stack
};
constexpr AvrLevel avr_levels[] = {
    {"avr2", false, false, false, false, 2}, {"avr25", false, false, true, false, 2},
    {"avr3", true, false, false, false, 2},  {"avr31", true, false, false, true, 2},
    {"avr35", true, false, true, false, 2},  {"avr4", false, true, true, false, 2},
    {"avr5", true, true, true, false, 2},    {"avr51", true, true, true, true, 2},
    {"avr6", true, true, true, true, 3},
};

const AvrLevel* avr_level(std::string_view name) {
  const auto found =
      std::find_if(std::begin(avr_levels), std::end(avr_levels), [&](const AvrLevel& row) { return row.name == name; });
  return found == std::end(avr_levels) ? nullptr : &*found;
}

Reach avr(std::string_view code, std::string_view guaranteed) {
  const AvrLevel *needs = avr_level(code), *has = avr_level(guaranteed);
  if (needs == nullptr || has == nullptr) {
    const bool both_newer = needs == nullptr && has == nullptr;
    return both_newer ? Reach::not_known : Reach::other_kind;  // xmega and the reduced core are families of their own
  }
  if (needs->address_bytes != has->address_bytes) return Reach::other_kind;
  const bool more = (needs->far_calls && !has->far_calls) || (needs->multiplies && !has->multiplies) ||
                    (needs->moves_words && !has->moves_words) || (needs->large && !has->large);
  if (more) return Reach::needs_more;
  return has->far_calls && !needs->far_calls ? Reach::near_only : Reach::runs;
}

}  // namespace

Reach level_reach(Arch arch, std::string_view code, std::string_view guaranteed) {
  if (code == guaranteed) return Reach::runs;
  switch (arch) {
    case Arch::x86_64: return in_one_line(x86_levels, code, guaranteed);
    case Arch::arm: return arm(code, guaranteed);
    case Arch::avr: return avr(code, guaranteed);
    default: return Reach::not_known;
  }
}

}  // namespace fibula
