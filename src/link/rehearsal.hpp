/// The rehearsal: a link done in memory, on symbol tables alone.
///
/// This is what the GNU linker does with symbols (ld manual, "Options" and "Archive files"; gABI chapter 4, "Symbol
/// Table"): inputs are visited from left to right. An object's symbols all enter the table. An archive's members enter
/// only while its symbol table defines a name that is undefined at that moment, again and again until nothing new is
/// found; a group of archives is one archive in this respect. A shared library's exported names satisfy what is
/// undefined; its own undefined names must be satisfied too, if need be by the libraries it needs. What is undefined in
/// the end counts when a relocation in a section that was kept refers to it.
#pragma once

#include "link/link_file.hpp"
#include "link/link_line.hpp"

#include <set>
#include <string>
#include <vector>

namespace fibula {

/// A name that no input defines.
struct Unresolved {
  std::string symbol;
  std::string needed_by;            ///< object or shared library
  std::string place = {};           ///< "section .text at 0x1c"
  bool by_shared = false;           ///< only shared libraries ask for it
  std::filesystem::path file = {};  ///< the object, archive or shared library; empty: the program's sources
};

/// Two inputs define one name, and both are in the link.
struct Duplicate {
  std::string symbol;
  std::string first;
  std::string second;
};

struct Rehearsal {
  std::vector<Unresolved> unresolved;        ///< sorted by name
  std::vector<Duplicate> duplicates;         ///< sorted by name
  std::vector<std::string> thread_clashes;   ///< one object takes it for a thread's own, another one not
  std::vector<Duplicate> kept_back;          ///< hidden in `first`, and needed by the shared library `second`
  std::vector<std::string> pulled;           ///< archive members in the order in which they entered: "libx.a(a.o)"
  std::vector<const LinkObject*> members;    ///< the same, as long as the files are open
  std::vector<const LinkObject*> strangers;  ///< objects for another machine, which linkers refuse
  std::vector<std::string> shared;           ///< shared libraries that the output will need, by soname
  std::set<std::string> loaded;              ///< those and all that they need in turn, by soname
  std::vector<std::string> missing;          ///< libraries that were asked for by name and not found
  std::vector<std::string> missing_needs;    ///< run-time files that a shared library needs and that are nowhere
  std::set<std::filesystem::path> used;      ///< files that contributed
};

/// Names that stand for a program which is not compiled yet: it defines some and needs others.
struct StandIn {
  std::set<std::string> defines;
  std::set<std::string> needs;
};

struct RehearsalOptions {
  const StandIn* stand_in = nullptr;
  /// A shared library may leave names to its users.
  bool allow_unresolved = false;
  /// What the linker script of the program defines.
  const std::vector<std::string>* script_symbols = nullptr;
};

/// Errors: those of a file on the line that is damaged or no library.
Result<Rehearsal> rehearse(FileStore& files, const LinkLine& line, const RehearsalOptions& options = {});

}  // namespace fibula
