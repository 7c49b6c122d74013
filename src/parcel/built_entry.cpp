#include "parcel/built_entry.hpp"

#include "choose/source_plan.hpp"
#include "fit/gathered.hpp"
#include "headers/header_folders.hpp"
#include "os/folder.hpp"
#include "shelf/storage.hpp"
#include "take/put_on_shelf.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

class BuiltEntry {
 public:
  BuiltEntry(ArrivingEntry entry, Folder folder) : entry_(std::move(entry)), folder_(std::move(folder)) {}

  bool empty() const { return card_.variants.empty(); }

  /// What one lane uses. Errors: io.
  Result<void> add(const Choice& choice, const Lane& lane) {
    if (empty()) {
      if (auto begun = begin(choice); !begun) return begun;
    }
    if (!built_.insert(choice.source->key).second) return {};  // another lane uses the very same
    Variant variant = *choice.variant;
    const auto is_same = [&](const Variant& other) { return other.id == variant.id; };
    if (std::any_of(card_.variants.begin(), card_.variants.end(), is_same)) variant.id += "-" + lane.name;
    const std::string own = "builds/" + variant.id + "/";
    const auto place_of = [&](const fs::path& file) {
      return own + (file.parent_path().filename() / file.filename()).generic_string();
    };
    for (const auto member : {&Variant::link, &Variant::runtime}) {
      for (auto& file : variant.*member) {
        const fs::path from = choice.card->root / std::exchange(file, place_of(file));
        if (auto copied = copy(from, file); !copied) return copied;
      }
    }
    for (auto& [fact, learnt] : variant.learnt) {
      if (!learnt.file.empty()) learnt.file = place_of(learnt.file);
    }
    // What its build made or installed; other headers serve all.
    std::vector<std::string> folders = variant.include_directories;
    if (!choice.source->steps.empty()) folders = choice.card->include_directories;
    variant.include_directories.clear();
    for (const auto& folder : folders) {
      const fs::path from = choice.card->root / folder;
      variant.include_directories.push_back(own + from.filename().generic_string());
      if (auto copied = copy_headers(from, variant.include_directories.back()); !copied) return copied;
      if (choice.source->steps.empty() || !card_.variants.empty()) continue;
      for (const auto& header : choice.card->public_headers) {
        if (header.starts_with(folder + "/"))
          card_.public_headers.push_back(variant.include_directories.back() + header.substr(folder.size()));
      }
    }
    card_.variants.push_back(std::move(variant));
    return {};
  }

  Result<void> publish() {
    const auto contents = digest_files(entry_.path() / "files", {files_.begin(), files_.end()});
    if (!contents) return fail(contents.error());
    card_.digest = digest_of(*contents);
    return write_and_publish(*contents, entry_, false, card_);
  }

 private:
  /// The library as it came, without its sources.
  Result<void> begin(const Choice& choice) {
    const Card& source = *choice.source->card;
    card_ = source;
    card_.source = {};
    card_.variants.clear();
    card_.in_place = card_.lies_open = false;
    card_.files = {.licences = source.files.licences, .data = source.files.data};
    for (const auto* files : {&card_.files.licences, &card_.files.data}) {
      for (const auto& file : *files) {
        if (auto copied = copy(source.root / file, file); !copied) return copied;
      }
    }
    if (!choice.source->steps.empty()) {
      card_.include_directories.clear();
      card_.public_headers.clear();
      return {};
    }
    for (const auto& folder : card_.include_directories) {
      if (auto copied = copy_headers(source.root / folder, folder == "." ? "" : folder); !copied) return copied;
    }
    return {};
  }

  Result<void> copy_headers(const fs::path& from, const std::string& to) {
    const auto files = files_below(from);
    if (!files) return fail(files.error());
    for (const auto& file : *files) {
      if (!is_header_name(file.string())) continue;
      if (auto copied = copy(from / file, (fs::path(to) / file).generic_string()); !copied) return copied;
    }
    return {};
  }

  Result<void> copy(const fs::path& from, const std::string& to) {
    return files_.insert(to).second ? folder_.copy_in(from, "files/" + to) : Result<void>();
  }

  ArrivingEntry entry_;
  Folder folder_;  ///< of the entry
  Card card_;
  std::set<std::string> built_;  ///< keys
  std::set<std::string> files_;
};

Error refusal(const Project& project, std::string what, std::string hint) {
  return {.code = Code::refused, .what = std::move(what), .file = project.file().string(), .hint = std::move(hint)};
}

}  // namespace

Result<std::vector<std::string>> put_built_on(const Shelf& place, const Project& project, const Shelf& shelf,
                                              const std::string& library) {
  const auto gathered = gather_choices(project, project.lanes(), shelf);
  if (!gathered) return fail(gathered.error());
  auto arriving = ArrivingEntry::make(place.folder());
  if (!arriving) return fail(arriving.error());
  auto folder = Folder::open(arriving->path());
  if (!folder) return fail(folder.error());
  BuiltEntry entry(std::move(*arriving), std::move(*folder));
  std::vector<std::string> without;
  for (const auto& lane : gathered->state().found) {
    if (lane.problem) return fail(*lane.problem);
    const auto choice = lane.choices.find(library);
    if (choice == lane.choices.end() || !choice->second.source)
      return fail(
          refusal(project, fmt::format("does not build {} from source in lane {}", library, lane.lane.name),
                  fmt::format("fibula parcel {} hands on what is on the shelf, outside of this project", library)));
    if (choice->second.is_pending() || choice->second.card == nullptr) {
      without.push_back(lane.lane.name);
    } else if (auto added = entry.add(choice->second, lane.lane); !added) {
      return pass(added);
    }
  }
  if (entry.empty())
    return fail(refusal(project, fmt::format("has not built {} as its sources and settings are now", library),
                        "build it first: fibula build"));
  if (auto published = entry.publish(); !published) return pass(published);
  return without;
}

}  // namespace fibula
