#include "take/sources/made_headers.hpp"

#include "base/text.hpp"
#include "headers/header_folders.hpp"
#include "headers/well_known_headers.hpp"
#include "making/configure_script.hpp"
#include "os/files.hpp"
#include "take/file_roles.hpp"
#include "take/naming.hpp"
#include "take/sources/template_header.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <optional>

namespace fibula {
namespace {

class HeaderMaker {
 public:
  HeaderMaker(Source& source, CodeTree& tree, const std::set<std::string>& kept, const std::string& place,
              const std::map<std::string, HeaderTemplate>& more)
      : source_(source), tree_(tree), kept_(kept), place_(place), more_(more) {
    for (const auto& file : source.goes_along) {
      const std::string header = header_of_template(file);
      if (header.empty()) continue;
      const auto [known, fresh] = templates_.emplace(header, file);
      if (!fresh && file.size() < known->second.size()) known->second = file;
    }
    for (const auto& [header, other] : more) templates_.emplace(header, other.file);
  }

  std::vector<SourceHeader> make() {
    std::vector<SourceHeader> headers;
    std::set<std::string> done;
    // What is made can include what is to be made.
    for (auto asked = headers_asked_for(); !asked.empty();) {
      std::map<std::string, bool> next;
      for (const auto& [name, by_users] : asked) {
        if (!done.insert(name).second) continue;
        auto made = header_asked_for(name, by_users);
        if (!made) continue;
        for (const auto& line : include_lines(made->text)) note_asked(line, made->path, by_users, next);
        headers.push_back(std::move(*made));
      }
      asked = std::move(next);
    }
    return headers;
  }

 private:
  std::optional<SourceHeader> header_asked_for(const std::string& asked, bool by_users) {
    const auto found = templates_.find(text::lower(fs::path(asked).filename().string()));
    if (found == templates_.end()) return export_header(asked);
    const std::string by_hand = written_by_hand(asked);
    const std::string chosen = by_hand.empty() ? "configure.ac" : by_hand;
    auto made = filled_template(template_text(found->first, found->second), split_name(source_.called).name,
                                by_hand.empty() ? configured_definitions(source_.root)
                                                : chosen_values(read_text(source_.root / by_hand).value_or("")));
    tree_.add_header(asked);
    source_.remarks.push_back(
        fmt::format("{} is made from {}, with what compilers tell{}{}: look at it in {}", asked, found->second,
                    made.borrowed == 0 ? "" : fmt::format(" and {} of {}", text::count(made.borrowed, "value"), chosen),
                    made.open == 0 ? "" : fmt::format(" and {} left open", text::count(made.open, "line")), place_));
    // What it is about does not come from elsewhere.
    source_.elsewhere.erase(asked);
    return SourceHeader{
        .path = asked, .text = std::move(made.text), .for_users = by_users || is_among_public_ones(found->second)};
  }

  std::string template_text(const std::string& header, const std::string& file) const {
    const auto other = more_.find(header);
    return other != more_.end() && other->second.file == file ? other->second.text
                                                              : read_text(source_.root / file).value_or("");
  }

  /// A header of that name which came with the tree, for one system.
  std::string written_by_hand(const std::string& asked) const {
    const fs::path name = fs::path(asked).filename();
    for (const auto* files : {&source_.headers, &source_.goes_along}) {
      for (const auto& file : *files) {
        if (fs::path(file).filename() == name) return file;
      }
    }
    return {};
  }

  /// One that would lie where users look, and is not about how the library was configured.
  bool is_among_public_ones(const std::string& file) const {
    const std::string folder = fs::path(file).parent_path().generic_string();
    const auto& directories = source_.directories;
    return file.find("config") == std::string::npos &&
           std::find(directories.begin(), directories.end(), folder.empty() ? "." : folder) != directories.end();
  }

  /// `tide_export.h`, which a build tool writes to hide or show symbols (CMake's module GenerateExportHeader): in a
  /// library that is built here everything may be seen.
  std::optional<SourceHeader> export_header(const std::string& asked) {
    constexpr std::string_view ending = "_export.h";
    const std::string file = fs::path(asked).filename().string();
    if (!file.ends_with(ending)) return std::nullopt;
    const std::string name = macro_name(std::string_view(file).substr(0, file.size() - ending.size()));
    tree_.add_header(asked);
    source_.remarks.push_back(fmt::format("{} is made: with it nothing of the library is hidden", asked));
    source_.elsewhere.erase(asked);
    std::string text = fmt::format("#ifndef {0}_EXPORT_H\n#define {0}_EXPORT_H\n", name);
    for (const auto& macro : export_macros(name)) text += fmt::format("#define {}\n", macro);
    return SourceHeader{.path = asked, .text = text + "#endif\n", .for_users = true};
  }

