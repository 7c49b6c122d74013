#include "headers/header_roots.hpp"

#include "base/text.hpp"
#include "headers/header_folders.hpp"
#include "headers/include_lines.hpp"
#include "headers/well_known_headers.hpp"
#include "os/files.hpp"

#include <algorithm>
#include <optional>
#include <unordered_map>
#include <unordered_set>

namespace fibula {
namespace {

std::string folder_of(const std::string& file) {
  const size_t slash = file.rfind('/');
  return slash == std::string::npos ? std::string() : file.substr(0, slash);
}

std::string below(const std::string& folder, const std::string& name) {
  return (fs::path(folder) / name).lexically_normal().generic_string();
}

size_t common_start(const std::string& a, const std::string& b) {
  return static_cast<size_t>(std::mismatch(a.begin(), a.end(), b.begin(), b.end()).first - a.begin());
}

class Resolver {
 public:
  explicit Resolver(const HeaderQuestion& question) : question_(question) {
    for (const auto& header : question.headers) {
      all_.insert(header);
      by_name_[fs::path(header).filename().string()].push_back(header);
    }
  }

  HeaderRoots resolve() {
    if (std::any_of(question_.headers.begin(), question_.headers.end(),
                    [](const std::string& header) { return has_include_folder(header); }))
      roots_ = include_directories(question_.headers);
    leave_out_inner_folders();
    const bool named = !roots_.empty();
    // Samples include as users do, so they are asked first where no folder says what it is.
    if (!named) {
      for (const auto& example : question_.examples) follow(lines_of(example), example, false);
    }
    for (const auto& header : question_.headers) {
      if (!named || !included_as(header, roots_).empty()) follow(lines_of(header), header, true);
    }
    for (const auto& source : question_.insiders) follow_through(source);
    if (roots_.empty() && !question_.headers.empty()) roots_.push_back(loose_root());
    add_unreached_folder(named);
    if (named) {
      add_versioned_folder();
      add_folders_of_users();
    }
    forget_found();
    return {std::move(roots_), std::move(elsewhere_)};
  }

 private:
  static bool has_include_folder(const std::string& header) {
    return header.starts_with("include/") || header.find("/include/") != std::string::npos;
  }

  /// A folder called include that others name on the way to what is in it, as `harbour/knot/include/knot.h`, is a part
  /// of the tree like any other. Only where most headers lie outside of such folders is that asked.
  void leave_out_inner_folders() {
    const auto is_inside = [&](const std::string& header) { return !included_as(header, roots_).empty(); };
    const auto inside = std::count_if(question_.headers.begin(), question_.headers.end(), is_inside);
    if (roots_.empty() || 2 * inside > std::ssize(question_.headers)) return;
    for (const auto& file : question_.headers) {
      if (roots_.empty() || is_inside(file)) continue;
      for (const auto& line : lines_of(file)) {
        if (line.name.find("/include/") == std::string::npos) continue;
        if (const auto above = root_for(line.name, file))
          std::erase_if(roots_, [&](const auto& root) { return root.starts_with(*above == "." ? "" : *above + "/"); });
      }
    }
  }

  /// Where no header needs a directory and none is called include: the uppermost folder with headers, or the one above
  /// when the folder has the library's own name, since `name/part.h` is how such headers are included.
  std::string loose_root() const {
    const std::string root = include_directories(question_.headers).front();
    const bool own_name =
        root != "." && text::lower(fs::path(root).filename().string()) == text::lower(question_.library);
    if (!own_name) return root;
    const std::string above = folder_of(root);
    return above.empty() ? std::string(".") : above;
  }

  /// Directories that only inner headers ask for do not yet serve the outer ones.
  void add_unreached_folder(bool named) {
    if (named || roots_.empty()) return;
    const auto unreached = [&](const std::string& header) { return included_as(header, roots_).empty(); };
    if (std::all_of(question_.headers.begin(), question_.headers.end(), unreached)) roots_.push_back(loose_root());
    const auto top = include_directories(question_.headers).front();
    if (top == "." && std::any_of(question_.headers.begin(), question_.headers.end(), unreached))
      roots_.emplace_back(".");
  }

  /// `include/tide2/tide.h`: systems keep the headers of several versions apart like this, and their users name the
  /// folder with the version.
  void add_versioned_folder() {
    for (const auto& root : std::vector<std::string>(roots_)) {
      std::string only;
      for (const auto& header : question_.headers) {
        const std::string name = included_as(header, {root});
        const auto folder = name.substr(0, name.find('/'));
        if (name.empty() || folder == only) continue;
        if (!only.empty() || folder == name) return;
        only = folder;
      }
      const std::string versioned = below(root, only);
      const bool known = std::find(roots_.begin(), roots_.end(), versioned) != roots_.end() || included_.contains(only);
      if (!only.empty() && !known && std::isdigit(static_cast<unsigned char>(only.back())) != 0)
        roots_.push_back(versioned);
    }
  }

