#include "choose/lock.hpp"

#include "base/digest.hpp"
#include "base/inside_path.hpp"
#include "base/packed.hpp"
#include "base/toml.hpp"
#include "os/folder.hpp"
#include "os/kept.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <set>
#include <tuple>

namespace fibula {
namespace {

fs::path file_of(const Project& project) {
  return project.root() / "fibula.lock";
}

Result<Locked> read_choice(const toml::Value& value, const fs::path& file) {
  toml::Reader reader(*value.table(), file, "[[chosen]]", value.line);
  for (const char* key : {"lanes", "library", "version", "digest"}) reader.require(key);
  Locked locked{.lanes = reader.texts("lanes"), .library = reader.text("library"), .version = reader.text("version")};
  locked.variant = reader.text("variant");
  const bool named = is_plain_name(locked.library) && is_plain_name(locked.version) &&
                     (locked.variant.empty() || is_file_name(locked.variant));
  if (!named && !reader.error())
    reader.report(Code::malformed, value.line, "names no library, version or variant that can be",
                  "it is written by fibula fit: restore it, or remove it to choose anew");
  locked.digest = reader.text("digest");
  if (const toml::Table* files = reader.table("files")) {
    for (const auto& [name, digest] : files->entries) {
      if (digest.text() != nullptr) locked.files[name] = *digest.text();
    }
  }
  if (auto done = reader.finish(); !done) return pass(done);
  return locked;
}

std::string text_of(const Locked& locked) {
  std::string text =
      fmt::format("\n[[chosen]]\nlanes = {}\nlibrary = {}\nversion = {}\n", toml::quote_list(locked.lanes),
                  toml::quote(locked.library), toml::quote(locked.version));
  if (!locked.variant.empty()) text += fmt::format("variant = {}\n", toml::quote(locked.variant));
  text += fmt::format("digest = {}\n", toml::quote(locked.digest));
  if (!locked.files.empty()) text += "\n[chosen.files]\n";
  for (const auto& [name, digest] : locked.files)
    text += fmt::format("{} = {}\n", toml::quote(name), toml::quote(digest));
  return text;
}

template <class Both, class Choice>
void plain_members(const Both& both, Choice& choice) {
  both(choice.lanes, choice.library, choice.version, choice.variant, choice.digest);
}

}  // namespace

Result<Lock> Lock::read(const Project& project, const Cache& cache) {
  const fs::path file = file_of(project);
  std::error_code ignored;
  if (!fs::exists(file, ignored)) return Lock();
  const auto text = read_text(file);
  if (!text) return fail(text.error());
  // Parsing takes thirty times as long as reading what was parsed. An error names the file, so its name is in the key.
  const std::string key = fmt::format("{}\n{}", file.string(), sha256(*text));
  if (const auto kept = kept_answer(cache, kept_kind::locks, key)) {
    if (auto lock = unpacked(*kept)) return std::move(*lock);
  }
  auto lock = parsed(*text, file);
  if (lock) keep_answer(cache, kept_kind::locks, key, lock->packed());
  return lock;
}

Result<Lock> Lock::parsed(const std::string& text, const fs::path& file) {
  Lock lock;
  auto table = toml::parse(text, file);
  if (!table) {
    table.error().hint = "it is written by fibula fit: restore it, or remove it to choose anew";
    return pass(table);
  }
  toml::Reader reader(*table, file, "the lock file", 1);
  for (const auto* value : reader.tables("chosen")) {
    auto choice = read_choice(*value, file);
    if (!choice) return pass(choice);
    lock.add(std::move(*choice));
  }
  if (auto done = reader.finish(); !done) return pass(done);
  return lock;
}

void Lock::add(Locked choice) {
  for (const auto& lane : choice.lanes) by_lane_[{lane, choice.library}] = choices_.size();
  choices_.push_back(std::move(choice));
}

std::string Lock::packed() const {
  Packer into;
  into.number(choices_.size());
  for (const auto& choice : choices_) {
    plain_members(Pack{into}, choice);
    into.number(choice.files.size());
    for (const auto& [name, digest] : choice.files) Pack{into}(name, digest);
  }
  return into.take();
}

std::optional<Lock> Lock::unpacked(std::string_view bytes) {
  Unpacker from(bytes);
  Lock lock;
  for (size_t left = from.count(); left > 0; --left) {
    Locked choice;
    plain_members(Unpack{from}, choice);
    for (size_t files = from.count(); files > 0; --files) {
      std::string name;
      from.value(name);
      from.value(choice.files[name]);
    }
    lock.add(std::move(choice));
  }
  if (!from.good()) return std::nullopt;
  return lock;
}

const Locked* Lock::find(const std::string& lane, const std::string& library) const {
  const auto found = by_lane_.find({lane, library});
  return found == by_lane_.end() ? nullptr : &choices_[found->second];
}

bool Lock::names(const std::string& library, const std::string& version) const {
  return std::any_of(choices_.begin(), choices_.end(),
                     [&](const Locked& choice) { return choice.library == library && choice.version == version; });
}

std::vector<std::string> Lock::libraries(const std::string& lane) const {
  std::vector<std::string> names;
  for (auto entry = by_lane_.lower_bound({lane, ""}); entry != by_lane_.end() && entry->first.first == lane; ++entry)
    names.push_back(entry->first.second);
  return names;
}

void LockWriter::add(const std::string& lane, Locked choice) {
  for (auto& known : choices_) {
    if (std::tie(known.library, known.version, known.variant, known.digest) !=
        std::tie(choice.library, choice.version, choice.variant, choice.digest))
      continue;
    if (known.files.empty()) known.files = std::move(choice.files);
    known.lanes.push_back(lane);
    return;
  }
  choice.lanes = {lane};
  choices_.push_back(std::move(choice));
}

void LockWriter::add_kept(const Lock& before, const std::string& lane, const std::string& library) {
  if (const Locked* known = before.find(lane, library)) add(lane, *known);
}

Result<bool> LockWriter::write() {
  const fs::path file = file_of(project_);
  const auto root = Folder::open(project_.root());
  if (!root) return fail(root.error());
  if (choices_.empty()) return root->remove(file.filename().string());
  std::sort(choices_.begin(), choices_.end(), [](const Locked& a, const Locked& b) {
    return std::tie(a.library, a.version, a.variant) < std::tie(b.library, b.version, b.variant);
  });
  std::string text =
      "# What was chosen for each lane, so that the same fit can be had elsewhere. Written by fibula fit;\n"
      "# fibula attach NAME lets it choose a library anew.\n";
  for (const auto& choice : choices_) text += text_of(choice);
  return root->write_if_changed(file.filename().string(), text, Flush::now);
}

Result<void> forget_lock(const Project& project, const std::string& library) {
  const auto before = Lock::read(project);
  if (!before) return fail(before.error());
  LockWriter writer(project);
  for (const auto& lane : project.lanes()) {
    for (const auto& use : project.libraries()) {
      if (use.name != library) writer.add_kept(*before, lane.name, use.name);
    }
  }
  auto written = writer.write();
  if (!written) return pass(written);
  return {};
}

}  // namespace fibula
