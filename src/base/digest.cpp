#include "base/digest.hpp"

#include <nettle/sha2.h>
#include <xxhash.h>
#include <array>

namespace fibula {

std::string sha256(std::string_view data) {
  sha256_ctx context;
  sha256_init(&context);
  sha256_update(&context, data.size(), reinterpret_cast<const uint8_t*>(data.data()));
  std::array<uint8_t, SHA256_DIGEST_SIZE> digest{};
  sha256_digest(&context, digest.size(), digest.data());
  std::string hex;
  for (const uint8_t byte : digest) {
    constexpr std::string_view digits = "0123456789abcdef";
    hex += digits[byte >> 4];
    hex += digits[byte & 15];
  }
  return hex;
}

uint64_t quick_digest(std::string_view data) {
  return XXH3_64bits(data.data(), data.size());
}

}  // namespace fibula
