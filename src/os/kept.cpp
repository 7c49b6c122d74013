#include "os/kept.hpp"

#include "base/digest.hpp"
#include "base/text.hpp"
#include "os/folder.hpp"
#include "os/stamp.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <chrono>

namespace fibula {
namespace {

using namespace std::chrono_literals;

constexpr auto used_again_after = 24h;  // a use is noted by the file's time, and not more often
constexpr auto old_after = 24h * 30;
constexpr uint64_t most_bytes = 1ULL << 30U;

/// In front of each answer: a file that was cut short, or that belongs to another key of the same digest, is seen.
std::string head_of(std::string_view key, std::string_view answer) {
  return fmt::format("fibula kept 1 {} {} {:016x}\n{}\n", key.size(), answer.size(), quick_digest(answer), key);
}

std::string inside_cache(std::string_view kind, std::string_view key) {
  return fmt::format("kept/{}/{:016x}", kind, quick_digest(key));
}

fs::path place_of(const Cache& cache, std::string_view kind, std::string_view key) {
  return cache.folder() / inside_cache(kind, key);
}

void mark_used(const fs::path& file) {
  std::error_code ignored;
  const auto now = fs::file_time_type::clock::now();
  const auto last = fs::last_write_time(file, ignored);
  if (!ignored && now - last > used_again_after) fs::last_write_time(file, now, ignored);
}

constexpr std::string_view pruned_name = ".pruned";

/// True for one process a day.
bool is_time_to_prune(const Folder& kept) {
  const fs::path mark = kept.path() / pruned_name;
  std::error_code absent;
  const auto last = fs::last_write_time(mark, absent);
  if (!absent && fs::file_time_type::clock::now() - last < 24h) return false;
  return kept.write(pruned_name, "").has_value();
}

struct KeptFile {
  fs::path name;
  fs::file_time_type used;
  uint64_t size;
};

}  // namespace

Cache Cache::standard() {
  if (const auto named = environment("FIBULA_CACHE")) return *named == "off" ? none() : at(*named);
  if (const auto folder = environment("XDG_CACHE_HOME")) return at(fs::path(*folder) / "fibula");
  if (const auto home = environment("HOME")) return at(fs::path(*home) / ".cache" / "fibula");
  return none();
}

std::optional<std::string> kept_answer(const Cache& cache, std::string_view kind, std::string_view key) {
  if (cache.folder().empty()) return std::nullopt;
  const fs::path file = place_of(cache, kind, key);
  auto text = read_text(file);
  if (!text) return std::nullopt;
  const size_t line = text->find('\n');
  const auto start = line == std::string::npos ? text->size() : std::min(line + key.size() + 2, text->size());
  const std::string_view answer = std::string_view(*text).substr(start);
  if (std::string_view(*text).substr(0, start) != head_of(key, answer)) return std::nullopt;
  mark_used(file);
  return text->substr(start);
}

void keep_answer(const Cache& cache, std::string_view kind, std::string_view key, std::string_view answer) {
  if (cache.folder().empty()) return;
  const auto folder = Folder::make(cache.folder());
  if (!folder) return;
  (void)folder->write(inside_cache(kind, key), head_of(key, answer).append(answer));
  prune(cache);
}

fs::path place_of_answer(const Cache& cache, std::string_view kind, std::string_view key) {
  if (cache.folder().empty()) return {};
  fs::path file = place_of(cache, kind, key);
  mark_used(file);
  return file;
}

void prune(const Cache& cache) {
  if (cache.folder().empty()) return;
  const fs::path folder = cache.folder() / "kept";
  const auto kept = Folder::make_in(cache.folder(), "kept");
  if (!kept || !is_time_to_prune(*kept)) return;
  std::vector<KeptFile> files;
  uint64_t bytes = 0;
  std::error_code error;
  for (const auto& name : files_below(folder).value_or(std::vector<fs::path>())) {
    const fs::path path = folder / name;
    const auto used = fs::last_write_time(path, error);
    files.push_back({name, used, stamp_of(path).size});
    bytes += files.back().size;
  }
  std::sort(files.begin(), files.end(), [](const KeptFile& a, const KeptFile& b) { return a.used < b.used; });
  const auto now = fs::file_time_type::clock::now();
  for (const auto& file : files) {
    if (now - file.used < old_after && bytes <= most_bytes) break;
    (void)kept->remove(file.name.generic_string());
    bytes -= file.size;
  }
}

}  // namespace fibula
