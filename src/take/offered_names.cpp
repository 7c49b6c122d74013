#include "take/offered_names.hpp"

#include "base/digest.hpp"
#include "binary/open.hpp"

#include <algorithm>
#include <iterator>

namespace fibula {
namespace {

/// Instances of the C++ standard library's templates, its type information, and names that compilers make for one file:
/// each library has its own copies.
bool is_everybodys(std::string_view name) {
  // What linkers put into every file (ld's and lld's default scripts).
  static constexpr std::string_view made[] = {"_edata",      "_end",         "__bss_start", "__bss_start__",
                                              "__bss_end__", "_bss_end__",   "__end__",     "_init",
                                              "_fini",       "__data_start", "_etext",      "edata",
                                              "end",         "etext",        "DllMain",     "_DllMainCRTStartup"};
  if (std::find(std::begin(made), std::end(made), name) != std::end(made)) return true;
  static constexpr std::string_view starts[] = {"_ZNSt", "_ZSt",    "_ZNKSt", "_ZN9__gnu_cxx", "_ZTI",
                                                "_ZTS",  "_ZTV",    "__ZNSt", "__ZSt",         "??_",
                                                "??$",   "__real@", "__xmm@", "_GLOBAL_",      ".refptr."};
  return std::any_of(std::begin(starts), std::end(starts),
                     [&](std::string_view start) { return name.starts_with(start); });
}

/// The name as C has it: libraries of Windows and macOS put signs around it, run-time files of Windows do not.
std::string_view plain(std::string_view name) {
  if (name.starts_with("__imp_")) name.remove_prefix(6);
  if (name.starts_with('_') && !name.starts_with("_Z")) name.remove_prefix(1);
  const size_t at = name.rfind('@');
  const bool decorated = at != std::string_view::npos && at > 0 && !name.starts_with('?') &&
                         name.find_first_not_of("0123456789", at + 1) == std::string_view::npos;
  return decorated ? name.substr(0, at) : name;
}

/// A few names tell for most pairs of large libraries that they have little in common.
bool may_offer_the_same(const std::vector<uint64_t>& fewer, const std::vector<uint64_t>& more) {
  constexpr size_t samples = 32,
                   least = 6;  // of names of which half are common, fewer are found once in ten thousand times
  if (fewer.size() < 4 * samples) return true;
  size_t found = 0;
  for (size_t i = 0; i < samples; ++i)
    found += std::binary_search(more.begin(), more.end(), fewer[i * fewer.size() / samples]) ? 1U : 0U;
  return found >= least;
}

std::vector<uint64_t> sorted(std::vector<uint64_t> hashes) {
  std::sort(hashes.begin(), hashes.end());
  hashes.erase(std::unique(hashes.begin(), hashes.end()), hashes.end());
  return hashes;
}

bool have_most_in_common(const std::vector<uint64_t>& one, const std::vector<uint64_t>& other) {
  const size_t smaller = std::min(one.size(), other.size());
  if (smaller == 0) return false;
  if (!may_offer_the_same(one.size() < other.size() ? one : other, one.size() < other.size() ? other : one))
    return false;
  std::vector<uint64_t> common;
  std::set_intersection(one.begin(), one.end(), other.begin(), other.end(), std::back_inserter(common));
  return common.size() * 2 > smaller;
}

std::vector<uint64_t> once_only_in(const std::filesystem::path& archive) {
  std::vector<uint64_t> hashes;
  const auto opened = open_binary(archive, 0);
  const Archive* content = opened ? opened->archive() : nullptr;
  if (content == nullptr) return hashes;
  for (const auto& member : content->members) {
    const auto image = read_image(member.data, want_symbols | want_groups);
    if (!image) continue;
    for (const auto& symbol : image->symbols) {
      const bool once = symbol.defined && symbol.binding == Binding::global && symbol.group < 0;
      if (once && !is_everybodys(symbol.name)) hashes.push_back(quick_digest(plain(symbol.name)));
    }
  }
  return sorted(std::move(hashes));
}

}  // namespace

OfferedNames::OfferedNames(std::filesystem::path file) : file_(std::move(file)) {
  const auto opened = open_binary(file_, want_symbols);
  if (!opened) return;
  const auto add = [&](std::string_view name) {
    if (!is_everybodys(name)) all_.push_back(quick_digest(plain(name)));
  };
  if (const Archive* archive = opened->archive()) {
    is_archive_ = true;
    for (const auto& entry : archive->index) add(entry.symbol);
  } else if (const Image* image = opened->image()) {
    for (const auto& symbol : image->dynamic_symbols) {
      if (symbol.defined && symbol.binding == Binding::global) add(symbol.name);
    }
  }
  all_ = sorted(std::move(all_));
}

const std::vector<uint64_t>& OfferedNames::once_only() const {
  if (!is_archive_) return all_;
  if (!once_only_) once_only_ = once_only_in(file_);
  return *once_only_;
}

bool offer_the_same(const OfferedNames& one, const OfferedNames& other) {
  // An archive's index names inline functions too, which every user of a header has.
  return have_most_in_common(one.all(), other.all()) && have_most_in_common(one.once_only(), other.once_only());
}
bool are_the_same(const OfferedNames& one, const OfferedNames& other) {
  const size_t a = one.all().size(), b = other.all().size();
  return std::min(a, b) * 2 > std::max(a, b) && offer_the_same(one, other);
}

bool needs_one_of(const std::filesystem::path& archive, const OfferedNames& offers) {
  constexpr size_t most_members = 64;  // a helper is small
  const auto opened = open_binary(archive, 0);
  const Archive* content = opened ? opened->archive() : nullptr;
  if (content == nullptr || content->members.size() > most_members) return false;
  for (const auto& member : content->members) {
    const auto image = read_image(member.data, want_symbols);
    if (!image) continue;
    for (const auto& symbol : image->symbols) {
      if (!symbol.defined &&
          std::binary_search(offers.all().begin(), offers.all().end(), quick_digest(plain(symbol.name))))
        return true;
    }
  }
  return false;
}

std::optional<size_t> member_count(const std::filesystem::path& file) {
  const auto opened = open_binary(file, 0);
  const Archive* archive = opened ? opened->archive() : nullptr;
  return archive == nullptr ? std::nullopt : std::optional(archive->members.size());
}

}  // namespace fibula
