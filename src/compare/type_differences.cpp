#include "compare/differences.hpp"

#include "base/text.hpp"
#include "compare/type_touch.hpp"
#include "facts/mangling.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <optional>
#include <unordered_map>

namespace fibula {
namespace {

std::string size_text(uint64_t bytes) {
  return text::count(bytes, "byte");
}

std::string place_text(const LayoutMember& member) {
  if (member.bits != 0) return fmt::format("{} bits at bit {}", member.bits, member.offset);
  return fmt::format("at byte {}", member.offset / 8);
}

class TypeComparison {
 public:
  TypeComparison(const Both<DebugTypes>& types, const Both<HeaderFacts>& headers, std::string file,
                 std::set<std::string>& told, Differences& into)
      : a_(types.first), b_(types.second), headers_(headers), file_(std::move(file)), told_(told), into_(into) {}

  void run() {
    for (const auto& [name, before] : a_.layouts) {
      if (!is_public(name)) continue;
      const auto after = b_.layouts.find(name);
      if (after == b_.layouts.end() || before.several || after->second.several || !told_.insert(name).second) continue;
      name_ = name;
      if (same_layout(before, after->second)) continue;
      users_ = users_of(name);
      if (before.kind == LayoutKind::enumeration) {
        enumerators(before, after->second);
      } else {
        members(before, after->second);
        tables(before, after->second);
      }
    }
    signatures(a_.functions, b_.functions);
    signatures(a_.pointers, b_.pointers);
    data();
  }

 private:
  /// The same of types that may be structures: another name for the same layout is the same.
  Touch touched(const TypeText& before, const TypeText& after) const {
    std::string_view one = before.form, other = after.form;
    while (one.starts_with('*') && other.starts_with('*')) {
      one.remove_prefix(1);
      other.remove_prefix(1);
    }
    if (one.starts_with("s:") && other.starts_with("s:") && one != other) {
      const auto was = a_.layouts.find(std::string(one.substr(2)));
      const auto is = b_.layouts.find(std::string(other.substr(2)));
      if (was != a_.layouts.end() && is != b_.layouts.end() && same_layout(was->second, is->second)) return Touch::same;
    }
    return touch(before, after);
  }

  /// Kept free by those who made it, and by its name nobody's.
  static bool is_reserved(const std::string& name) {
    const std::string lower = text::lower(name);
    return std::any_of(std::begin(reserved), std::end(reserved),
                       [&](const char* word) { return lower.find(word) != std::string::npos; });
  }
  static constexpr const char* reserved[] = {"reserved", "padding", "unused", "dummy", "spare"};

  /// Its name says that programs are not to look inside.
  static bool is_internal(const std::string& name) {
    const std::string lower = text::lower(name);
    return lower.find("internal") != std::string::npos || lower.find("private") != std::string::npos ||
           lower.find("opaque") != std::string::npos;
  }

  /// Programs know a type when the first version's headers define it.
  bool is_public(const std::string& name) const {
    const std::string last = last_part(name);
    return !headers_.first.there || (headers_.first.words.contains(last) && headers_.first.defines_type(last));
  }

  /// Without headers, nobody knows whether programs see what a type is made of.
  Effect seen(Effect effect) const { return headers_.first.there || effect == Effect::none ? effect : Effect::doubt; }

  /// By a structure's name, what speaks of it: functions that take or give it, and structures that hold one.
  using Speakers = std::unordered_map<std::string, std::vector<std::string>>;

  static void note(const TypeText& text, const std::string& speaker, Speakers& into) {
    for (size_t at = text.form.find("s:"); at != std::string::npos; at = text.form.find("s:", at + 2)) {
      const size_t end = text.form.find_first_of(",)[", at);
      into[text.form.substr(at + 2, end - at - 2)].push_back(speaker);
    }
  }

  const Speakers& speakers() {
    if (speakers_) return *speakers_;
    Speakers& found = speakers_.emplace();
    for (const auto* functions : {&a_.functions, &a_.pointers}) {
      for (const auto& [name, signature] : *functions) {
        const std::string speaker = last_part(readable_name(name));
        note(signature.result, speaker, found);
        for (const auto& parameter : signature.parameters) note(parameter, speaker, found);
      }
    }
    for (const auto& [name, layout] : a_.layouts) {
      for (const auto& member : layout.members) {
        if (member.type.form.starts_with("s:")) note(member.type, last_part(name), found);
      }
    }
    return found;
  }

