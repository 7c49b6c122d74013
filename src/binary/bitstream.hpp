/// The container of LLVM bitcode: blocks and records of bits (LLVM documentation, "Bitstream Format").
#pragma once

#include "base/bytes.hpp"

#include <functional>
#include <vector>

namespace fibula::bitcode {

/// Bits, least significant first. Keeps that it ran out; reads after that give zero.
class Bits {
 public:
  explicit Bits(Bytes bytes) : bytes_(bytes) {}

  uint64_t fixed(unsigned width);
  /// A number in pieces of `width` bits, the highest of each says that more follow.
  uint64_t variable(unsigned width);
  void align();  ///< to the next 32 bits
  void skip_words(uint64_t words);
  uint64_t byte_position() const { return at_ / 8; }
  bool at_end() const { return at_ / 8 + 4 > bytes_.size(); }
  explicit operator bool() const { return ok_; }
  void give_up() { ok_ = false; }
  Bytes bytes() const { return bytes_; }

 private:
  Bytes bytes_;
  uint64_t at_ = 0;
  bool ok_ = true;
};

struct StreamRecord {
  uint64_t code = 0;
  std::vector<uint64_t> values;
  Bytes blob;
};

/// Reads the records of a block whose header was passed; blocks inside are skipped. `visit` says whether to go on.
/// False when the stream is damaged.
bool read_block(Bits& bits, unsigned abbreviation_width, const std::function<bool(const StreamRecord&)>& visit);

struct BlockHeader {
  uint64_t id = 0;
  unsigned abbreviation_width = 0;
  uint64_t words = 0;
};

/// The header of a block, after its ENTER_SUBBLOCK.
BlockHeader read_block_header(Bits& bits);

}  // namespace fibula::bitcode
