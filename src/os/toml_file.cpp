#include "os/toml_file.hpp"

#include "os/files.hpp"

namespace fibula {

Result<toml::Table> read_toml(const fs::path& path) {
  constexpr uint64_t largest = 16U << 20U;  // a card of 100,000 headers has 6 MB
  auto content = read_text(path, largest);
  if (!content) return pass(content);
  return toml::parse(*content, path);
}

}  // namespace fibula
