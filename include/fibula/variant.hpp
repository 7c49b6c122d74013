/// Variants: the sets of binaries that a library version has.
#pragma once

#include <fibula/fact.hpp>
#include <fibula/fact_value.hpp>
#include <fibula/linkage.hpp>
#include <fibula/target.hpp>

#include <map>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// How a value of a card was learnt.
struct Learnt {
  Certainty certainty = Certainty::read;
  std::string file = {};  ///< of the library; empty: by several
  std::string from = {};  ///< "ELF header, e_machine"
};
/// "read from lib/libtidecalc.a: ELF header, e_machine".
FIBULA_API std::string to_text(const Learnt& learnt);

/// One set of binaries of a library version that belong together. Paths are relative to the library's files.
struct FIBULA_API Variant {
  std::string id;
  Target target;
  Linkage linkage = Linkage::static_;
  std::string configuration = "unknown";                     ///< debug, release or unknown
  std::vector<std::string> link = {};                        ///< what the linker is given
  std::vector<std::string> runtime = {};                     ///< what the loader will ask for
  std::vector<std::string> needs = {};                       ///< run-time files that these ask for, by name
  std::vector<std::string> plugins = {};                     ///< that its code opens by itself while the program runs
  std::map<std::string, FactValue, std::less<>> facts = {};  ///< what decides whether it fits, by the ids of facts
  std::vector<std::string> include_directories = {};         ///< for this variant alone, beside those of the library
  std::vector<std::string> debug = {};                       ///< debugging records of its files
  std::vector<std::string> definitions = {};                 ///< that the library's users need
  std::vector<std::string> flags = {};                       ///< that the library's users need: "-pthread"
  std::map<std::string, std::string> choices = {};           ///< of builds that only a person can tell apart, its own
  std::vector<std::string> system_inputs = {};               ///< known needs of the system's libraries: "m"
  std::map<std::string, Learnt, std::less<>> learnt = {};    ///< how each value was learnt, by its key

  /// A fact that is a name or a version; empty where no file told it.
  const std::string& fact(std::string_view of) const;
  /// A fact of another form; null where no file told it.
  template <class Value>
  const Value* fact_as(std::string_view of) const {
    const auto found = facts.find(of);
    return found == facts.end() ? nullptr : std::get_if<Value>(&found->second);
  }
};

}  // namespace fibula
