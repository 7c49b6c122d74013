#include "headers/header_reading.hpp"

#include "base/digest.hpp"
#include "base/packed.hpp"
#include "base/text.hpp"
#include "headers/defined_functions.hpp"
#include "headers/header_question.hpp"
#include "os/folder.hpp"
#include "os/host.hpp"
#include "os/kept.hpp"
#include "os/process.hpp"
#include "toolchain/cache.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <optional>
#include <set>

namespace fibula {
namespace {

constexpr auto patience = std::chrono::seconds(60);
constexpr size_t most_at_once = 4;

template <class Both, class Function>
void members(const Both& both, Function& unmatched) {
  auto& [function, how] = unmatched;
  both(function.name, function.c_name, function.stdcall, function.file, function.line, how);
}

std::string packed(const HeaderReading& reading) {
  Packer into;
  const Pack pack{into};
  pack(reading.c_functions, reading.cxx_functions, reading.needs_standard, reading.complaint);
  into.number(reading.unmatched.size());
  for (const auto& unmatched : reading.unmatched) members(pack, unmatched);
  return into.take();
}

std::optional<HeaderReading> unpacked(std::string_view bytes) {
  Unpacker from(bytes);
  const Unpack unpack{from};
  HeaderReading reading;
  unpack(reading.c_functions, reading.cxx_functions, reading.needs_standard, reading.complaint);
  reading.unmatched.resize(from.count());
  for (auto& unmatched : reading.unmatched) members(unpack, unmatched);
  if (!from.good()) return std::nullopt;
  return reading;
}

/// One library whose headers are read now.
struct OpenLibrary {
  size_t library;
  fs::path unit = {};
  Outcome preprocessed = {};
  Outcome checked = {};
  std::vector<std::pair<std::string, Outcome>> newer = {};  ///< by standard, the oldest first

  bool ended() const {
    return !preprocessed.timed_out && !checked.timed_out &&
           std::none_of(newer.begin(), newer.end(), [](const auto& one) { return one.second.timed_out; });
  }
};

class LaneReader {
 public:
  LaneReader(const HeaderLane& lane, const std::vector<LibraryHeaders>& libraries, const Cache& cache)
      : lane_(lane), libraries_(libraries), cache_(cache), found_(libraries.size()) {}

  std::vector<HeaderReading> read() {
    standard_ = standard();
    settings_ = settings();
    take_kept();
    if (!open_.empty()) read_open();
    for (size_t i = 0; i < found_.size(); ++i) {
      found_[i].standard = standard_;
      found_[i].read_as_cxx = lane_.cxx;
      found_[i].included_as_cxx = libraries_[i].included_as_cxx;
    }
    return std::move(found_);
  }

 private:
  /// What is the same for every library of the lane.
  std::string settings() const {
    std::string all = key_of(lane_.toolchain.compiler, {lane_.toolchain.compiler.string(), lane_.flags});
    all += fmt::format("{}\n{}", lane_.cxx ? "c++" : "c", standard_);
    for (const auto& definition : lane_.definitions) all += "\n-D" + definition;
    for (const auto& directory : lane_.include_directories) all += "\n-I" + directory.string();
    return all;
  }

  /// The project's standard where it is one of the language that is read.
  std::string asked_standard() const {
    return (lane_.standard.find("++") != std::string::npos) == lane_.cxx ? lane_.standard : std::string();
  }

  std::string standard() const {
    if (const auto asked = asked_standard(); !asked.empty()) return asked;
    if (lane_.cxx != lane_.toolchain.cxx) return {};
    const Answer* own = lane_.toolchain.answer("standard");
    return own == nullptr ? std::string() : own->value;
  }

  /// All that was read under the lane's settings is one answer: a project with hundreds of libraries reads it once.
  void take_kept() {
    const auto kept = kept_answer(cache_, kept_kind::headers, settings_);
    Unpacker from(kept ? std::string_view(*kept) : std::string_view());
    std::string reading;
    for (size_t left = kept ? from.count() : 0; left > 0; --left) {
      uint64_t identity = 0;
      from.value(identity);
      from.value(reading);
      kept_.emplace(identity, std::move(reading));
    }
    if (!from.good()) kept_.clear();
    for (size_t i = 0; i < libraries_.size(); ++i) {
      if (libraries_[i].names.empty()) continue;
      const auto known = kept_.find(quick_digest(libraries_[i].identity));
      auto found = known == kept_.end() ? std::nullopt : unpacked(known->second);
      if (found) {
        found_[i] = std::move(*found);
      } else {
        open_.push_back({.library = i});
      }
    }
  }

