/// Values one behind the other in a text of bytes: for what is kept between calls, where parsing would cost more than
/// what was kept. Whoever reads names the same values in the same order.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <type_traits>
#include <vector>

namespace fibula {

class Packer {
 public:
  void number(uint64_t value) {
    // Seven bits a byte, the least first; the highest bit says that more follow.
    for (; value >= 0x80; value >>= 7U) bytes_.push_back(static_cast<char>(value | 0x80U));
    bytes_.push_back(static_cast<char>(value));
  }
  void value(std::string_view text) {
    number(text.size());
    bytes_.append(text);
  }
  void value(const std::string& text) { value(std::string_view(text)); }
  template <class T>
  requires(std::is_enum_v<T> || std::is_integral_v<T>) void value(T scalar) { number(static_cast<uint64_t>(scalar)); }
  template <class T>
  void value(const std::vector<T>& list) {
    number(list.size());
    for (const auto& item : list) value(item);
  }
  std::string take() { return std::move(bytes_); }

 private:
  std::string bytes_;
};

/// Reads are inert after one that ran out of bytes; `good` says whether none did and all were read.
class Unpacker {
 public:
  explicit Unpacker(std::string_view bytes) : rest_(bytes) {}

  uint64_t number() {
    uint64_t value = 0;
    for (unsigned shift = 0; shift < 64; shift += 7) {
      if (rest_.empty()) break;
      const auto byte = static_cast<unsigned char>(rest_.front());
      rest_.remove_prefix(1);
      value |= static_cast<uint64_t>(byte & 0x7fU) << shift;
      if (byte < 0x80) return value;
    }
    damaged_ = true;
    rest_ = {};
    return 0;
  }
  /// The number of things that follow; each takes a byte at least.
  size_t count() {
    const uint64_t value = number();
    damaged_ = damaged_ || value > rest_.size();
    return damaged_ ? 0 : static_cast<size_t>(value);
  }
  void value(std::string& text) {
    const size_t size = count();
    text = rest_.substr(0, size);
    rest_.remove_prefix(size);
  }
  template <class T>
  requires(std::is_enum_v<T> || std::is_integral_v<T>) void value(T& scalar) { scalar = static_cast<T>(number()); }
  template <class T>
  void value(std::vector<T>& list) {
    list.resize(count());
    for (auto& item : list) value(item);
  }
  bool good() const { return !damaged_ && rest_.empty(); }

 private:
  std::string_view rest_;
  bool damaged_ = false;
};

/// Packs all that it is given. With `Unpack` in its place the same list of members serves both directions.
struct Pack {
  Packer& into;
  template <class... Values>
  void operator()(const Values&... values) const {
    (into.value(values), ...);
  }
};

/// Unpacks into all that it is given.
struct Unpack {
  Unpacker& from;
  template <class... Values>
  void operator()(Values&... values) const {
    (from.value(values), ...);
  }
};

}  // namespace fibula
