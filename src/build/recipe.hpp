/// What the last build of a lane ran: kept, so that a build after a small change can run it again without a plan. It is
/// kept in the user's cache, not in the project: nobody who hands a project on hands commands on with it.
#pragma once

#include "jobs/job.hpp"

#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// Stands in a recipe's compile where the path of the source belongs.
inline constexpr char source_mark = '\2';

struct Recipe {
  /// Of one output: how a source with such an ending is compiled. `folder` is where its objects lie.
  struct Compiles {
    std::string folder;
    std::map<std::string, Job> by_ending = {};
  };
  std::vector<Compiles> compiles = {};
  std::vector<Job> others = {};      ///< archives, links, images: none before those whose products it reads
  std::vector<uint64_t> names = {};  ///< digests of all names of which several files of the links speak, sorted

  /// The compile that makes an object; nothing where none like it was run.
  std::optional<Job> compile(const std::string& object) const;
  bool speaks_of(std::string_view name) const;
};

/// A compile of one source, as that of any other with its ending.
Job for_any_source(Job compile, const std::string& source);

std::string text_of(const Recipe& recipe);
/// Nothing for a text that is none.
std::optional<Recipe> read_recipe(std::string_view text);

}  // namespace fibula
