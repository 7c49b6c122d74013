/// What a library offers to links, as far as two libraries with the same cannot be in one program.
#pragma once

#include <cstdint>
#include <filesystem>
#include <optional>
#include <vector>

namespace fibula {

/// The names that a static or shared library defines for others, as hashes; those of the C++ standard library are
/// everybody's. Empty where the file cannot be read.
class OfferedNames {
 public:
  OfferedNames() = default;
  explicit OfferedNames(std::filesystem::path file);

  bool empty() const { return all_.empty(); }
  const std::vector<uint64_t>& all() const { return all_; }  ///< sorted
  /// Those of which a program can have one definition only: neither weak nor in a COMDAT group. Read when first asked.
  const std::vector<uint64_t>& once_only() const;

 private:
  std::filesystem::path file_;
  bool is_archive_ = false;
  std::vector<uint64_t> all_;
  mutable std::optional<std::vector<uint64_t>> once_only_;
};

/// Whether most of what one of them offers the other one offers too, and no program can have both.
bool offer_the_same(const OfferedNames& one, const OfferedNames& other);

/// The same of both: neither has much that the other one lacks.
bool are_the_same(const OfferedNames& one, const OfferedNames& other);

/// Whether a small archive needs something that another library offers.
bool needs_one_of(const std::filesystem::path& archive, const OfferedNames& offers);

/// The number of members of an archive; nothing for other files.
std::optional<size_t> member_count(const std::filesystem::path& file);

}  // namespace fibula
