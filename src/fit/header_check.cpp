#include "fit/header_check.hpp"

#include "base/digest.hpp"
#include "base/text.hpp"
#include "facts/name_traits.hpp"
#include "headers/header_folders.hpp"
#include "headers/header_question.hpp"
#include "headers/inclusions.hpp"
#include "os/files.hpp"
#include "os/process.hpp"
#include "toolchain/cache.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <nlohmann/json.hpp>

namespace fibula {
namespace {

using nlohmann::json;

/// Raised whenever what is read or said of headers changes, so that older words are not taken for new ones.
constexpr int words_version = 2;
constexpr auto patience = std::chrono::seconds(60);
/// A library with more headers than this is read by those at the top of its include directories.
constexpr size_t most_headers = 60;

/// The headers that users include, as they write them behind #include.
std::vector<std::string> headers_to_read(const Choice& choice) {
  std::vector<std::string> top, all;
  const auto directories = choice.card->include_directories_for(choice.variant);
  for (const auto& header : choice.card->public_headers) {
    const auto name = included_as(header, directories);
    if (name.empty()) continue;
    all.push_back(name);
    if (name.find('/') == std::string::npos) top.push_back(name);
  }
  auto& chosen = all.size() > most_headers ? top : all;
  if (chosen.size() > most_headers) chosen.resize(most_headers);
  return std::move(chosen);
}

/// `harbour::label(int)` and `std::string harbour::make<int>(…)` -> what stands before the parameters, without a
/// template's return type and arguments.
std::string without_parameters(std::string_view readable) {
  std::string name;
  int depth = 0;
  for (const char c : readable) {
    if (c == '(' && depth == 0 && !name.empty()) break;
    depth += c == '<' ? 1 : 0;
    if (depth == 0) name = c == ' ' ? std::string() : name + c;
    depth -= c == '>' ? 1 : 0;
  }
  // An ABI tag belongs to the mangling: label[abi:cxx11].
  return name.substr(0, name.find('['));
}

/// `?label@harbour@@YA…` -> harbour::label, for functions outside of classes.
std::string msvc_name(std::string_view symbol) {
  const size_t end = symbol.find("@@");
  if (!symbol.starts_with('?') || symbol.starts_with("??") || end == std::string_view::npos) return {};
  std::string name;
  for (const auto part : text::split(symbol.substr(1, end - 1), '@'))
    name = name.empty() ? std::string(part) : fmt::format("{}::{}", part, name);
  return name;
}

void add_plain(std::string_view name, const Target& target, HeaderReading& reading) {
  if (name.starts_with("__imp_")) name.remove_prefix(6);
  Target objects = target;
  if (objects.format == Format::pe) objects.format = Format::coff;
  if (has_c_underscore(objects) && name.starts_with('_')) name.remove_prefix(1);
  const size_t at = name.find('@');
  const bool convention = at != std::string_view::npos && at > 0 && objects.format == Format::coff &&
                          name.substr(at + 1).find_first_not_of("0123456789") == std::string_view::npos;
  if (convention) {
    name = name.substr(0, at);
    reading.decorated.emplace(name);
  }
  reading.c_names.emplace(name);
}

/// Every function name that the variant's files define.
void read_definitions(const Card& card, const Variant& variant, HeaderReading& reading) {
  for (const auto& file : variant.link) {
    // A file that cannot be read any more is told by those who link it.
    (void)visit_symbols(card.root / file, [&](const SymbolView& symbol) {
      if (!symbol.defines) return;
      const std::string_view name = symbol.name;
      const bool itanium = name.starts_with("_Z") || name.starts_with("__Z") || name.starts_with("__imp__Z");
      if (itanium) {
        reading.cxx_names.insert(without_parameters(readable_name(name.substr(name.find("_Z")))));
      } else if (auto msvc = msvc_name(name.starts_with("__imp_") ? name.substr(6) : name); !msvc.empty()) {
        reading.cxx_names.insert(std::move(msvc));
      } else {
        add_plain(name, variant.target, reading);
      }
    });
  }
}

std::string first_error(std::string_view err) {
  for (const auto line : text::lines(err)) {
    if (line.find("error") != std::string_view::npos) return std::string(text::trim(line));
  }
  return {};
}

/// One library whose headers are read now.
struct Reading {
  size_t task;
  fs::path unit;
  std::string key;
  HeaderReading found = {};
  Outcome preprocessed = {};
  Outcome checked = {};
  std::map<std::string, Outcome> newer = {};
};

class Checker {
 public:
  Checker(const HeaderLane& lane, const std::vector<HeaderTask>& tasks)
      : lane_(lane), tasks_(tasks), included_(included_as_cxx(lane.cxx_files)), said_(tasks.size()) {
    standard_ = standard();
    settings_ = settings();
    load_kept();
  }

