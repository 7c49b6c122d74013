#include "support/builders.hpp"

#include <algorithm>

namespace test {
namespace {

std::string padded(const std::string& text, size_t width) {
  return text + std::string(width - std::min(width, text.size()), ' ');
}

std::string big_endian(uint32_t value) {
  std::string bytes;
  for (int shift = 24; shift >= 0; shift -= 8) bytes += static_cast<char>(value >> shift & 0xff);
  return bytes;
}

}  // namespace

ArBuilder& ArBuilder::raw_member(const std::string& name, const std::string& size, const std::string& data,
                                 const std::string& end) {
  bytes_ += padded(name, 16) + padded("0", 12) + padded("0", 6) + padded("0", 6) + padded("644", 8) + padded(size, 10) +
            end + data;
  if (data.size() % 2 == 1) bytes_ += '\n';
  return *this;
}

ArBuilder& ArBuilder::gnu_index(const std::vector<std::pair<std::string, uint32_t>>& entries, uint32_t count_said) {
  std::string table = big_endian(count_said);
  for (const auto& [name, offset] : entries) table += big_endian(offset);
  for (const auto& [name, offset] : entries) table += name + '\0';
  return member("/", table);
}

std::string ElfBuilder::number(uint64_t value, int bytes) const {
  std::string text;
  for (int i = 0; i < bytes; ++i) text += static_cast<char>(value >> (8 * i) & 0xff);
  if (big_) std::reverse(text.begin(), text.end());
  return text;
}

std::string ElfBuilder::section(uint32_t name, uint32_t section_type, uint64_t offset, uint64_t size, uint32_t link,
                                uint32_t info, uint64_t entry) const {
  return number(name, 4) + number(section_type, 4) + word(0) + word(0) + word(offset) + word(size) + number(link, 4) +
         number(info, 4) + word(1) + word(entry);
}

std::string ElfBuilder::symbol_table(std::string& names) const {
  std::string table(wide_ ? 24 : 16, '\0');
  for (const auto& s : symbols_) {
    const uint64_t name = names.size();
    names += s.name + '\0';
    const std::string kind = number(s.info, 1) + number(s.other, 1) + number(s.section, 2);
    table += wide_ ? number(name, 4) + kind + word(0) + word(4) : number(name, 4) + word(0) + word(4) + kind;
  }
  return table;
}

std::string ElfBuilder::build() const {
  const uint64_t header = wide_ ? 64 : 52, entry = wide_ ? 24 : 16;
  std::string names(1, '\0');
  const std::string text(16, '\x90'), symbols = symbol_table(names);
  const std::string section_names = std::string("\0.text\0.symtab\0.strtab\0.shstrtab\0", 33);
  const uint64_t at_text = header, at_symbols = at_text + text.size(), at_names = at_symbols + symbols.size(),
                 at_section_names = at_names + names.size();
  const uint64_t at_table = at_section_names + section_names.size();
  std::string bytes = std::string("\177ELF") + (wide_ ? '\2' : '\1') + (big_ ? '\2' : '\1') + '\1';
  bytes.resize(16, '\0');
  bytes += number(type, 2) + number(machine, 2) + number(1, 4) + word(0) + word(0) + word(at_table) + number(0, 4) +
           number(header, 2);
  bytes += number(0, 2) + number(0, 2) + number(wide_ ? 64 : 40, 2) + number(5, 2) + number(4, 2);
  bytes += text + symbols + names + section_names;
  bytes += section(0, 0, 0, 0, 0, 0, 0) + section(1, 1, at_text, text.size(), 0, 0, 0) +
           section(7, 2, at_symbols, symbols.size(), 3, 1, entry);
  return bytes + section(15, 3, at_names, names.size(), 0, 0, 0) +
         section(23, 3, at_section_names, section_names.size(), 0, 0, 0);
}

std::string patched(std::string bytes, size_t offset, const std::string& with) {
  bytes.replace(offset, with.size(), with);
  return bytes;
}

}  // namespace test
