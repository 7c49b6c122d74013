#include "take/unit_relations.hpp"

#include "base/text.hpp"
#include "os/files.hpp"
#include "take/users_names.hpp"

#include <algorithm>

namespace fibula {
namespace {

/// `tern` and `tern_gpu`, not `tern_c` and `delegate`.
bool have_a_word_in_common(const std::string& one, const std::string& other) {
  const auto words_of = [](std::string name) {
    for (char& c : name) {
      if (!text::is_letter(c)) c = ' ';
    }
    return name;
  };
  const std::string first = words_of(one), second = words_of(other);
  const auto words = text::words(first), others = text::words(second);
  return std::any_of(words.begin(), words.end(), [&](std::string_view word) {
    return std::find(others.begin(), others.end(), word) != others.end();
  });
}

}  // namespace

std::string folder_of(const Unit& unit) {
  return fs::path(unit.first().file).parent_path().generic_string();
}

bool are_linked(const Unit& one, const Unit& other) {
  const auto uses = [](const Unit& user, const Unit& used) {
    const std::string name = fs::path(used.first().file).filename().string();
    return is_imported_by(user, used.first().facts.soname.value.value_or(name));
  };
  return uses(one, other) || uses(other, one);
}

bool are_alternatives(const Unit& unit, const Unit& other) {
  // What one needs of the other is no other build of it, however many names they share.
  if (are_linked(unit, other)) return false;
  if (folder_of(unit) != folder_of(other) && other.stem() == unit.stem()) return true;
  // A loader takes the first of two definitions: only what stands for the whole of the other one does so.
  const bool related = !unit.is_shared() || have_a_word_in_common(other.stem(), unit.stem());
  return related ? offer_the_same(other.offers, unit.offers) : are_the_same(other.offers, unit.offers);
}

}  // namespace fibula
