#include "support/support.hpp"

#include <fibula/report.hpp>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <set>

using test::Workplace;

namespace {

/// Every tag that is opened is closed in its order, names are there once, links lead to them, and nothing is fetched.
void expect_sound(const std::string& page) {
  const std::set<std::string> single{"meta", "link", "input", "br", "hr", "img", "path", "polygon"};
  std::vector<std::string> open;
  std::set<std::string> names, links;
  for (size_t at = page.find('<'); at != std::string::npos; at = page.find('<', at + 1)) {
    const size_t end = page.find('>', at);
    ASSERT_NE(end, std::string::npos);
    const std::string tag = page.substr(at + 1, end - at - 1);
    const std::string name = tag.substr(0, tag.find_first_of(" \t\n/", tag[0] == '/' ? 1 : 0));
    for (const auto& [key, into] :
         {std::pair(std::string(" id=\""), &names), std::pair(std::string(" href=\"#"), &links)}) {
      const size_t found = tag.find(key);
      if (found == std::string::npos) continue;
      const std::string value = tag.substr(found + key.size(), tag.find('"', found + key.size()) - found - key.size());
      EXPECT_TRUE(into->insert(value).second || into == &links) << "twice: " << value;
    }
    EXPECT_EQ(tag.find("src="), std::string::npos) << tag;
    if (tag[0] == '!' || tag[0] == '?' || tag.ends_with('/') || single.contains(name)) continue;
    if (tag[0] != '/') {
      open.push_back(name);
    } else {
      ASSERT_FALSE(open.empty()) << tag;
      EXPECT_EQ("/" + open.back(), tag);
      open.pop_back();
    }
    // What is between these is no markup.
    if (name == "style" || name == "script") at = page.find("</" + name, end) - 1;
  }
  EXPECT_TRUE(open.empty()) << open.back();
  for (const auto& link : links) EXPECT_TRUE(names.contains(link)) << link;
  EXPECT_EQ(page.find("http://", page.find("<body>")), page.find("http://www.w3.org", page.find("<body>")));
}

TEST(Report, TellsEverythingOnOnePage) {
  const Workplace place;
  const auto libraries = place.prebuilt();
  const auto project = place.harbourlog();
  for (const char* name : {"tidecalc-2.1.0", "moonphase-1.3.0"})
    ASSERT_EQ(place.fibula("take " + (libraries / name).string()).status, 0);
  for (const char* words : {"attach tidecalc", "attach moonphase", "build", "lanes --add small --compiler 'g++ -m32'",
                            "lanes --add desk32-debug --compiler g++ --flag=-m32"})
    place.fibula(words, project);
  const auto made = place.fibula("report", project);
  ASSERT_EQ(made.status, 0) << made.all();
  const auto page = test::read(project / ".fibula/report.html");
  expect_sound(page);
  for (const char* said :
       {"tidecalc", "moonphase", "desk32-debug", "id=\"said-tidecalc\"", "take a build of tidecalc for 32-bit",
        "the project itself", "href=\"#lane-desk-debug\"", "prefers-color-scheme: dark"})
    EXPECT_NE(page.find(said), std::string::npos) << said;
  EXPECT_EQ(place.fibula("report", project).status, 0);
  const auto nowhere = place.fibula("report --to nosuch/page.html", project);
  EXPECT_NE(nowhere.err.find("make the folder first"), std::string::npos) << nowhere.all();
  EXPECT_EQ(test::read(project / ".fibula/report.html"), page) << "the same twice";
  const auto json = place.fibula_json("report --format json", project);
  EXPECT_EQ(json["misfits"][0]["rule"], "architecture") << json.dump(1);
  EXPECT_GT(json["added"].size(), 0U);
  const auto markdown = place.fibula("report --format markdown", project);
  EXPECT_NE(markdown.out.find("| tidecalc | ok: 2.1.0 x86_64-elf-static |"), std::string::npos) << markdown.out;
}

/// Names that are markup, and two hundred libraries in eight lanes.
TEST(Report, BearsNamesAndNumbers) {
  fibula::Report report{.project = "a<b>&\"c\""};
  for (int lane = 0; lane < 8; ++lane) {
    fibula::Fit fit;
    fit.lane.name = fmt::format("lane{}", lane);
    for (int i = 0; i < 200; ++i) {
      fibula::ChosenLibrary library{
          .name = fmt::format("library{}", i), .version = "1.0", .variant = "x86_64-elf-static"};
      if (i == 7) {
        library.verdict = fibula::Verdict::misfit;
        library.misfits.push_back({.rule = "architecture",
                                   .subject = "<x>",
                                   .library = library.name,
                                   .evidence = {"a < b"},
                                   .remedy = "<script>"});
      }
      fit.libraries.push_back(library);
      fit.include_directories.push_back(
          {"/home/somebody/shelf/library/1.0/files/include", library.name, "headers of " + library.name});
    }
    report.fits.push_back(std::move(fit));
  }
  const auto page = report.html();
  expect_sound(page);
  EXPECT_EQ(page.find("<x>"), std::string::npos);
  EXPECT_LT(page.size(), 1'000'000U);
}

TEST(Report, RefusesWithoutAProject) {
  const Workplace place;
  EXPECT_EQ(place.fibula("report").status, 3);
  EXPECT_EQ(place.fibula("report --format pdf").status, 2);
}

}  // namespace
