/// Text stubs (`.tbd`) that stand for a dynamic library of macOS: YAML in versions 1 to 4, JSON in version 5, which
/// YAML's parser reads as well. One image comes out for each target that the stub names.
#pragma once

#include "base/bytes.hpp"
#include "binary/image.hpp"

#include <string>
#include <vector>

namespace fibula {

bool is_stub(Bytes bytes);
/// The first document; the ones behind it describe libraries that it gives on. Errors: malformed, limit.
Result<std::vector<Image>> read_stub(Bytes bytes);

}  // namespace fibula
