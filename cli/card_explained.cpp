#include "card_explained.hpp"

#include "print.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace cli {
namespace {

struct Meaning {
  std::string_view table;  ///< the table's heading, empty for the card itself
  std::string_view key;
  std::string_view text;
};

constexpr Meaning meanings[] = {
    {"", "name", "what projects attach it by"},
    {"", "version", "what a project's range is compared with"},
    {"", "card", "the form of this file"},
    {"", "licence", "SPDX expression"},
    {"", "licence-from", "the file that says it, and how"},
    {"", "trial", "statements that fibula trial runs"},
    {"origin", "kind", "what it was taken from"},
    {"origin", "path", "where that was"},
    {"origin", "sha256", "of the file that was taken"},
    {"origin", "commit", "of the repository"},
    {"origin", "digest", "over all its files; the lock file holds it"},
    {"origin", "in-place", "the files stay where they were"},
    {"headers", "directories", "go on the include path"},
    {"headers", "public", "what its users can include"},
    {"source", "compile", "what is compiled into it"},
    {"source", "headers", "on the include path of its own sources only"},
    {"source", "definitions", "for its own sources"},
    {"source", "leave-out", "of these, what is not"},
    {"source", "user-definitions", "for its own sources and its users'"},
    {"source", "flags", "for its own sources"},
    {"source", "user-flags", "for its own sources and its users'"},
    {"source", "standard", "of its own sources"},
    {"source", "steps", "lines for the shell, run in a sandbox when a build is told --allow-steps"},
    {"source.part", "system", "what is below holds there only"},
    {"source.part", "arch", "what is below holds for it only"},
    {"source.part", "compile", "what is compiled into it there"},
    {"source.header", "path", "one that a configure step would have made, as it is included"},
    {"source.header", "for-users", "public headers include it"},
    {"files", "licences", "to hand on with a program"},
    {"files", "data", "read at run time"},
    {"files", "samples", "programs that show it"},
    {"files", "documents", "to read"},
    {"requires", "library", "must be attached too"},
    {"requires", "header", "of that library, as it is included"},
    {"requires", "by", "which of its own headers asks; without library whoever has the header is meant"},
    {"requires", "because", "what says so"},
    {"requires", "shared-include", "its headers expect to lie among those of that library"},
    {"variant", "id", "one set of binaries that belong together"},
    {"variant", "format", "of its files"},
    {"variant", "arch", "the machine"},
    {"variant", "endian", "byte order"},
    {"variant", "linkage", "static or shared"},
    {"variant", "configuration", "debug, release or unknown"},
    {"variant", "link", "what the linker is given"},
    {"variant", "runtime", "what the loader asks for"},
    {"variant", "needs", "run-time files that those ask for"},
    {"variant", "plugins", "what its code opens by itself while the program runs"},
    {"variant", "headers", "include directories for this variant alone"},
    {"variant", "debug", "debugging records of its files"},
    {"variant", "definitions", "that its users' sources need"},
    {"variant", "flags", "that its users need"},
    {"variant", "system-inputs", "libraries of the system that it needs"},
    {"variant", "choice", "of builds that do the same; projects pick one, else the first is used"},
};

std::string meaning_of(std::string_view table, std::string_view key) {
  const auto* found = std::find_if(std::begin(meanings), std::end(meanings),
                                   [&](const Meaning& m) { return m.table == table && m.key == key; });
  return found == std::end(meanings) ? std::string() : std::string(found->text);
}

/// A card's text line by line, with the variant that each belongs to.
class Explainer {
 public:
  explicit Explainer(const fibula::Card& card) : card_(card) {}

  void print() {
    const std::string text = fibula::card_text(card_);
    size_t at = 0;
    while (at < text.size()) {
      const size_t end = std::min(text.find('\n', at), text.size());
      print_one(text.substr(at, end - at));
      at = end + 1;
    }
  }

 private:
  void print_one(const std::string& line) {
    if (line.starts_with('[')) enter(line);
    // How each fact was learnt stands beside the fact.
    if (table_ == "variant.learnt") return;
    const size_t equals = line.starts_with('[') || line.starts_with(' ') ? std::string::npos : line.find(" = ");
    const std::string note = equals == std::string::npos ? "" : note_for(line.substr(0, equals));
    if (note.empty()) return print_line(line);
    constexpr size_t column = 46;
    const std::string padding(width(line) < column ? column - width(line) : 2, ' ');
    if (width(line) + padding.size() + width(note) + 2 <= screen_width()) {
      print_line(line + padding + styled("# " + note, Style::faint));
    } else {
      print_line(styled("# " + note, Style::faint));
      print_line(line);
    }
  }

  void enter(const std::string& heading) {
    table_ = heading.substr(heading.find_first_not_of('['));
    table_ = table_.substr(0, table_.find(']'));
    if (table_ == "variant") ++variants_;
  }

  std::string note_for(const std::string& key) const {
    if (variants_ > 0 && table_.starts_with("variant")) {
      const auto& learnt = card_.variants[variants_ - 1].learnt;
      if (const auto found = learnt.find(key); found != learnt.end()) return fibula::to_text(found->second);
    }
    return meaning_of(table_, key);
  }

  const fibula::Card& card_;
  std::string table_;
  size_t variants_ = 0;
};

}  // namespace

void print_explained(const fibula::Card& card) {
  Explainer(card).print();
}

}  // namespace cli
