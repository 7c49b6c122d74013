#include "base/bytes.hpp"

#include <fmt/format.h>

namespace fibula {

Error Bytes::error(Code code, uint64_t offset, std::string what) const {
  return {.code = code, .what = std::move(what), .place = fmt::format("{:#x}", origin_ + offset)};
}

Result<Bytes> Bytes::slice(uint64_t offset, uint64_t length, std::string_view what) const {
  if (offset > size() || length > size() - offset) {
    return fail(error(Code::truncated, offset,
                      fmt::format("{}: need {} bytes, have {}", what, length, offset > size() ? 0 : size() - offset)));
  }
  return Bytes(data_.subspan(offset, length), origin_ + offset);
}

Result<Bytes> Bytes::from(uint64_t offset, std::string_view what) const {
  return slice(offset, offset > size() ? 0 : size() - offset, what);
}

Result<std::string_view> Bytes::c_string(uint64_t offset, std::string_view what) const {
  if (offset >= size()) {
    return fail(
        error(Code::malformed, offset, fmt::format("{} starts beyond the end of its table ({} bytes)", what, size())));
  }
  const std::string_view rest = text().substr(offset);
  const size_t end = rest.find('\0');
  if (end == std::string_view::npos) {
    return fail(error(Code::malformed, offset, fmt::format("{} does not end inside its table", what)));
  }
  return rest.substr(0, end);
}

uint64_t Cursor::uleb128() {
  uint64_t value = 0;
  for (unsigned shift = 0; shift < 64; shift += 7) {
    const uint8_t byte = u8();
    value |= static_cast<uint64_t>(byte & 0x7fU) << shift;
    if ((byte & 0x80U) == 0) return ok_ ? value : 0;
  }
  ok_ = false;
  return 0;
}

std::string_view Cursor::c_string() {
  const auto text = ok_ ? bytes_.terminated(at_) : std::nullopt;
  if (!text) {
    ok_ = false;
    return {};
  }
  at_ += text->size() + 1;
  return *text;
}

Error Budget::exceeded(Bytes where, std::string_view what) {
  return where.error(Code::limit, 0,
                     fmt::format("{} points at the same bytes more often than any sound file does", what));
}

void Cursor::skip(uint64_t count) {
  if (!ok_ || count > bytes_.size() - at_) {
    ok_ = false;
    return;
  }
  at_ += count;
}

Error Cursor::error() const {
  return bytes_.error(Code::truncated, at_, fmt::format("{} ends early, after {} bytes", what_, bytes_.size()));
}

Result<Table> Table::of(Bytes bytes, uint64_t entry_size, uint64_t least, Order order, std::string_view what) {
  if (entry_size < least || entry_size == 0) {
    return fail(bytes.error(Code::malformed, 0,
                            fmt::format("{} has entries of {} bytes, the format needs {}", what, entry_size, least)));
  }
  Table table;
  table.bytes_ = bytes;
  table.entry_size_ = entry_size;
  table.count_ = bytes.size() / entry_size;
  table.order_ = order;
  return table;
}

}  // namespace fibula
