/// For what the lanes of a project build.
#pragma once

#include <set>
#include <string>

namespace fibula {

/// By the names of a card's `system` and `arch`; empty: nothing is known of them.
struct BuildsFor {
  std::set<std::string> systems, archs;

  bool is_for_linux_alone() const { return systems == std::set<std::string>{"linux"}; }
  /// For systems whose C library has what POSIX promises.
  bool is_for_posix_alone() const {
    return !systems.empty() && systems.size() == systems.count("linux") + systems.count("macos");
  }
};

}  // namespace fibula
