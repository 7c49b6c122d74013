#include "link/order.hpp"

#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

using namespace fibula;

namespace {

/// Libraries that need each other as `needs` says ("a:b c" - a needs b and c), and the order derived for them, circles
/// in brackets.
std::string order_of(const std::vector<std::string>& needs) {
  const test::Folder folder;
  FileStore files;
  StandIn program{.defines = {"main"}, .needs = {}};
  std::vector<LinkFile*> libraries;
  for (const auto& row : needs) {
    const std::string name = row.substr(0, 1);
    std::string code, calls;
    for (const char c : row.substr(2)) {
      if (c != ' ') code += fmt::format("void {}(void);", c), calls += fmt::format("{}();", c);
    }
    folder.write(name + ".c", fmt::format("{} void {}(void) {{ {} }}", code, name, calls));
    test::must(fmt::format("gcc -c {0}.c && ar rcs lib{0}.a {0}.o", name), folder.path());
    libraries.push_back(files.open(folder / ("lib" + name + ".a")).value());
    program.needs.insert(name);
  }
  const auto order = derive_order(files, {}, program, libraries);
  std::string text;
  for (const auto& place : order->places) {
    text += place.size() > 1 ? "(" : "";
    for (const size_t i : place) text += needs[i][0];
    text += place.size() > 1 ? ")" : "";
  }
  return text;
}

TEST(Order, IsDerivedFromNeeds) {
  struct Case {
    std::vector<std::string> needs;
    const char* order;
  };
  const Case cases[] = {
      {{"a:", "b:", "c:"}, "abc"},      {{"a:", "b:a", "c:b"}, "cba"},
      {{"a:b", "b:c", "c:a"}, "(abc)"}, {{"d:", "a:b", "b:a d", "e:a"}, "e(ab)d"},
      {{"a:c", "b:c", "c:"}, "abc"},    {{"c:", "b:c", "a:c"}, "bac"},
  };
  for (const auto& c : cases) EXPECT_EQ(order_of(c.needs), c.order);
}

}  // namespace