  /// A program that calls one of them need not spell the type's name.
  std::vector<std::string> users_of(const std::string& type) {
    std::vector<std::string> users{last_part(type)};
    const auto& all = speakers();
    if (const auto found = all.find(type); found != all.end())
      users.insert(users.end(), found->second.begin(), found->second.end());
    std::sort(users.begin() + 1, users.end());
    users.erase(std::unique(users.begin(), users.end()), users.end());
    return users;
  }

  void add(DifferenceKind kind, Alteration how, std::string name, std::string before, std::string after, Effect effect,
           std::string why) {
    into_.push_back(
        {.kind = kind,
         .how = how,
         .name = std::move(name),
         .file = file_,
         .before = std::move(before),
         .after = std::move(after),
         .effect =
             seen(kind == DifferenceKind::layout && is_internal(name_) ? std::min(effect, Effect::doubt) : effect),
         .why = std::move(why),
         .seen_as = users_});
  }

  /// Functions to call, which one side makes and the other reads.
  static bool is_table(const Layout& layout) {
    return layout.members.size() > 1 &&
           std::all_of(layout.members.begin(), layout.members.end(),
                       [](const LayoutMember& member) { return member.type.form.starts_with("*F("); });
  }

  static const LayoutMember* find(const Layout& layout, const std::string& name) {
    const auto found = std::find_if(layout.members.begin(), layout.members.end(),
                                    [&](const LayoutMember& member) { return member.name == name; });
    return found == layout.members.end() ? nullptr : &*found;
  }

  void members(const Layout& before, const Layout& after) {
    before_size_ = before.size;
    if (before.size != after.size) {
      const bool grown = is_table(before) && before.size < after.size;
      add(DifferenceKind::layout, Alteration::changed, name_, size_text(before.size), size_text(after.size),
          grown ? Effect::doubt : Effect::built,
          grown ? "a table of functions that grew: programs that make one have it too short"
                : "programs make and read it with the old size");
    }
    for (const auto& old : before.members) {
      if (old.name.starts_with("_vptr")) continue;
      users_ = users_of_member(old.name);
      const LayoutMember* now = find(after, old.name);
      if (now == nullptr) {
        gone(old, after);
      } else if (now->offset != old.offset || now->bits != old.bits) {
        add(DifferenceKind::layout, Alteration::changed, name_ + "::" + old.name, place_text(old), place_text(*now),
            Effect::built, "programs look for it at the old place");
      } else {
        retyped(old, *now);
      }
    }
    users_ = users_of(name_);
    for (const auto& now : after.members) {
      if (find(before, now.name) == nullptr && !now.name.starts_with("_vptr") && !stands_at(before, now))
        add(DifferenceKind::layout, Alteration::added, name_ + "::" + now.name, {}, now.type.written, Effect::none,
            before.size == after.size ? "it lies where nothing was" : "new");
    }
  }

  /// Who names the member; and, where a header uses it beyond its declaration, who uses the type.
  std::vector<std::string> users_of_member(const std::string& member) {
    const std::string& text = headers_.first.text;
    size_t uses = 0;
    for (size_t at = text.find(member); at != std::string::npos && uses < 2; at = text.find(member, at + 1)) {
      const size_t end = at + member.size();
      const bool whole = (at == 0 || !text::is_identifier_character(text[at - 1])) &&
                         (end == text.size() || !text::is_identifier_character(text[end]));
      uses += whole ? 1U : 0U;
    }
    if (member.starts_with("base ") || uses != 1) return users_of(name_);
    return {member};
  }

  /// Something of the same form at the same place: another name for it.
  static const LayoutMember* stands_at(const Layout& layout, const LayoutMember& member) {
    const auto found = std::find_if(layout.members.begin(), layout.members.end(), [&](const LayoutMember& other) {
      return other.offset == member.offset && other.bits == member.bits && other.type.form == member.type.form;
    });
    return found == layout.members.end() ? nullptr : &*found;
  }

