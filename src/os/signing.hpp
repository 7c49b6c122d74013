/// Ed25519 (RFC 8032), by a library that is loaded when something is signed or a signature is looked at.
#pragma once

#include <fibula/result.hpp>

#include <string>
#include <string_view>

namespace fibula {

/// Halves of keys and signatures are hexadecimal digits: 64, 64 and 128.
struct KeyPair {
  std::string secret, public_half;
};

/// Errors of all: missing_tool.
Result<KeyPair> make_key_pair();
Result<std::string> sign_text(const KeyPair& pair, std::string_view text);
/// Whether the signature is this key's, of this text; false too where one of them is no such thing.
Result<bool> is_signature(const std::string& signature, const std::string& public_half, std::string_view text);

}  // namespace fibula
