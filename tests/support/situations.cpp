#include "support/situations.hpp"

#include <gtest/gtest.h>

namespace test {

Files with(Files files, const Files& more) {
  files.insert(files.end(), more.begin(), more.end());
  return files;
}

void write_all(const Workplace& place, const Files& files) {
  for (const auto& [name, content] : files) place.folder().write(fs::path("work") / name, content);
}

void check(const std::vector<Situation>& situations) {
  for (const auto& s : situations) {
    SCOPED_TRACE(s.name);
    const Workplace place;
    write_all(place, s.files);
    const auto ran = place.shell(s.command);
    EXPECT_EQ(ran.status, s.status) << ran.all();
    for (const char* text : s.says) EXPECT_NE(ran.all().find(text), std::string::npos) << text << "\n" << ran.all();
    for (const char* text : s.does_not_say)
      EXPECT_EQ(ran.all().find(text), std::string::npos) << text << "\n" << ran.all();
  }
}

}  // namespace test