  /// `single/tern/tern.hpp` beside `include/tern.hpp`: what several users include is found, wherever it lies. Tests may
  /// do it in another way.
  void add_folders_of_users() {
    constexpr size_t enough = 60;  // a library can have thousands of samples
    const size_t looked = std::min(question_.examples.size(), enough);
    std::map<std::string, size_t> asked;
    for (size_t i = 0; i < looked; ++i) {
      std::set<std::string> names;
      for (const auto& line : lines_of(question_.examples[i])) {
        const bool in_folder = line.name.find('/') != std::string::npos && !line.name.starts_with("..");
        if (in_folder && !line.quoted && !comes_with_system(line.name) && !reached(line.name)) names.insert(line.name);
      }
      for (const auto& name : names) ++asked[name];
    }
    for (const auto& [name, times] : asked) {
      const auto root = times > 1 && times * 5 > looked && !reached(name) ? root_for(name, "") : std::nullopt;
      if (root) roots_.push_back(*root);
    }
  }

  /// A directory found later may have what was missing before.
  void forget_found() {
    std::erase_if(elsewhere_, [&](const auto& entry) { return reached(entry.first) || lies_below_roots(entry.first); });
  }

  /// A source that a header takes in: `tide/tide.cc`.
  bool lies_below_roots(const std::string& name) const {
    return std::any_of(roots_.begin(), roots_.end(),
                       [&](const std::string& root) { return is_file_inside(question_.root / root / name); });
  }

  bool is_file_inside(const fs::path& file) const {
    std::error_code ignored;
    return fs::is_regular_file(file.lexically_normal(), ignored) && is_inside(question_.root, file);
  }

  bool reached(const std::string& name) const { return !header_below_roots(name).empty(); }

  std::string header_below_roots(const std::string& name) const {
    for (const auto& root : roots_) {
      std::string found = below(root, name);
      if (all_.contains(found)) return found;
    }
    return {};
  }

  std::vector<IncludeLine> lines_of(const std::string& file) const {
    return include_lines(read_text(question_.root / file).value_or(""));
  }

  /// A source, and the headers that it includes, and what these include.
  void follow_through(const std::string& source) {
    std::vector<std::string> open{source};
    while (!open.empty()) {
      const std::string file = std::move(open.back());
      open.pop_back();
      const auto lines = lines_of(file);
      follow(lines, file, false);
      for (const auto& line : lines) {
        const std::string header = own_header(line, file);
        if (!header.empty() && through_.insert(header).second) open.push_back(header);
      }
    }
  }

  /// The header of the library that a line of a file finds, as far as the directories are known; empty for none.
  std::string own_header(const IncludeLine& line, const std::string& file) const {
    const std::string beside = below(folder_of(file), line.name);
    return line.quoted && all_.contains(beside) ? beside : header_below_roots(line.name);
  }

  void follow(const std::vector<IncludeLine>& lines, const std::string& file, bool is_header) {
    for (const auto& [name, quoted, on_line, conditional] : lines) {
      if (name.empty() || name.starts_with('/')) continue;
      if (name.find('/') != std::string::npos) included_.insert(name.substr(0, name.find('/')));
      if (quoted && all_.contains(below(folder_of(file), name))) continue;
      if (reached(name) || (quoted && lies_beside(name, file))) continue;
      // A library's errno.h is not what <errno.h> means; its sys/queue.h is for systems that have none.
      const bool elsewhere =
          !quoted && comes_with_system(name) && (comes_with_compilers(name) || name.find('/') == std::string::npos);
      auto root = elsewhere ? std::nullopt : root_for(name, file);
      if (root) {
        roots_.push_back(std::move(*root));
      } else if (is_header && !conditional) {
        elsewhere_.emplace(name, file);
      }
    }
  }

  /// Whatever it is called: headers for C++ often have no ending.
  bool lies_beside(const std::string& name, const std::string& file) const {
    return is_file_inside(question_.root / folder_of(file) / name);
  }

  /// The directory from which the name leads to a header of the library; of several, the one nearest to who asks.
  std::optional<std::string> root_for(const std::string& name, const std::string& asking) const {
    const auto same = by_name_.find(fs::path(name).filename().string());
    if (same == by_name_.end()) return std::nullopt;
    std::optional<std::string> best;
    size_t nearness = 0;
    for (const auto& header : same->second) {
      const bool whole = header == name, tail = header.ends_with("/" + name);
      if (!whole && !tail) continue;
      std::string root = whole ? "." : header.substr(0, header.size() - name.size() - 1);
      const size_t near = common_start(root, asking);
      if (best && near <= nearness) continue;
      best = std::move(root);
      nearness = near;
    }
    return best;
  }

  const HeaderQuestion& question_;
  std::unordered_set<std::string> all_;
  std::unordered_map<std::string, std::vector<std::string>> by_name_;
  std::vector<std::string> roots_;
  std::unordered_set<std::string> through_;  ///< headers that sources led to
  std::set<std::string> included_;           ///< first folders of the names that are included
  std::map<std::string, std::string> elsewhere_;
};

}  // namespace

bool comes_with_system(const std::string& name) {
  return comes_with_compilers(name) || comes_with_linux(name);
}

HeaderRoots header_roots(const HeaderQuestion& question) {
  return Resolver(question).resolve();
}

}  // namespace fibula
