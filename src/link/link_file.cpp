#include "link/link_file.hpp"

#include "facts/facts.hpp"
#include "os/parallel.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

/// `foo@@VERS` in an object defines foo; `foo@VERS` is a name of its own (binutils' documentation of .symver).
std::string_view linked_name(const ImageSymbol& symbol) {
  const size_t at = symbol.defined ? symbol.name.find("@@") : std::string_view::npos;
  return at == std::string_view::npos ? symbol.name : symbol.name.substr(0, at);
}

/// Those of the symbols that other files see, and that are asked for.
template <class Wanted>
std::vector<LinkSymbol> link_symbols(const std::vector<ImageSymbol>& symbols, NameTable& names, const Wanted& wanted) {
  std::vector<std::string_view> texts;
  std::vector<LinkSymbol> kept;
  texts.reserve(symbols.size());
  kept.reserve(symbols.size());
  for (const auto& symbol : symbols) {
    if (!is_global(symbol) || !wanted(symbol)) continue;
    texts.push_back(linked_name(symbol));
    kept.push_back({.index = symbol.index,
                    .group = symbol.group,
                    .defined = symbol.defined,
                    .weak = symbol.binding == Binding::weak,
                    .hidden = !shows_outside(symbol),
                    .common = symbol.common,
                    .in_thread = symbol.kind == SymbolKind::thread_local_});
  }
  const auto numbers = names.borrow_all(texts);
  for (size_t i = 0; i < kept.size(); ++i) kept[i].name = numbers[i];
  return kept;
}

std::unique_ptr<LinkObject> with_names(LinkObject object, NameTable& names) {
  object.symbols = link_symbols(object.image.symbols, names, [](const ImageSymbol&) { return true; });
  object.groups = names.borrow_all(object.image.groups);
  object.image.symbols = {};
  return std::make_unique<LinkObject>(std::move(object));
}

}  // namespace

LinkFile::LinkFile(std::filesystem::path path, OpenFile file, NameTable& names)
    : path_(std::move(path)), file_(std::move(file)), names_(names) {
  objects_.resize(file_.archive() != nullptr ? file_.archive()->members.size() : 1);
}

bool LinkFile::is_shared() const {
  return file_.image() != nullptr && file_.image()->type != ImageType::object;
}

const ExportIndex& LinkFile::exports() {
  if (!exports_) exports_ = std::make_unique<ExportIndex>(image());
  return *exports_;
}

const std::vector<NameId>& LinkFile::index_names() {
  const auto& index = archive()->index;
  if (index_names_.size() == index.size()) return index_names_;
  std::vector<std::string_view> texts;
  texts.reserve(index.size());
  for (const auto& entry : index) texts.push_back(entry.symbol);
  return index_names_ = names_.borrow_all(texts);
}

const std::vector<LinkSymbol>& LinkFile::shown_symbols() {
  const auto is_shown = [](const ImageSymbol& symbol) { return is_exported(symbol); };
  if (shown_symbols_.empty()) shown_symbols_ = link_symbols(image().dynamic_symbols, names_, is_shown);
  return shown_symbols_;
}

const std::vector<LinkSymbol>& LinkFile::wanted_symbols() {
  const auto is_wanted = [](const ImageSymbol& symbol) { return !symbol.defined && symbol.binding != Binding::weak; };
  if (wanted_symbols_.empty()) wanted_symbols_ = link_symbols(image().dynamic_symbols, names_, is_wanted);
  return wanted_symbols_;
}

void LinkFile::each_name(const std::function<void(NameId, bool)>& call) const {
  for (const NameId name : index_names_) call(name, false);
  for (const auto* symbols : {&shown_symbols_, &wanted_symbols_}) {
    for (const auto& symbol : *symbols) call(symbol.name, !symbol.defined);
  }
  for (const auto& object : objects_) {
    if (!object) continue;
    for (const auto& symbol : object->symbols) call(symbol.name, !symbol.defined);
    for (const NameId group : object->groups) call(group, false);
  }
}

Result<LinkObject> LinkFile::read(uint32_t member) const {
  if (const Image* image = file_.image())
    return LinkObject{path_.filename().string(), path_, file_.mapping->bytes(), *image};
  const ArMember& entry = file_.archive()->members[member];
  std::shared_ptr<const MappedFile> mapping;
  auto bytes = member_bytes(path_, *file_.archive(), entry, mapping);
  if (!bytes) return pass(bytes);
  auto image = read_image(*bytes, want_symbols | want_groups | want_directives);
  if (!image) {
    auto& place = image.error().place;
    place = fmt::format("member {}{}{}", entry.name, place.empty() ? "" : ", ", place);
    return fail(about_file(std::move(image.error()), path_));
  }
  return LinkObject{fmt::format("{}({})", path_.filename().string(), entry.name), path_, *bytes, std::move(*image),
                    std::move(mapping)};
}

