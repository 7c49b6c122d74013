#pragma once

#include <cstdint>
#include <string>
#include <string_view>

namespace fibula {

/// SHA-256 (FIPS 180-4) as 64 lower-case hexadecimal digits. Taken once, when a file comes in.
std::string sha256(std::string_view data);

/// XXH3, 64 bits: tells whether something changed, at a twentieth of SHA-256's cost. Not against an attacker.
uint64_t quick_digest(std::string_view data);

}  // namespace fibula
