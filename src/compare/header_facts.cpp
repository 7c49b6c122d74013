#include "compare/header_facts.hpp"

#include "base/text.hpp"
#include "binary/open.hpp"
#include "compare/header_order.hpp"
#include "headers/header_folders.hpp"
#include "headers/header_question.hpp"
#include "headers/include_lines.hpp"
#include "headers/include_reach.hpp"
#include "os/folder.hpp"
#include "os/host.hpp"
#include "os/process.hpp"
#include "toolchain/options.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <utility>

namespace fibula {
namespace {

/// A variable of this name and a number points to a function that the headers declare.
constexpr const char* pointer_name = "fibula_points_to_";

std::string complaint_in(std::string_view said) {
  const std::string error = first_error(said);
  return error.empty() ? "the compiler gave no reason" : error;
}

void add_words(std::string_view text, std::set<std::string, std::less<>>& words) {
  for (auto& word : names_in_source(text).mentions) words.insert(word);
  // Names inside of macros stand on lines that hold no code.
  for (const auto line : text::lines(text)) {
    if (!text::trim(line).starts_with('#')) continue;
    for (size_t at = 0; at < line.size();) {
      size_t end = at;
      while (end < line.size() && text::is_identifier_character(line[end])) ++end;
      if (end > at) words.emplace(line.substr(at, end - at));
      at = end + 1;
    }
  }
}

/// `#define NAME text` -> {NAME, text}; the name empty for other lines.
std::pair<std::string, std::string> definition_on(std::string_view line) {
  constexpr std::string_view start = "#define ";
  if (!line.starts_with(start)) return {};
  line.remove_prefix(start.size());
  size_t end = 0;
  while (end < line.size() && text::is_identifier_character(line[end])) ++end;
  return {std::string(line.substr(0, end)), std::string(text::trim(line.substr(end)))};
}

class HeaderReader {
 public:
  HeaderReader(const Card& card, const Toolchain& toolchain, const std::vector<fs::path>& others,
               const std::vector<std::string>& definitions)
      : card_(card), toolchain_(toolchain), definitions_(definitions) {
    const auto directories = card.include_directories_for(card.variants.empty() ? nullptr : &card.variants.front());
    for (const auto& directory : directories) directories_.push_back((card.root / directory).lexically_normal());
    for (const auto& header : card.public_headers) {
      // One of another build lies below none of this one's directories.
      if (auto name = included_as(header, directories); !name.empty()) names_.push_back(std::move(name));
    }
    // The one that bears the library's name comes first: others may change what it says.
    std::stable_partition(names_.begin(), names_.end(), [&](const std::string& name) {
      const std::string stem = text::lower(fs::path(name).stem().string());
      return text::lower(card.name).find(stem) != std::string::npos;
    });
    c_interface_ = std::any_of(card.variants.begin(), card.variants.end(),
                               [](const Variant& variant) { return variant.fact("interface") == "C"; });
    own_ = directories_.size();
    directories_.insert(directories_.end(), others.begin(), others.end());
  }

  void read(HeaderFacts& facts) {
    const auto folder = TemporaryFolder::make(temporary_place(), "fibula-compare-");
    if (!folder) {
      facts.problem = folder.error().what;
      return;
    }
    folder_ = folder->path();
    std::string said;
    if (read_in_either(facts, said)) return;
    const std::string problem = complaint_in(said);
    // One that wants another system or another library does not keep the others from being read; one that wants others
    // before it gets them.
    const auto left_out = read_in_order(facts);
    if (!facts.read) facts.problem = "its headers do not compile: " + problem;
    if (!facts.read || left_out.empty()) return;
    facts.problem = fmt::format("{} not read, since {} not compile here: {}{}; {}",
                                text::count(left_out.size(), "header"), left_out.size() == 1 ? "it does" : "they do",
                                left_out.front(), left_out.size() > 1 ? ", …" : "", problem);
  }

 private:
  /// A header in C is read as C++ where it can be: then what is not for C is seen too.
  bool read_in_either(HeaderFacts& facts, std::string& said) {
    for (const bool cxx : {true, false}) {
      if (cxx && !toolchain_.cxx) continue;
      std::string why;
      facts.read = read_in(cxx, facts, why);
      if (facts.read) return true;
      if (said.empty()) said = std::move(why);
    }
    return false;
  }

  /// Leaves the headers that one source can include, in the order in which it can. Gives the others, but for those that
  /// these include.
  std::vector<std::string> put_in_order(bool cxx) {
    prelude_ = "#include <stddef.h>\n#include <stdint.h>\n#include <stdio.h>\n";
    const auto included = included_names(card_.root, card_.public_headers);
    const auto is_part = [&](const std::string& name) { return is_included(name, included); };
    // What others include is there by then, and its guards keep it from being read twice.
    std::stable_partition(names_.begin(), names_.end(), [&](const std::string& name) { return !is_part(name); });
    auto left = take_out_unreachable(cxx);
    auto ordered = order_headers(std::move(names_), [&](const auto& names) { return errors_in(names, cxx); });
    names_ = std::move(ordered.good);
    left.insert(left.end(), ordered.bad.begin(), ordered.bad.end());
    std::erase_if(left, is_part);
    return left;
  }