  void gone(const LayoutMember& old, const Layout& after) {
    const LayoutMember* renamed = stands_at(after, old);
    if (is_reserved(old.name))
      add(DifferenceKind::layout, Alteration::removed, name_ + "::" + old.name, old.type.written, {}, Effect::none,
          "it was kept free for what came now");
    else if (before_size_ == after.size && after.kind == LayoutKind::union_)
      add(DifferenceKind::layout, Alteration::removed, name_ + "::" + old.name, old.type.written, {}, Effect::source,
          "what it shared its bytes with is still there");
    else if (renamed != nullptr)
      add(DifferenceKind::layout, Alteration::changed, name_ + "::" + old.name, old.name, renamed->name, Effect::source,
          "it has another name");
    else
      add(DifferenceKind::layout, Alteration::removed, name_ + "::" + old.name, old.type.written, {}, Effect::built,
          "programs use what lies there now as what it was");
  }

  void retyped(const LayoutMember& old, const LayoutMember& now) {
    const Touch how = touched(old.type, now.type);
    if (how == Touch::same) return;
    const bool bytes = how == Touch::bytes;
    add(DifferenceKind::layout, Alteration::changed, name_ + "::" + old.name, old.type.written, now.type.written,
        bytes ? Effect::built : Effect::doubt,
        bytes ? "programs read and write it as what it was"
              : "the same bytes; whether they mean the same, nobody says");
  }

  void enumerators(const Layout& before, const Layout& after) {
    for (const auto& old : before.enumerators) {
      const auto now = std::find_if(after.enumerators.begin(), after.enumerators.end(),
                                    [&](const Enumerator& one) { return one.name == old.name; });
      users_ = {old.name};
      const std::string shown = enumerator_name(old);
      if (now == after.enumerators.end()) {
        add(DifferenceKind::enumerator, Alteration::removed, shown, std::to_string(old.value), {}, Effect::source,
            fmt::format("gone from {}; sources that use it must change", name_));
      } else if (now->value != old.value) {
        const bool end = is_end(old, before) && is_end(*now, after);
        add(DifferenceKind::enumerator, Alteration::changed, shown, std::to_string(old.value),
            std::to_string(now->value), end ? Effect::doubt : Effect::built,
            end ? fmt::format("it counts those of {}: programs that keep one of each keep too few", name_)
                : "programs pass and expect the old number");
      }
    }
    for (const auto& now : after.enumerators) {
      const bool there = std::any_of(before.enumerators.begin(), before.enumerators.end(),
                                     [&](const Enumerator& one) { return one.name == now.name; });
      users_ = {now.name};
      if (!there)
        add(DifferenceKind::enumerator, Alteration::added, enumerator_name(now), {}, std::to_string(now.value),
            Effect::none, fmt::format("new in {}", name_));
    }
  }

  std::string enumerator_name(const Enumerator& one) const {
    return name_.find("::") == std::string::npos ? one.name : name_ + "::" + one.name;
  }

  /// One behind all others, under a name that counts.
  static bool is_end(const Enumerator& one, const Layout& layout) {
    const std::string lower = text::lower(one.name);
    const bool counts = std::any_of(std::begin(ends), std::end(ends),
                                    [&](const char* word) { return lower.find(word) != std::string::npos; });
    return counts && std::all_of(layout.enumerators.begin(), layout.enumerators.end(), [&](const Enumerator& other) {
             // One that only makes the type wide enough is none that is counted.
             return other.value <= one.value || is_reserved(other.name) || other.value >= INT32_MAX;
           });
  }
  static constexpr const char* ends[] = {"count", "last", "max", "end", "num", "size", "total"};

  static std::string function_name(const VirtualFunction& function) { return readable_name(function.name); }

