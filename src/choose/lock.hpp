#pragma once

#include <fibula/cache.hpp>
#include <fibula/project.hpp>

#include <filesystem>
#include <map>
#include <optional>
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
  /// An absent file is an empty lock. What a text was parsed to is kept. Errors: malformed.
  static Result<Lock> read(const Project& project, const Cache& cache = Cache::standard());

  /// The lock that this text is; `file` is named in errors. Errors: malformed.
  static Result<Lock> parsed(const std::string& text, const std::filesystem::path& file);

  /// What was chosen; null where nothing was.
  const Locked* find(const std::string& lane, const std::string& library) const;
  /// Whether a lane of it has this version.
  bool names(const std::string& library, const std::string& version) const;
  /// The libraries that something was chosen of in a lane.
  std::vector<std::string> libraries(const std::string& lane) const;

 private:
  static std::optional<Lock> unpacked(std::string_view bytes);
  std::string packed() const;
  void add(Locked choice);

  friend class LockWriter;
  std::vector<Locked> choices_;
  std::map<std::pair<std::string, std::string>, size_t> by_lane_;
};

/// Puts a lock together, choice by choice; equal ones of several lanes become one.
class LockWriter {
 public:
  explicit LockWriter(const Project& project) : project_(project) {}

  void add(const std::string& lane, Locked choice);
  void add_kept(const Lock& before, const std::string& lane, const std::string& library);
  /// Writes the file, or removes it where nothing was chosen; true when it was changed. Errors: io.
  Result<bool> write();

 private:
  const Project& project_;
  std::vector<Locked> choices_;
};

/// Leaves the choice of a library to the next fit. Errors: malformed, io.
Result<void> forget_lock(const Project& project, const std::string& library);

}  // namespace fibula
