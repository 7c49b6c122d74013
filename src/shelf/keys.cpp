#include <fibula/keys.hpp>

#include "base/digest.hpp"
#include "base/inside_path.hpp"
#include "base/names.hpp"
#include "base/text.hpp"
#include "os/folder.hpp"
#include "os/signing.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

constexpr Name<KeyTrust> trusts[] = {
    {KeyTrust::own, "own"}, {KeyTrust::trusted, "trusted"}, {KeyTrust::revoked, "revoked"}};

constexpr std::string_view public_heading = "fibula key 1", secret_heading = "fibula secret key 1";
constexpr const char *public_ending = ".key", *secret_ending = ".secret", *revoked_ending = ".revoked";

std::string key_text(std::string_view heading, const std::string& name, const std::string& half) {
  return fmt::format("{}\nname {}\ned25519 {}\n", heading, name, half);
}

/// The name and the half that a file holds.
struct KeyLines {
  std::string name, half;
};

Result<KeyLines> read_key(const fs::path& file, std::string_view heading) {
  const auto text = read_text(file, 4096);
  if (!text) return fail(text.error());
  const auto lines = text::lines(*text);
  KeyLines key;
  for (const auto line : lines) {
    if (line.starts_with("name ")) key.name = text::trim(line.substr(5));
    if (line.starts_with("ed25519 ")) key.half = text::trim(line.substr(8));
  }
  const bool hexadecimal = key.half.size() == 64 && key.half.find_first_not_of("0123456789abcdef") == std::string::npos;
  const bool good = !lines.empty() && text::trim(lines[0]) == heading && hexadecimal && is_plain_name(key.name);
  if (good) return key;
  return fail({.code = Code::malformed,
               .what = "is no key",
               .file = file.string(),
               .hint = "a key's file is what fibula shelf keys make wrote, whole"});
}

std::string id_of(const std::string& public_half) {
  return sha256("fibula key " + public_half).substr(0, 16);
}

Error taken_name(const std::string& name, const fs::path& folder) {
  return {.code = Code::refused,
          .what = fmt::format("there is a key {} already", name),
          .file = folder.string(),
          .hint = "give it another name, with --name; fibula shelf keys lists those that are there"};
}

}  // namespace

std::string_view to_string(KeyTrust trust) {
  return name_in<KeyTrust>(trusts, trust);
}

Result<Keys> Keys::standard() {
  if (const auto config = environment("XDG_CONFIG_HOME")) return at(fs::path(*config) / "fibula" / "keys");
  if (const auto home = environment("HOME")) return at(fs::path(*home) / ".config" / "fibula" / "keys");
  return fail({.code = Code::missing_tool,
               .what = "no folder for keys: XDG_CONFIG_HOME and HOME are both unset",
               .hint = "set HOME"});
}

Result<std::vector<Key>> Keys::list() const {
  std::vector<Key> keys;
  for (const auto& name : files_directly_in(folder_)) {
    if (name.extension() != public_ending) continue;
    const fs::path file = folder_ / name;
    auto read = read_key(file, public_heading);
    if (!read) return pass(read);
    const std::string stem = name.stem().string();
    std::error_code ignored;
    const bool revoked = fs::exists(folder_ / (stem + revoked_ending), ignored);
    const bool own = fs::exists(folder_ / (stem + secret_ending), ignored);
    keys.push_back({.name = stem,
                    .id = id_of(read->half),
                    .public_half = read->half,
                    .trust = revoked ? KeyTrust::revoked
                             : own   ? KeyTrust::own
                                     : KeyTrust::trusted,
                    .file = file});
  }
  return keys;
}

Result<Key> Keys::find(const std::string& name_or_id) const {
  auto keys = list();
  if (!keys) return pass(keys);
  for (auto& key : *keys) {
    if (key.name == name_or_id || key.id == name_or_id) return std::move(key);
  }
  return fail({.code = Code::absent,
               .what = fmt::format("there is no key {}", name_or_id),
               .file = folder_.string(),
               .hint = "fibula shelf keys lists those that are there"});
}

Result<std::optional<Key>> Keys::known(const std::string& public_half) const {
  auto keys = list();
  if (!keys) return pass(keys);
  for (auto& key : *keys) {
    if (key.public_half == public_half) return std::optional(std::move(key));
  }
  return std::optional<Key>();
}

Result<Key> Keys::make(const std::string& name) const {
  if (!is_plain_name(name))
    return fail({.code = Code::refused,
                 .what = fmt::format("{} cannot be a key's name", name),
                 .hint = "letters, digits, '-', '_' and '.' make one"});
  const auto folder = Folder::make(folder_);
  if (!folder) return fail(folder.error());
  if (folder->has_file(name + public_ending) || folder->has_file(name + secret_ending))
    return fail(taken_name(name, folder_));
  const auto pair = make_key_pair();
  if (!pair) return fail(pair.error());
  // Only its owner may read the folder, hence what is in it, before the secret is.
  if (auto closed = folder->keep_to_owner(); !closed) return pass(closed);
  if (auto done = folder->write(name + secret_ending, key_text(secret_heading, name, pair->secret), Flush::now); !done)
    return pass(done);
  if (auto done = folder->write(name + public_ending, key_text(public_heading, name, pair->public_half), Flush::now);
      !done)
    return pass(done);
  return find(name);
}

Result<Key> Keys::trust(const fs::path& file, const std::string& name) const {
  auto read = read_key(file, public_heading);
  if (!read) return pass(read);
  const std::string called = name.empty() ? read->name : name;
  if (!is_plain_name(called))
    return fail({.code = Code::refused, .what = fmt::format("{} cannot be a key's name", called)});
  auto before = known(read->half);
  if (!before) return pass(before);
  if (*before && (*before)->trust == KeyTrust::revoked)
    return fail(
        {.code = Code::refused,
         .what = fmt::format("this key is revoked here, as {}", (*before)->name),
         .file = file.string(),
         .hint = fmt::format("remove {} to trust it again", (folder_ / ((*before)->name + revoked_ending)).string())});
  if (*before) return std::move(**before);
  const auto folder = Folder::make(folder_);
  if (!folder) return fail(folder.error());
  if (folder->has_file(called + public_ending)) return fail(taken_name(called, folder_));
  if (auto done = folder->write(called + public_ending, key_text(public_heading, called, read->half), Flush::now);
      !done)
    return pass(done);
  return find(called);
}

Result<Key> Keys::revoke(const std::string& name_or_id) const {
  const auto key = find(name_or_id);
  if (!key) return key;
  const auto folder = Folder::open(folder_);
  if (!folder) return fail(folder.error());
  if (auto done = folder->write(key->name + revoked_ending, fmt::format("revoked {}\n", key->id), Flush::now); !done)
    return pass(done);
  return find(key->name);
}

Result<std::string> Keys::sign(const std::string& name_or_id, const std::string& text) const {
  const auto key = find(name_or_id);
  if (!key) return fail(key.error());
  if (key->trust != KeyTrust::own)
    return fail({.code = Code::refused,
                 .what = key->trust == KeyTrust::revoked
                             ? fmt::format("the key {} is revoked", key->name)
                             : fmt::format("the key {} is somebody else's: its secret half is not here", key->name),
                 .file = folder_.string(),
                 .hint = "make one: fibula shelf keys make NAME"});
  auto secret = read_key(folder_ / (key->name + secret_ending), secret_heading);
  if (!secret) return fail(secret.error());
  return sign_text({secret->half, key->public_half}, text);
}

}  // namespace fibula
