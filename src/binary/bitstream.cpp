#include "binary/bitstream.hpp"

#include <algorithm>

namespace fibula::bitcode {
namespace {

constexpr uint64_t end_block = 0, enter_subblock = 1, define_abbreviation = 2, unabbreviated = 3;

/// A record's list may say one bit an element; what is wanted of any record is shorter than this.
constexpr size_t kept_values = 1U << 16U;

struct Operand {
  enum class Kind { literal, fixed, variable, array, char6, blob } kind = Kind::literal;
  uint64_t value = 0;  ///< the literal, or a width
};
using Abbreviation = std::vector<Operand>;

Operand read_operand(Bits& bits) {
  if (bits.fixed(1) == 1) return {Operand::Kind::literal, bits.variable(8)};
  const uint64_t encoding = bits.fixed(3);
  if (encoding < 1 || encoding > 5) bits.give_up();
  const auto kind = static_cast<Operand::Kind>(std::min<uint64_t>(encoding, 5));
  if (kind != Operand::Kind::fixed && kind != Operand::Kind::variable) return {kind, 0};
  const uint64_t width = bits.variable(5);
  if (width > 64) bits.give_up();
  if (width == 0) return {Operand::Kind::literal, 0};
  return {kind, width};
}

Abbreviation read_abbreviation(Bits& bits) {
  Abbreviation abbreviation;
  const uint64_t count = bits.variable(5);
  for (uint64_t i = 0; i < count && bits; ++i) abbreviation.push_back(read_operand(bits));
  return abbreviation;
}

uint64_t read_scalar(Bits& bits, const Operand& operand) {
  static constexpr std::string_view letters = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789._";
  switch (operand.kind) {
    case Operand::Kind::literal: return operand.value;
    case Operand::Kind::fixed: return bits.fixed(static_cast<unsigned>(operand.value));
    case Operand::Kind::variable: return bits.variable(static_cast<unsigned>(operand.value));
    case Operand::Kind::char6: return static_cast<unsigned char>(letters[bits.fixed(6)]);
    case Operand::Kind::array:
    case Operand::Kind::blob: break;
  }
  bits.give_up();  // neither can stand inside an array
  return 0;
}

/// The length of a list of elements of at least one bit each; longer than the rest of the stream is damage.
uint64_t read_length(Bits& bits) {
  const uint64_t length = bits.variable(6);
  if (length / 8 > bits.bytes().size()) bits.give_up();
  return bits ? length : 0;
}

void read_abbreviated(Bits& bits, const Abbreviation& abbreviation, StreamRecord& record) {
  std::vector<uint64_t> values;
  for (size_t i = 0; i < abbreviation.size() && bits; ++i) {
    const Operand& operand = abbreviation[i];
    if (operand.kind == Operand::Kind::array) {
      const uint64_t length = read_length(bits);
      if (i + 1 >= abbreviation.size()) return bits.give_up();
      const Operand& element = abbreviation[++i];
      if (element.kind == Operand::Kind::literal) return bits.give_up();
      for (uint64_t k = 0; k < length && bits; ++k) {
        const uint64_t value = read_scalar(bits, element);
        if (values.size() < kept_values) values.push_back(value);
      }
    } else if (operand.kind == Operand::Kind::blob) {
      const uint64_t length = bits.variable(6);
      bits.align();
      const auto blob = bits.bytes().slice(bits.byte_position(), length, "blob");
      if (!blob || !bits) return bits.give_up();
      record.blob = *blob;
      bits.skip_words((length + 3) / 4);
    } else {
      values.push_back(read_scalar(bits, operand));
    }
  }
  if (values.empty()) return;
  record.code = values.front();
  record.values.assign(values.begin() + 1, values.end());
}

void read_plain(Bits& bits, StreamRecord& record) {
  record.code = bits.variable(6);
  const uint64_t count = read_length(bits);
  for (uint64_t i = 0; i < count && bits; ++i) record.values.push_back(bits.variable(6));
}

}  // namespace

uint64_t Bits::fixed(unsigned width) {
  uint64_t value = 0;
  if (!ok_ || at_ + width > bytes_.size() * 8) {
    ok_ = false;
    return 0;
  }
  for (unsigned done = 0; done < width;) {
    const unsigned offset = at_ % 8, take = std::min(8 - offset, width - done);
    const auto byte = static_cast<uint64_t>(bytes_.text()[at_ / 8] & 0xff);
    value |= (byte >> offset & ((1U << take) - 1U)) << done;
    done += take;
    at_ += take;
  }
  return value;
}

uint64_t Bits::variable(unsigned width) {
  if (width < 2) {
    ok_ = false;
    return 0;
  }
  const uint64_t more = uint64_t{1} << (width - 1);
  uint64_t value = 0;
  for (unsigned shift = 0; shift < 64 && ok_; shift += width - 1) {
    const uint64_t piece = fixed(width);
    value |= (piece & (more - 1)) << shift;
    if ((piece & more) == 0) return ok_ ? value : 0;
  }
  ok_ = false;
  return 0;
}

void Bits::align() {
  at_ = (at_ + 31) / 32 * 32;
}

void Bits::skip_words(uint64_t words) {
  if (at_ / 8 > bytes_.size() || words > (bytes_.size() - at_ / 8 + 3) / 4) {
    ok_ = false;
    return;
  }
  at_ += words * 32;
}

BlockHeader read_block_header(Bits& bits) {
  BlockHeader header;
  header.id = bits.variable(8);
  header.abbreviation_width = static_cast<unsigned>(bits.variable(4));
  bits.align();
  header.words = bits.fixed(32);
  if (header.abbreviation_width < 2 || header.abbreviation_width > 32) bits.give_up();
  return header;
}

bool read_block(Bits& bits, unsigned abbreviation_width, const std::function<bool(const StreamRecord&)>& visit) {
  std::vector<Abbreviation> abbreviations;
  while (bits) {
    const uint64_t id = bits.fixed(abbreviation_width);
    if (!bits || id == end_block) break;
    if (id == enter_subblock) {
      const BlockHeader inner = read_block_header(bits);
      if (bits) bits.skip_words(inner.words);
      continue;
    }
    if (id == define_abbreviation) {
      abbreviations.push_back(read_abbreviation(bits));
      continue;
    }
    StreamRecord record;
    if (id == unabbreviated) {
      read_plain(bits, record);
    } else if (id - 4 < abbreviations.size()) {
      read_abbreviated(bits, abbreviations[id - 4], record);
    } else {
      return false;
    }
    if (bits && !visit(record)) return true;
  }
  return static_cast<bool>(bits);
}

}  // namespace fibula::bitcode