  std::vector<std::vector<Misfit>> check() {
    for (size_t i = 0; i < tasks_.size(); ++i) plan(i);
    if (open_.empty()) return std::move(said_);
    auto folder = TemporaryFolder::make(fs::temp_directory_path(), "fibula-headers");
    if (!folder) return std::move(said_);
    start_all(folder->path());
    try_newer_standards();
    for (auto& reading : open_) conclude(reading);
    save_kept();
    return std::move(said_);
  }

 private:
  void plan(size_t index) {
    const Choice& choice = *tasks_[index].choice;
    if (!choice.card || choice.card->public_headers.empty()) return;
    std::string key = key_of(choice);
    if (auto kept = kept_words(key)) {
      said_[index] = std::move(*kept);
      return;
    }
    open_.push_back({index, {}, std::move(key)});
  }

  /// One digest for what is the same for every library of the lane.
  std::string settings() const {
    std::string all = cache_key(lane_.toolchain.compiler, {lane_.toolchain.compiler.string(), lane_.flags});
    all += fmt::format("\n{}\n{}", words_version, lane_.cxx ? "c++" : "c");
    for (const auto& definition : lane_.definitions) all += "\n-D" + definition;
    for (const auto& directory : lane_.include_directories) all += "\n-I" + directory.string();
    return fmt::format("{:016x}", quick_digest(all));
  }

