#include "take/parcel_form.hpp"

#include "base/digest.hpp"
#include "base/inside_path.hpp"
#include "base/text.hpp"
#include "base/toml.hpp"
#include "os/file_digest.hpp"
#include "os/files.hpp"
#include "os/signing.hpp"
#include "os/stamp.hpp"
#include "shelf/contents.hpp"

#include <fmt/format.h>
#include <set>

namespace fibula {
namespace {

constexpr std::string_view signature_heading = "fibula parcel signature 1";

Error refused_parcel(const fs::path& file, std::string what) {
  return {.code = Code::refused,
          .what = std::move(what),
          .file = file.string(),
          .hint = "get the parcel again from where it came; nothing of it was kept"};
}

Result<ParcelLabel> read_label(const fs::path& file, std::string& text) {
  auto read = read_text(file, 1U << 16U);
  if (!read) return pass(read);
  text = std::move(*read);
  const auto table = toml::parse(text, file);
  const auto value = [&](const char* key) { return table ? table->find(key) : nullptr; };
  const auto words = [&](const char* key) {
    const auto* found = value(key);
    return found == nullptr || found->text() == nullptr ? std::string() : *found->text();
  };
  const auto* form = value("form");
  const auto* number = form == nullptr ? nullptr : std::get_if<int64_t>(&form->data);
  if (number != nullptr && *number > parcel_form)
    return fail({.code = Code::unsupported,
                 .what = fmt::format("is a parcel of form {}, and this Fibula reads form {}", *number, parcel_form),
                 .file = file.string(),
                 .hint = "take it with the version of Fibula that made it, or a newer one"});
  ParcelLabel label{words("name"),     words("version"), words("card"),
                    words("contents"), words("spdx"),    words("cyclonedx")};
  if (number != nullptr && is_plain_name(label.name) && is_plain_name(label.version)) return label;
  return fail({.code = Code::malformed,
               .what = "is no parcel's label",
               .file = file.string(),
               .hint = "get the parcel again from where it came"});
}

Result<void> check_listed(const fs::path& folder, const std::string& file, const std::string& sha256) {
  const auto digest = sha256_of_file(folder / file);
  if (!digest && digest.error().code == Code::absent)
    return fail(refused_parcel(folder / file, "is named in the parcel and not in it"));
  if (!digest) return fail(digest.error());
  if (*digest == sha256) return {};
  return fail(refused_parcel(folder / file, "is not as it was when the parcel was made"));
}

Result<void> check_files(const fs::path& folder, const ParcelLabel& label) {
  for (const auto& [file, digest] :
       {std::pair("card.toml", label.card_sha256), std::pair("contents.sha256", label.contents_sha256),
        std::pair(parcel_spdx_name, label.spdx_sha256), std::pair(parcel_cyclonedx_name, label.cyclonedx_sha256)}) {
    if (auto good = check_listed(folder, file, digest); !good) return good;
  }
  auto contents = read_contents(folder / "contents.sha256");
  if (!contents) return pass(contents);
  std::set<std::string> listed{"card.toml",           "contents.sha256", parcel_name,
                               parcel_signature_name, parcel_spdx_name,  parcel_cyclonedx_name};
  for (const auto& file : *contents) {
    if (auto good = check_listed(folder / "files", file.file, file.sha256); !good) return good;
    listed.insert("files/" + file.file);
  }
  const auto there = files_below(folder);
  if (!there) return fail(there.error());
  for (const auto& file : *there) {
    if (!listed.contains(file.generic_string()))
      return fail(refused_parcel(folder / file, "is in the parcel and nothing there names it"));
  }
  return {};
}

/// Who vouches for it, in words.
Result<std::string> check_signature(const fs::path& folder, const std::string& label, const Keys& keys,
                                    bool signed_only) {
  const fs::path file = folder / parcel_signature_name;
  const auto text = read_text(file, 4096);
  const auto not_trusted = [&](const std::string& what) {
    return fail(
        {.code = Code::refused,
         .what = what,
         .file = folder.string(),
         .hint = "trust the key of whoever made it, fibula shelf keys trust FILE, or take it without --signed"});
  };
  if (!text) {
    if (text.error().code != Code::absent) return fail(text.error());
    if (signed_only) return not_trusted("is not signed");
    return std::string("the parcel is not signed: nobody vouches for it");
  }
  std::string by, signature;
  for (const auto line : text::lines(*text)) {
    if (line.starts_with("key ")) by = text::trim(line.substr(4));
    if (line.starts_with("ed25519 ")) signature = text::trim(line.substr(8));
  }
  const auto good = text->starts_with(signature_heading) ? is_signature(signature, by, label) : Result<bool>(false);
  if (!good) return fail(good.error());
  if (!*good) return fail(refused_parcel(file, "is no signature of this parcel"));
  const auto key = keys.known(by);
  if (!key) return fail(key.error());
  if (*key && (*key)->trust == KeyTrust::revoked)
    return fail({.code = Code::refused,
                 .what = fmt::format("is signed with the key {} ({}), which is revoked", (*key)->name, (*key)->id),
                 .file = folder.string(),
                 .hint = "ask whoever made it for one that is signed with a key of now"});
  if (*key) return fmt::format("the parcel is signed with the key {} ({})", (*key)->name, (*key)->id);
  if (signed_only) return not_trusted("is signed with a key that is not trusted here");
  return std::string("the parcel is signed with a key that is not known here: it is whole, and by whom is not known");
}

}  // namespace

std::string to_text(const ParcelLabel& label) {
  return fmt::format(
      "form = {}\nname = \"{}\"\nversion = \"{}\"\ncard = \"{}\"\ncontents = \"{}\"\nspdx = \"{}\"\ncyclonedx = "
      "\"{}\"\n",
      parcel_form, label.name, label.version, label.card_sha256, label.contents_sha256, label.spdx_sha256,
      label.cyclonedx_sha256);
}

std::string signature_text(const std::string& public_half, const std::string& signature) {
  return fmt::format("{}\nkey {}\ned25519 {}\n", signature_heading, public_half, signature);
}

bool is_parcel(const fs::path& folder) {
  return stamp_of_link(folder / parcel_name).is_file();
}

Result<OpenedParcel> open_parcel(const fs::path& folder, const Keys& keys, bool signed_only) {
  std::string text;
  const auto label = read_label(folder / parcel_name, text);
  if (!label) return fail(label.error());
  auto vouched = check_signature(folder, text, keys, signed_only);
  if (!vouched) return pass(vouched);
  if (auto whole = check_files(folder, *label); !whole) return pass(whole);
  auto card = read_card(folder);
  if (!card) return pass(card);
  if (card->name != label->name || card->version != label->version || card->in_place)
    return fail(
        refused_parcel(folder / "card.toml", fmt::format("is not the card of {} {}", label->name, label->version)));
  return OpenedParcel{std::move(*card), {std::move(*vouched)}};
}

}  // namespace fibula
