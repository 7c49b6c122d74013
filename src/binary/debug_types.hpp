/// The types, functions and data that a file's debugging records describe: how its compiler laid them out.
#pragma once

#include "base/bytes.hpp"

#include <cstdint>
#include <map>
#include <set>
#include <string>
#include <vector>

namespace fibula {

/// A type as people write it, and what of it decides how it is passed and kept: sizes and encodings of its parts,
/// without the names of typedefs and without const.
struct TypeText {
  std::string written;
  std::string form;
};

struct LayoutMember {
  std::string name;  ///< of a base class: "base Harbour"
  TypeText type;
  uint64_t offset = 0;  ///< in bits from the start
  uint64_t bits = 0;    ///< of a bit-field; zero for others
};

struct Enumerator {
  std::string name;
  int64_t value = 0;
};

struct VirtualFunction {
  std::string name;
  uint64_t slot = 0;  ///< in the table
};

enum class LayoutKind { structure, union_, enumeration };

/// A structure, class, union or enumeration.
struct Layout {
  LayoutKind kind = LayoutKind::structure;
  uint64_t size = 0;  ///< bytes
  std::vector<LayoutMember> members = {};
  std::vector<VirtualFunction> virtuals = {};
  std::vector<Enumerator> enumerators = {};
  bool several = false;  ///< the file holds different ones of this name: nothing is known
};
bool same_layout(const Layout& a, const Layout& b);

/// A function with the types of what it gives and takes.
struct Signature {
  TypeText result;
  std::vector<TypeText> parameters = {};
  bool variadic = false;
};

struct DebugTypes {
  std::map<std::string, Layout> layouts;       ///< by name with namespaces
  std::map<std::string, Signature> functions;  ///< that others can call, by the linker's name
  std::map<std::string, TypeText> data;        ///< that others can use, by the linker's name
  std::map<std::string, Signature> pointers;   ///< data of pointers to functions, by name: what they point to
  std::set<std::string> private_functions;     ///< of classes, by the linker's name
  bool empty() const { return layouts.empty() && functions.empty() && data.empty(); }
};

/// What the records of an object, a program or a shared library describe; of an archive, of all its members together.
/// Empty where there are none (DWARF is read, in ELF, COFF, PE and Mach-O files). Types inside of functions are left
/// out. Errors: as for opening a file, missing_tool (compressed records, and no library to expand them).
Result<DebugTypes> debug_types_of(Bytes bytes);

}  // namespace fibula
