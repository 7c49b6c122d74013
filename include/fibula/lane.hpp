/// Lanes: the ways in which a program must build.
#pragma once

#include <fibula/linkage.hpp>
#include <fibula/toolchain.hpp>

#include <filesystem>
#include <map>
#include <set>
#include <string>
#include <vector>

namespace fibula {

/// How a project uses one library.
struct LibraryUse {
  std::string name;
  std::string version = {};  ///< a range, ">=2.1 <3"; empty takes any
  Linkage linkage = Linkage::any;
  std::filesystem::path folder = {};  ///< where it lies, with or without a card, instead of on the shelf; absolute
  std::vector<std::string> definitions = {};        ///< for it and its users alike
  std::map<std::string, std::string> choices = {};  ///< which alternative of what its card offers: "bus" -> "twi"
  unsigned line = 0;                                ///< of fibula.toml; 0: it stands in none

  friend bool operator==(const LibraryUse&, const LibraryUse&) = default;
};

/// How the linker is to lay a program out. What a lane says stands before what the output says.
struct LinkSettings {
  std::filesystem::path script = {};                 ///< of GNU-style linkers; absolute
  std::string entry = {};                            ///< the function with which the program begins
  std::string subsystem = {};                        ///< of Windows programs: console or windows
  std::map<std::string, std::string> sections = {};  ///< the address at which a section begins: ".fast" -> "0x20000000"

  friend bool operator==(const LinkSettings&, const LinkSettings&) = default;
};

/// One way in which the program must build, as the project file says it.
struct Lane {
  std::string name;
  std::string compiler;
  std::vector<std::string> flags = {};
  std::string configuration = "release";  ///< debug or release
  std::string start_through = {};         ///< starts programs that this machine cannot start itself
  std::vector<std::string> definitions = {};
  LinkSettings link = {};
  std::map<std::string, LibraryUse> overrides = {};  ///< [lane.X.library.Y]
  unsigned line = 0;                                 ///< of fibula.toml; 0: it stands in none

  friend bool operator==(const Lane&, const Lane&) = default;
};

/// A lane for a compiler that answered: its name from the target, and what is installed to start its programs where
/// this machine cannot start the programs itself. Nothing was started with it yet: see `propose_lane_named`.
FIBULA_API Lane propose_lane(const Toolchain& toolchain);

/// A lane that nobody wrote yet, and the compiler that it is for.
struct ProposedLane {
  Lane lane;
  Toolchain toolchain;
  std::string does_not_start = {};  ///< why its programs cannot be started on this machine; empty: they can
};

/// The lane of each compiler, in their order, under names that differ from each other and from those that are taken.
FIBULA_API std::vector<Lane> propose_lanes(const std::vector<Toolchain>& toolchains,
                                           const std::set<std::string>& taken);

/// What a new lane is to be like, beside its name.
struct LaneWish {
  std::string compiler = {};  ///< empty: the name says it, as `fibula lanes` lists them, or is a compiler's
  std::vector<std::string> flags = {};
  std::string configuration = {};  ///< empty: as the name ends, `-debug` or `-release`, else release
};

/// A lane for a compiler of this machine. A tiny program is compiled and started with it, once, to see whether its
/// programs start here and with what. `taken`: names of lanes that are there. Errors: refused (no such lane can be made
/// here; with the nearest names), missing_tool, those of `ask`.
FIBULA_API Result<ProposedLane> propose_lane_named(const std::string& name, const LaneWish& wish,
                                                   const std::set<std::string>& taken,
                                                   const Cache& cache = Cache::standard());

}  // namespace fibula
