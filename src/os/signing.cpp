#include "os/signing.hpp"

#include "os/late_library.hpp"

#include <fmt/format.h>
#include <array>
#include <cstdint>
#include <optional>
#include <random>

namespace fibula {
namespace {

/// Nettle's functions (eddsa.h).
struct SigningApi {
  void (*public_key)(uint8_t* public_half, const uint8_t* secret) = nullptr;
  void (*sign)(const uint8_t* public_half, const uint8_t* secret, size_t length, const uint8_t* text,
               uint8_t* signature) = nullptr;
  int (*verify)(const uint8_t* public_half, size_t length, const uint8_t* text, const uint8_t* signature) = nullptr;
};

Result<SigningApi> load_signing() {
  auto library = LateLibrary::open("libhogweed.so.6", "libhogweed6", "to sign parcels and look at signatures");
  if (!library) return pass(library);
  SigningApi api;
  for (auto bound : {library->bind(api.public_key, "nettle_ed25519_sha512_public_key"),
                     library->bind(api.sign, "nettle_ed25519_sha512_sign"),
                     library->bind(api.verify, "nettle_ed25519_sha512_verify")}) {
    if (!bound) return pass(bound);
  }
  return api;
}

const Result<SigningApi>& signing_api() {
  static const Result<SigningApi> api = load_signing();
  return api;
}

template <size_t N>
std::string digits(const std::array<uint8_t, N>& bytes) {
  std::string text;
  for (const uint8_t byte : bytes) text += fmt::format("{:02x}", byte);
  return text;
}

int digit(char c) {
  if (c >= '0' && c <= '9') return c - '0';
  return c >= 'a' && c <= 'f' ? c - 'a' + 10 : -1;
}

template <size_t N>
std::optional<std::array<uint8_t, N>> bytes(std::string_view text) {
  std::array<uint8_t, N> read{};
  if (text.size() != 2 * N) return std::nullopt;
  for (size_t i = 0; i < N; ++i) {
    const int high = digit(text[2 * i]), low = digit(text[2 * i + 1]);
    if (high < 0 || low < 0) return std::nullopt;
    read[i] = static_cast<uint8_t>(high * 16 + low);
  }
  return read;
}

const uint8_t* data(std::string_view text) {
  return reinterpret_cast<const uint8_t*>(text.data());
}

}  // namespace

Result<KeyPair> make_key_pair() {
  const auto& api = signing_api();
  if (!api) return fail(api.error());
  std::array<uint8_t, 32> secret{}, public_half{};
  std::random_device random;  // the system's own source (getrandom)
  for (auto& byte : secret) byte = static_cast<uint8_t>(random());
  api->public_key(public_half.data(), secret.data());
  return KeyPair{digits(secret), digits(public_half)};
}

Result<std::string> sign_text(const KeyPair& pair, std::string_view text) {
  const auto& api = signing_api();
  if (!api) return fail(api.error());
  const auto secret = bytes<32>(pair.secret), public_half = bytes<32>(pair.public_half);
  if (!secret || !public_half) return fail({.code = Code::malformed, .what = "is no key"});
  std::array<uint8_t, 64> signature{};
  api->sign(public_half->data(), secret->data(), text.size(), data(text), signature.data());
  return digits(signature);
}

Result<bool> is_signature(const std::string& signature, const std::string& public_half, std::string_view text) {
  const auto& api = signing_api();
  if (!api) return fail(api.error());
  const auto of = bytes<64>(signature);
  const auto by = bytes<32>(public_half);
  return of && by && api->verify(by->data(), text.size(), data(text), of->data()) == 1;
}

}  // namespace fibula
