#pragma once

#include <cstdint>
#include <filesystem>
#include <string>
#include <utility>

namespace fibula {

/// What lies at a path, as far as it tells whether the same thing lies there later, unchanged. The one answer to "has
/// this file changed?": everything that is kept or recorded rests on it.
struct Stamp {
  enum class Kind : uint8_t { nothing, file, folder, other };
  Kind kind = Kind::nothing;
  bool executable = false;  ///< by anybody
  uint64_t device = 0;
  uint64_t number = 0;  ///< on its device: two names with one number are one file
  uint64_t size = 0;    ///< bytes
  int64_t time = 0;     ///< of the last change of its content, nanoseconds since 1970
  int64_t changed = 0;  ///< of the last change of anything of it, which nobody can set

  bool operator==(const Stamp&) const = default;
  /// One file under two names has one identity; nothing at all has {0, 0}.
  std::pair<uint64_t, uint64_t> identity() const { return {device, number}; }
  bool there() const { return kind != Kind::nothing; }
  bool is_file() const { return kind == Kind::file; }
  bool is_folder() const { return kind == Kind::folder; }
  bool same_file(const Stamp& other) const { return there() && other.there() && identity() == other.identity(); }
};

/// A stamp in one word, for records and keys.
std::string to_text(const Stamp& stamp);

/// One call to the system; links are followed.
Stamp stamp_of(const std::filesystem::path& path);
/// The same for a path in the system's own spelling, for those who ask for thousands.
Stamp stamp_at(const char* path);
/// The same of a link itself, where there is one.
Stamp stamp_of_link(const std::filesystem::path& path);

/// The clock that file systems write into stamps, nanoseconds since 1970: what is changed after this call has at least
/// this time, unless the clock was set back.
int64_t stamp_clock();
/// Times closer than this cannot be told apart: file systems read a clock that ticks up to a hundred times a second.
inline constexpr int64_t stamp_tick = 12'000'000;
/// Returns when what is changed from now on has a later time than what was changed up to `time`.
void wait_for_tick_after(int64_t time);

}  // namespace fibula