  void read_open() {
    const auto folder = TemporaryFolder::make(temporary_place(), "fibula-headers-");
    if (!folder) return;
    start_all(folder->path());
    try_newer_standards();
    for (auto& one : open_) conclude(one);
    Packer into;
    into.number(kept_.size());
    for (const auto& [identity, reading] : kept_) {
      into.value(identity);
      into.value(reading);
    }
    keep_answer(cache_, kept_kind::headers, settings_, into.take());
  }

  HeaderContext context() const {
    HeaderContext context{lane_.cxx, lane_.flags, lane_.definitions, lane_.include_directories};
    for (auto& directory : context.include_directories) {
      const auto stand_in = lane_.stand_ins.find(directory);
      if (stand_in != lane_.stand_ins.end()) directory = stand_in->second;
    }
    return context;
  }

  void start(std::vector<std::string> argv, Outcome& into) {
    // A compiler that cannot be started leaves an outcome that says nothing good.
    into.status = 1;
    (void)pool_.start({.argv = std::move(argv), .limit = patience, .environment = {{"LC_ALL", "C"}}},
                      [&into](Outcome outcome) { into = std::move(outcome); });
    while (pool_.running() >= most_at_once) pool_.wait();
  }

  void start_all(const fs::path& folder) {
    for (auto& one : open_) {
      std::string text;
      for (const auto& header : libraries_[one.library].names) text += fmt::format("#include <{}>\n", header);
      const std::string name = fmt::format("headers-{}.{}", one.library, lane_.cxx ? "cpp" : "c");
      one.unit = folder / name;
      if (!write_in(folder, name, text, Flush::later)) continue;
      start(preprocess_command(lane_.toolchain, context(), asked_standard(), one.unit), one.preprocessed);
      start(check_command(lane_.toolchain, context(), asked_standard(), one.unit), one.checked);
    }
    while (pool_.wait()) {}
  }

  void try_newer_standards() {
    for (auto& one : open_) {
      if (one.checked.good()) continue;
      for (auto& newer : newer_standards(lane_.toolchain, lane_.cxx, standard_))
        one.newer.emplace_back(std::move(newer), Outcome());
      for (auto& [standard, outcome] : one.newer)
        start(check_command(lane_.toolchain, context(), standard, one.unit), outcome);
    }
    while (pool_.wait()) {}
  }

  void conclude(const OpenLibrary& one) {
    const LibraryHeaders& library = libraries_[one.library];
    HeaderReading& found = found_[one.library];
    if (!one.checked.good()) {
      found.complaint = first_error(one.checked.err);
      const auto good = std::find_if(one.newer.begin(), one.newer.end(), [](const auto& n) { return n.second.good(); });
      if (good != one.newer.end()) found.needs_standard = good->first;
    }
    if (one.preprocessed.good() && !library.binaries.empty()) compare(library, one.preprocessed.out, found);
    if (one.ended()) kept_[quick_digest(library.identity)] = packed(found);
  }

  void compare(const LibraryHeaders& library, const std::string& preprocessed, HeaderReading& found) const {
    std::set<std::string> counted;
    for (const auto& file : library.files) counted.insert(file.lexically_normal().string());
    auto declared = declared_functions(preprocessed, [&](const std::string& file) {
      return counted.contains(fs::path(file).lexically_normal().string());
    });
    if (declared.empty()) return;
    const DefinedFunctions defined(library.binaries, library.target);
    for (auto& function : declared) {
      function.file = fs::path(function.file).lexically_relative(library.root).string();
      function.c_name = function.c_name || !lane_.cxx;
      ++(function.c_name ? found.c_functions : found.cxx_functions);
      const HowDefined how = defined.how(function);
      const bool users = how == HowDefined::nowhere && defined.is_left_to_users(function);
      if (how != HowDefined::as_declared && !users) found.unmatched.push_back({std::move(function), how});
    }
  }

  const HeaderLane& lane_;
  const std::vector<LibraryHeaders>& libraries_;
  const Cache& cache_;
  std::vector<HeaderReading> found_;
  std::string standard_, settings_;
  std::map<uint64_t, std::string> kept_;  ///< by the digest of a library's identity
  std::vector<OpenLibrary> open_;
  ProcessPool pool_;
};

}  // namespace

std::vector<HeaderReading> read_headers(const HeaderLane& lane, const std::vector<LibraryHeaders>& libraries,
                                        const Cache& cache) {
  return LaneReader(lane, libraries, cache).read();
}

}  // namespace fibula