  std::string key_of(const Choice& choice) const {
    std::string identity = settings_ + fmt::format("\n{}\n{}\n{}\n{}", choice.card->digest, choice.card->root.string(),
                                                   choice.variant ? choice.variant->id : "", standard_);
    if (is_included(*choice.card)) identity += "\nincluded";
    return fmt::format("{:016x}", quick_digest(identity));
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

  /// Whether a C++ file of the project includes one of the library's headers outside of extern "C".
  bool is_included(const Card& card) const {
    if (included_.empty()) return false;
    const auto directories = card.include_directories_for();
    return std::any_of(card.public_headers.begin(), card.public_headers.end(),
                       [&](const std::string& header) { return included_.contains(included_as(header, directories)); });
  }

  HeaderContext context() const { return {lane_.cxx, lane_.flags, lane_.definitions, lane_.include_directories}; }

  void start(std::vector<std::string> argv, Outcome& into) {
    // A compiler that cannot be started leaves an outcome that says nothing good.
    into.status = 1;
    (void)pool_.start({.argv = std::move(argv), .limit = patience, .environment = {{"LC_ALL", "C"}}},
                      [&into](Outcome outcome) { into = std::move(outcome); });
    while (pool_.running() >= most_at_once) pool_.wait();
  }

  void start_all(const fs::path& folder) {
    for (auto& reading : open_) {
      std::string text;
      for (const auto& header : headers_to_read(*tasks_[reading.task].choice))
        text += fmt::format("#include <{}>\n", header);
      reading.unit = folder / fmt::format("headers-{}.{}", reading.task, lane_.cxx ? "cpp" : "c");
      if (!write_whole(reading.unit, text)) continue;
      start(preprocess_command(lane_.toolchain, context(), asked_standard(), reading.unit), reading.preprocessed);
      start(check_command(lane_.toolchain, context(), asked_standard(), reading.unit), reading.checked);
    }
    while (pool_.wait()) {}
  }

  void try_newer_standards() {
    for (auto& reading : open_) {
      if (reading.checked.good()) continue;
      for (const auto& newer : newer_standards(lane_.toolchain, lane_.cxx, standard_))
        start(check_command(lane_.toolchain, context(), newer, reading.unit), reading.newer[newer]);
    }
    while (pool_.wait()) {}
  }

  void conclude(Reading& reading) {
    const HeaderTask& task = tasks_[reading.task];
    HeaderReading& found = reading.found;
    found.standard = standard_;
    found.included_as_cxx = is_included(*task.choice->card);
    if (!reading.checked.good()) {
      found.complaint = first_error(reading.checked.err);
      for (const auto& [name, outcome] : reading.newer) {
        if (outcome.good() && found.needs_standard.empty()) found.needs_standard = name;
      }
    }
    if (reading.preprocessed.good() && task.choice->variant) {
      const std::string root = task.choice->card->root.string();
      std::set<std::string> names;
      for (const auto& header : task.choice->card->public_headers)
        names.insert((task.choice->card->root / header).lexically_normal().string());
      found.declared = declared_functions(reading.preprocessed.out, [&](const std::string& file) {
        return names.contains(fs::path(file).lexically_normal().string());
      });
      for (auto& function : found.declared) {
        function.file = fs::path(function.file).lexically_relative(root).string();
        function.c_name = function.c_name || !lane_.cxx;
      }
      if (!found.declared.empty()) read_definitions(*task.choice->card, *task.choice->variant, found);
    }
    said_[reading.task] = match_headers(task.pairing, found);
    keep_words(reading.key, said_[reading.task]);
  }

  /// All that was said under the lane's settings lies in one file: a project with hundreds of libraries reads it once.
  std::optional<fs::path> cache_file() const {
    const auto folder = cache_folder("headers");
    if (!folder) return std::nullopt;
    return *folder / (settings_ + ".json");
  }

  void load_kept() {
    const auto file = cache_file();
    const auto text = file ? read_text(*file) : Result<std::string>(fail({}));
    if (text) kept_ = json::parse(*text, nullptr, false);
    if (!kept_.is_object()) kept_ = json::object();
  }

  std::optional<std::vector<Misfit>> kept_words(const std::string& key) const {
    const auto found = kept_.find(key);
    if (found == kept_.end()) return std::nullopt;
    std::vector<Misfit> said;
    try {
      for (const auto& j : *found)
        said.push_back({j.at(0), static_cast<Verdict>(j.at(1).get<int>()), j.at(2), j.at(3), j.at(4), j.at(5)});
    } catch (const json::exception&) {
      return std::nullopt;  // from another version, or damaged: as good as none
    }
    return said;
  }

  void keep_words(const std::string& key, const std::vector<Misfit>& said) {
    json list = json::array();
    for (const auto& m : said)
      list.push_back({m.rule, static_cast<int>(m.verdict), m.subject, m.library, m.evidence, m.remedy});
    kept_[key] = std::move(list);
  }

  /// Best effort: what cannot be kept is found out again the next time.
  void save_kept() const {
    const auto file = cache_file();
    if (file && make_folder(file->parent_path()))
      (void)write_whole(*file, kept_.dump(-1, ' ', false, json::error_handler_t::replace));
  }

  static constexpr size_t most_at_once = 4;
  const HeaderLane& lane_;
  const std::vector<HeaderTask>& tasks_;
  std::set<std::string, std::less<>> included_;
  std::string standard_, settings_;
  json kept_;
  std::vector<std::vector<Misfit>> said_;
  std::vector<Reading> open_;
  ProcessPool pool_;
};

}  // namespace

std::vector<std::vector<Misfit>> check_headers(const HeaderLane& lane, const std::vector<HeaderTask>& tasks) {
  return Checker(lane, tasks).check();
}

}  // namespace fibula
