/// Keys that vouch for parcels: Ed25519 (RFC 8032), one file a key.
#pragma once

#include <fibula/result.hpp>

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace fibula {

enum class KeyTrust {
  own,      ///< made here: its secret half signs
  trusted,  ///< somebody else's, and whom it belongs to is known
  revoked,  ///< nothing that it signed is taken
};
FIBULA_API std::string_view to_string(KeyTrust trust);

struct Key {
  std::string name;
  std::string id;           ///< 16 hexadecimal digits, made of the public half
  std::string public_half;  ///< 64 hexadecimal digits
  KeyTrust trust = KeyTrust::trusted;
  std::filesystem::path file;  ///< with the public half: what others are given
};

/// The keys of this user: files below `fibula/keys` in the XDG configuration folder.
class FIBULA_API Keys {
 public:
  /// Errors: missing_tool (no folder: neither XDG_CONFIG_HOME nor HOME is set).
  static Result<Keys> standard();
  static Keys at(std::filesystem::path folder) { return Keys(std::move(folder)); }

  /// By name. Errors: malformed (with the file), unreadable.
  Result<std::vector<Key>> list() const;
  /// The key of this name or id. Errors: also absent.
  Result<Key> find(const std::string& name_or_id) const;
  /// The key with this public half, where there is one.
  Result<std::optional<Key>> known(const std::string& public_half) const;
  /// Makes a pair; the secret half is readable by nobody else. Errors: refused (the name is taken, or is none), io,
  /// missing_tool.
  Result<Key> make(const std::string& name) const;
  /// Trusts the key in a file that `make` wrote elsewhere; under another name where one is given. Errors: malformed,
  /// refused (the name is taken by another key; the key is revoked), io.
  Result<Key> trust(const std::filesystem::path& file, const std::string& name = {}) const;
  /// What it signed is taken no more. Errors: absent, io.
  Result<Key> revoke(const std::string& name_or_id) const;

  /// The signature of a text by an own key, 128 hexadecimal digits. Errors: absent, refused (revoked, or without a
  /// secret half here), missing_tool.
  Result<std::string> sign(const std::string& name_or_id, const std::string& text) const;

  const std::filesystem::path& folder() const { return folder_; }

 private:
  explicit Keys(std::filesystem::path folder) : folder_(std::move(folder)) {}
  std::filesystem::path folder_;
};

}  // namespace fibula
