#include "index/provider_index.hpp"

#include "base/digest.hpp"
#include "binary/open.hpp"
#include "index/defined_names.hpp"
#include "index/library_listing.hpp"
#include "os/folder.hpp"
#include "os/kept.hpp"
#include "os/parallel.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <array>
#include <unordered_map>

namespace fibula {
namespace {

// The file: a header, then files, entries, and the text of the paths. All numbers are little-endian.
//   header: magic, u64 files, u64 entries, u64 bytes of paths
//   file:   u64 size, u64 time, u32 offset of its path, u32 length of its path
//   entry:  u64 digest of a name, u32 file; sorted by digest, then file
constexpr std::string_view magic = "fibprov2";
constexpr uint64_t header_size = 32, file_size = 24, entry_size = 12;

struct Entry {
  uint64_t digest;
  uint32_t file;
  auto operator<=>(const Entry&) const = default;
};

void append(std::string& text, uint64_t number, size_t bytes) {
  for (size_t i = 0; i < bytes; ++i) text.push_back(static_cast<char>(number >> (8 * i)));
}

/// The digests of all names that a library file defines, each once.
std::vector<uint64_t> digests_of(const fs::path& path) {
  std::vector<uint64_t> digests;
  auto file = open_binary(path, want_symbols | want_dynamic);
  if (!file) return digests;
  each_defined_name(*file, [&](std::string_view name) { digests.push_back(quick_digest(name)); });
  std::sort(digests.begin(), digests.end());
  digests.erase(std::unique(digests.begin(), digests.end()), digests.end());
  return digests;
}

}  // namespace

/// Makes an index from what is in the directories now and what an older index has.
class ProviderIndexMaker {
 public:
  explicit ProviderIndexMaker(std::vector<ListedLibrary> libraries) : libraries_(std::move(libraries)) {}

  bool is_current(const ProviderIndex& old) const {
    if (old.files() != libraries_.size()) return false;
    for (uint32_t i = 0; i < libraries_.size(); ++i) {
      if (!is_unchanged(old, i, libraries_[i])) return false;
    }
    return true;
  }

  std::string make(const ProviderIndex* old) {
    std::vector<uint32_t> unread = take_over(old);
    read(unread);
    std::sort(entries_.begin(), entries_.end());
    return text();
  }

 private:
  static bool is_unchanged(const ProviderIndex& old, uint32_t file, const ListedLibrary& library) {
    const Record record = old.files_[file];
    return record.u64(0) == library.stamp.size && record.u64(8) == static_cast<uint64_t>(library.stamp.time) &&
           old.path(file) == library.path;
  }

  /// Copies the entries of files that have not changed; gives the others.
  std::vector<uint32_t> take_over(const ProviderIndex* old) {
    constexpr uint32_t gone = UINT32_MAX;
    std::unordered_map<std::string, uint32_t> by_path;
    for (uint32_t i = 0; old != nullptr && i < old->files(); ++i) by_path.emplace(old->path(i).string(), i);
    std::vector<uint32_t> now_at(old != nullptr ? old->files() : 0, gone);
    std::vector<uint32_t> unread;
    for (uint32_t i = 0; i < libraries_.size(); ++i) {
      const auto known = by_path.find(libraries_[i].path.string());
      if (known != by_path.end() && is_unchanged(*old, known->second, libraries_[i])) {
        now_at[known->second] = i;
      } else {
        unread.push_back(i);
      }
    }
    for (uint64_t i = 0; old != nullptr && i < old->names(); ++i) {
      const Record record = old->entries_[i];
      const uint32_t file = record.u32(8);
      if (file < now_at.size() && now_at[file] != gone) entries_.push_back({record.u64(0), now_at[file]});
    }
    return unread;
  }

  void read(const std::vector<uint32_t>& unread) {
    std::vector<std::vector<uint64_t>> found(unread.size());
    each_in_parallel(unread.size(), 2, [&](size_t i) { found[i] = digests_of(libraries_[unread[i]].path); });
    for (size_t i = 0; i < unread.size(); ++i) {
      for (const uint64_t digest : found[i]) entries_.push_back({digest, unread[i]});
    }
  }

  std::string text() const {
    std::string paths, files;
    for (const auto& library : libraries_) {
      const std::string path = library.path.string();
      append(files, library.stamp.size, 8);
      append(files, static_cast<uint64_t>(library.stamp.time), 8);
      append(files, paths.size(), 4);
      append(files, path.size(), 4);
      paths += path;
    }
    std::string text(magic);
    text.reserve(header_size + files.size() + entries_.size() * entry_size + paths.size());
    append(text, libraries_.size(), 8);
    append(text, entries_.size(), 8);
    append(text, paths.size(), 8);
    text += files;
    for (const auto& entry : entries_) {
      append(text, entry.digest, 8);
      append(text, entry.file, 4);
    }
    return text + paths;
  }

