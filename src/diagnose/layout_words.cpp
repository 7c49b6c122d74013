#include "diagnose/layout_words.hpp"

#include "base/text.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

const LayoutMember* member_named(const Layout& layout, const std::string& name) {
  const auto found = std::find_if(layout.members.begin(), layout.members.end(),
                                  [&](const LayoutMember& member) { return member.name == name; });
  return found == layout.members.end() ? nullptr : &*found;
}

bool is_elsewhere(const LayoutMember& one, const LayoutMember& other) {
  return one.offset != other.offset || one.bits != other.bits;
}

/// A member of both that lies elsewhere; null where there is none.
const LayoutMember* moved_member(const Layout& one, const Layout& other) {
  for (const auto& member : one.members) {
    const LayoutMember* same = member.name.empty() ? nullptr : member_named(other, member.name);
    if (same != nullptr && is_elsewhere(member, *same)) return &member;
  }
  return nullptr;
}

void add_once(std::vector<std::string>& into, std::string word) {
  if (!word.empty() && std::find(into.begin(), into.end(), word) == into.end()) into.push_back(std::move(word));
}

std::string place_of(const LayoutMember& member) {
  return member.bits != 0 ? fmt::format("at bit {}", member.offset) : fmt::format("at byte {}", member.offset / 8);
}

}  // namespace

std::vector<std::string> structures_in(const std::string& form) {
  std::vector<std::string> names;
  for (size_t at = 0; (at = form.find("s:", at)) != std::string::npos;) {
    // `e4:Mode::s:`, the name of an enumeration, is none.
    const bool begins =
        at == 0 || form[at - 1] == '*' || form[at - 1] == '(' || form[at - 1] == ',' || form[at - 1] == ')';
    at += 2;
    if (!begins) continue;
    size_t end = at;
    for (int depth = 0; end < form.size(); ++end) {
      if (form[end] == '<') ++depth;
      if (form[end] == '>') --depth;
      if (depth == 0 && (form[end] == ',' || form[end] == ')' || form[end] == '[')) break;
    }
    add_once(names, form.substr(at, end - at));
  }
  return names;
}

bool lie_differently(const Layout& one, const Layout& other) {
  if (one.several || other.several || one.kind != other.kind || one.kind == LayoutKind::enumeration) return false;
  if (one.size == 0 || other.size == 0) return false;
  return one.size != other.size || moved_member(one, other) != nullptr;
}

std::string told_apart(const Layout& one, const std::string& here, const Layout& other, const std::string& there) {
  if (one.size != other.size)
    return fmt::format("it has {} in {}, and {} in {}", text::count(one.size, "byte"), here,
                       text::count(other.size, "byte"), there);
  const LayoutMember* moved = moved_member(one, other);
  if (moved == nullptr) return {};
  return fmt::format("its member {} is {} in {}, and {} in {}", moved->name, place_of(*moved), here,
                     place_of(*member_named(other, moved->name)), there);
}

std::vector<std::string> words_to_look_for(const std::string& name, const Layout& one, const Layout& other) {
  std::vector<std::string> words;
  for (const auto& [mine, theirs] : {std::pair{&one, &other}, {&other, &one}}) {
    for (const auto& member : mine->members) {
      const LayoutMember* same = member_named(*theirs, member.name);
      if (same == nullptr || same->type.form != member.type.form) add_once(words, member.name);
    }
  }
  add_once(words, name.substr(name.rfind(':') + 1));
  constexpr size_t most = 8;
  if (words.size() > most) words.resize(most);
  return words;
}

std::vector<std::string> bounds_in(const Layout& layout) {
  std::vector<std::string> bounds;
  for (const auto& member : layout.members) {
    const std::string& form = member.type.form;
    for (size_t open = 0; (open = form.find('[', open)) != std::string::npos; ++open) {
      const size_t close = form.find(']', open);
      if (close != std::string::npos && close > open + 1) add_once(bounds, form.substr(open + 1, close - open - 1));
    }
  }
  constexpr size_t most = 3;
  if (bounds.size() > most) bounds.resize(most);
  return bounds;
}

}  // namespace fibula
