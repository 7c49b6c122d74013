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

std::string spdx(const Fit& fit, const std::string& name) {
  const std::string program = spdx_id("program-" + name);
  ordered_json packages = {{{"name", name},
                            {"SPDXID", program},
                            {"downloadLocation", "NOASSERTION"},
                            {"filesAnalyzed", false},
                            {"licenseConcluded", "NOASSERTION"},
                            {"licenseDeclared", "NOASSERTION"},
                            {"copyrightText", "NOASSERTION"}}};
  ordered_json relations = {
      {{"spdxElementId", "SPDXRef-DOCUMENT"}, {"relationshipType", "DESCRIBES"}, {"relatedSpdxElement", program}}};
  for (const auto& library : fit.libraries) {
    packages.push_back(spdx_package(library));
    const bool shared = library.linkage == Linkage::shared;
    relations.push_back({{"spdxElementId", program},
                         {"relationshipType", library.variant.empty() ? "DEPENDS_ON"
                                              : shared                ? "DYNAMIC_LINK"
                                                                      : "STATIC_LINK"},
                         {"relatedSpdxElement", spdx_id("library-" + library.name)}});
  }
  const ordered_json bill = {{"spdxVersion", "SPDX-2.3"},
                             {"dataLicense", "CC0-1.0"},
                             {"SPDXID", "SPDXRef-DOCUMENT"},
                             {"name", fmt::format("{} in lane {}", name, fit.lane.name)},
                             {"documentNamespace", "urn:uuid:" + uuid_of(identity_of(fit, name))},
                             {"creationInfo", {{"created", time_of(fit)}, {"creators", {"Tool: fibula"}}}},
                             {"packages", packages},
                             {"relationships", relations}};
  return json_text(bill, 1);
}

std::string cyclonedx(const Fit& fit, const std::string& name) {
  ordered_json components = ordered_json::array(), needed = ordered_json::array();
  for (const auto& library : fit.libraries) {
    components.push_back(cyclonedx_component(library));
    needed.push_back("library-" + library.name);
  }
  const ordered_json bill = {
      {"bomFormat", "CycloneDX"},
      {"specVersion", "1.5"},
      {"serialNumber", "urn:uuid:" + uuid_of(identity_of(fit, name))},
      {"version", 1},
      {"metadata",
       {{"timestamp", time_of(fit)},
        {"component", {{"type", "application"}, {"bom-ref", "program-" + name}, {"name", name}}}}},
      {"components", components},
      {"dependencies", {{{"ref", "program-" + name}, {"dependsOn", needed}}}}};
  return json_text(bill, 1);
}

Result<void> materials(const Fit& fit, const std::string& name) {
  if (auto written = write_if_changed_in(fit.folder, "materials.spdx.json", spdx(fit, name) + "\n"); !written)
    return pass(written);
  return without_value(write_if_changed_in(fit.folder, "materials.cdx.json", cyclonedx(fit, name) + "\n"));
}

}  // namespace fibula::emit
