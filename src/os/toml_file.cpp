#include "os/toml_file.hpp"

#include "os/files.hpp"

namespace fibula {

Result<toml::Table> read_toml(const fs::path& path) {
  auto content = read_text(path);
  if (!content) return pass(content);
  return toml::parse(*content, path);
}

}  // namespace fibula
