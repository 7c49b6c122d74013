/// The rules that compare one variant with a lane. A rule is a function and a row in a table; it says nothing when
/// there is nothing to say.
#pragma once

#include "headers/header_reading.hpp"

#include <fibula/card.hpp>
#include <fibula/lane.hpp>
#include <fibula/misfit.hpp>

#include <optional>
#include <set>

namespace fibula {

/// What a rule compares.
struct Pairing {
  const Card& card;
  const Variant& variant;
  const LibraryUse& use;
  const Toolchain& toolchain;
  const Lane& lane;
  bool into_program = true;                   ///< a program of the project uses the library
  bool into_shared = false;                   ///< a shared library of the project does
  std::vector<std::string> definitions = {};  ///< that the project makes itself, in this lane
  bool check_licences = false;
};

/// What the header rules say. Empty when nothing is worth a word.
std::vector<Misfit> match_headers(const Pairing& pairing, const HeaderReading& reading);

/// What every rule says, in the order of the tables: objections, and notes (`ok` with its reason, `unknown`). Empty
/// when nothing is worth a word.
std::vector<Misfit> match(const Pairing& pairing);

/// Whether it is a caution or a misfit, and no note.
bool objects(const Misfit& said);

/// The worst of them; a fact that is not known makes nothing worse.
Verdict worst(const std::vector<Misfit>& misfits);

/// The download that would serve: "a static build for 64-bit x86_64 elf, glibc, libstdc++ with the new string ABI".
std::string wanted_build(const Pairing& pairing);

}  // namespace fibula
