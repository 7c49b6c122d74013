/// Every reader takes any bytes: cut off at any place, or with any byte changed. Buffers have the exact size, so that
/// the address sanitizer sees a read one byte too far.
#include "binary/loader_cache.hpp"
#include "binary/open.hpp"
#include "facts/facts.hpp"
#include "support/support.hpp"

#include <gtest/gtest.h>
#include <memory>
#include <random>

using namespace fibula;

namespace {

/// Reads whatever the bytes are, and everything inside them.
Result<Facts> read_all(std::string_view content) {
  const auto exact = std::make_unique<std::byte[]>(content.size());
  std::memcpy(exact.get(), content.data(), content.size());
  const Bytes bytes(std::span(exact.get(), content.size()));
  auto read = read_content(bytes, want_all);
  if (!read) return pass(read);
  (void)read_content(bytes, want_dynamic);  // a loader's question is answered from other tables
  if (const FormatReader* reader = reader_for(bytes)) (void)reader->walk(bytes, [](const ImageSymbol&) {});
  return facts_of(*read, {.members = true}, "nowhere");
}

/// A file of every kind that a reader takes.
constexpr const char* samples[] = {
    "gnu/release.o",
    "gnu/m32.o",
    "gnu/lto-slim.o",
    "gnu/libtide.a",
    "gnu/libbsd.a",
    "gnu/libtide.so.1",
    "gnu/libsysv.so",
#ifndef FIBULA_NATIVE_ONLY
    "cross/s390x-linux-gnu.o",
    "cross/arm-linux-gnueabihf.o",
    "cross/riscv64-linux-gnu.o",
    "cross/avr5.o",
    "mingw/x86_64-posix.o",
    "mingw/x86_64-bigobj.o",
    "mingw/i686-posix.dll.a",
    "msvc/x86_64-keys.obj",
    "msvc/x86_64.lib",
    "msvc/debug-runtime.dll",
    "msvc/delayed.dll",
    "macos/arm64-release.o",
    "macos/arm64.dylib",
    "macos/fat.a",
    "macos/v4.tbd",
    "macos/v5.tbd",
    "bitcode/linux.o",
    "bitcode/bitcode.a",
#endif
};

class Sweep : public testing::TestWithParam<const char*> {
 protected:
  const std::string content_ = test::read(std::filesystem::path(TEST_KINDS) / GetParam());
};

/// What the file is for must not come out differently from a part of it.
std::string identity(const Facts& facts) {
  std::string text;
  for (const auto& row : rows(facts)) {
    for (const auto id : {"format", "kind", "arch", "bits", "endian", "soname", "dll-name", "install-name", "needs"}) {
      if (row.id == id) text += row.id + "=" + to_text(row.value) + " ";
    }
  }
  return text;
}

TEST_P(Sweep, CutOffAnywhere) {
  const auto whole = read_all(content_);
  ASSERT_TRUE(whole) << render(whole.error());
  const bool text = std::string_view(GetParam()).ends_with(".tbd");
  for (size_t i = 0; i < 200; ++i) {
    const size_t length = content_.size() * i / 200;
    const auto part = read_all(std::string_view(content_).substr(0, length));
    // An archive cut between two members is one of fewer members, and says nothing else of itself.
    if (!part || text) continue;
    EXPECT_EQ(identity(*part), identity(*whole)) << "cut to " << length << " of " << content_.size();
  }
}

TEST_P(Sweep, AnyByteChanged) {
  std::mt19937 random(1);
  for (int i = 0; i < 2000; ++i) {
    std::string changed = content_;
    // Tables and headers lie at both ends of a file; half of the changes go there.
    const size_t window = i % 2 == 0 ? changed.size() : std::min<size_t>(512, changed.size());
    const size_t at = i % 4 == 1 ? changed.size() - 1 - random() % window : random() % window;
    changed[at] = static_cast<char>(i % 3 == 0 ? 0xff : random());
    (void)read_all(changed);
  }
}

/// The loader's cache of this machine, whose names and paths must lie inside the file whatever its bytes are.
TEST(LoaderCache, CutOffAndChangedAnywhere) {
  const std::string content = test::read("/etc/ld.so.cache");
  const auto read = [](std::string_view text) {
    const auto exact = std::make_unique<std::byte[]>(text.size());
    std::memcpy(exact.get(), text.data(), text.size());
    const auto entries = read_loader_cache(Bytes(std::span(exact.get(), text.size())));
    size_t letters = 0;
    for (size_t i = 0; entries && i < entries->size(); ++i)
      letters += (*entries)[i].name.size() + (*entries)[i].path.size();
    return entries ? letters : 0;
  };
  EXPECT_GT(read(content), 1000U);
  for (size_t i = 0; i < 200; ++i) EXPECT_EQ(read(std::string_view(content).substr(0, content.size() * i / 200)), 0U);
  std::mt19937 random(1);
  for (int i = 0; i < 2000; ++i) {
    std::string changed = content;
    changed[random() % (i % 2 == 0 ? changed.size() : 512U)] = static_cast<char>(i % 3 == 0 ? 0xff : random());
    (void)read(changed);
  }
}

INSTANTIATE_TEST_SUITE_P(Kinds, Sweep, testing::ValuesIn(samples), [](const auto& sample) {
  std::string name = sample.param;
  for (char& c : name) c = std::isalnum(static_cast<unsigned char>(c)) != 0 ? c : '_';
  return name;
});

}  // namespace
