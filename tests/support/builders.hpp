/// Builders of binary files that can lie: every field has a sensible value until the test says otherwise.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace test {

/// An ar archive, member by member.
class ArBuilder {
 public:
  explicit ArBuilder(std::string magic = "!<arch>\n") : bytes_(std::move(magic)) {}
  ArBuilder& member(const std::string& name, const std::string& data) {
    return raw_member(name, std::to_string(data.size()), data);
  }
  ArBuilder& raw_member(const std::string& name, const std::string& size, const std::string& data,
                        const std::string& end = "`\n");
  /// A GNU symbol table: (name, offset of the member's header).
  ArBuilder& gnu_index(const std::vector<std::pair<std::string, uint32_t>>& entries, uint32_t count_said);
  std::string build() const { return bytes_; }
  uint32_t size() const { return static_cast<uint32_t>(bytes_.size()); }

 private:
  std::string bytes_;
};

/// An ELF file of either word size and byte order.
class ElfBuilder {
 public:
  ElfBuilder(bool wide, bool big) : wide_(wide), big_(big) {}

  struct Symbol {
    std::string name;
    uint8_t info = 0x12;  ///< STB_GLOBAL, STT_FUNC
    uint8_t other = 0;
    uint16_t section = 1;
  };
  uint16_t type = 1, machine = 62;
  ElfBuilder& symbol(Symbol symbol) {
    symbols_.push_back(std::move(symbol));
    return *this;
  }
  /// Header, `.text`, `.symtab`, `.strtab`, `.shstrtab`.
  std::string build() const;

 private:
  std::string number(uint64_t value, int bytes) const;
  std::string word(uint64_t value) const { return number(value, wide_ ? 8 : 4); }
  std::string section(uint32_t name, uint32_t type, uint64_t offset, uint64_t size, uint32_t link, uint32_t info,
                      uint64_t entry) const;
  std::string symbol_table(std::string& names) const;

  bool wide_, big_;
  std::vector<Symbol> symbols_;
};

/// Replaces bytes at an offset.
std::string patched(std::string bytes, size_t offset, const std::string& with);

}  // namespace test