  /// Those that such a header has by itself, and what the library's headers call them instead: `TIDE_API`.
  std::set<std::string> export_macros(const std::string& name) const {
    std::set<std::string> macros{name + "_EXPORT", name + "_NO_EXPORT", name + "_DEPRECATED"};
    DefinedNames tested;  // what conditions ask for is another thing
    for (const auto& header : source_.headers) {
      const std::string text = read_text(source_.root / header).value_or("");
      note_tested_names(text, tested);
      for (const auto word : text::identifiers(text)) {
        const bool exports = word.ends_with("_API") || word.ends_with("_EXPORT") || word.ends_with("_EXPORTS");
        if (exports && word.starts_with(name + "_") && tree_.macros().is_never_defined(word)) macros.emplace(word);
      }
    }
    std::erase_if(macros, [&](const std::string& macro) { return tested.contains(macro); });
    return macros;
  }

  /// A header of that name in another corner of the tree is not the one that is meant.
  bool has_nearer_template(const std::string& name, const std::string& asking) const {
    const auto found = templates_.find(text::lower(fs::path(name).filename().string()));
    if (found == templates_.end()) return false;
    // "../config.h" says which one, wherever others lie.
    if (name.starts_with("../")) return !is_beside(name, asking);
    const std::string own = tree_.own_header(name, asking);
    // `tide/version.h` is no `version.h` of a folder for one compiler.
    if (own.empty()) return fs::path(name).begin()->string() != ".." && !is_beside(name, asking);
    return fs::path(own).parent_path() != fs::path(asking).parent_path() &&
           common_folders(found->second, asking) >= common_folders(own, asking) && !is_reached_as(name, own);
  }

  /// A public header lies where users look for it by that name: `include/tide/config.h` is `tide/config.h`, no
  /// `config.h`.
  bool is_reached_as(const std::string& name, const std::string& own) const {
    return std::find(source_.headers.begin(), source_.headers.end(), own) != source_.headers.end() &&
           included_as(own, source_.directories) == name;
  }

  bool is_beside(const std::string& name, const std::string& asking) const {
    std::error_code ignored;
    return fs::exists(source_.root / fs::path(asking).parent_path() / name, ignored);
  }

  /// By the name that is included; true when public headers do.
  std::map<std::string, bool> headers_asked_for() const {
    std::map<std::string, bool> asked;
    for (const auto& file : kept_) {
      for (const auto& line : tree_.file(file).includes) note_asked(line, file, false, asked);
    }
    const std::set<std::string> users(source_.headers.begin(), source_.headers.end());
    std::set<std::string> all = users;
    all.insert(source_.goes_along.begin(), source_.goes_along.end());
    for (const auto& file : all) {
      if (role_of(file) != Role::header) continue;
      for (const auto& line : include_lines(read_text(source_.root / file).value_or("")))
        note_asked(line, file, users.contains(file), asked);
    }
    return asked;
  }

  void note_asked(const IncludeLine& line, const std::string& asking, bool by_users,
                  std::map<std::string, bool>& asked) const {
    // <linux/version.h> is the system's, whatever templates there are of that name.
    if (!line.quoted && comes_with_linux(line.name)) return;
    if (is_source_name(line.name) || (tree_.came(line.name) && !has_nearer_template(line.name, asking))) return;
    const std::string name = fs::path(line.name).lexically_normal().generic_string();
    bool& users = asked[name.starts_with("..") ? fs::path(name).filename().string() : name];
    users = users || (by_users && !line.conditional);
  }

  Source& source_;
  CodeTree& tree_;
  const std::set<std::string>& kept_;
  const std::string& place_;
  const std::map<std::string, HeaderTemplate>& more_;
  std::map<std::string, std::string> templates_;  ///< by the header's name, that with the shortest path
};

}  // namespace

std::vector<SourceHeader> made_headers(Source& source, CodeTree& tree, const std::set<std::string>& kept,
                                       const std::string& place, const std::map<std::string, HeaderTemplate>& more) {
  return HeaderMaker(source, tree, kept, place, more).make();
}

}  // namespace fibula