  std::vector<ListedLibrary> libraries_;
  std::vector<Entry> entries_;
};

Result<ProviderIndex> ProviderIndex::open(Bytes bytes) {
  Cursor header(bytes, Order::little, "header of the index");
  const bool ours = bytes.starts_with(magic);
  header.skip(magic.size());
  const uint64_t files = header.u64(), entries = header.u64(), paths = header.u64();
  // Numbers that cannot be are refused before they are multiplied.
  const uint64_t most = bytes.size();
  const bool possible = ours && header && files <= most && entries <= most && paths <= most &&
                        header_size + files * file_size + entries * entry_size + paths == bytes.size();
  if (!possible) return fail(bytes.error(Code::malformed, 0, "is no index of this version, or cut short"));
  auto file_part = bytes.slice(header_size, files * file_size, "files of the index");
  auto entry_part = bytes.slice(header_size + files * file_size, entries * entry_size, "entries of the index");
  auto path_part = bytes.slice(bytes.size() - paths, paths, "paths of the index");
  if (!file_part) return pass(file_part);
  if (!entry_part) return pass(entry_part);
  if (!path_part) return pass(path_part);
  auto file_table = Table::of(*file_part, file_size, file_size, Order::little, "files of the index");
  auto entry_table = Table::of(*entry_part, entry_size, entry_size, Order::little, "entries of the index");
  if (!file_table) return pass(file_table);
  if (!entry_table) return pass(entry_table);
  ProviderIndex index;
  index.files_ = *file_table;
  index.entries_ = *entry_table;
  index.paths_ = path_part->text();
  return index;
}

fs::path ProviderIndex::path(uint32_t file) const {
  const Record record = files_[file];
  const uint32_t offset = record.u32(16), length = record.u32(20);
  if (offset > paths_.size() || length > paths_.size() - offset) return {};
  return paths_.substr(offset, length);
}

std::vector<fs::path> ProviderIndex::files_with(std::string_view name) const {
  const uint64_t digest = quick_digest(name);
  uint64_t low = 0, high = entries_.count();
  while (low < high) {
    const uint64_t middle = low + (high - low) / 2;
    if (entries_[middle].u64(0) < digest) {
      low = middle + 1;
    } else {
      high = middle;
    }
  }
  std::vector<fs::path> found;
  for (; low < entries_.count() && entries_[low].u64(0) == digest; ++low) {
    const uint32_t file = entries_[low].u32(8);
    if (file < files_.count()) found.push_back(path(file));
  }
  return found;
}

ProviderIndex ProviderIndex::over(const fs::path& directory, const Cache& cache) {
  const fs::path file = place_of_answer(cache, kept_kind::providers, directory.string());
  std::optional<ProviderIndex> old;
  if (auto mapping = MappedFile::open(file)) {
    if (auto index = open((*mapping)->bytes())) {
      old = std::move(*index);
      old->mapping_ = *mapping;
    }
  }
  ProviderIndexMaker maker(list_libraries(directory));
  if (old && maker.is_current(*old)) return std::move(*old);
  const auto text = std::make_shared<const std::string>(maker.make(old ? &*old : nullptr));
  // Where it cannot be kept it is made again next time.
  if (!file.empty() && make_folder(cache.folder()))
    (void)write_in(cache.folder(), shown_from(cache.folder(), file), *text, Flush::later);
  auto made = open(Bytes(std::as_bytes(std::span(text->data(), text->size()))));
  assert(made);
  made->memory_ = text;
  return std::move(*made);
}

std::vector<fs::path> ProviderIndices::files_with(std::string_view name) const {
  std::vector<fs::path> found;
  for (const ProviderIndex* index : indices_) {
    for (auto& path : index->files_with(name)) found.push_back(std::move(path));
  }
  return found;
}

ProviderIndices ProviderStore::over(const std::vector<fs::path>& directories) {
  std::vector<const ProviderIndex*> those;
  for (const auto& directory : directories) {
    auto known = indices_.find(directory);
    if (known == indices_.end()) known = indices_.emplace(directory, ProviderIndex::over(directory, cache_)).first;
    those.push_back(&known->second);
  }
  return ProviderIndices(std::move(those));
}

}  // namespace fibula
