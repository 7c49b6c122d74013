#include <fibula/locate.hpp>

#include "index/shelf_names.hpp"
#include "os/files.hpp"
#include "os/stamp.hpp"

#include <algorithm>
#include <set>
#include <tuple>

namespace fibula {
namespace {

/// The places to look into one by one, and the shelves whose index tells what they have.
struct Searched {
  std::vector<IndexedPlace> places;
  std::vector<std::string> shelves;
};

Searched searched_in(const LocateContext& context, NameIndex& index) {
  Searched searched;
  auto& places = searched.places;
  for (const auto& shelf : context.shelf.places()) {
    if (const auto parts = parts_to_index(shelf); parts && index.bring_up_to_date(shelf, *parts)) {
      searched.shelves.push_back(shelf.shown());
      continue;
    }
    for (const auto& name : shelf.names()) {
      const auto versions = shelf.versions(name);
      for (const auto& card : versions ? *versions : std::vector<Card>()) places.push_back(place_of_card(card));
    }
  }
  for (const auto& folder : context.folders) places.push_back({.folder = absolute_path(folder), .deep = true});
  if (context.toolchain == nullptr) return searched;
  for (const auto& folder : context.toolchain->library_directories) places.push_back({.folder = folder});
  for (const auto& folder : context.toolchain->include_directories)
    places.push_back({.folder = folder, .only_file_names = true});
  return searched;
}

}  // namespace

std::string_view to_string(HitRole role) {
  switch (role) {
    case HitRole::defines: return "defines";
    case HitRole::needs: return "needs";
    case HitRole::declares: return "declares";
  }
  return {};
}

Result<std::vector<Hit>> locate(const std::string& name, const LocateContext& context) {
  if (name.empty())
    return fail({.code = Code::usage, .what = "no name was given", .hint = "name a symbol, a header or a file"});
  for (const auto& folder : context.folders) {
    if (!stamp_of(folder).is_folder())
      return fail({.code = Code::absent, .what = "is no folder that is there", .file = folder.string()});
  }
  auto index = NameIndex::open(context.cache);
  if (!index) return pass(index);
  const auto searched = searched_in(context, *index);
  if (auto current = index->bring_up_to_date(searched.places); !current) return pass(current);
  auto hits = index->find(name, searched.places, searched.shelves, context.most);
  if (!hits) return hits;
  const auto rank = [](const Hit& hit) {
    return std::tuple(hit.role, hit.library.empty(), hit.path, hit.member, hit.name);
  };
  std::sort(hits->begin(), hits->end(), [&](const Hit& a, const Hit& b) { return rank(a) < rank(b); });
  return hits;
}

}  // namespace fibula
