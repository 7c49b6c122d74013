#pragma once

#include "os/stamp.hpp"

#include <memory>
#include <string>

namespace fibula {

/// Stamps of many files, for those who ask folder by folder: of the second file of a folder in a row the path is not
/// walked again. Not for two threads.
class NearStamps {
 public:
  NearStamps();
  ~NearStamps();
  NearStamps(const NearStamps&) = delete;
  NearStamps& operator=(const NearStamps&) = delete;

  /// What `stamp_at` gives.
  Stamp at(const std::string& path);

 private:
  struct Handle;
  std::string folder_;
  std::unique_ptr<Handle> handle_;
};

}  // namespace fibula
