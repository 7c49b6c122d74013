#include "card/kept_card.hpp"

#include "base/packed.hpp"
#include "os/files.hpp"
#include "os/kept.hpp"
#include "os/stamp.hpp"

namespace fibula {
namespace {

template <class Both, class Value>
void members(const Both& both, Value& value) {
  using Plain = std::remove_const_t<Value>;
  if constexpr (std::is_same_v<Plain, NamedVersion>) {
    both(value.name, value.version);
  } else if constexpr (std::is_same_v<Plain, LinkTimeCode>) {
    both(value.maker, value.version, value.machine_code);
  } else if constexpr (std::is_same_v<Plain, PicReport>) {
    both(value.level, value.relocation, value.section, value.offset, value.symbol);
  } else {
    both(value);
  }
}

void pack(Packer& into, const FactValue& value) {
  into.number(value.index());
  std::visit(
      [&](const auto& inside) {
        if constexpr (std::is_same_v<std::decay_t<decltype(inside)>, std::vector<Need>>) {
          into.number(inside.size());
          for (const auto& need : inside) Pack{into}(need.name, need.versions, need.kind);
        } else {
          members(Pack{into}, inside);
        }
      },
      value);
}

template <class Value>
FactValue unpack_as(Unpacker& from) {
  Value value{};
  members(Unpack{from}, value);
  return value;
}

FactValue unpack_fact(Unpacker& from) {
  switch (static_cast<FactForm>(from.number())) {
    case FactForm::name: return unpack_as<std::string>(from);
    case FactForm::number: return unpack_as<int64_t>(from);
    case FactForm::flag: return unpack_as<bool>(from);
    case FactForm::names: return unpack_as<std::vector<std::string>>(from);
    case FactForm::named_version: return unpack_as<NamedVersion>(from);
    case FactForm::link_time_code: return unpack_as<LinkTimeCode>(from);
    case FactForm::pic: return unpack_as<PicReport>(from);
    case FactForm::needs: break;
  }
  std::vector<Need> needs(from.count());
  for (auto& need : needs) Unpack{from}(need.name, need.versions, need.kind);
  return needs;
}

template <class Both, class V>
void plain_members(const Both& both, V& v) {
  both(v.id, v.target.format, v.target.arch, v.target.bits, v.target.endian, v.linkage, v.configuration, v.link,
       v.runtime, v.needs, v.plugins, v.include_directories, v.debug, v.definitions, v.flags, v.system_inputs);
}

template <class Both, class S>
void set_members(const Both& both, S& s) {
  both(s.compile, s.leave_out, s.include_directories, s.definitions, s.user_definitions, s.flags, s.user_flags);
}

template <class Both, class P>
void part_members(const Both& both, P& part) {
  both(part.archs, part.systems, part.formats, part.lanes, part.choices);
  set_members(both, part.set);
}

/// The members of what a card's source consists of; lists of these are packed by `list`.
template <class Both, class List, class S>
void source_members(const Both& both, const List& list, S& s) {
  set_members(both, s);
  both(s.standard, s.steps);
  list(s.parts, [&](auto& part) { part_members(both, part); });
  const auto alternative = [&](auto& one) { both(one.name), set_members(both, one.set); };
  list(s.choices, [&](auto& one) { both(one.name, one.by_default), list(one.alternatives, alternative); });
  list(s.headers, [&](auto& header) { both(header.path, header.text, header.for_users); });
}

template <class Both, class C>
void card_members(const Both& both, C& c) {
  both(c.name, c.version, c.licence, c.licence_from, c.digest, c.origin.kind, c.origin.path, c.origin.sha256,
       c.origin.commit, c.in_place, c.include_directories, c.public_headers, c.files.licences, c.files.data,
       c.files.samples, c.files.documents, c.trial);
}

void pack(Packer& into, const Variant& v) {
  plain_members(Pack{into}, v);
  into.number(v.facts.size());
  for (const auto& [id, value] : v.facts) {
    into.value(id);
    pack(into, value);
  }
  into.number(v.choices.size());
  for (const auto& [name, alternative] : v.choices) Pack{into}(name, alternative);
  into.number(v.learnt.size());
  for (const auto& [key, how] : v.learnt) Pack{into}(key, how.certainty, how.file, how.from);
}

Variant unpack_variant(Unpacker& from) {
  Variant v;
  plain_members(Unpack{from}, v);
  std::string key;
  for (size_t left = from.count(); left > 0; --left) {
    from.value(key);
    v.facts.emplace_hint(v.facts.end(), key, unpack_fact(from));
  }
  std::string alternative;
  for (size_t left = from.count(); left > 0; --left) {
    Unpack{from}(key, alternative);
    v.choices[key] = alternative;
  }
  for (size_t left = from.count(); left > 0; --left) {
    Learnt how;
    Unpack{from}(key, how.certainty, how.file, how.from);
    v.learnt.emplace_hint(v.learnt.end(), key, std::move(how));
  }
  return v;
}

std::string packed(const Card& card) {
  Packer into;
  card_members(Pack{into}, card);
  const auto list = [&](const auto& items, const auto& each) {
    into.number(items.size());
    for (const auto& item : items) each(item);
  };
  source_members(Pack{into}, list, card.source);
  into.number(card.variants.size());
  for (const auto& variant : card.variants) pack(into, variant);
  into.number(card.requirements.size());
  for (const auto& r : card.requirements) Pack{into}(r.library, r.version, r.header, r.by, r.because, r.shared_include);
  return into.take();
}

std::optional<Card> unpacked(std::string_view bytes) {
  Unpacker from(bytes);
  Card card;
  card_members(Unpack{from}, card);
  const auto list = [&](auto& items, const auto& each) {
    items.resize(from.count());
    for (auto& item : items) each(item);
  };
  source_members(Unpack{from}, list, card.source);
  for (size_t left = from.count(); left > 0; --left) card.variants.push_back(unpack_variant(from));
  card.requirements.resize(from.count());
  for (auto& r : card.requirements) Unpack{from}(r.library, r.version, r.header, r.by, r.because, r.shared_include);
  if (!from.good()) return std::nullopt;
  return card;
}

}  // namespace

Result<Card> read_or_kept_card(const fs::path& folder, const Cache& cache) {
  const fs::path entry = absolute_path(folder), file = entry / "card.toml";
  const Stamp before = stamp_of(file);
  const std::string key = file.string() + "\n" + to_text(before);
  if (const auto kept = before.is_file() ? kept_answer(cache, kept_kind::cards, key) : std::nullopt) {
    if (auto card = unpacked(*kept)) {
      // Where its files are follows from where the card is.
      card->entry = entry;
      card->root = card->in_place ? fs::path(card->origin.path) : entry / "files";
      return std::move(*card);
    }
  }
  auto card = read_card(folder);
  if (card) keep_answer(cache, kept_kind::cards, key, packed(*card));
  return card;
}

}  // namespace fibula
