#pragma once

#include <cstdint>
#include <deque>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

/// A name's number in a NameTable.
using NameId = uint32_t;
constexpr NameId no_name = UINT32_MAX;

/// Every name that the files of a fit speak of, each with a number. A fit rehearses many links over the same files:
/// names are hashed and compared once, when their file is read, and links look numbers up.
class NameTable {
 public:
  /// The number of a name, which stays where it is as long as the table lives: in a mapped file.
  NameId borrow(std::string_view name);
  /// Many at once, in their order: it costs less than one after the other.
  std::vector<NameId> borrow_all(const std::vector<std::string_view>& names);
  /// The same for a name that may go away: it is copied when it is new.
  NameId keep(std::string_view name);
  /// Nothing when no file speaks of it.
  std::optional<NameId> find(std::string_view name) const;
  std::string_view text(NameId id) const { return names_[id]; }
  /// Numbers are below this.
  size_t size() const { return names_.size(); }

 private:
  struct Slot {
    uint32_t digest = 0;  ///< its lower bits are the place where a search begins
    uint32_t name = 0;    ///< number plus one; zero: free
  };
  size_t place_of(std::string_view name, uint32_t digest) const;
  NameId enter(std::string_view name, uint32_t digest);
  void make_room(size_t more);

  std::vector<Slot> slots_ = std::vector<Slot>(1024);  ///< open addressing, at most half full
  std::vector<std::string_view> names_;
  std::deque<std::string> kept_;
};

}  // namespace fibula
