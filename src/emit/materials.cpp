/// Bills of materials of a lane: SPDX 2.3 (ISO/IEC 5962 and its successor, JSON) and CycloneDX 1.5 (ECMA-424, JSON).
#include "base/digest.hpp"
#include "base/json_text.hpp"
#include "base/text.hpp"
#include "os/folder.hpp"
#include "os/stamp.hpp"

#include <fibula/emit.hpp>

#include <fmt/chrono.h>
#include <fmt/format.h>
#include <algorithm>
#include <cstdlib>
#include <nlohmann/json.hpp>

namespace fibula::emit {
namespace {

using nlohmann::ordered_json;

/// What was chosen, in one text: equal lanes have equal bills.
std::string identity_of(const Fit& fit, const std::string& name) {
  std::string all = name + "\n" + fit.lane.name + "\n" + fit.toolchain.triple + "\n";
  for (const auto& library : fit.libraries)
    all += fmt::format("{} {} {} {}\n", library.name, library.version, library.variant, library.digest);
  return sha256(all);
}

/// A UUID made of a digest (RFC 9562, version 8: the form is free, two fields are fixed).
std::string uuid_of(const std::string& digest) {
  return fmt::format("{}-{}-8{}-8{}-{}", digest.substr(0, 8), digest.substr(8, 4), digest.substr(13, 3),
                     digest.substr(17, 3), digest.substr(20, 12));
}

/// The time of the newest card, so that the same choice gives the same bill; or what SOURCE_DATE_EPOCH says.
std::string time_of(const Fit& fit) {
  std::time_t newest = 0;
  if (const auto epoch = environment("SOURCE_DATE_EPOCH")) {
    newest = std::atoll(epoch->c_str());
  } else {
    for (const auto& library : fit.libraries) {
      newest = std::max<std::time_t>(newest, stamp_of(library.entry / "card.toml").time / 1'000'000'000);
    }
  }
  return fmt::format("{:%Y-%m-%dT%H:%M:%SZ}", fmt::gmtime(newest));
}

/// `sha256:…` without its kind.
std::string plain_digest(const ChosenLibrary& library) {
  return library.digest.substr(library.digest.find(':') + 1);
}

bool is_address(const std::string& origin) {
  return origin.find("://") != std::string::npos;
}

/// Identifiers of SPDX elements hold letters, digits, `.` and `-`.
std::string spdx_id(const std::string& name) {
  std::string id = "SPDXRef-" + name;
  std::replace_if(
      id.begin(), id.end(), [](char c) { return !text::is_identifier_character(c) && c != '.' && c != '-'; }, '-');
  std::replace(id.begin(), id.end(), '_', '-');
  return id;
}

ordered_json spdx_package(const ChosenLibrary& library) {
  const std::string licence = library.licence.empty() ? "NOASSERTION" : library.licence;
  return {{"name", library.name},
          {"SPDXID", spdx_id("library-" + library.name)},
          {"versionInfo", library.version},
          {"downloadLocation", is_address(library.origin) ? library.origin : "NOASSERTION"},
          {"filesAnalyzed", false},
          {"licenseConcluded", "NOASSERTION"},
          {"licenseDeclared", licence},
          {"copyrightText", "NOASSERTION"},
          {"checksums", {{{"algorithm", "SHA256"}, {"checksumValue", plain_digest(library)}}}},
          {"comment", fmt::format("variant {}; the checksum is over the digests of all files",
                                  library.variant.empty() ? "headers only" : library.variant)}};
}

ordered_json cyclonedx_component(const ChosenLibrary& library) {
  ordered_json component = {{"type", "library"},
                            {"bom-ref", "library-" + library.name},
                            {"name", library.name},
                            {"version", library.version},
                            {"hashes", {{{"alg", "SHA-256"}, {"content", plain_digest(library)}}}}};
  if (!library.licence.empty()) component["licenses"] = {{{"expression", library.licence}}};
  if (is_address(library.origin))
    component["externalReferences"] = {{{"type", "distribution"}, {"url", library.origin}}};
  return component;
}

}  // namespace

namespace {

/// What a bill is about, and what that needs.
struct Bill {
  std::string name, title, identity, time;
  const std::vector<ChosenLibrary>& libraries;
  const ChosenLibrary* subject = nullptr;  ///< where it is a library itself

