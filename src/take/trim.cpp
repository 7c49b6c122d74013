#include "take/trim.hpp"

#include "base/text.hpp"
#include "headers/header_folders.hpp"
#include "os/files.hpp"
#include "take/file_roles.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>

namespace fibula {
namespace {

/// The files of a variant, libraries under all their names.
void add_files(const Source& source, const Variant& variant, std::set<std::string>& files) {
  std::error_code error;
  const fs::path root = fs::canonical(source.root, error);
  for (const auto* names : {&variant.link, &variant.runtime, &variant.plugins, &variant.debug}) {
    for (const auto& name : *names) {
      files.insert(name);
      const fs::path real = fs::canonical(source.root / name, error);
      if (!error && is_inside(root, real)) files.insert(shown_from(root, real));
    }
  }
}

}  // namespace

Result<void> trim(Card& card, Source& source, const std::vector<std::string>& wanted, std::vector<std::string>& files) {
  if (card.variants.empty()) return {};
  const auto is_wanted = [&](const std::string& id) {
    return std::find(wanted.begin(), wanted.end(), id) != wanted.end();
  };
  std::vector<std::string> left_out;
  for (const auto& variant : card.variants) {
    if (!is_wanted(variant.id)) left_out.push_back(variant.id);
  }
  if (left_out.size() == card.variants.size())
    return fail({.code = Code::refused,
                 .what = "has no variant that serves a lane of this project",
                 .file = card.origin.path,
                 .hint = "fibula attach it from the shelf and see what fibula fit says, or leave --only-needed out"});
  const auto all_directories = card.include_directories_for();
  std::erase_if(card.variants, [&](const Variant& variant) { return !is_wanted(variant.id); });
  std::set<std::string> kept(card.files.data.begin(), card.files.data.end());
  kept.insert(card.files.licences.begin(), card.files.licences.end());
  for (const auto& variant : card.variants) add_files(source, variant, kept);
  const auto serves = [all = all_directories, now = card.include_directories_for()](const std::string& header) {
    return included_as(header, all) == included_as(header, now);
  };
  const size_t before = files.size();
  std::erase_if(files, [&](const std::string& file) {
    return role_of(file, source.own_folders) == Role::header ? !serves(file) : !kept.contains(file);
  });
  std::erase_if(card.public_headers, [&](const std::string& header) { return !serves(header); });
  card.files.samples.clear();
  card.files.documents.clear();
  if (!left_out.empty())
    source.remarks.push_back(fmt::format("left out, since no lane uses them: {}", text::join(left_out, ", ")));
  if (before > files.size())
    source.remarks.push_back(fmt::format("{} of {} are kept", files.size(), text::count(before, "file")));
  return {};
}

}  // namespace fibula
