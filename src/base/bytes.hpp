/// Checked reading of untrusted bytes. Every reader of a binary format reads through these three types, and this is
/// the only file that touches file data through pointers.
#pragma once

#include <fibula/result.hpp>

#include <bit>
#include <cassert>
#include <cstddef>
#include <cstdint>
#include <cstring>
#include <optional>
#include <span>
#include <string_view>

namespace fibula {

enum class Order { little, big };

/// Reads an integer of `T`'s size at `at`, which the caller has checked to lie inside the buffer.
template <class T>
T load(const std::byte* at, Order order) {
  T value{};
  std::memcpy(&value, at, sizeof(T));
  const bool swap = (order == Order::big) == (std::endian::native == std::endian::little);
  if (!swap) return value;
  if constexpr (sizeof(T) == 2) return static_cast<T>(__builtin_bswap16(static_cast<uint16_t>(value)));
  if constexpr (sizeof(T) == 4) return static_cast<T>(__builtin_bswap32(static_cast<uint32_t>(value)));
  if constexpr (sizeof(T) == 8) return static_cast<T>(__builtin_bswap64(static_cast<uint64_t>(value)));
  return value;
}

/// A borrowed run of bytes that knows where in its file it starts, so that errors can name the place.
class Bytes {
 public:
  Bytes() = default;
  explicit Bytes(std::span<const std::byte> data, uint64_t origin = 0) : data_(data), origin_(origin) {}

  uint64_t size() const { return data_.size(); }
  bool empty() const { return data_.empty(); }
  /// Offset of the first byte in the file.
  uint64_t origin() const { return origin_; }
  const std::byte* data() const { return data_.data(); }

  /// The one range check of the code base: `length` bytes from `offset`; `what` names them in the error.
  Result<Bytes> slice(uint64_t offset, uint64_t length, std::string_view what) const;
  /// Everything from `offset` on.
  Result<Bytes> from(uint64_t offset, std::string_view what) const;
  /// The string that starts at `offset` and ends at a zero byte inside these bytes.
  Result<std::string_view> c_string(uint64_t offset, std::string_view what) const;
  /// The same without the words for an error, for tables of many names.
  std::optional<std::string_view> terminated(uint64_t offset) const {
    if (offset >= data_.size()) return std::nullopt;
    const char* start = reinterpret_cast<const char*>(data_.data()) + offset;
    const void* end = std::memchr(start, 0, data_.size() - offset);
    if (end == nullptr) return std::nullopt;
    return std::string_view(start, static_cast<size_t>(static_cast<const char*>(end) - start));
  }
  /// Asks the processor to fetch what is about to be read; says nothing of offsets outside.
  void prefetch(uint64_t offset) const {
    if (offset < data_.size()) __builtin_prefetch(data_.data() + offset);
  }
  /// All bytes as text.
  std::string_view text() const { return {reinterpret_cast<const char*>(data_.data()), data_.size()}; }
  bool starts_with(std::string_view magic) const { return text().starts_with(magic); }

  /// An error about the byte at `offset` here.
  Error error(Code code, uint64_t offset, std::string what) const;

 private:
  std::span<const std::byte> data_;
  uint64_t origin_ = 0;
};

/// Reads fields one after the other and keeps its first error; reads after it are inert and give zero.
class Cursor {
 public:
  Cursor(Bytes bytes, Order order, std::string_view what) : bytes_(bytes), order_(order), what_(what) {}

  uint8_t u8() { return read<uint8_t>(); }
  uint16_t u16() { return read<uint16_t>(); }
  uint32_t u32() { return read<uint32_t>(); }
  uint64_t u64() { return read<uint64_t>(); }
  /// A field of the file's word size: four bytes, or eight.
  uint64_t word(bool wide) { return wide ? u64() : u32(); }
  /// A number of any length, seven bits a byte, least first (DWARF 5, section 7.6). More than 64 bits is an error.
  uint64_t uleb128();
  /// Text up to a zero byte, which is passed over.
  std::string_view c_string();
  void skip(uint64_t count);
  uint64_t position() const { return at_; }
  /// Bytes not yet read.
  uint64_t left() const { return ok_ ? bytes_.size() - at_ : 0; }

  explicit operator bool() const { return ok_; }
  Error error() const;

 private:
  template <class T>
  T read() {
    if (!ok_ || sizeof(T) > bytes_.size() - at_) {
      ok_ = false;
      return 0;
    }
    const T value = load<T>(bytes_.data() + at_, order_);
    at_ += sizeof(T);
    return value;
  }

  Bytes bytes_;
  Order order_;
  std::string_view what_;
  uint64_t at_ = 0;
  bool ok_ = true;
};

/// Bounds the work that overlapping tables can ask for. Entries of sound files do not overlap much, so what they make a
/// reader look at is a small multiple of the file; a crafted file could point a million entries at the same megabyte.
class Budget {
 public:
  explicit Budget(Bytes file) : left_(file.size() * factor + slack) {}
  /// False when more than the bound was spent.
  bool spend(uint64_t amount) {
    if (amount > left_) return false;
    left_ -= amount;
    return true;
  }
  static Error exceeded(Bytes where, std::string_view what);

 private:
  static constexpr uint64_t factor = 32, slack = 1U << 16U;
  uint64_t left_;
};

/// One entry of a Table: loads at offsets that are constants of the format and smaller than the entry.
class Record {
 public:
  Record(const std::byte* at, uint64_t size, Order order) : at_(at), size_(size), order_(order) {}

  uint8_t u8(uint64_t offset) const { return get<uint8_t>(offset); }
  uint16_t u16(uint64_t offset) const { return get<uint16_t>(offset); }
  uint32_t u32(uint64_t offset) const { return get<uint32_t>(offset); }
  uint64_t u64(uint64_t offset) const { return get<uint64_t>(offset); }
  uint64_t word(uint64_t offset, bool wide) const { return wide ? u64(offset) : u32(offset); }

 private:
  template <class T>
  T get(uint64_t offset) const {
    assert(offset + sizeof(T) <= size_);
    return load<T>(at_ + offset, order_);
  }

  const std::byte* at_;
  [[maybe_unused]] uint64_t size_;
  Order order_;
};

/// A run of entries of one size, checked once against the file, then read without further checks.
class Table {
 public:
  Table() = default;

  /// As many whole entries of `entry_size` as `bytes` hold. An entry size below `least` (what the format's fields need)
  /// or of zero is an error.
  static Result<Table> of(Bytes bytes, uint64_t entry_size, uint64_t least, Order order, std::string_view what);

  uint64_t count() const { return count_; }
  Record operator[](uint64_t index) const {
    assert(index < count_);
    return {bytes_.data() + index * entry_size_, entry_size_, order_};
  }

 private:
  Bytes bytes_;
  uint64_t entry_size_ = 1;
  uint64_t count_ = 0;
  Order order_ = Order::little;
};

}  // namespace fibula
