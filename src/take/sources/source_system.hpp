/// For which systems and machines a source is, by its place, its name and what it includes.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace fibula {

struct SourceSystem {
  std::vector<std::string> systems = {};  ///< by the names of a card's `system`; empty: for all
  std::vector<std::string> archs = {};    ///< by the names of a card's `arch`; empty: for all
  bool foreign = false;                   ///< for a system that no lane is for

  bool everywhere() const { return systems.empty() && archs.empty() && !foreign; }
};

/// By its name.
bool is_assembly(const std::string& file);

/// The machine that alone takes this assembly, of the two that share instructions: "x86" where it saves registers of 32
/// bits on the stack, "x86_64" where it names those of 64 bits; empty where neither is so, or both (Intel's manual 2B,
/// "PUSH": not encodable in 64-bit mode).
std::string machine_of_assembly(std::string_view text);

/// Whether a system ("linux", "macos") lacks a header that its own build would include: one of those that only the
/// other has. Of Windows nothing is said.
bool lacks_one_of(const std::string& system, const std::vector<std::string>& included);

/// Whether its name says that it does nothing, or does it as another system does: `no-watch.c`, `bsd-title.c`.
bool is_called_a_stand_in(const std::string& file);

/// `file` as seen from the library's folder. `included`: headers that it includes in each build.
SourceSystem system_of_source(const std::string& file, const std::vector<std::string>& included);

}  // namespace fibula