Result<const LinkObject*> LinkFile::object(uint32_t member) {
  auto& slot = objects_[member];
  if (slot) return slot.get();
  auto object = read(member);
  if (!object) return pass(object);
  slot = with_names(std::move(*object), names_);
  return slot.get();
}

namespace {

constexpr unsigned wanted = want_symbols | want_dynamic | want_groups | want_directives;

Error no_part(const std::filesystem::path& path, const Target& machine) {
  return {.code = Code::absent,
          .what = fmt::format("has no part for {}", to_string(machine.arch)),
          .file = path.string(),
          .hint = "take a build that has one"};
}

/// The part of a file for several machines that is for one of them.
Result<FileContent> part_for(const FileContent& content, const std::filesystem::path& path, const Target& machine) {
  if (const auto* stub = std::get_if<Stub>(&content)) {
    for (const auto& image : stub->targets) {
      if (image.target.arch == machine.arch) return image;
    }
    return fail(no_part(path, machine));
  }
  for (const auto& slice : std::get<Universal>(content).slices) {
    if (slice.target.arch != machine.arch) continue;
    auto part = read_content(slice.bytes, wanted);
    if (!part) return fail(about_file(std::move(part.error()), path));
    return part;
  }
  return fail(no_part(path, machine));
}

bool is_for_several(const FileContent& content) {
  return std::holds_alternative<Stub>(content) || std::holds_alternative<Universal>(content);
}

}  // namespace

LinkFile* FileStore::known(const std::filesystem::path& path, const Target& machine) const {
  const auto parts = files_.find(path.string());
  if (parts == files_.end()) return nullptr;
  for (const auto& [arch, file] : parts->second) {
    if (arch == Arch::unknown || arch == machine.arch) return file.get();
  }
  return nullptr;
}

LinkFile* FileStore::add(const std::filesystem::path& path, OpenFile file, Arch arch) {
  Parts& parts = files_[path.string()];
  return parts.emplace_back(arch, std::make_unique<LinkFile>(path, std::move(file), names_)).second.get();
}

Result<LinkFile*> FileStore::open(const std::filesystem::path& path, const Target& machine) {
  if (LinkFile* file = known(path, machine)) return file;
  auto file = open_binary(path, wanted, written_.contains(path.string()) ? Access::copy : Access::map);
  if (!file) return pass(file);
  if (!is_for_several(file->content) || machine.arch == Arch::unknown)
    return add(path, std::move(*file), Arch::unknown);
  auto part = part_for(file->content, path, machine);
  if (!part) return pass(part);
  file->content = std::move(*part);
  return add(path, std::move(*file), machine.arch);
}

void FileStore::refresh(const std::filesystem::path& path) {
  const Stamp now = stamp_of(path);
  const auto [read, fresh] = written_.try_emplace(path.string(), now);
  if (!fresh && read->second == now) return;
  read->second = now;
  const auto parts = files_.find(path.string());
  if (parts == files_.end()) return;
  for (auto& [arch, file] : parts->second) outdated_.push_back(std::move(file));
  files_.erase(parts);
}

std::vector<bool> FileStore::names_of_several(const std::function<bool(const std::filesystem::path&)>& counts) const {
  std::vector<const LinkFile*> speakers(names_.size());  // by name: the only one so far
  std::vector<bool> several(names_.size(), true);
  for (const auto& [path, parts] : files_) {
    if (!counts(path)) continue;
    for (const auto& [arch, file] : parts) {
      const LinkFile* speaker = file.get();
      speaker->each_name([&](NameId name, bool of_others) {
        if (speakers[name] == nullptr) several[name] = false;
        if (of_others || (speakers[name] != nullptr && speakers[name] != speaker)) several[name] = true;
        speakers[name] = speaker;
      });
    }
  }
  return several;
}

void FileStore::open_ahead(const std::vector<std::filesystem::path>& paths, const Target& machine) {
  constexpr size_t worth_a_thread = 8;
  std::vector<std::filesystem::path> unread;
  for (const auto& path : paths) {
    if (known(path, machine) == nullptr) unread.push_back(path);
  }
  // Compilers name some of their libraries more than once on a line.
  std::sort(unread.begin(), unread.end(), [](const auto& a, const auto& b) { return a.native() < b.native(); });
  unread.erase(std::unique(unread.begin(), unread.end()), unread.end());
  if (unread.size() < 2 * worth_a_thread) return;
  std::vector<Result<OpenFile>> opened(unread.size(), fail({}));
  each_in_parallel(unread.size(), worth_a_thread, [&](size_t i) {
    opened[i] = open_binary(unread[i], wanted, written_.contains(unread[i].string()) ? Access::copy : Access::map);
  });
  for (size_t i = 0; i < unread.size(); ++i) {
    if (opened[i] && !is_for_several(opened[i]->content)) add(unread[i], std::move(*opened[i]), Arch::unknown);
  }
}

}  // namespace fibula
