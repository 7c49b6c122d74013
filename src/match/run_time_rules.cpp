/// Rules about the C and C++ run-time, exceptions and threads.
#include "base/version.hpp"
#include "match/sides.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

bool is_msvc_flavour(const std::string& c_runtime) {
  return c_runtime.starts_with("msvc-");
}

/// A DLL brings the C run-time that it was made for; a static library must live with the program's.
Misfit brings_its_own(const Pairing& p, const std::string& rule, std::vector<std::string> sides) {
  sides.emplace_back("two C run-times in one program: what one allocates or opens, the other must not free or close");
  return caution(p, {rule, std::move(sides), take_another(p)});
}

std::optional<Misfit> c_runtime(const Pairing& p) {
  const std::string &file = p.variant.fact("c-runtime"), &lane = answer_of(p, "c-runtime");
  if (lane.empty()) return std::nullopt;
  if (file.empty()) return unknown(p, "c-runtime", "nothing in the files tells which C library they were made for");
  if (file == lane || (is_msvc_flavour(file) && is_msvc_flavour(lane))) return std::nullopt;
  const std::vector<std::string> sides{variant_has(p, "c-runtime"), lane_has(p, "c-runtime", "c-runtime")};
  if (p.variant.target.format == Format::pe && is_shared(p)) return brings_its_own(p, "c-runtime", sides);
  return misfit(p, {"c-runtime", sides, take_another(p)});
}

std::optional<Misfit> runtime_flavour(const Pairing& p) {
  const std::string &file = p.variant.fact("c-runtime"), &lane = answer_of(p, "c-runtime");
  if (!is_msvc_flavour(file) || !is_msvc_flavour(lane) || file == lane) return std::nullopt;
  const std::vector<std::string> sides{variant_has(p, "c-runtime"), lane_has(p, "c-runtime", "c-runtime")};
  if (is_shared(p)) return brings_its_own(p, "runtime-flavour", sides);
  const auto flag = [](const std::string& flavour) {
    return std::string(flavour.find("dynamic") != std::string::npos ? "/MD" : "/MT") +
           (flavour.ends_with("debug") ? "d" : "");
  };
  return misfit(p, {"runtime-flavour", sides,
                    fmt::format("take the {} build of {}, or {}", flag(lane), p.card.name, with_flag(p, flag(file)))});
}

/// A version that the files need, against the one that the lane's sysroot has.
std::optional<Misfit> floor(const Pairing& p, const std::string& rule, const std::string& answer,
                            std::string_view library) {
  const std::string &needs = p.variant.fact(rule), &has = answer_of(p, answer);
  if (needs.empty() || has.empty() || compare_versions(needs, has) <= 0) return std::nullopt;
  return misfit(p, {rule,
                    {variant_has(p, rule), lane_has(p, answer, library)},
                    fmt::format("take a build of {} made on an older system, or build where {} {} is", p.card.name,
                                library, needs)});
}

std::optional<Misfit> libc_floor(const Pairing& p) {
  if (answer_of(p, "c-runtime") != "glibc") return std::nullopt;
  return floor(p, "libc-floor", "libc", "glibc");
}

std::optional<Misfit> cxx_floor(const Pairing& p) {
  if (answer_of(p, "cxx-runtime") != "libstdc++") return std::nullopt;
  return floor(p, "cxx-floor", "cxx", "libstdc++");
}

bool gives_cxx(const Pairing& p) {
  return p.variant.fact("interface") == "C++";
}

std::optional<Misfit> cxx_runtime(const Pairing& p) {
  const std::string &file = p.variant.fact("cxx-runtime"), &lane = answer_of(p, "cxx-runtime");
  if (file.empty() || lane.empty() || file == lane) return std::nullopt;
  const std::vector<std::string> sides{variant_has(p, "cxx-runtime"), lane_has(p, "cxx-runtime", "cxx-runtime")};
  if (is_shared(p) && !gives_cxx(p))
    return fine(p, {"cxx-runtime", {sides[0], sides[1], "its interface is C, and it brings its own"}, {}});
  return misfit(p, {"cxx-runtime", sides, take_another(p)});
}

std::optional<Misfit> string_abi(const Pairing& p) {
  const std::string &given = p.variant.fact("own-strings"), &lane = answer_of(p, "string-abi");
  if (lane.empty() || given == lane || given == "both") return std::nullopt;
  if (given.empty()) {
    const std::string& used = p.variant.fact("string-abi");
    if (used.empty() || used == "none" || used == "both" || used == lane) return std::nullopt;
    return fine(p, {"string-abi",
                    {variant_has(p, "string-abi"), lane_has(p, "string-abi", "string-abi"),
                     "no std::string stands in the names that it gives, and libstdc++ has both kinds"},
                    {}});
  }
  const std::string define = fmt::format("-D_GLIBCXX_USE_CXX11_ABI={}", given == "new" ? 1 : 0);
  return misfit(p, {"string-abi",
                    {variant_has(p, "own-strings"), lane_has(p, "string-abi", "string-abi")},
                    fmt::format("take a build with the {} string ABI, or {}", lane, with_flag(p, define))});
}

std::optional<Misfit> stl_debug(const Pairing& p) {
  const std::string &file = p.variant.fact("stl-debug"), &lane = answer_of(p, "stl-debug");
  if (file.empty() || lane.empty() || file == lane) return std::nullopt;
  if (!gives_cxx(p)) return std::nullopt;
  const std::vector<std::string> sides{variant_has(p, "stl-debug"), lane_has(p, "stl-debug", "stl-debug")};
  const std::string remedy = "build both with the same container debugging";
  if (file == "off" || is_shared(p))
    return caution(
        p, {"stl-debug", {sides[0], sides[1], "containers that cross the interface have another layout"}, remedy});
  return misfit(p, {"stl-debug", sides, remedy});
}

/// Windows GNU compilers are built with one way of unwinding and one of threads; their objects cannot be mixed.
std::optional<Misfit> model(const Pairing& p, const std::string& id) {
  const std::string &file = p.variant.fact(id), &lane = answer_of(p, id);
  if (file.empty() || lane.empty() || file == lane || p.toolchain.target.format != Format::pe) return std::nullopt;
  const std::vector<std::string> sides{variant_has(p, id), lane_has(p, id, id)};
  // Code that uses nothing of the C++ library can be C++ all the same: it throws, or is a thread.
  const bool c_only = p.variant.fact("cxx-runtime").empty() && p.variant.fact("language") != "C++" &&
                      p.variant.fact("interface") != "C++";
  if (c_only) return fine(p, {id, {sides[0], sides[1], "it holds no C++, whose run-time would differ"}, {}});
  // The compiler's name tells its model, and code that uses no threads does not care.
  const auto learnt = p.variant.learnt.find(id);
  const bool guessed = learnt != p.variant.learnt.end() && learnt->second.certainty == Certainty::guessed;
  if (guessed) {
    return caution(
        p, {id, {sides[0], sides[1], "what of it uses threads would need the other run-time"}, take_another(p)});
  }
  return misfit(p, {id, sides, take_another(p)});
}

std::optional<Misfit> exceptions(const Pairing& p) {
  return model(p, "exceptions");
}

std::optional<Misfit> threads(const Pairing& p) {
  return model(p, "threads");
}

}  // namespace

std::vector<Rule> run_time_rules() {
  return {c_runtime, runtime_flavour, libc_floor, cxx_runtime, cxx_floor, string_abi, stl_debug, exceptions, threads};
}

}  // namespace fibula
