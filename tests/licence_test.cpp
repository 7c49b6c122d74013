/// Licences by their texts, and versions by the macros of headers.
#include "take/licence.hpp"

#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

namespace fibula {
namespace {

constexpr const char* mit =
    "Permission is hereby granted, free of charge, to any person obtaining a copy of this software … The above "
    "copyright\n"
    "notice and this permission notice shall be included in all copies";
constexpr const char* bsd = "Redistribution and use in source and binary forms, with or without modification";

TEST(Licences, AreKnownByTheirText) {
  const std::pair<std::string, const char*> texts[] = {
      {mit, "MIT"},
      {std::string("/*\n * ") + mit + "\n */", "MIT"},
      {std::string(mit) + " Except as contained in this notice, the name", "X11"},
      {"permission is hereby granted, free of charge, to any person obtaining a copy of it", "MIT-0"},
      {bsd, "BSD-2-Clause"},
      {std::string(bsd) + " Neither the name of the harbour nor", "BSD-3-Clause"},
      {"Permission to use, copy, modify, and/or distribute this software for any purpose with or without fee is hereby "
       "granted, provided that the above copyright notice and this permission notice appear in all copies.",
       "ISC"},
      {"Permission to use, copy, modify, and/or distribute this software for any purpose with or without fee is hereby "
       "granted.",
       "0BSD"},
      {"This software is provided 'as-is', without any express or implied warranty. Altered source versions must be "
       "plainly marked as such",
       "Zlib"},
      {"Boost Software License - Version 1.0 - August 17th, 2003", "BSL-1.0"},
      {"This is free and unencumbered software released into the public domain.", "Unlicense"},
      {"All rights reserved. Ask the harbour master.", ""},
      {"Licensed under the MIT license, as they say.", ""},
      {"", ""},
  };
  for (const auto& [text, id] : texts) EXPECT_EQ(licence_in_text(text), id) << text;
}

TEST(Licences, OfDebiansCommonOnesEachIsKnown) {
  const std::pair<const char*, const char*> files[] = {
      {"Apache-2.0", "Apache-2.0"}, {"GPL-2", "GPL-2.0"},   {"GPL-3", "GPL-3.0"},
      {"LGPL-2.1", "LGPL-2.1"},     {"LGPL-3", "LGPL-3.0"}, {"LGPL-2", "LGPL-2.0"},
      {"MPL-2.0", "MPL-2.0"},       {"CC0-1.0", "CC0-1.0"}, {"BSD", "BSD-3-Clause"}};
  for (const auto& [file, id] : files)
    EXPECT_EQ(licence_in_text(test::read(std::string("/usr/share/common-licenses/") + file)), id) << file;
}

/// What a source with these files says.
struct Files {
  const char* what;
  std::vector<std::pair<const char*, std::string>> headers;
  std::vector<std::pair<const char*, std::string>> licences;
  const char* expression;
};

TEST(Licences, FilesComeBeforeTags) {
  const std::string tag = "// SPDX-License-Identifier: ISC\n";
  const Files rows[] = {
      {"a file", {{"a.h", tag}}, {{"LICENSE", mit}}, "MIT"},
      {"the nearest to the top", {}, {{"LICENSE", mit}, {"docs/LICENSE", bsd}}, "MIT"},
      {"two that are offered", {}, {{"LICENSE-BSD", bsd}, {"LICENSE-MIT", mit}}, "BSD-2-Clause OR MIT"},
      {"two of which nobody says how they go together", {}, {{"COPYING", bsd}, {"LICENSE", mit}}, ""},
      {"a tag of every header", {{"a.h", tag}, {"b.h", tag}}, {}, "ISC"},
      {"tags that differ", {{"a.h", tag}, {"b.h", "/* SPDX-License-Identifier: MIT */"}}, {}, ""},
      {"a tag in two of many", {{"a.h", tag}, {"b.h", ""}, {"c.h", ""}, {"d.h", ""}, {"e.h", ""}}, {}, ""},
      {"a tag in a string", {{"a.h", "const char *s = \"SPDX-License-Identifier: ISC\";"}}, {}, ""},
  };
  for (const auto& row : rows) {
    const test::Folder folder;
    Source source{.root = folder.path()};
    for (const auto& [name, text] : row.headers) {
      folder.write(name, text);
      source.headers.emplace_back(name);
    }
    for (const auto& [name, text] : row.licences) {
      folder.write(name, text);
      source.files.licences.emplace_back(name);
    }
    EXPECT_EQ(licence_of(source).expression, row.expression) << row.what;
  }
}

TEST(HeaderVersions, FromMacrosThatSpellPrefixAndVersion) {
  const std::pair<const char*, const char*> headers[] = {
      {"#define TERN_VERSION \"2.26.5\"\n", "2.26.5"},
      {"#define TERN_VERSION \"2.26\"\n#define TERN_MAJOR 2\n#define TERN_MINOR 26\n#define TERN_PATCHLEVEL 5\n",
       "2.26.5"},
      {"#define TERN_MAJOR_VERSION 1\n#define TERN_MINOR_VERSION 4\n#define TERN_MICRO_VERSION 0\n", "1.4.0"},
      {"#define TERN_VER_MAJOR (3)\n#define TERN_VER_MINOR 1U\n", "3.1"},
      {"#  define TERN_VERSION_STRING \"0.9\"\n", "0.9"},
      {"#define QUAY_VERSION \"7.1\"\n", "7.1"},
      {"#define QUAY_VERSION \"7.1\"\n#define PIER_VERSION \"8.2\"\n", ""},
      {"#define TERN_VERSION TERN_MAKE(1, 2)\n", ""},
      {"/* version 4.5 */\n", ""},
  };
  for (const auto& [text, version] : headers) {
    const test::Folder folder;
    folder.write("tern.h", text);
    Source source{.root = folder.path(), .headers = {"tern.h"}};
    EXPECT_EQ(version_in_headers(source, "tern").version, version) << text;
  }
}

}  // namespace
}  // namespace fibula
