#include "compare/differences.hpp"

#include "base/text.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// What stands between a declaration's parameters, one text each: "int hours = 6".
std::vector<std::string> parameters_in(const Declaration& declaration) {
  const std::string last = last_part(declaration.name);
  const size_t name = declaration.text.find(last);
  const size_t open = name == std::string::npos ? name : declaration.text.find('(', name);
  std::vector<std::string> parameters;
  if (open == std::string::npos) return parameters;
  int depth = 0;
  std::string one;
  for (size_t at = open; at < declaration.text.size(); ++at) {
    const char c = declaration.text[at];
    if (c == '(' || c == '<' || c == '{' || c == '[') ++depth;
    if (c == ')' || c == '>' || c == '}' || c == ']') --depth;
    if (depth == 0 || (depth == 1 && c == ',')) {
      if (!text::trim(one).empty()) parameters.emplace_back(text::trim(one));
      one.clear();
    } else if (at != open) {
      one += c;
    }
    if (depth == 0) break;
  }
  return parameters;
}

std::string default_of(const std::string& parameter) {
  const size_t equals = parameter.find('=');
  return equals == std::string::npos ? std::string() : std::string(text::trim(parameter.substr(equals + 1)));
}

bool is_guard(const std::string& name, const HeaderMacro& macro) {
  // Names that begin so are the compiler's and the headers' own (C17, 7.1.3).
  return name.starts_with('_') || (macro.text.empty() && (name.ends_with("_H") || name.ends_with("_H_") ||
                                                          name.ends_with("_HPP") || name.ends_with("INCLUDED")));
}

bool is_number(std::string_view text) {
  while (text.starts_with('(') && text.ends_with(')')) text = text::trim(text.substr(1, text.size() - 2));
  if (text.starts_with('-')) text.remove_prefix(1);
  return !text.empty() && text[0] >= '0' && text[0] <= '9' && std::all_of(text.begin(), text.end(), [](char c) {
    return text::is_identifier_character(c) || c == '.' || c == '\'';
  });
}

bool tells_version(const std::string& name) {
  static constexpr const char* words[] = {"VERSION", "RELEASE", "REVISION", "DATE",  "VERNUM",
                                          "_VER",    "MAJOR",   "MINOR",    "PATCH", "MICRO"};
  const std::string upper = text::upper(name);
  return std::any_of(std::begin(words), std::end(words),
                     [&](const char* word) { return upper.find(word) != std::string::npos; });
}

class HeaderComparison {
 public:
  HeaderComparison(const Both<HeaderFacts>& headers, Differences& into)
      : a_(headers.first), b_(headers.second), into_(into) {}

  void run() {
    files();
    if (!a_.read || !b_.read) return;
    macros();
    declarations();
  }

 private:
  Difference& add(DifferenceKind kind, Alteration how, const std::string& name, const std::string& file, Effect effect,
                  std::string why) {
    into_.push_back({.kind = kind,
                     .how = how,
                     .name = name,
                     .file = file,
                     .effect = effect,
                     .why = std::move(why),
                     .seen_as = {last_part(name)}});
    return into_.back();
  }

  void files() {
    for (const auto& file : a_.files) {
      if (!b_.files.contains(file))
        add(DifferenceKind::header, Alteration::removed, file, file, Effect::source,
            "sources that include it must change")
            .seen_as = {file};
    }
    for (const auto& file : b_.files) {
      if (!a_.files.contains(file)) add(DifferenceKind::header, Alteration::added, file, file, Effect::none, "new");
    }
  }

  void macros() {
    for (const auto& [name, old] : a_.macros) {
      if (is_guard(name, old)) continue;
      const auto now = b_.macros.find(name);
      if (now == b_.macros.end()) {
        if (!b_.words.contains(name))
          add(DifferenceKind::macro, Alteration::removed, name, old.file, Effect::source,
              "sources that use it must change");
        continue;
      }
      if (now->second.text == old.text) continue;
      const bool version = tells_version(name), number = is_number(old.text) && is_number(now->second.text);
      auto& difference = add(DifferenceKind::macro, Alteration::changed, name, now->second.file,
                             number && !version ? Effect::doubt : Effect::none,
                             version  ? "it tells the version"
                             : number ? "programs hold the old value until they are compiled again"
                                      : "programs hold what it stood for until they are compiled again");
      difference.before = old.text;
      difference.after = now->second.text;
    }
    for (const auto& [name, now] : b_.macros) {
      if (!is_guard(name, now) && !a_.macros.contains(name) && !a_.words.contains(name))
        add(DifferenceKind::macro, Alteration::added, name, now.file, Effect::none, "new");
    }
  }

  static std::map<std::string, std::vector<const Declaration*>> by_name(const HeaderFacts& facts) {
    std::map<std::string, std::vector<const Declaration*>> found;
    for (const auto& declaration : facts.declarations) found[declaration.name].push_back(&declaration);
    return found;
  }

  void declarations() {
    const auto before = by_name(a_), after = by_name(b_);
    for (const auto& [name, old] : before) {
      const auto now = after.find(name);
      // One that became a macro or inline is still there for sources.
      if (now == after.end()) {
        if (!b_.words.contains(last_part(name)))
          add(DifferenceKind::declaration, Alteration::removed, name, old.front()->file, Effect::source,
              "sources that call it must change");
        continue;
      }
      // Which of several was which, text does not tell.
      if (old.size() == 1 && now->second.size() == 1) defaults(name, *old.front(), *now->second.front());
    }
    for (const auto& [name, now] : after) {
      if (!before.contains(name) && !a_.words.contains(last_part(name)))
        add(DifferenceKind::declaration, Alteration::added, name, now.front()->file, Effect::none, "new");
    }
  }

  void defaults(const std::string& name, const Declaration& old, const Declaration& now) {
    const auto before = parameters_in(old), after = parameters_in(now);
    for (size_t i = 0; i < before.size() && i < after.size(); ++i) {
      const std::string was = default_of(before[i]), is = default_of(after[i]);
      if (was == is || was.empty()) continue;
      auto& difference = add(DifferenceKind::default_argument, Alteration::changed, name, now.file,
                             is.empty() ? Effect::source : Effect::none,
                             is.empty() ? fmt::format("calls that leave parameter {} out must name it", i + 1)
                                        : "programs pass the old value until they are compiled again");
      difference.before = was;
      difference.after = is.empty() ? "none" : is;
    }
  }

  const HeaderFacts& a_;
  const HeaderFacts& b_;
  Differences& into_;
};

}  // namespace

void compare_headers(const Both<HeaderFacts>& headers, Differences& into) {
  HeaderComparison(headers, into).run();
}

}  // namespace fibula
