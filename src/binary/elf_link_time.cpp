#include "binary/elf.hpp"
#include "binary/gcc_lto.hpp"

namespace fibula::elf {

Result<void> read_link_time(const File& file, unsigned want, Image& image) {
  const Section* table = nullptr;
  const bool slim = !image.symbols.empty() && image.symbols.front().name == gcc_lto::slim_mark;
  if (slim) image.link_time = LinkTimeMark{};
  for (const uint32_t index : file.distinct) {
    const Section& section = file.sections[index];
    if (section.name_at >= file.section_names.size()) continue;
    // The name and what follows it: only its start is compared.
    const auto name = file.section_names.text().substr(section.name_at);
    if (!name.starts_with(gcc_lto::prefix)) continue;
    if (!image.link_time) image.link_time = LinkTimeMark{.machine_code = true};
    if (name.starts_with(gcc_lto::symbol_table)) table = &section;
    if (!name.starts_with(gcc_lto::header)) continue;
    auto bytes = file.content(section);
    if (!bytes) return pass(bytes);
    auto header = gcc_lto::read_header(*bytes, file.order);
    if (!header) return pass(header);
    image.link_time = *header;
  }
  if (!image.link_time || (want & want_symbols) == 0) return {};
  image.link_time->machine_code = !slim;  // the mark is what linkers go by
  if (!slim) return {};
  image.target.format = Format::gcc_lto;
  image.symbols.clear();
  if (table == nullptr) return {};
  auto bytes = file.content(*table);
  if (!bytes) return pass(bytes);
  return gcc_lto::read_symbols(*bytes, file.order, image);
}

}  // namespace fibula::elf
