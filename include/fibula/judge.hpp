/// Which variant of a library serves a compiler, without a shelf and without a project.
///
///     auto card = fibula::describe("tidecalc-2.1.0");
///     auto toolchain = fibula::ask({.compiler = "g++", .flags = {"-m32"}});
///     auto judged = fibula::judge(card->card, {.name = "mine", .compiler = "g++", .flags = {"-m32"}}, *toolchain);
///     if (judged.front().verdict != fibula::Verdict::misfit) std::cout << judged.front().variant->id << '\n';
#pragma once

#include <fibula/card.hpp>
#include <fibula/lane.hpp>
#include <fibula/misfit.hpp>
#include <fibula/project.hpp>
#include <fibula/toolchain.hpp>

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace fibula {

/// A variant beside a lane.
struct JudgedVariant {
  const Variant* variant = nullptr;  ///< of the card, which must live longer
  Verdict verdict = Verdict::ok;
  std::vector<Misfit> misfits = {};  ///< cautions and misfits
  std::vector<Misfit> notes = {};    ///< what looks different and is `ok`, with its reason, and what is `unknown`
};

/// Every variant of a card, the best first; those that do not serve behind them, the nearest first. `use` narrows the
/// linkage. Reads nothing but whether the files are there, and runs nothing. Empty for headers only.
FIBULA_API std::vector<JudgedVariant> judge(const Card& card, const Lane& lane, const Toolchain& toolchain,
                                            const LibraryUse& use = {});

/// Whether something that was downloaded serves a compiler.
struct JudgedPath {
  std::filesystem::path path;
  Verdict verdict = Verdict::misfit;
  std::string variant = {};           ///< the best one; empty for headers only and for source
  std::string what = {};              ///< of these: "headers only", "source, compiled for each lane"
  std::optional<Misfit> first = {};   ///< what keeps it from serving, or speaks of it first
  std::optional<Error> problem = {};  ///< it is damaged, or holds no library
};

/// Folders, downloads (unpacked out of the way) and library files, those that serve first, then the nearest.
FIBULA_API std::vector<JudgedPath> judge_paths(const std::vector<std::filesystem::path>& paths, const Lane& lane,
                                               const Toolchain& toolchain);

/// The ids of the variants that a project's lanes would link: of each lane the best that serves it, in the linkage that
/// the project asks for. Lanes whose compiler does not answer name none. Asks compilers.
FIBULA_API std::vector<std::string> variants_used(const Project& project, const Card& card);

}  // namespace fibula
