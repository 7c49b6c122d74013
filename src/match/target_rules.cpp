/// Rules about what the code is for: format, machine, processor level, float ABI, system.
#include "base/version.hpp"
#include "match/levels.hpp"
#include "match/sides.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

/// PE images are made of COFF objects, and texts stand for Mach-O images. Link-time code becomes what the lane's
/// compiler makes of it; the rule `toolset` judges that.
bool same_format(Format file, Format lane) {
  return file == Format::gcc_lto || file == Format::bitcode || family_of(file) == family_of(lane);
}

std::optional<Misfit> object_format(const Pairing& p) {
  const Format file = p.variant.target.format, lane = p.toolchain.target.format;
  if (same_format(file, lane)) return std::nullopt;
  return misfit(
      p, {"object-format", {variant_is(p, "arch", to_string(file)), lane_needs(p, to_string(lane))}, take_another(p)});
}

std::string described(const Target& t) {
  return fmt::format("{}-bit {}, {}-endian", t.bits, to_string(t.arch), to_string(t.endian));
}

std::optional<Misfit> architecture(const Pairing& p) {
  const Target &file = p.variant.target, &lane = p.toolchain.target;
  if (!same_format(file.format, lane.format)) return std::nullopt;  // object-format has spoken
  if (file.arch == lane.arch && file.bits == lane.bits && file.endian == lane.endian) return std::nullopt;
  return misfit(
      p, {"architecture", {variant_is(p, "arch", described(file)), lane_needs(p, described(lane))}, take_another(p)});
}

/// How a lane or command says for which processor it makes code, as its compiler spells it.
std::string processor_flag(const Pairing& p, const std::string& code) {
  switch (p.toolchain.target.arch) {
    case Arch::avr: return with_flag(p, "-mmcu=…") + " with the device's name";
    case Arch::arm: return with_flag(p, "-mcpu=…") + " with the core's name";
    case Arch::x86_64:
      if (p.toolchain.family != CompilerFamily::msvc) return with_flag(p, "-march=" + code);
      return with_flag(p, code.ends_with("v4") ? "/arch:AVX512" : "/arch:AVX2");
    default: return "the flag that names the processor";
  }
}

std::optional<Misfit> cpu_level(const Pairing& p) {
  const std::string &code = p.variant.fact("cpu-floor"), &guaranteed = answer_of(p, "cpu");
  if (code.empty() || guaranteed.empty()) return std::nullopt;
  const std::vector<std::string> sides{variant_has(p, "cpu-floor"), lane_has(p, "cpu", "processor level")};
  const auto raise =
      fmt::format("take a build for {}, or raise the lane's processor: {}", guaranteed, processor_flag(p, code));
  switch (level_reach(p.toolchain.target.arch, code, guaranteed)) {
    case Reach::runs: return std::nullopt;
    case Reach::not_known:
      return unknown(p, "cpu-level", fmt::format("whether code for {} runs on {}", code, guaranteed));
    case Reach::near_only:
      return caution(p, {"cpu-level",
                         {sides[0], sides[1], "its calls reach 8 KB only, which a larger program may exceed"},
                         fmt::format("take a build for {}", guaranteed)});
    case Reach::other_kind: return misfit(p, {"cpu-level", sides, fmt::format("take a build for {}", guaranteed)});
    case Reach::needs_more: break;
  }
  // Programs for a desktop are run where the instructions are, most often; a controller has only its own.
  if (p.toolchain.target.arch == Arch::x86_64) return caution(p, {"cpu-level", sides, raise});
  return misfit(p, {"cpu-level", sides, raise});
}

std::optional<Misfit> float_abi(const Pairing& p) {
  const std::string &file = p.variant.fact("float-abi"), &lane = answer_of(p, "float-abi");
  if (lane.empty() || file == lane || file == "any") return std::nullopt;
  if (file.empty())
    return unknown(p, "float-abi", "nothing in the file tells how it hands over floating-point numbers");
  const std::vector<std::string> sides{variant_has(p, "float-abi"), lane_has(p, "float-abi", "float-abi")};
  const bool both_in_integer_registers = file != "hard" && lane != "hard" && p.toolchain.target.arch == Arch::arm;
  if (both_in_integer_registers)
    return fine(p,
                {"float-abi", {sides[0], sides[1], "both hand floating-point numbers over in integer registers"}, {}});
  return misfit(p, {"float-abi",
                    {sides[0], sides[1], "some linkers accept this, and the program computes wrong numbers"},
                    take_another(p)});
}

std::optional<Misfit> os_floor(const Pairing& p) {
  const auto* file = p.variant.fact_as<NamedVersion>("os-floor");
  const Answer* lane = p.toolchain.answer("os");
  if (file == nullptr || lane == nullptr) return std::nullopt;
  const std::vector<std::string> sides{variant_has(p, "os-floor"), lane_has(p, "os", "least system")};
  if (file->name != lane->value) return misfit(p, {"os-floor", sides, take_another(p)});
  if (compare_versions(file->version, lane->version) <= 0) return std::nullopt;
  return caution(p, {"os-floor",
                     {sides[0], sides[1], "the program may not start on the oldest system that the lane is for"},
                     fmt::format("take a build for {} or older, or make {} the least system of the lane",
                                 to_text(*lane), to_text(FactValue(*file)))});
}

}  // namespace

std::vector<Rule> target_rules() {
  return {object_format, architecture, cpu_level, float_abi, os_floor};
}

}  // namespace fibula
