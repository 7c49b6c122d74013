#pragma once

#include <string>
#include <vector>

namespace fibula {

/// What alternatives are for, where their names tell: "bus" of spi and twi, "processor" of plain and cuda12. Empty
/// where they do not.
std::string purpose_of(const std::vector<std::string>& alternatives);

/// Of alternatives for that, the one that asks for nothing else; empty where none is known.
std::string usual_for(const std::string& purpose);

/// One that does nothing, for those who want nothing.
bool does_nothing(const std::string& alternative);

/// One that is called after what most builds are: GNU's compilers, POSIX, the standard.
bool is_the_usual(const std::string& alternative);

}  // namespace fibula
