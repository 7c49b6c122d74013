// What must hold for every image that a reader gives, whatever the bytes.
#pragma once

#include "binary/image.hpp"
#include "facts/facts.hpp"

#include <cstdlib>

namespace fuzz {

inline fibula::Bytes bytes_of(const uint8_t* data, size_t size) {
  return fibula::Bytes(std::as_bytes(std::span(data, size)));
}

/// A name lies inside the file, or among those that the image made itself.
inline bool is_owned(std::string_view name, fibula::Bytes file, const fibula::Image& image) {
  const auto* begin = reinterpret_cast<const char*>(file.data());
  if (name.data() >= begin && name.data() + name.size() <= begin + file.size()) return true;
  if (!image.made_names) return false;
  for (const auto& made : *image.made_names) {
    if (made.data() == name.data()) return true;
  }
  return false;
}

inline void check(const fibula::Image& image, fibula::Bytes file) {
  size_t looked_at = 0;
  for (const auto* table : {&image.symbols, &image.dynamic_symbols}) {
    for (const auto& symbol : *table) {
      if (symbol.group >= static_cast<int32_t>(image.groups.size())) std::abort();
      if (++looked_at < 1000 && !is_owned(symbol.name, file, image)) std::abort();
    }
  }
  const auto facts = fibula::facts_of_image(image);
  for (const auto& row : fibula::rows(facts)) {
    if (row.from.empty()) std::abort();
  }
}

/// The symbols that the walk gives are those that the image has.
using Read = fibula::Result<fibula::Image> (*)(fibula::Bytes, unsigned);
using Walk = fibula::Result<void> (*)(fibula::Bytes, const fibula::SymbolSink&);
inline void check_reader(fibula::Bytes bytes, bool (*recognises)(fibula::Bytes), Read read, Walk walk) {
  if (!recognises(bytes)) return;
  const auto image = read(bytes, fibula::want_all);
  if (image) check(*image, bytes);
  uint64_t walked = 0;
  const auto ended = walk(bytes, [&](const fibula::ImageSymbol& symbol) { walked += symbol.name.empty() ? 0U : 1U; });
  if (image && !ended) std::abort();
  if (image && walked != fibula::linkable_symbols(*image).size()) std::abort();
}

}  // namespace fuzz