  std::string id() const { return (subject == nullptr ? "program-" : "library-") + name; }
};

Bill bill_of(const Fit& fit, const std::string& name) {
  return {name, fmt::format("{} in lane {}", name, fit.lane.name), identity_of(fit, name), time_of(fit), fit.libraries};
}

ordered_json spdx_subject(const Bill& bill) {
  if (bill.subject != nullptr) return spdx_package(*bill.subject);
  return {{"name", bill.name},
          {"SPDXID", spdx_id(bill.id())},
          {"downloadLocation", "NOASSERTION"},
          {"filesAnalyzed", false},
          {"licenseConcluded", "NOASSERTION"},
          {"licenseDeclared", "NOASSERTION"},
          {"copyrightText", "NOASSERTION"}};
}

std::string spdx_text(const Bill& bill) {
  const std::string subject = spdx_id(bill.id());
  ordered_json packages = ordered_json::array({spdx_subject(bill)});
  ordered_json relations = {
      {{"spdxElementId", "SPDXRef-DOCUMENT"}, {"relationshipType", "DESCRIBES"}, {"relatedSpdxElement", subject}}};
  for (const auto& library : bill.libraries) {
    packages.push_back(spdx_package(library));
    const bool shared = library.linkage == Linkage::shared;
    relations.push_back({{"spdxElementId", subject},
                         {"relationshipType", library.variant.empty() ? "DEPENDS_ON"
                                              : shared                ? "DYNAMIC_LINK"
                                                                      : "STATIC_LINK"},
                         {"relatedSpdxElement", spdx_id("library-" + library.name)}});
  }
  return json_text(ordered_json{{"spdxVersion", "SPDX-2.3"},
                                {"dataLicense", "CC0-1.0"},
                                {"SPDXID", "SPDXRef-DOCUMENT"},
                                {"name", bill.title},
                                {"documentNamespace", "urn:uuid:" + uuid_of(bill.identity)},
                                {"creationInfo", {{"created", bill.time}, {"creators", {"Tool: fibula"}}}},
                                {"packages", packages},
                                {"relationships", relations}},
                   1);
}

std::string cyclonedx_text(const Bill& bill) {
  ordered_json components = ordered_json::array(), needed = ordered_json::array();
  for (const auto& library : bill.libraries) {
    components.push_back(cyclonedx_component(library));
    needed.push_back("library-" + library.name);
  }
  const ordered_json program{{"type", "application"}, {"bom-ref", bill.id()}, {"name", bill.name}};
  return json_text(
      ordered_json{{"bomFormat", "CycloneDX"},
                   {"specVersion", "1.5"},
                   {"serialNumber", "urn:uuid:" + uuid_of(bill.identity)},
                   {"version", 1},
                   {"metadata",
                    {{"timestamp", bill.time},
                     {"component", bill.subject == nullptr ? program : cyclonedx_component(*bill.subject)}}},
                   {"components", components},
                   {"dependencies", {{{"ref", bill.id()}, {"dependsOn", needed}}}}},
      1);
}

/// As a fit would have chosen it, before anything is.
ChosenLibrary as_chosen(const Card& card) {
  ChosenLibrary library{.name = card.name, .version = card.version};
  library.licence = card.licence;
  library.origin = card.origin.path;
  library.digest = card.digest;
  return library;
}

/// The same at any time: there is no newest file of a parcel, and it is the same bytes every time.
std::string time_of_parcel() {
  const auto epoch = environment("SOURCE_DATE_EPOCH");
  return fmt::format("{:%Y-%m-%dT%H:%M:%SZ}", fmt::gmtime(epoch ? std::time_t{std::atoll(epoch->c_str())} : 0));
}

template <class Text>
std::string bill_of_card(const Card& card, const std::vector<Card>& required, Text&& text) {
  const ChosenLibrary subject = as_chosen(card);
  std::vector<ChosenLibrary> libraries;
  std::string all = fmt::format("{} {} {}\n", card.name, card.version, card.digest);
  for (const auto& other : required) {
    libraries.push_back(as_chosen(other));
    all += fmt::format("{} {} {}\n", other.name, other.version, other.digest);
  }
  return text(Bill{card.name, fmt::format("{} {}", card.name, card.version), sha256(all), time_of_parcel(), libraries,
                   &subject});
}

}  // namespace

std::string spdx(const Fit& fit, const std::string& name) {
  return spdx_text(bill_of(fit, name));
}

std::string cyclonedx(const Fit& fit, const std::string& name) {
  return cyclonedx_text(bill_of(fit, name));
}

std::string spdx(const Card& card, const std::vector<Card>& required) {
  return bill_of_card(card, required, spdx_text);
}

std::string cyclonedx(const Card& card, const std::vector<Card>& required) {
  return bill_of_card(card, required, cyclonedx_text);
}

Result<void> materials(const Fit& fit, const std::string& name) {
  if (auto written = write_if_changed_in(fit.folder, "materials.spdx.json", spdx(fit, name) + "\n"); !written)
    return pass(written);
  return without_value(write_if_changed_in(fit.folder, "materials.cdx.json", cyclonedx(fit, name) + "\n"));
}

}  // namespace fibula::emit
