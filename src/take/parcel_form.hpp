/// Parcels: a library as one file to hand on. A `.tar.zst` with one folder, and in it `parcel.toml`, which names the
/// digests of `card.toml`, of two bills of materials, and of `contents.sha256`, which names those of all in `files/`;
/// and `parcel.signature`, where somebody vouches for it.
#pragma once

#include <fibula/card.hpp>
#include <fibula/keys.hpp>

#include <filesystem>
#include <string>
#include <vector>

namespace fibula {

constexpr const char *parcel_name = "parcel.toml", *parcel_signature_name = "parcel.signature",
                     *parcel_spdx_name = "materials.spdx.json", *parcel_cyclonedx_name = "materials.cdx.json";
/// The newest form that is read and written.
constexpr int parcel_form = 1;

/// What a parcel says of itself.
struct ParcelLabel {
  std::string name, version;
  std::string card_sha256, contents_sha256;
  std::string spdx_sha256, cyclonedx_sha256;  ///< of the bills of materials
};
std::string to_text(const ParcelLabel& label);

/// `parcel.signature`, of a label's text.
std::string signature_text(const std::string& public_half, const std::string& signature);

struct OpenedParcel {
  Card card;
  std::vector<std::string> remarks;  ///< who vouches for it
};

/// Whether an unpacked folder is one.
bool is_parcel(const std::filesystem::path& folder);

/// Looks at every file and at the signature. `signed_only`: it must be signed by a key that is trusted. Errors:
/// unsupported (of a newer form), malformed, refused (a file is missing, was changed, or is not listed; the signature
/// is not of this parcel, or by a revoked key, or `signed_only` is not met), missing_tool.
Result<OpenedParcel> open_parcel(const std::filesystem::path& folder, const Keys& keys, bool signed_only);

}  // namespace fibula