  /// Those that include what is nowhere: a compile would tell of them one at a time.
  std::vector<std::string> take_out_unreachable(bool cxx) {
    auto directories = directories_;
    const auto& system = toolchain_.include_directories;  // C++ is read with C++ drivers alone
    directories.insert(directories.end(), system.begin(), system.end());
    IncludeReach reach(std::move(directories), cxx);
    std::vector<std::string> out;
    std::erase_if(names_, [&](const std::string& name) {
      if (reach.reaches_all(name)) return false;
      out.push_back(name);
      return true;
    });
    return out;
  }

  std::set<size_t> errors_in(const std::vector<std::string>& names, bool cxx) const {
    std::set<size_t> all;
    for (size_t i = 0; i < names.size(); ++i) all.insert(i);
    const std::string unit = cxx ? "next.cpp" : "next.c";
    if (!write_in(folder_, unit, includes(names), Flush::later)) return all;
    const auto output = run({.argv = check_command(toolchain_, context(cxx), {}, folder_ / unit),
                             .limit = std::chrono::seconds(60),
                             .environment = {{"LC_ALL", "C"}}});
    if (!output) return all;
    if (output->good()) return {};
    const auto before = static_cast<size_t>(std::count(prelude_.begin(), prelude_.end(), '\n'));
    std::set<size_t> errors;
    for (const size_t line : lines_with_errors(output->err, (folder_ / unit).string())) {
      if (line > before && line <= before + names.size()) errors.insert(line - before - 1);
    }
    return errors.empty() ? all : errors;
  }

  /// In the language in which fewer are left out: which are.
  std::vector<std::string> read_in_order(HeaderFacts& facts) {
    const auto all = names_;
    std::vector<std::string> least;
    for (const bool cxx : {true, false}) {
      if (cxx && !toolchain_.cxx) continue;
      names_ = all;
      auto left = put_in_order(cxx);
      std::string said;
      if ((facts.read && left.size() >= least.size()) || names_.empty() || !read_in(cxx, facts, said)) continue;
      facts.read = true;
      least = std::move(left);
      // Where nearly all can be read in C++, another language has little to add.
      if (least.size() * 10 <= all.size()) break;
    }
    return least;
  }

  HeaderContext context(bool cxx) const {
    return {.cxx = cxx, .definitions = definitions_, .include_directories = directories_};
  }

  std::string includes() const { return includes(names_); }
  std::string includes(const std::vector<std::string>& names) const {
    std::string text = prelude_;
    for (const auto& name : names) text += fmt::format("#include <{}>\n", name);
    return text;
  }

  bool is_own(const std::string& file) const {
    const fs::path path = fs::path(file).lexically_normal();
    return std::any_of(directories_.begin(), directories_.begin() + static_cast<std::ptrdiff_t>(own_),
                       [&](const fs::path& directory) { return is_inside(directory, path); });
  }

  std::string shown(const std::string& file) const {
    return fs::path(file).lexically_normal().lexically_relative(card_.root).string();
  }

  bool read_in(bool cxx, HeaderFacts& facts, std::string& said) {
    const std::string name = cxx ? "headers.cpp" : "headers.c";
    if (!write_in(folder_, name, includes(), Flush::later)) return false;
    auto argv = preprocess_command(toolchain_, context(cxx), {}, folder_ / name);
    if (toolchain_.family == CompilerFamily::msvc) {
      said = "error: a compiler with other options is needed to read them";
      return false;
    }
    argv.insert(argv.end() - 1, "-dD");
    const auto output = run({.argv = argv, .limit = std::chrono::minutes(1), .environment = {{"LC_ALL", "C"}}});
    if (!output || !output->good()) {
      said = output ? output->err : output.error().what;
      return false;
    }
    const auto own = [&](const std::string& file) { return is_own(file); };
    auto declarations = declarations_in(output->out, own);
    DebugTypes types;
    if (!compile(cxx, declarations, types, said)) return false;
    for (auto& declaration : declarations) declaration.file = shown(declaration.file);
    facts.declarations = std::move(declarations);
    facts.types = std::move(types);
    read_macros(output->out, facts);
    return true;
  }

  void read_macros(std::string_view output, HeaderFacts& facts) const {
    bool wanted = false;
    std::string file;
    for (const auto line : text::lines(output)) {
      if (auto marker = line_marker(line)) {
        file = std::move(marker->first);
        wanted = is_own(file);
      } else if (wanted) {
        auto [name, text] = definition_on(line);
        if (!name.empty()) facts.macros[name] = {std::move(text), shown(file)};
      }
    }
  }

