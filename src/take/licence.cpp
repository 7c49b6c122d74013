#include "take/licence.hpp"

#include "base/text.hpp"
#include "os/files.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <map>
#include <optional>
#include <set>
#include <vector>

namespace fibula {
namespace {

/// Sentences that only one licence has, in small letters with one space between words, as SPDX's list gives the texts.
struct Row {
  std::string_view id;
  std::vector<std::string_view> has;
  std::vector<std::string_view> lacks = {};
};

const std::vector<Row>& rows() {
  static constexpr std::string_view bsd = "redistribution and use in source and binary forms",
                                    mit =
                                        "permission is hereby granted, free of charge, to any person obtaining a copy",
                                    isc = "permission to use, copy, modify, and",
                                    isc_end = "for any purpose with or without fee is hereby granted",
                                    notice = "the above copyright notice and this permission notice";
  static const std::vector<Row> all = {
      {"AGPL-3.0", {"gnu affero general public license version 3, 19 november 2007"}},
      {"LGPL-3.0", {"gnu lesser general public license version 3, 29 june 2007"}},
      {"LGPL-2.1", {"gnu lesser general public license version 2.1, february 1999"}},
      {"LGPL-2.0", {"gnu library general public license version 2, june 1991"}},
      {"GPL-3.0", {"gnu general public license version 3, 29 june 2007"}},
      {"GPL-2.0", {"gnu general public license version 2, june 1991"}},
      {"Apache-2.0", {"apache license", "version 2.0", "terms and conditions for use, reproduction, and distribution"}},
      {"MPL-2.0", {"mozilla public license", "2.0", "\"covered software\""}},
      {"EPL-2.0", {"eclipse public license - v 2.0"}},
      {"BSL-1.0", {"boost software license - version 1.0"}},
      {"CC0-1.0", {"cc0 1.0 universal"}},
      {"Unlicense", {"this is free and unencumbered software released into the public domain"}},
      {"WTFPL", {"do what the fuck you want to public license"}},
      {"NCSA", {mit, "redistributions of source code must retain the above copyright notice"}},
      {"libpng-2.0", {"png reference library license version 2"}},
      {"Zlib", {"without any express or implied warranty", "altered source versions must be plainly marked as such"}},
      {"IJG", {"this software is based in part on the work of the independent jpeg group"}},
      {"FTL", {"the freetype project license"}},
      {"X11", {mit, notice, "except as contained in this notice"}},
      {"MIT", {mit, notice}},
      {"MIT-0", {mit}, {notice}},
      {"BSD-4-Clause", {bsd, "all advertising materials mentioning features"}},
      {"BSD-3-Clause", {bsd, "neither the name"}},
      {"BSD-3-Clause", {bsd, "names of its contributors may"}},
      {"BSD-3-Clause", {bsd, "may not be used to endorse or promote products"}},
      {"BSD-2-Clause", {bsd}},
      {"ISC", {isc, isc_end, notice}},
      {"0BSD", {isc, isc_end}, {notice}},
      {"blessing", {"may you do good and not evil", "may you share freely, never taking more than you give"}},
  };
  return all;
}

/// Small letters, one space between words, plain quotation marks; comment signs at the start of lines are no words.
std::string normalised(std::string_view text) {
  std::string plain;
  for (const auto line : text::lines(text)) {
    auto rest = text::trim(line);
    while (!rest.empty() && std::string_view("*#;/%").find(rest.front()) != std::string_view::npos)
      rest = text::trim(rest.substr(1));
    for (const auto word : text::words(rest)) {
      if (!plain.empty()) plain += ' ';
      plain += text::lower(word);
    }
  }
  for (const auto& [mark, sign] :
       {std::pair{"\xe2\x80\x9c", "\""}, {"\xe2\x80\x9d", "\""}, {"``", "\""}, {"''", "\""}}) {
    for (size_t at = plain.find(mark); at != std::string::npos; at = plain.find(mark, at + 1))
      plain.replace(at, std::string_view(mark).size(), sign);
  }
  return plain;
}

bool has(const std::string& text, std::string_view sentence) {
  return text.find(sentence) != std::string::npos;
}

/// A licence of GNU says of itself nothing of later versions; the notices in the sources do.
std::string with_notice(std::string id, const Source& source) {
  if (id.find("GPL-") == std::string::npos) return id;
  constexpr size_t enough = 40;
  size_t looked = 0, later = 0, notices = 0;
  for (const auto* files : {&source.headers, &source.code}) {
    for (const auto& file : *files) {
      if (++looked > enough) break;
      const auto text = normalised(read_text(source.root / file).value_or("").substr(0, 4096));
      if (!has(text, "general public license")) continue;
      ++notices;
      later += has(text, "any later version") ? 1U : 0U;
    }
  }
  if (notices == 0) return id;
  return id + (later * 2 > notices ? "-or-later" : "-only");
}

/// The nearest to the top says it for the whole.
std::vector<std::string> by_depth(std::vector<std::string> files) {
  std::stable_sort(files.begin(), files.end(), [](const std::string& a, const std::string& b) {
    return std::count(a.begin(), a.end(), '/') < std::count(b.begin(), b.end(), '/');
  });
  return files;
}

/// `License: BSD-3-clause` of the stanza that is about all files (Debian's "Machine-readable debian/copyright file").
std::string in_debian_copyright(const std::string& text) {
  bool all_files = false;
  for (const auto line : text::lines(text)) {
    if (text::trim(line).empty()) all_files = false;
    if (line.starts_with("Files:")) all_files = text::trim(line.substr(6)) == "*";
    if (all_files && line.starts_with("License:")) return std::string(text::trim(line.substr(8)));
  }
  return {};
}

/// Debian writes some names its own way.
std::string as_spdx(std::string name) {
  static const std::map<std::string, std::string, std::less<>> known = {{"expat", "MIT"},
                                                                        {"mit", "MIT"},
                                                                        {"bsd-2-clause", "BSD-2-Clause"},
                                                                        {"bsd-3-clause", "BSD-3-Clause"},
                                                                        {"zlib", "Zlib"},
                                                                        {"isc", "ISC"},
                                                                        {"apache-2.0", "Apache-2.0"},
                                                                        {"bsl-1.0", "BSL-1.0"},
                                                                        {"gpl-2", "GPL-2.0-only"},
                                                                        {"gpl-2+", "GPL-2.0-or-later"},
                                                                        {"gpl-3", "GPL-3.0-only"},
                                                                        {"gpl-3+", "GPL-3.0-or-later"},
                                                                        {"lgpl-2", "LGPL-2.0-only"},
                                                                        {"lgpl-2+", "LGPL-2.0-or-later"},
                                                                        {"lgpl-2.1", "LGPL-2.1-only"},
                                                                        {"lgpl-2.1+", "LGPL-2.1-or-later"},
                                                                        {"lgpl-3", "LGPL-3.0-only"},
                                                                        {"lgpl-3+", "LGPL-3.0-or-later"},
                                                                        {"mpl-2.0", "MPL-2.0"},
                                                                        {"cc0-1.0", "CC0-1.0"},
                                                                        {"ftl", "FTL"},
                                                                        {"libpng", "Libpng"}};
  const auto found = known.find(text::lower(name));
  return found == known.end() ? std::string() : found->second;
}

std::string shown(const Source& source, const std::string& file) {
  return file.starts_with('/') ? file : shown_from(source.root, source.root / file);
}

LicenceFound in_licence_files(const Source& source) {
  std::vector<std::pair<std::string, std::string>> found;  // identifier, file
  size_t depth = 0;
  for (const auto& file : by_depth(source.files.licences)) {
    const auto level = static_cast<size_t>(std::count(file.begin(), file.end(), '/'));
    if (!found.empty() && level > depth) break;
    const auto text = read_text(source.root / file);
    if (!text) continue;
    std::string id = as_spdx(in_debian_copyright(*text));
    if (id.empty()) id = with_notice(licence_in_text(*text), source);
    const auto same = [&](const auto& one) { return one.first == id; };
    if (id.empty() || std::any_of(found.begin(), found.end(), same)) continue;
    depth = level;
    found.emplace_back(id, file);
  }
  // The lesser licence of GNU is handed out together with the one that it refers to.
  const bool lesser =
      std::any_of(found.begin(), found.end(), [](const auto& one) { return one.first.starts_with("LGPL-"); });
  if (lesser) std::erase_if(found, [](const auto& one) { return one.first.starts_with("GPL-"); });
  if (found.empty()) return {};
  if (found.size() == 1) return {found.front().first, fmt::format("{}: its text", shown(source, found.front().second))};
  // Several at one place: a choice where each file's name says which it is, as makers who offer one write them.
  std::string expression, from;
  bool named = true;
  for (const auto& [id, file] : found) {
    const std::string name = text::lower(fs::path(file).filename().string());
    named = named && name.find(text::lower(id.substr(0, id.find('-')))) != std::string::npos;
    expression += (expression.empty() ? "" : " OR ") + id;
    from += (from.empty() ? "" : ", ") + shown(source, file);
  }
  return named ? LicenceFound{expression, from + ": their texts and names"} : LicenceFound{};
}

/// A tag stands in a comment by itself: in a program's text it is a string like any other.
std::optional<std::string> tag_in(const std::string& content) {
  constexpr std::string_view tag = "SPDX-License-Identifier:";
  for (const auto line : text::lines(content)) {
    const size_t at = line.find(tag);
    if (at == std::string_view::npos) continue;
    const auto before = text::trim(line.substr(0, at));
    if (before.find_first_not_of("/*#;!- ") != std::string_view::npos) continue;
    auto rest = text::trim(line.substr(at + tag.size()));
    if (rest.ends_with("*/")) rest.remove_suffix(2);
    return std::string(text::trim(rest));
  }
  return std::nullopt;
}

/// Headers that have a tag must agree, and be more than a few that came from elsewhere.
LicenceFound in_tags(const Source& source) {
  std::map<std::string, size_t> tags;
  std::string first;
  size_t read = 0;
  for (const auto& header : source.headers) {
    const auto content = read_text(source.root / header);
    if (!content) continue;
    ++read;
    const auto tag = tag_in(content->substr(0, 4096));
    if (!tag || tag->empty()) continue;
    if (tags.empty()) first = header;
    ++tags[*tag];
  }
  if (tags.size() != 1 || tags.begin()->second * 2 < read) return {};
  return {tags.begin()->first,
          fmt::format("{}: its SPDX tag{}", first,
                      tags.begin()->second > 1
                          ? fmt::format(", like that of {} more", text::count(tags.begin()->second - 1, "header"))
                          : "")};
}

/// What the package of a system's library says of itself.
LicenceFound in_system_package(const Source& source) {
  if (source.package.empty()) return {};
  const std::string plain = source.package.substr(0, source.package.find(':'));
  const fs::path file = fs::path("/usr/share/doc") / plain / "copyright";
  const auto text = source.from_prefix ? read_text(file) : fail({});
  if (!text) return {};
  std::string id = as_spdx(in_debian_copyright(*text));
  return id.empty() ? LicenceFound{} : LicenceFound{id, fmt::format("{}: what it says of all files", file.string())};
}

}  // namespace

std::string licence_in_text(std::string_view text) {
  const std::string plain = normalised(text.substr(0, 64U << 10U));
  for (const auto& row : rows()) {
    const bool all = std::all_of(row.has.begin(), row.has.end(), [&](auto sentence) { return has(plain, sentence); });
    const bool none =
        std::none_of(row.lacks.begin(), row.lacks.end(), [&](auto sentence) { return has(plain, sentence); });
    if (all && none) return std::string(row.id);
  }
  return {};
}

LicenceFound licence_of(const Source& source) {
  for (const auto& read : {in_licence_files, in_system_package, in_tags}) {
    if (auto found = read(source); !found.expression.empty()) return found;
  }
  return {};
}

}  // namespace fibula
