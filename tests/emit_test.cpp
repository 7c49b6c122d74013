/// A fit in open forms, each used by who reads it: make, a shell, gcc; and the questions about it.
#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <regex>

using test::Workplace;

namespace {

/// A project whose folder and definition hold every sign that somebody trips over.
struct Nasty : Workplace {
  test::fs::path folder_of_it = folder().path() / "a b'c\"d$e#f\\#g;h&ü(i)*";

  Nasty() {
    test::fs::create_directories(folder_of_it / "src");
    test::must("FIBULA_SHELF=" + test::quoted(shelf()) + " " FIBULA_TOOL " take /usr --library zlib --in-place");
    write("src/main.c",
          "#include <zlib.h>\n#include \"text.h\"\n#include <stdio.h>\nint main(void) { puts(TEXT); return "
          "zlibVersion()[0] != '1' || LEVEL != 7; }\n");
    write("own/text.h", "#define TEXT \"found\"\n");
    write("src/start.S", ".globl beacon\nbeacon: .long LEVEL\n.section .note.GNU-stack,\"\",@progbits\n");
    write("fibula.toml",
          "[[output]]\nname = \"harbour-log\"\nsources = [\"src/*.c\"]\nheaders = [\"own\"]\n"
          "[library.zlib]\nlinkage = \"static\"\n[lane.desk]\ncompiler = \"gcc\"\n"
          "definitions = [\"LEVEL=7\", \"MARK=\\\"$HOME #1 'x'\\\"\"]\n");
    const auto fit = fibula("fit", folder_of_it);
    EXPECT_EQ(fit.status, 0) << fit.all();
  }
  void write(const std::string& name, const std::string& text) const {
    folder().write(folder_of_it.lexically_relative(folder().path()) / name, text);
  }
  std::string must(const std::string& command) const { return test::must(command, folder_of_it); }
};

void expect_valid(const test::fs::path& file, const char* schema) {
  const auto valid = test::shell(fmt::format("'{0}' '{1}/tests/validate_schema.py' '{1}/tests/schemas/{2}' '{3}'",
                                             TEST_PYTHON, FIBULA_SOURCE, schema, file.string()));
  EXPECT_EQ(valid.status, 0) << file << "\n" << valid.all();
}

TEST(Emitted, ResponseFilesServeTheCompiler) {
  const Nasty place;
  place.must("gcc src/main.c -o p @.fibula/desk/compile.rsp @.fibula/desk/link.rsp && ./p");
  place.must("gcc -c src/start.S -o s.o @.fibula/desk/assemble.rsp && nm s.o | grep -q beacon");
}

TEST(Emitted, NoIncludeDirectoryCanBeLeftOut) {
  const Workplace place;
  // Headers that lead to each other over two directories, headers in one of their own, and a library without a folder
  // for them.
  place.folder().write("tide-1.0/include/tide/all.h", "#include <tide_core.h>\ntypedef tide_core tide;\n");
  place.folder().write("tide-1.0/include/tide/core/tide_core.h", "typedef int tide_core;\n");
  place.folder().write("moon-1.0/include/moon/moon.h", "#include <moon/phase.h>\n");
  place.folder().write("moon-1.0/include/moon/phase.h", "#pragma once\n");
  place.folder().write("star-1.0/star.h", "#pragma once\n");
  std::string attached;
  for (const std::string name : {"tide", "moon", "star"}) {
    ASSERT_EQ(place.fibula("take ../" + name + "-1.0").status, 0);
    attached += "[library." + name + "]\n";
  }
  place.folder().write(
      "work/main.c",
      "#include <tide/all.h>\n#include <moon/moon.h>\n#include <star.h>\nint main(void) { return 0; }\n");
  place.folder().write("work/fibula.toml", "[[output]]\nname = \"log\"\nsources = [\"main.c\"]\n" + attached +
                                               "[lane.desk]\ncompiler = \"gcc\"\n");
  const auto directories = place.fibula_json("fit")["lanes"][0]["include_directories"];
  ASSERT_EQ(directories.size(), 4U) << directories.dump(1);
  for (size_t gone = 0; gone <= directories.size(); ++gone) {
    std::string command = "gcc -c main.c -o main.o";
    for (size_t i = 0; i < directories.size(); ++i) {
      if (i != gone) command += " -I" + test::quoted(directories[i]["path"].get<std::string>());
    }
    EXPECT_EQ(test::shell(command, place / "work").status == 0, gone == directories.size()) << command;
  }
}

TEST(Emitted, VariablesServeMake) {
  const Nasty place;
  place.write("Makefile",
              "include .fibula/desk/fit.mk\np: src/main.c src/start.S\n\t$(FIT_COMPILER) $(FIT_COMPILE) -c src/main.c "
              "-o m.o\n\t$(FIT_COMPILER) $(FIT_ASSEMBLE) -c src/start.S -o s.o\n\t$(FIT_COMPILER) m.o s.o -o p "
              "$(FIT_LINK_harbour_log)\nmark:\n\t@printf '%s\\n' $(FIT_COMPILE)\n");
  place.must("make -s p && ./p");
  EXPECT_NE(place.must("make -s mark").find("-DMARK=\"$HOME #1 'x'\"\n"), std::string::npos);
}

TEST(Emitted, VariablesServeAShell) {
  const Nasty place;
  place.must(". .fibula/desk/fit.env && eval \"$FIT_COMPILER src/main.c -o p $FIT_COMPILE $FIT_LINK\" && ./p");
  EXPECT_NE(
      place.must(". .fibula/desk/fit.env && eval \"printf '%s\\n' $FIT_COMPILE\"").find("-DMARK=\"$HOME #1 'x'\"\n"),
      std::string::npos);
}

#ifndef FIBULA_NATIVE_ONLY
TEST(Emitted, TheDatabaseServesAnEditor) {
  const Nasty place;
  const auto checked = test::shell("clangd --check=src/main.c 2>&1", place.folder_of_it);
  EXPECT_EQ(checked.status, 0) << checked.all();
  EXPECT_NE(checked.out.find("All checks completed, 0 errors"), std::string::npos) << checked.out;
}
#endif

/// harbourlog with tidecalc, SQLite from the system, and what they need.
struct HarbourOnSqlite : Workplace {
  test::fs::path project = harbourlog();
  HarbourOnSqlite() {
    test::must(fmt::format(
        "FIBULA_SHELF='{0}' '{1}' take {2} && FIBULA_SHELF='{0}' '{1}' take /usr --library sqlite3 --in-place",
        shelf().string(), FIBULA_TOOL, (prebuilt() / "tidecalc-2.1.0").string()));
    folder().write("harbourlog/src/moon.cpp", "#include <sqlite3.h>\nvoid print_moon() { sqlite3_libversion(); }\n");
    EXPECT_EQ(fibula("attach tidecalc", project).status, 0);
    EXPECT_EQ(fibula("attach sqlite3 --linkage shared", project).status, 0);
    EXPECT_EQ(fibula("fit", project).status, 0);
  }
};

TEST(Why, TellsOfLibrariesDirectoriesAndFiles) {
  const HarbourOnSqlite place;
  const auto why = place.fibula("fit --lane desk-release --why tidecalc", place.project);
  EXPECT_EQ(why.status, 0) << why.all();
  EXPECT_NE(why.out.find("library  tidecalc 2.1.0, x86_64-elf-static"), std::string::npos) << why.out;
  EXPECT_NE(why.out.find("headers of tidecalc"), std::string::npos) << why.out;
  EXPECT_NE(why.out.find("tidecalc is used by harbourlog (output harbourlog)"), std::string::npos) << why.out;
  const auto file = place.fibula_json("fit --why libtidecalc.a", place.project);
  ASSERT_EQ(file["reasons"].size(), 2U) << "one a lane";
  EXPECT_EQ(file["reasons"][0]["kind"], "link");
  const auto none = place.fibula("fit --why moonlight", place.project);
  EXPECT_EQ(none.status, 1);
  EXPECT_NE(none.err.find("nothing in the fit is called moonlight\n  remedy: ask for a library (tidecalc, sqlite3)"),
            std::string::npos)
      << none.err;
}

TEST(Why, TellsWhoAsksTheLoader) {
  const Workplace place;
  ASSERT_EQ(place.fibula("take " + (place.prebuilt() / "tidecalc-2.1.0").string()).status, 0);
  place.folder().write("work/main.c",
                       "#include <tidecalc.h>\nint main(void) { int n; return !tide_sample_harbour(&n); }\n");
  place.folder().write("work/fibula.toml",
                       "[[output]]\nname = \"log\"\nsources = [\"main.c\"]\n[library.tidecalc]\nlinkage = "
                       "\"shared\"\n[lane.desk]\ncompiler = \"gcc\"\n");
  EXPECT_NE(place.fibula("fit --why libtidecalc.so.2").out.find("log needs it when it runs"), std::string::npos);
  EXPECT_NE(place.fibula("fit --why m").out.find("libtidecalc.so.2 needs it when it runs"), std::string::npos);
}

TEST(Diff, TellsWhatTheLockHoldsBack) {
  const HarbourOnSqlite place;
  EXPECT_EQ(place.fibula("fit --diff", place.project).out,
            "nothing would change: what the lock file has is what would be chosen now\n");
  test::must(fmt::format("FIBULA_SHELF='{}' '{}' take --version 2.2.0 {}", place.shelf().string(), FIBULA_TOOL,
                         (place / "prebuilt/tidecalc-2.1.0").string()));
  const auto lock = test::read(place.project / "fibula.lock");
  const auto diff = place.fibula("fit --diff --lane desk-release", place.project);
  EXPECT_EQ(diff.status, 1);
  EXPECT_NE(diff.out.find("tidecalc  desk-release  2.1.0, x86_64-elf-static (sha256:"), std::string::npos) << diff.out;
  EXPECT_NE(diff.out.find("→  2.2.0, x86_64-elf-static (sha256:"), std::string::npos) << diff.out;
  EXPECT_EQ(test::read(place.project / "fibula.lock"), lock) << "asking changes nothing";
  ASSERT_EQ(place.fibula("detach sqlite3", place.project).status, 0);
  const auto gone = place.fibula_json("fit --diff", place.project);
  EXPECT_EQ(gone["changes"].size(), 2U) << "tidecalc in two lanes; what was detached has left the lock\n"
                                        << gone.dump(1);
}

/// Every object has these members (the schemas' "required").
void expect_members(const nlohmann::json& object, const std::vector<const char*>& names) {
  for (const char* name : names) EXPECT_TRUE(object.contains(name)) << name << " in " << object.dump();
}

TEST(Materials, HaveWhatTheirStandardsRequire) {
  const HarbourOnSqlite place;
  ASSERT_EQ(place.fibula("fit --materials", place.project).status, 0);
  const auto folder = place.project / ".fibula/desk-release";
  const auto spdx = nlohmann::json::parse(test::read(folder / "materials.spdx.json"));
  expect_members(spdx, {"SPDXID", "spdxVersion", "creationInfo", "name", "dataLicense", "documentNamespace"});
  EXPECT_EQ(spdx["spdxVersion"], "SPDX-2.3");
  expect_members(spdx["creationInfo"], {"created", "creators"});
  const std::regex time("[0-9]{4}-[0-9]{2}-[0-9]{2}T[0-9]{2}:[0-9]{2}:[0-9]{2}Z");
  EXPECT_TRUE(std::regex_match(spdx["creationInfo"]["created"].get<std::string>(), time));
  std::set<std::string> ids{"SPDXRef-DOCUMENT"};
  for (const auto& package : spdx["packages"]) {
    expect_members(package, {"SPDXID", "name", "downloadLocation"});
    EXPECT_TRUE(std::regex_match(package["SPDXID"].get<std::string>(), std::regex("SPDXRef-[A-Za-z0-9.-]+")));
    EXPECT_TRUE(ids.insert(package["SPDXID"]).second);
  }
  for (const auto& relation : spdx["relationships"]) {
    expect_members(relation, {"spdxElementId", "relatedSpdxElement", "relationshipType"});
    EXPECT_TRUE(ids.contains(relation["spdxElementId"]) && ids.contains(relation["relatedSpdxElement"]));
  }
  EXPECT_EQ(spdx["packages"][1]["licenseDeclared"], "MIT");
  EXPECT_EQ(spdx["relationships"][1]["relationshipType"], "STATIC_LINK");
  EXPECT_EQ(spdx["relationships"][2]["relationshipType"], "DYNAMIC_LINK");

  const auto cyclonedx = nlohmann::json::parse(test::read(folder / "materials.cdx.json"));
  expect_members(cyclonedx, {"bomFormat", "specVersion"});
  EXPECT_EQ(cyclonedx["specVersion"], "1.5");
  EXPECT_TRUE(std::regex_match(cyclonedx["serialNumber"].get<std::string>(),
                               std::regex("urn:uuid:[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}")));
  ASSERT_EQ(cyclonedx["components"].size(), 2U);
  for (const auto& component : cyclonedx["components"]) {
    expect_members(component, {"type", "name"});
    expect_members(component["hashes"][0], {"alg", "content"});
    EXPECT_TRUE(std::regex_match(component["hashes"][0]["content"].get<std::string>(), std::regex("[a-f0-9]{64}")));
  }
  expect_members(cyclonedx["dependencies"][0], {"ref"});
  expect_valid(folder / "materials.cdx.json", "bom-1.5.schema.json");
  // A lane that nothing fits has no bill, and keeps the others from none.
  ASSERT_EQ(place.fibula("lanes --add desk32-debug --compiler g++ --flag=-m32", place.project).status, 0);
  const auto misfit = place.fibula("fit --materials", place.project);
  EXPECT_EQ(misfit.status, 1) << misfit.all();
  EXPECT_EQ(misfit.err, "");
  EXPECT_FALSE(test::fs::exists(place.project / ".fibula/desk32-debug/materials.cdx.json"));
  const auto before = test::read(folder / "materials.spdx.json");
  ASSERT_EQ(place.fibula("fit --materials --lane desk-release", place.project).status, 0);
  EXPECT_EQ(test::read(folder / "materials.spdx.json"), before) << "the same choice, the same bill";
}

TEST(Sarif, IsWhatItsStandardSays) {
  const Workplace place;
  place.folder().write("log/main.c", "\n#include <tidecalc.h>\nint main(void) { return 0; }\n");
  place.folder().write("log/fibula.toml",
                       "[[output]]\nname = \"log\"\nsources = [\"*.c\"]\n[lane.desk]\ncompiler = \"gcc\"\n");
  for (const char* command : {"fit", "build", "explain -- gcc -c main.c", "explain -- gcc --version"}) {
    const std::string words(command);
    const size_t end = std::min(words.find(' '), words.size());
    place.fibula(words.substr(0, end) + " --sarif out.sarif" + words.substr(end), place / "log");
    expect_valid(place / "log/out.sarif", "sarif-2.1.0.schema.json");
    const auto results = nlohmann::json::parse(test::read(place / "log/out.sarif"))["runs"][0]["results"];
    EXPECT_EQ(results.size(), words.ends_with("version") ? 0U : 1U) << words << results;
    for (const auto& result : results) {
      const auto& where = result["locations"][0]["physicalLocation"];
      EXPECT_EQ(where["artifactLocation"]["uri"], "main.c") << words;
      EXPECT_EQ(where["region"]["startLine"], 2) << words;
    }
    test::fs::remove(place / "log/out.sarif");
  }
}

}  // namespace
