#include "binary/elf_attributes.hpp"

namespace fibula::elf {
namespace {

constexpr uint64_t tag_file = 1, tag_compatibility = 32;

/// Arm's names of processors are texts in spite of their even tags; every other tag above 32 is a text when it is odd.
bool is_text(uint64_t tag, std::string_view vendor) {
  if (vendor == "aeabi" && (tag == 4 || tag == 5)) return true;
  if (vendor == "aeabi" && tag < tag_compatibility) return false;
  return tag % 2 == 1;
}

Result<void> read_file_attributes(Bytes bytes, Order order, std::string_view vendor, Attributes& attributes) {
  Cursor c(bytes, order, "build attributes");
  while (c.left() > 0) {
    const uint64_t tag = c.uleb128();
    if (tag == tag_compatibility) {
      c.uleb128();
      c.c_string();
    } else if (is_text(tag, vendor)) {
      attributes.texts[tag] = c.c_string();
    } else {
      attributes.numbers[tag] = c.uleb128();
    }
  }
  if (!c) return fail(c.error());
  return {};
}

/// The parts of a vendor's subsection: those about single sections or symbols are passed over.
Result<void> read_vendor(Bytes bytes, Order order, std::string_view vendor, Attributes& attributes) {
  uint64_t at = 0;
  while (at < bytes.size()) {
    auto rest = bytes.from(at, "build attributes");
    if (!rest) return pass(rest);
    Cursor c(*rest, order, "build attributes");
    const uint64_t tag = c.uleb128(), size = c.u32();
    if (!c) return fail(c.error());
    if (size < c.position())
      return fail(rest->error(Code::malformed, 0, "build attributes are shorter than their header"));
    auto part = rest->slice(c.position(), size - c.position(), "build attributes");
    if (!part) return pass(part);
    if (tag == tag_file) {
      if (auto read = read_file_attributes(*part, order, vendor, attributes); !read) return read;
    }
    at += size;
  }
  return {};
}

}  // namespace

uint64_t Attributes::number(uint64_t tag) const {
  const auto found = numbers.find(tag);
  return found == numbers.end() ? 0 : found->second;
}

std::string_view Attributes::text(uint64_t tag) const {
  const auto found = texts.find(tag);
  return found == texts.end() ? std::string_view() : found->second;
}

Result<Attributes> read_attributes(Bytes section, Order order, std::string_view vendor) {
  Attributes attributes;
  if (section.empty() || section.text()[0] != 'A') return attributes;  // version 'A' is the only one
  uint64_t at = 1;
  while (at < section.size()) {
    auto rest = section.from(at, "build attributes");
    if (!rest) return pass(rest);
    Cursor c(*rest, order, "build attributes");
    const uint64_t size = c.u32();
    const auto name = c.c_string();
    if (!c) return fail(c.error());
    if (size < c.position())
      return fail(rest->error(Code::malformed, 0, "build attributes are shorter than their header"));
    auto part = rest->slice(c.position(), size - c.position(), "build attributes");
    if (!part) return pass(part);
    if (name == vendor) {
      if (auto read = read_vendor(*part, order, vendor, attributes); !read) return pass(read);
    }
    at += size;
  }
  return attributes;
}

}  // namespace fibula::elf
