/// What a build remembers of each file that it made: the command, and the state of everything that went in. What is
/// unchanged since is not made again.
#pragma once

#include "jobs/record_file.hpp"

#include <map>
#include <optional>
#include <unordered_map>
#include <unordered_set>

namespace fibula {

class BuildRecord {
 public:
  /// An unreadable or damaged record is as good as none: everything is made again.
  explicit BuildRecord(const std::filesystem::path& file);

  /// Why `product` must be made again; empty when it is as it was made, by the same command, from inputs that are as
  /// they were, and no new file hides one of them.
  std::string cause(const std::string& product, uint64_t command);
  /// Whether it is so, whatever the command would be now.
  bool holds(const std::string& product) { return cause_by_inputs(product).empty(); }
  /// The same where the command is not known.
  std::string cause_by_inputs(const std::string& product) { return known_cause(product, nullptr); }
  /// Everything that was made.
  std::vector<std::string> products() const;
  /// What went into a product the last time, without folders; empty where that is not known.
  std::vector<std::string> inputs_of(const std::string& product) const;
  /// The inputs of a product with the state that they had.
  std::vector<FileState> states_of(const std::string& product) const;

  /// The stamp of a product that this run found to be as it was made, and has not begun to make anew: it needs no
  /// further look. Nothing for other files.
  const Stamp* stamp_as_made(const std::string& product) const;

  /// A product is about to be made: from here on it counts as unmade. Errors: io.
  Result<void> strike(const std::string& product);
  /// It was made by a command, from inputs that were in these states before the command read them. Errors: io.
  Result<void> made(const std::string& product, uint64_t command, const std::vector<FileState>& inputs);

  /// Forgets the products that this build did not ask for; gives those that are still as they were made. Errors: io.
  Result<std::vector<std::string>> drop_others();
  /// A whole build left nothing to do: keeps what is told of it, and the state of what it rests on beside its products'
  /// inputs. Errors: io.
  Result<void> settle(const std::string& outcome, const std::vector<FileState>& premises);
  /// What was told when the last build left nothing to do, if nothing has changed since but inputs.
  struct Standing {
    std::string outcome;
    std::vector<std::string> stale;  ///< products with an input that changed
  };
  /// Nothing where a product or a premise changed.
  std::optional<Standing> standing();
  /// After what was stale was made again, and nothing else became so: the outcome stands. What rests on it and lies in
  /// `own`, the folder that builds write to, counts as it is now. Errors: io.
  Result<void> stand_again(const std::string& outcome, const std::string& own);
  /// Makes the index that `made` looks states up in; else the first `made` does. With many states it takes its time.
  void index_states();
  /// Whether a product was made by this command.
  bool was_made_by(const std::string& product, uint64_t command) const;

 private:
  enum class Judged : uint8_t { not_yet, same, changed };

  std::string known_cause(const std::string& product, const uint64_t* command);
  std::string input_cause(const MadeProduct& product);
  std::string new_file_cause(const MadeProduct& product, uint32_t folder);
  const std::vector<std::string>& asked_by(uint32_t input);
  bool same(uint32_t state);
  bool judge(uint32_t state, const Stamp& now);
  /// What came into a folder, and its state from before it was looked through.
  struct News {
    Stamp state;
    std::vector<std::string> names;
  };
  const News& news(uint32_t folder);
  std::vector<uint32_t> refresh_folders(const std::vector<bool>& products);
  void drop_unused();
  uint32_t position_of(const std::string& product);
  uint32_t find(const std::string& product) const;
  Result<uint32_t> remember(const FileState& state);
  bool all_same(const std::vector<uint32_t>& states);
  std::vector<bool> used_states() const;
  bool judge_all();
  void keep_moved();

  RecordFile file_;
  RecordContent recorded_;
  std::vector<Judged> judged_;
  std::vector<uint8_t> moved_;  ///< states that got another stamp than the file has; bytes, for threads
  std::vector<bool> asked_;     ///< products that this build asked for
  bool stood_ = false;          ///< this run has found every product as it was made
  mutable std::unordered_map<std::string, uint32_t> products_;  ///< by path; filled when first asked
  std::unordered_map<std::string, uint32_t> latest_;  ///< the last state of each path; filled when first asked
  std::unordered_set<std::string> made_;              ///< products struck in this run
  std::map<uint32_t, News> news_;                     ///< by folder state
  std::map<uint32_t, std::vector<std::string>> asked_headers_;  ///< by input
};

/// The digest of a file for a record; 0 for one so large that its stamp has to do.
uint64_t content_digest(const std::string& path, const Stamp& stamp);

}  // namespace fibula
