/// Every symbol of a file, handed over one at a time: names are lent, nothing is kept, so a library of any size costs
/// no more memory than its pages.
#include "binary/elf.hpp"
#include "binary/foreign.hpp"
#include "binary/open.hpp"
#include "facts/facts.hpp"

#include <fmt/format.h>

namespace fibula {
namespace {

/// What walks through a file of any kind.
struct Walk {
  const std::filesystem::path& path;
  const SymbolVisitor& visit;
  std::string_view member = {};
  Arch slice = Arch::unknown;
  uint64_t count = 0;
  std::vector<ImageSection> sections = {};  ///< of the ELF file that is walked

  void give(const ImageSymbol& symbol) {
    if (!is_global(symbol)) return;
    ++count;
    const bool placed = symbol.defined && symbol.section < sections.size();
    visit({.name = symbol.name,
           .defines = symbol.defined,
           .binding = symbol.binding,
           .visibility = symbol.visibility,
           .kind = symbol.kind,
           .size = symbol.size,
           .address = sections.empty() ? 0 : symbol.value,
           .section = placed ? sections[symbol.section].name : std::string_view(),
           .version = symbol.version,
           .library = symbol.library,
           .member = member,
           .slice = slice});
  }

  Result<void> bytes(Bytes bytes) {
    if (const FormatReader* reader = is_whole(bytes)) {
      sections = sections_of(bytes);
      const auto sink = [this](const ImageSymbol& symbol) { give(symbol); };
      auto walked = reader->walk(bytes, sink);
      if (walked && count == 0 && elf::recognises(bytes)) return elf::walk_own_table(bytes, sink);
      return walked;
    }
    if (is_archive(bytes) && !is_package(bytes)) {
      auto archive = read_members(bytes);
      return archive ? members(*archive) : Result<void>(pass(archive));
    }
    auto content = read_content(bytes, 0);
    if (!content) return pass(content);
    if (const auto* universal = std::get_if<Universal>(&*content)) return slices(*universal);
    if (const auto* stub = std::get_if<Stub>(&*content)) {
      for (const auto& image : stub->targets) {
        slice = image.target.arch;
        for (const auto& symbol : image.dynamic_symbols) give(symbol);
      }
    }
    return {};
  }

  /// Of a single ELF file; others number and place their symbols otherwise.
  static std::vector<ImageSection> sections_of(Bytes bytes) {
    auto image = read_image(bytes, want_sections);
    return image && image->target.format == Format::elf ? std::move(image->sections) : std::vector<ImageSection>();
  }

  /// A single image, which needs no more than its own reader.
  static const FormatReader* is_whole(Bytes bytes) {
    if (is_archive(bytes) || is_universal(bytes)) return nullptr;
    return reader_for(bytes);
  }

  Result<void> members(const Archive& archive) {
    for (const auto& entry : archive.members) {
      std::shared_ptr<const MappedFile> mapping;
      const auto data = member_bytes(path, archive, entry, mapping);
      const FormatReader* reader = data ? reader_for(*data) : nullptr;
      if (reader == nullptr) continue;
      member = entry.name;
      auto walked = reader->walk(*data, [this](const ImageSymbol& symbol) { give(symbol); });
      if (walked) continue;
      walked.error().place = fmt::format("member {}, {}", entry.name, walked.error().place);
      return walked;
    }
    return {};
  }

  Result<void> slices(const Universal& universal) {
    for (const auto& part : universal.slices) {
      slice = part.target.arch;
      if (auto walked = bytes(part.bytes); !walked) return walked;
    }
    return {};
  }
};

}  // namespace

Result<uint64_t> visit_symbols(const std::filesystem::path& path, const SymbolVisitor& visitor) {
  auto mapping = MappedFile::open(path);
  if (!mapping) return pass(mapping);
  Walk walk{path, visitor};
  auto walked = walk.bytes((*mapping)->bytes());
  if (!walked) return fail(about_file(std::move(walked.error()), path));
  return walk.count;
}

Result<uint64_t> visit_archive_index(const std::filesystem::path& path, const IndexVisitor& visitor) {
  auto mapping = MappedFile::open(path);
  if (!mapping) return pass(mapping);
  const Bytes bytes = (*mapping)->bytes();
  if (!is_archive(bytes)) return fail({.code = Code::not_a_library, .what = "is no archive", .file = path.string()});
  auto count = walk_archive_index(bytes, visitor);
  if (!count) return fail(about_file(std::move(count.error()), path));
  return count;
}

Result<std::vector<Symbol>> symbols_of(const std::filesystem::path& path) {
  std::vector<Symbol> symbols;
  auto walked = visit_symbols(path, [&](const SymbolView& symbol) {
    symbols.push_back({.name = std::string(symbol.name),
                       .defines = symbol.defines,
                       .binding = symbol.binding,
                       .visibility = symbol.visibility,
                       .kind = symbol.kind,
                       .size = symbol.size,
                       .address = symbol.address,
                       .section = std::string(symbol.section),
                       .version = std::string(symbol.version),
                       .library = std::string(symbol.library),
                       .member = std::string(symbol.member),
                       .slice = symbol.slice});
  });
  if (!walked) return pass(walked);
  return symbols;
}

}  // namespace fibula
