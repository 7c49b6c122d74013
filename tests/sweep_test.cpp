/// Every reader takes any bytes: cut off at any place, or with any byte changed. Buffers have the exact size, so that
/// the address sanitizer sees a read one byte too far.
#include "binary/open.hpp"
#include "facts/facts.hpp"
#include "support/support.hpp"

#include <gtest/gtest.h>
#include <memory>
#include <random>

using namespace fibula;

namespace {

/// Reads everything that a file of unknown kind may be.
void read_all(std::string_view content) {
  const auto exact = std::make_unique<std::byte[]>(content.size());
  std::memcpy(exact.get(), content.data(), content.size());
  const Bytes bytes(std::span(exact.get(), content.size()));
  if (is_archive(bytes)) {
    const auto archive = read_archive(bytes);
    if (archive) (void)facts_of_archive(*archive, true);
  } else if (is_script(bytes)) {
    (void)read_script(bytes);
  } else if (const auto image = read_image(bytes, want_all)) {
    (void)facts_of_image(*image);
  }
}

/// Small real files of each kind.
std::vector<std::string> samples() {
  const test::Folder folder;
  folder.write("a.cpp",
               "#include <string>\ntemplate <class T> T twice(T x) { return x + x; }\nint t[4]; std::string f(int i) { "
               "return twice(std::string(1, 'x')) + std::to_string(t[i]); }");
  test::must(
      "g++ -g0 -O1 -c a.cpp && ar rcs a.a a.o && g++ -shared -fPIC a.cpp -Wl,-soname,liba.so.1 -o a.so && gcc -x c -c "
      "/dev/null -o e.o && cp /usr/lib/x86_64-linux-gnu/libc.so script",
      folder.path());
  std::vector<std::string> contents;
  for (const char* name : {"a.o", "a.a", "a.so", "e.o", "script"}) contents.push_back(test::read(folder / name));
  return contents;
}

TEST(Sweep, CutOffAnywhere) {
  for (const auto& content : samples()) {
    const size_t step = std::max<size_t>(1, content.size() / 400);
    for (size_t length = 0; length <= content.size(); length += step)
      read_all(std::string_view(content).substr(0, length));
  }
}

TEST(Sweep, AnyByteChanged) {
  std::mt19937 random(1);
  for (const auto& content : samples()) {
    for (int i = 0; i < 2000; ++i) {
      std::string changed = content;
      // Tables and headers lie at both ends of a file; half of the changes go there.
      const size_t window = i % 2 == 0 ? changed.size() : std::min<size_t>(512, changed.size());
      const size_t at = i % 4 == 1 ? changed.size() - 1 - random() % window : random() % window;
      changed[at] = static_cast<char>(i % 3 == 0 ? 0xff : random());
      read_all(changed);
    }
  }
}

}  // namespace
