/// What the commands of the tool answer with `--json`: each function gives one document of the schema in docs/schema
/// that its comment names (draft-07 of JSON Schema). Bytes of names that are no UTF-8 become U+FFFD.
#pragma once

#include <fibula/attach.hpp>
#include <fibula/begin.hpp>
#include <fibula/build.hpp>
#include <fibula/compare.hpp>
#include <fibula/explain.hpp>
#include <fibula/facts.hpp>
#include <fibula/folder.hpp>
#include <fibula/ids.hpp>
#include <fibula/judge.hpp>
#include <fibula/keys.hpp>
#include <fibula/lane.hpp>
#include <fibula/locate.hpp>
#include <fibula/lock.hpp>
#include <fibula/parcel.hpp>
#include <fibula/prune.hpp>
#include <fibula/stage.hpp>
#include <fibula/take.hpp>
#include <fibula/trial.hpp>
#include <fibula/why.hpp>

#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace fibula::answers {

/// What went wrong instead: fibula.error/1.
FIBULA_API std::string error(const Error& error);

/// What files and folders are: fibula.inspect/1. What is added is not kept, so that any number can be looked at.
class FIBULA_API Inspection {
 public:
  /// What is to be told of each file beside its facts.
  struct Wishes {
    bool symbols = false;
    std::optional<ClosureOptions> needs = {};  ///< the system for which its run-time files are looked up
  };
  explicit Inspection(Wishes wishes);
  ~Inspection();
  Inspection(const Inspection&) = delete;
  Inspection& operator=(const Inspection&) = delete;

  void add(const std::string& path, const Facts& facts);
  /// `shown`: a folder that stands before the paths of its files; empty: they are told as they were read.
  void add(const std::string& path, const FolderView& folder, const std::string& shown = {});
  void add(const std::string& path, const Error& error);
  /// A file that could not be read is among them.
  bool has_problems() const;
  std::string text() const;

 private:
  struct State;
  std::unique_ptr<State> state_;
};

/// Which of several paths serves whom: fibula.inspect-for/1.
FIBULA_API std::string inspected_for(const std::string& whom, const std::vector<JudgedPath>& paths);

/// Libraries of a shelf, what was found on it, and what was done with it: fibula.shelf/1.
FIBULA_API std::string libraries(const Shelf& shelf, const std::vector<Card>& cards);
FIBULA_API std::string dropped(const std::string& name, const std::string& version, const std::vector<ShelfUse>& uses);
FIBULA_API std::string published(const Card& card, const Published& what);
FIBULA_API std::string unused(const std::vector<UnusedVersion>& versions, bool dropped_them);
FIBULA_API std::string keys(const std::vector<Key>& keys);
/// A version with what is no longer as it was when it was taken.
struct CheckedVersion {
  std::string name, version;
  std::vector<Change> changes;
};
FIBULA_API std::string checked(const Shelf& shelf, const std::vector<CheckedVersion>& versions);

/// A library that was taken: fibula.take/1. `written`: the shelf was changed.
FIBULA_API std::string taken(const Taken& taken, bool written);

/// A new project: fibula.begin/1.
FIBULA_API std::string begun(const Begun& begun);
/// fibula.attach/1, fibula.detach/1.
FIBULA_API std::string attached(const Attachment& attachment);
FIBULA_API std::string attach_undone();
FIBULA_API std::string detached(const std::string& name);

/// A compiler with what it answered.
struct AnsweredCompiler {
  std::string name;      ///< of the lane, or of the compiler
  std::string proposed;  ///< the lane that it would be added as; empty: it has one, or did not answer
  std::string compiler;
  std::string configuration;
  Result<Toolchain> answer;
};
/// The lanes of a project, and the compilers that none of them uses: fibula.lanes/1.
FIBULA_API std::string lanes(const std::vector<AnsweredCompiler>& lanes, const std::vector<AnsweredCompiler>& others);
/// fibula.lanes-add/1.
FIBULA_API std::string lane_added(const ProposedLane& added);

/// Reasons of a lane.
struct LaneReasons {
  std::string lane;
  std::vector<Reason> reasons;
};
/// Why something stands in fits: fibula.fit-why/1. The fits themselves: `emit::json`.
FIBULA_API std::string reasons(const std::string& name, const std::vector<LaneReasons>& lanes);
/// fibula.fit-diff/1.
FIBULA_API std::string lock_changes(const std::vector<LockChange>& changes);

/// A lane's build, with what explains its failures.
struct ExplainedBuild {
  BuildReport report;
  std::vector<Finding> findings;
};
/// fibula.build/1, fibula.build-why/1, fibula.build-clean/1.
FIBULA_API std::string builds(const std::vector<ExplainedBuild>& lanes);
FIBULA_API std::string made_files(const std::vector<MadeFile>& files);
FIBULA_API std::string cleaned(size_t files);

/// fibula.explain/1, and the same of what was not run yet: fibula.check/1.
FIBULA_API std::string explained(const std::vector<Finding>& findings);
FIBULA_API std::string foreseen(const std::vector<Finding>& findings);

/// A staged folder of a lane.
struct StagedLane {
  std::string lane;
  StageReport report;
};
/// fibula.stage/1, fibula.stage-check/1.
FIBULA_API std::string stages(const std::vector<StagedLane>& lanes);
FIBULA_API std::string stage_checked(const std::string& folder, const StageCheck& check);

/// fibula.compare/1, fibula.parcel/1, fibula.locate/1, fibula.trial/1.
FIBULA_API std::string compared(const Comparison& comparison);
FIBULA_API std::string parcelled(const Parcel& parcel);
FIBULA_API std::string located(const std::vector<Hit>& hits);
FIBULA_API std::string tried(const std::vector<Trial>& trials);

/// What rules and causes are there: fibula.help/1.
FIBULA_API std::string ids(const std::vector<Id>& ids);

}  // namespace fibula::answers