  /// All that the headers define, as this compiler lays it out.
  bool compile(bool cxx, const std::vector<Declaration>& declarations, DebugTypes& types, std::string& said) const {
    const std::string unit = cxx ? "layouts.cpp" : "layouts.c";
    std::vector<std::string> pointed;
    std::set<std::string> seen;
    std::string text = includes();
    for (const auto& function : declarations) {
      // Headers in C that do not say so to C++ are meant as C all the same.
      const bool plain = !cxx || function.c_name || c_interface_;
      if (function.member || !plain || !seen.insert(function.name).second) continue;
      // A macro of the same name stands for something else.
      text += fmt::format("#undef {}\n", function.name.substr(function.name.rfind(':') + 1));
      text +=
          fmt::format("{} *{}{};\n",
                      cxx ? fmt::format("decltype({})", function.name) : fmt::format("__typeof__({})", function.name),
                      pointer_name, pointed.size());
      pointed.push_back(function.name.substr(function.name.rfind(':') + 1));
    }
    if (!write_in(folder_, unit, text, Flush::later)) return false;
    auto argv = check_command(toolchain_, context(cxx), {}, folder_ / unit);
    std::erase(argv, "-fsyntax-only");
    const fs::path object = folder_ / "layouts.o";
    std::vector<std::string> more{"-g", "-c", "-O0", "-fno-eliminate-unused-debug-types", "-o", object.string()};
    // Else a class whose virtual functions are defined elsewhere is only named.
    more.emplace_back(toolchain_.family == CompilerFamily::clang ? "-fstandalone-debug" : "-femit-class-debug-always");
    argv.insert(argv.end() - 1, more.begin(), more.end());
    const auto output = run({.argv = argv, .limit = std::chrono::minutes(1), .environment = {{"LC_ALL", "C"}}});
    if (!output || !output->good()) {
      said = output ? output->err : output.error().what;
      return false;
    }
    const auto file = MappedFile::open(object);
    if (!file) return false;
    auto read = debug_types_of((*file)->bytes());
    if (!read) return false;
    types = std::move(*read);
    name_pointers(pointed, types);
    return true;
  }

  static void name_pointers(const std::vector<std::string>& pointed, DebugTypes& types) {
    std::map<std::string, Signature> named;
    for (size_t i = 0; i < pointed.size(); ++i) {
      const auto found = types.pointers.find(pointer_name + std::to_string(i));
      if (found != types.pointers.end()) named.emplace(pointed[i], std::move(found->second));
    }
    types.pointers = std::move(named);
  }

  const Card& card_;
  const Toolchain& toolchain_;
  const std::vector<std::string>& definitions_;
  std::vector<fs::path> directories_;
  size_t own_ = 0;
  bool c_interface_ = false;  ///< the binaries give C functions alone
  std::vector<std::string> names_;
  std::string prelude_;
  fs::path folder_;
};

}  // namespace

bool HeaderFacts::defines_type(std::string_view name) const {
  for (size_t at = text.find(name); at != std::string::npos; at = text.find(name, at + 1)) {
    const size_t end = at + name.size();
    const bool whole = (at == 0 || !text::is_identifier_character(text[at - 1])) &&
                       (end == text.size() || !text::is_identifier_character(text[end]));
    if (!whole) continue;
    // `struct tide final : public Base {`, and `} tide;` of a typedef.
    const auto rest = std::string_view(text).substr(end, 400);
    const size_t stop = rest.find_first_of("{;()=,");
    const auto before = text::trim(std::string_view(text).substr(at < 200 ? 0 : at - 200, std::min<size_t>(at, 200)));
    const bool keyword = before.ends_with("struct") || before.ends_with("class") || before.ends_with("union") ||
                         before.ends_with("enum");
    if (stop != std::string_view::npos && rest[stop] == '{') return true;
    if (!keyword && before.ends_with('}')) return true;
  }
  return false;
}

HeaderFacts read_header_facts(const Card& card, const Toolchain* toolchain, const std::vector<fs::path>& others,
                              const std::vector<std::string>& definitions) {
  HeaderFacts facts{.there = !card.public_headers.empty()};
  const auto directories = card.include_directories_for(card.variants.empty() ? nullptr : &card.variants.front());
  for (const auto& header : card.public_headers) {
    const std::string name = included_as(header, directories);
    if (name.empty()) continue;
    facts.files.insert(name);
    const auto text = read_text(card.root / header);
    if (!text) continue;
    facts.text += *text + "\n";
    add_words(*text, facts.words);
  }
  if (!facts.there) return facts;
  if (toolchain == nullptr) {
    facts.problem = "there is no compiler to read them";
    return facts;
  }
  HeaderReader(card, *toolchain, others, definitions).read(facts);
  return facts;
}

}  // namespace fibula
