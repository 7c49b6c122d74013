#include "os/expand.hpp"

#include "os/late_library.hpp"

namespace fibula {
namespace {

struct ExpandApi {
  int (*zlib)(unsigned char* into, unsigned long* size, const unsigned char* from, unsigned long length) = nullptr;
  size_t (*zstd)(void* into, size_t size, const void* from, size_t length) = nullptr;
};

Result<ExpandApi> load_expand() {
  ExpandApi api;
  auto zlib = LateLibrary::open("libz.so.1", "zlib1g", "to read compressed debugging records");
  if (!zlib) return pass(zlib);
  auto zstd = LateLibrary::open("libzstd.so.1", "libzstd1", "to read compressed debugging records");
  if (!zstd) return pass(zstd);
  if (auto bound = zlib->bind(api.zlib, "uncompress"); !bound) return pass(bound);
  if (auto bound = zstd->bind(api.zstd, "ZSTD_decompress"); !bound) return pass(bound);
  return api;
}

}  // namespace

Result<std::string> expand(Bytes compressed, uint64_t size, Compression how) {
  static const Result<ExpandApi> api = load_expand();
  if (!api) return fail(api.error());
  std::string text(size, '\0');
  uint64_t got = 0;
  if (how == Compression::zlib) {
    unsigned long room = text.size();
    const int status = api->zlib(reinterpret_cast<unsigned char*>(text.data()), &room,
                                 reinterpret_cast<const unsigned char*>(compressed.data()), compressed.size());
    got = status == 0 ? room : 0;
  } else {
    // An error is a number beyond any size (zstd.h, ZSTD_isError).
    got = api->zstd(text.data(), text.size(), compressed.data(), compressed.size());
  }
  if (got != size) return fail(compressed.error(Code::malformed, 0, "does not expand to the size that it names"));
  return text;
}

}  // namespace fibula