  void tables(const Layout& before, const Layout& after) {
    for (const auto& old : before.virtuals) {
      const auto now = std::find_if(after.virtuals.begin(), after.virtuals.end(),
                                    [&](const VirtualFunction& one) { return one.name == old.name; });
      const std::string was = fmt::format("slot {}", old.slot);
      if (now == after.virtuals.end())
        add(DifferenceKind::virtual_table, Alteration::removed, function_name(old), was, {}, Effect::built,
            fmt::format("programs call what stands in its place in the table of {}", name_));
      else if (now->slot != old.slot)
        add(DifferenceKind::virtual_table, Alteration::changed, function_name(old), was,
            fmt::format("slot {}", now->slot), Effect::built, "programs call it by its old place in the table");
    }
    uint64_t last = 0;
    for (const auto& old : before.virtuals) last = std::max(last, old.slot);
    for (const auto& now : after.virtuals) {
      const bool there = std::any_of(before.virtuals.begin(), before.virtuals.end(),
                                     [&](const VirtualFunction& one) { return one.name == now.name; });
      if (there) continue;
      add(DifferenceKind::virtual_table, Alteration::added, function_name(now), {}, fmt::format("slot {}", now.slot),
          now.slot > last || before.virtuals.empty() ? Effect::doubt : Effect::none,
          fmt::format("programs that derive from {} have a table without it", name_));
    }
  }

  void signatures(const std::map<std::string, Signature>& before, const std::map<std::string, Signature>& after) {
    for (const auto& [name, old] : before) {
      const auto now = after.find(name);
      const std::string readable = readable_name(name);
      if (now == after.end() || !headers_.first.mentions(last_part(readable)) || !told_.insert(name).second) continue;
      users_ = {name, last_part(readable)};
      // Parameters are part of a mangled name.
      if (!is_itanium_mangled(name)) parameters(readable, old, now->second);
      const bool ignored = old.result.form == "v" || now->second.result.form == old.result.form;
      if (!ignored) told(readable, "gives", old.result, now->second.result);
    }
  }

  void parameters(const std::string& name, const Signature& old, const Signature& now) {
    if (old.parameters.size() != now.parameters.size() || old.variadic != now.variadic) {
      // `f()` of C before C23 says nothing of parameters.
      if (old.parameters.empty() || now.parameters.empty()) return;
      add(DifferenceKind::signature, Alteration::changed, name, text::count(old.parameters.size(), "parameter"),
          text::count(now.parameters.size(), "parameter"), Effect::built, "programs pass what it took before");
      return;
    }
    for (size_t i = 0; i < old.parameters.size(); ++i)
      told(name, fmt::format("takes as parameter {}", i + 1), old.parameters[i], now.parameters[i]);
  }

  void told(const std::string& name, const std::string& what, const TypeText& old, const TypeText& now) {
    const Touch how = touched(old, now);
    if (how == Touch::same) return;
    const bool bytes = how == Touch::bytes;
    add(DifferenceKind::signature, Alteration::changed, name, old.written, now.written,
        bytes ? Effect::built : Effect::doubt,
        fmt::format("it {} another type: programs {}", what,
                    bytes ? "use the old one" : "use the same bytes; whether they mean the same, nobody says"));
  }

  void data() {
    for (const auto& [name, old] : a_.data) {
      const auto now = b_.data.find(name);
      const std::string readable = readable_name(name);
      if (now == b_.data.end() || !headers_.first.mentions(last_part(readable))) continue;
      users_ = {name, last_part(readable)};
      const Touch how = touched(old, now->second);
      const bool sized = std::any_of(into_.begin(), into_.end(), [&](const Difference& other) {
        return other.kind == DifferenceKind::data_size && other.name == readable;
      });
      if (how == Touch::same || sized) continue;
      add(DifferenceKind::signature, Alteration::changed, readable, old.written, now->second.written,
          how == Touch::bytes ? Effect::built : Effect::doubt, "programs read and write it as what it was");
    }
  }

  const DebugTypes& a_;
  const DebugTypes& b_;
  const Both<HeaderFacts>& headers_;
  std::string file_, name_;
  uint64_t before_size_ = 0;  ///< of the type that is compared
  std::vector<std::string> users_;
  std::optional<Speakers> speakers_;
  std::set<std::string>& told_;
  Differences& into_;
};

}  // namespace

void compare_types(const Both<DebugTypes>& types, const Both<HeaderFacts>& headers, const std::string& file,
                   std::set<std::string>& told, Differences& into) {
  TypeComparison(types, headers, file, told, into).run();
}

}  // namespace fibula
