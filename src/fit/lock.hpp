#pragma once

#include <fibula/lock.hpp>

#include <map>
#include <string>
#include <vector>

namespace fibula {

/// One choice, and the lanes that it holds for.
struct Locked {
  std::vector<std::string> lanes;
  std::string library;
  std::string version;
  std::string variant;                            ///< empty for headers only
  std::string digest;                             ///< of all files of the library
  std::map<std::string, std::string> files = {};  ///< SHA-256 of what is linked and run
};

class Lock {
 public:
  /// An absent file is an empty lock. Errors: malformed.
  static Result<Lock> read(const Project& project);

  /// What was chosen; null where nothing was.
  const Locked* find(const std::string& lane, const std::string& library) const;
  /// The libraries that something was chosen of in a lane.
  std::vector<std::string> libraries(const std::string& lane) const;

 private:
  friend class LockWriter;
  std::vector<Locked> choices_;
  std::map<std::pair<std::string, std::string>, size_t> by_lane_;
};

/// Leaves the choice of a library to the next fit. Errors: malformed, io.
Result<bool> forget_lock(const Project& project, const std::string& library);

}  // namespace fibula
