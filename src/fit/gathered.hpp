/// What `gather` found out, and the stores that read inputs when a plan first asks for them.
#pragma once

#include <fibula/gather.hpp>

#include "choose/library_set.hpp"
#include "headers/header_reading.hpp"
#include "index/provider_index.hpp"
#include "link/link_file.hpp"

#include <map>
#include <mutex>
#include <optional>
#include <set>

namespace fibula {

/// Of one lane.
struct GatheredLane {
  Lane lane;
  Toolchain toolchain;
  std::map<std::string, Toolchain> linking;             ///< by output, where its flags change what the driver adds
  std::map<std::string, std::vector<LibraryUse>> uses;  ///< by output, with what the used ones require
  std::map<std::string, Choice> choices;                ///< by library
  std::map<std::string, HeaderReading> headers;         ///< by library
  std::vector<Misfit> changed;   ///< files of libraries in place that are no longer as they were taken
  std::set<std::string> placed;  ///< names of the files that an earlier build put beside programs
  std::optional<Error> problem;  ///< why there is no fit for it

  /// What the compiler says of the link of an output.
  const Toolchain& toolchain_for(const std::string& output) const;
};

/// The two steps of `gather`, for whoever does something between them: first what is chosen in each lane, of which
/// nothing is read yet. Errors: as `gather`.
Result<Gathered> gather_choices(const Project& project, const std::vector<Lane>& lanes, const Shelf& shelf,
                                const GatherOptions& options = {});
/// Then what was chosen in some of the lanes is brought and read.
void read_choices(const Gathered& gathered, const std::vector<Lane>& lanes);

/// Headers that a build makes or installs are not there before it.
bool has_its_headers(const Choice& choice);

/// Libraries of a lane that come as source and could not be built, and why: nothing that uses them fits.
void refuse_not_built(const Gathered& gathered, const std::string& lane, const std::map<std::string, Misfit>& failed);

/// Where what is built of libraries that lie open to changes is kept for a lane.
std::filesystem::path own_store_of(const Project& project, const Lane& lane);

struct Gathered::State {
  State(const Project& of, const Shelf& users, const Cache& kept)
      : project(of), shelf(project.shelf(users)), cache(kept), providers(kept), cards(shelf) {}

  Project project;
  Shelf shelf;
  Cache cache;
  FileStore files;
  ProviderStore providers;
  CardStore cards;
  Lock lock;
  std::vector<Lane> lanes;
  std::vector<GatheredLane> found;                                    ///< one a lane, in order
  std::map<std::string, std::vector<std::filesystem::path>> sources;  ///< by output
  std::map<std::string, std::vector<std::filesystem::path>> given;    ///< objects and archives among them, by output
  const GatheredLane* lane_named(const std::string& name) const;
  /// Those of an output's sources, and of what is among them, that a lane takes.
  std::vector<std::filesystem::path> sources_for(const Output& output, const Lane& lane) const;
  std::vector<std::filesystem::path> given_for(const Output& output, const Lane& lane) const;
  OwnCode elsewhere;  ///< of a program that somebody else's build makes, as far as it was named
  /// What the sources of an output mention; read when somebody first asks, from one thread or several.
  const std::set<std::string, std::less<>>& mentions_of(const std::string& output);

 private:
  std::mutex reading_;
  std::map<std::string, std::set<std::string, std::less<>>> mentions_;
};

}  // namespace fibula
