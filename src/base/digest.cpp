#include "base/digest.hpp"

#include "base/mapped_file.hpp"

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

Result<std::string> sha256_of_file(const std::filesystem::path& path) {
  auto file = MappedFile::open(path);
  if (!file) return pass(file);
  return sha256((*file)->bytes().text());
}

uint64_t quick_digest(std::string_view data) {
  return XXH3_64bits(data.data(), data.size());
}

Result<uint64_t> quick_digest_of_file(const std::filesystem::path& path) {
  auto file = MappedFile::open(path);
  if (!file) return pass(file);
  return quick_digest((*file)->bytes().text());
}

bool has_same_content(const std::filesystem::path& one, const std::filesystem::path& other) {
  std::error_code error;
  if (std::filesystem::equivalent(one, other, error)) return true;
  if (error || std::filesystem::file_size(one, error) != std::filesystem::file_size(other, error)) return false;
  const auto a = quick_digest_of_file(one), b = quick_digest_of_file(other);
  return a && b && *a == *b;
}

}  // namespace fibula
