#pragma once

#include "os/file_answers.hpp"

#include <fibula/lane.hpp>
#include <fibula/shelf.hpp>

#include <deque>
#include <map>
#include <mutex>
#include <string>
#include <vector>

namespace fibula {

/// The cards of a shelf, each read once however many lanes ask for it, from one thread or several.
class CardStore {
 public:
  explicit CardStore(const Shelf& shelf) : shelf_(shelf) {}
  const Shelf& shelf() const { return shelf_; }
  /// Reads the cards of these libraries side by side; those that cannot be read are told when somebody asks for them.
  void read_ahead(const std::vector<LibraryUse>& uses);
  /// The versions that may serve, newest first: from the project's own folder, or the shelf. Errors: a damaged card.
  Result<const std::vector<Card>*> candidates(const LibraryUse& use);
  /// Of the libraries' files; asked once for all lanes.
  FileAnswers& files() { return files_; }
  /// Holds a further card for as long as the store lives.
  const Card& keep(Card card);

 private:
  const Shelf& shelf_;
  std::mutex reading_;
  std::map<std::string, std::vector<Card>> cards_;
  std::deque<Card> further_;
  FileAnswers files_;
};

}  // namespace fibula
