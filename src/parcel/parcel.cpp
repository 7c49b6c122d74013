#include <fibula/parcel.hpp>

#include "base/digest.hpp"
#include "base/text.hpp"
#include "card/card_seal.hpp"
#include "os/file_digest.hpp"
#include "os/files.hpp"
#include "os/host.hpp"
#include "os/stamp.hpp"
#include "parcel/built_entry.hpp"
#include "parcel/findings.hpp"
#include "parcel/pack.hpp"
#include "shelf/contents.hpp"
#include "take/parcel_form.hpp"
#include "take/source.hpp"
#include "take/trim.hpp"

#include <fibula/build.hpp>
#include <fibula/emit.hpp>
#include <fibula/take.hpp>

#include <fmt/format.h>
#include <algorithm>
#include <future>
#include <set>

namespace fibula {
namespace {

/// The version that is meant.
Result<Card> card_meant(const Shelf& shelf, const ParcelRequest& request) {
  auto versions = shelf.versions(request.name);
  if (!versions) return pass(versions);
  for (auto& card : *versions) {
    if (request.version.empty() || card.version == request.version) return std::move(card);
  }
  const std::string meant = text::closest(request.name, shelf.names());
  return fail({.code = Code::absent,
               .what = fmt::format("{}{}{} is not on the shelf", request.name, request.version.empty() ? "" : " ",
                                   request.version),
               .file = shelf.shown(),
               .hint = versions->empty() && !meant.empty() ? fmt::format("did you mean {}?", meant)
                                                           : "fibula shelf lists what is there"});
}

Result<void> check_request(const Card& card, const ParcelRequest& request) {
  if (card.comes_as_source() && !request.with_source)
    return fail({.code = Code::usage,
                 .what = fmt::format("{} {} comes as source, and sources are handed on only when that is asked for",
                                     card.name, card.version),
                 .hint =
                     "say --with-source: whoever takes the parcel builds it; or call this in a project that uses it, "
                     "to hand on what was built there"});
  for (const auto& id : request.variants) {
    std::vector<std::string> ids;
    for (const auto& variant : card.variants) ids.push_back(variant.id);
    if (std::find(ids.begin(), ids.end(), id) != ids.end()) continue;
    return fail({.code = Code::usage,
                 .what = fmt::format("{} {} has no variant {}", card.name, card.version, id),
                 .hint = fmt::format("it has {}", text::join(ids, ", "))});
  }
  return {};
}

/// What goes into the parcel: the card as it will be, and the list of its files.
struct Selection {
  Card card;
  DigestList contents;
};

Result<Selection> select(Card card, const ParcelRequest& request) {
  auto contents = read_contents(card.entry / "contents.sha256");
  if (!contents) return pass(contents);
  std::vector<std::string> files;
  for (const auto& file : *contents) files.push_back(file.file);
  if (!request.variants.empty()) {
    Source source{.root = card.root};
    if (auto trimmed = trim(card, source, request.variants, files); !trimmed) return pass(trimmed);
    const std::set<std::string> kept(files.begin(), files.end());
    std::erase_if(*contents, [&](const ListedFile& file) { return !kept.contains(file.file); });
  }
  card.in_place = false;
  // Where it was taken from means nothing elsewhere, unless it is an address.
  if (card.origin.path.find("://") == std::string::npos)
    card.origin = {.kind = "folder", .path = fmt::format("{}-{}", card.name, card.version)};
  card.digest = digest_of(*contents);
  return Selection{std::move(card), std::move(*contents)};
}

/// The newest of each library that it requires, as far as they are on the shelf.
std::vector<Card> required_by(const Card& card, const Shelf& shelf) {
  std::vector<Card> required;
  for (const auto& requirement : card.requirements) {
    auto versions = requirement.library.empty() ? Result<std::vector<Card>>() : shelf.versions(requirement.library);
    if (versions && !versions->empty()) required.push_back(std::move(versions->front()));
  }
  return required;
}

std::vector<PackedEntry> entries_of(const Selection& selection, const Shelf& shelf, const Keys& keys,
                                    const std::string& sign_with, Result<void>& problem) {
  const std::string card = sealed_card(card_text(selection.card)), contents = to_text(selection.contents);
  const auto required = required_by(selection.card, shelf);
  const std::string spdx = emit::spdx(selection.card, required) + "\n",
                    cyclonedx = emit::cyclonedx(selection.card, required) + "\n";
  const std::string label = to_text(ParcelLabel{selection.card.name, selection.card.version, sha256(card),
                                                sha256(contents), sha256(spdx), sha256(cyclonedx)});
  const std::string top = fmt::format("{}-{}/", selection.card.name, selection.card.version);
  std::vector<PackedEntry> entries{{top + parcel_name, label}};
  if (!sign_with.empty()) {
    const auto key = keys.find(sign_with);
    const auto signature = key ? keys.sign(sign_with, label) : Result<std::string>(fail(key.error()));
    if (!signature) {
      problem = fail(signature.error());
      return entries;
    }
    entries.push_back({top + parcel_signature_name, signature_text(key->public_half, *signature)});
  }
  entries.push_back({top + "card.toml", card});
  entries.push_back({top + "contents.sha256", contents});
  entries.push_back({top + parcel_spdx_name, spdx});
  entries.push_back({top + parcel_cyclonedx_name, cyclonedx});
  for (const auto& file : selection.contents)
    entries.push_back({.path = top + "files/" + file.file, .file = selection.card.root / file.file});
  return entries;
}

Result<void> compare_digests(const Card& card, const DigestList& expected, Result<DigestList> now) {
  if (!now) return pass(now);
  for (size_t i = 0; i < expected.size(); ++i) {
    if ((*now)[i].sha256 == expected[i].sha256) continue;
    return fail({.code = Code::refused,
                 .what = "is not as it was taken",
                 .file = (card.root / expected[i].file).string(),
                 .hint = "take the library again with --replace; no parcel was made"});
  }
  return {};
}

fs::path file_for(const ParcelRequest& request, const Card& card) {
  const std::string name = fmt::format("{}-{}.tar.zst", card.name, card.version);
  if (request.to.empty()) return absolute_path(name);
  return absolute_path(stamp_of(request.to).is_folder() ? request.to / name : request.to);
}

Result<void> write_parcel(const Selection& selection, const Shelf& shelf, const ParcelRequest& request,
                          const Keys& keys, Parcel& parcel) {
  if (stamp_of_link(parcel.file).there() && !request.replace)
    return fail({.code = Code::refused,
                 .what = "is there already",
                 .file = parcel.file.string(),
                 .hint = "name another place with --to, or say --replace"});
  Result<void> problem;
  const auto entries = entries_of(selection, shelf, keys, request.sign_with, problem);
  if (!problem) return problem;
  // Every byte is read twice, for its digest and to be packed, side by side.
  std::vector<std::string> files;
  for (const auto& file : selection.contents) files.push_back(file.file);
  auto digests = std::async(std::launch::async, [&] { return digest_files(selection.card.root, files); });
  auto packed =
      pack(entries, parcel.file, [&] { return compare_digests(selection.card, selection.contents, digests.get()); });
  if (!packed) return packed;
  auto digest = sha256_of_file(parcel.file);
  if (!digest) return pass(digest);
  parcel.sha256 = std::move(*digest);
  parcel.size = stamp_of(parcel.file).size;
  parcel.signed_with = request.sign_with;
  parcel.written = true;
  return {};
}

}  // namespace

Result<Parcel> make_parcel(const Shelf& shelf, const ParcelRequest& request) {
  auto card = card_meant(shelf, request);
  if (!card) return pass(card);
  if (auto good = check_request(*card, request); !good) return pass(good);
  if (auto here = shelf.bring(*card); !here) return pass(here);
  auto keys = Keys::standard();
  if (!keys && !request.sign_with.empty()) return pass(keys);
  auto selection = select(std::move(*card), request);
  if (!selection) return pass(selection);
  Parcel parcel{.name = selection->card.name, .version = selection->card.version};
  for (const auto& variant : selection->card.variants) parcel.variants.push_back(variant.id);
  parcel.file = file_for(request, selection->card);
  parcel.findings = binary_findings(selection->card);
  if (!request.untried) try_variants(shelf, selection->card, parcel);
  const bool bad = std::any_of(parcel.findings.begin(), parcel.findings.end(),
                               [](const ParcelFinding& finding) { return finding.stands_against; });
  if (bad && !request.anyway) return parcel;
  const Keys none = Keys::at({});
  if (auto written = write_parcel(*selection, shelf, request, keys ? *keys : none, parcel); !written)
    return pass(written);
  return parcel;
}

Result<Parcel> make_output_parcel(const Project& project, const Shelf& shelf, const ParcelRequest& request) {
  if (request.version.empty())
    return fail({.code = Code::usage,
                 .what = fmt::format("{} is made by this project, and nobody says what version it is", request.name),
                 .hint = fmt::format("name one: fibula parcel {} 1.0", request.name)});
  const auto folder = TemporaryFolder::make(temporary_place(), "fibula-parcel-");
  if (!folder) return fail(folder.error());
  const Shelf own = Shelf::at(folder->path());
  TakeRequest asked;
  asked.version = request.version;
  auto taken = take_output(own, project, request.name, asked);
  if (!taken) return pass(taken);
  auto parcel = make_parcel(own.before(shelf), request);
  if (!parcel) return parcel;
  for (const auto& remark : taken->remarks) parcel->findings.push_back({.subject = request.name, .what = remark});
  return parcel;
}

Result<Parcel> make_built_parcel(const Project& project, const Shelf& shelf, const ParcelRequest& request) {
  const auto folder = TemporaryFolder::make(temporary_place(), "fibula-parcel-");
  if (!folder) return fail(folder.error());
  const Shelf own = Shelf::at(folder->path());
  const auto without = put_built_on(own, project, shelf, request.name);
  if (!without) return fail(without.error());
  auto parcel = make_parcel(own.before(shelf), request);
  if (!parcel) return parcel;
  if (!without->empty())
    parcel->findings.push_back(
        {.subject = request.name,
         .what = "not built as its sources and settings are now, and left out: " + text::join(*without, ", ")});
  return parcel;
}

}  // namespace fibula
