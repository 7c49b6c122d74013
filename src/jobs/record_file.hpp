/// The file in which a build's record lies: entries one behind the other, each with its length and digest. What is new
/// goes to the end, so that a stop at any moment loses the last entry at most; now and then it is written anew.
#pragma once

#include "os/stamp.hpp"

#include <fibula/result.hpp>

#include <cstdint>
#include <filesystem>
#include <memory>
#include <string>
#include <vector>

namespace fibula {

/// A file or folder as it was before a command read it.
struct FileState {
  std::string path;
  Stamp stamp;
  uint64_t digest = 0;  ///< of its content, of a folder the names in it; 0: not taken, and the stamp alone decides
};

/// What is known of one product.
struct MadeProduct {
  std::string path;
  Stamp stamp;                   ///< as it was made; of kind nothing: it is being made, or that failed
  uint64_t command = 0;          ///< the digest of what made it
  std::vector<uint32_t> inputs;  ///< positions among the states
};

/// All that a record says.
struct RecordContent {
  std::vector<FileState> states;
  std::vector<MadeProduct> products;
  /// How the last build ended, when it left nothing to do: for whoever wrote it.
  std::string outcome;
  std::vector<uint32_t> premises;  ///< states on which the outcome rests, beside those of the products
};

/// Writes entries behind those that are there.
class RecordFile {
 public:
  explicit RecordFile(std::filesystem::path path);
  ~RecordFile();

  /// What is there, up to the first entry that is cut short or damaged; nothing of a file of another form.
  RecordContent read();
  /// Writes all of it anew, in place of what was there. Errors: io.
  Result<void> write(const RecordContent& recorded);

  // Each adds an entry. Errors: io.
  Result<void> add_state(const FileState& state);
  Result<void> move_state(uint32_t position, const Stamp& stamp);
  Result<void> add_product(const std::string& path);
  Result<void> make_product(uint32_t position, const MadeProduct& product);
  Result<void> strike_product(uint32_t position);
  Result<void> add_outcome(const RecordContent& recorded);

 private:
  Result<void> append(const std::string& entry);

  struct Handle;
  std::filesystem::path path_;
  std::unique_ptr<Handle> handle_;
  size_t whole_ = 0;  ///< bytes of the entries that could be read
};

}  // namespace fibula
