#include "shelf/known_parts.hpp"

namespace fibula {

Result<std::vector<const ShelfPart*>> changed_parts(Database& database, const std::string& shelf,
                                                    const std::vector<ShelfPart>& parts) {
  auto known = database.prepare("SELECT digest FROM part WHERE shelf = ? AND name = ?");
  if (!known) return pass(known);
  std::vector<const ShelfPart*> changed;
  for (const auto& part : parts) {
    known->text(1, shelf).text(2, part.name);
    if (!known->step() || known->text_of(0) != part.digest) changed.push_back(&part);
    known->again();
  }
  return changed;
}

Result<void> note_part(Database& database, const std::string& shelf, const ShelfPart& part) {
  auto put = database.prepare(
      "INSERT INTO part(shelf, name, digest) VALUES(?, ?, ?) ON CONFLICT(shelf, name) DO UPDATE SET digest = "
      "excluded.digest");
  if (!put) return pass(put);
  put->text(1, shelf).text(2, part.name).text(3, part.digest).step();
  return {};
}

}  // namespace fibula
