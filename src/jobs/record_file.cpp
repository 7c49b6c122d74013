#include "jobs/record_file.hpp"

#include "base/digest.hpp"
#include "base/packed.hpp"
#include "os/append_file.hpp"
#include "os/folder.hpp"

#include <algorithm>

namespace fibula {
namespace {

/// Raise the number whenever the form or the meaning of an entry changes.
constexpr std::string_view heading = "fibula record 1\n";

enum class Kind : uint8_t { state, moved, product, made, struck, outcome };

void pack(Packer& to, const Stamp& s) {
  Pack{to}(s.kind, s.executable, s.device, s.number, s.size, s.time, s.changed);
}

void unpack(Unpacker& from, Stamp& s) {
  Unpack{from}(s.kind, s.executable, s.device, s.number, s.size, s.time, s.changed);
}

/// An entry: the length of what follows, four bytes of its digest, and it.
std::string framed(Kind kind, Packer& packed) {
  const std::string body = static_cast<char>(kind) + packed.take();
  Packer length;
  length.number(body.size());
  const auto digest = static_cast<uint32_t>(quick_digest(body));
  return length.take() + std::string(reinterpret_cast<const char*>(&digest), sizeof digest) + body;
}

std::string state_entry(const FileState& state) {
  Packer packed;
  packed.value(state.path);
  pack(packed, state.stamp);
  packed.number(state.digest);
  return framed(Kind::state, packed);
}

std::string product_entry(const std::string& path) {
  Packer packed;
  packed.value(path);
  return framed(Kind::product, packed);
}

std::string made_entry(uint32_t position, const MadeProduct& product) {
  Packer packed;
  packed.number(position);
  pack(packed, product.stamp);
  packed.number(product.command);
  packed.value(product.inputs);
  return framed(Kind::made, packed);
}

std::string outcome_entry(const RecordContent& recorded) {
  Packer packed;
  packed.value(recorded.outcome);
  packed.value(recorded.premises);
  return framed(Kind::outcome, packed);
}

/// Takes entries one by one.
class EntryReader {
 public:
  explicit EntryReader(RecordContent& into) : into_(into) {}

  /// False for one that says what cannot be.
  bool take(std::string_view body) {
    Unpacker from(body.substr(1));
    switch (static_cast<Kind>(body[0])) {
      case Kind::state: return take_state(from);
      case Kind::moved: return take_moved(from);
      case Kind::product: return take_product(from);
      case Kind::made: return take_made(from);
      case Kind::struck: return take_struck(from);
      case Kind::outcome: return take_outcome(from);
    }
    return false;
  }

 private:
  bool take_state(Unpacker& from) {
    FileState& state = into_.states.emplace_back();
    from.value(state.path);
    unpack(from, state.stamp);
    state.digest = from.number();
    return from.good();
  }

  bool take_moved(Unpacker& from) {
    const uint64_t position = from.number();
    Stamp stamp;
    unpack(from, stamp);
    if (!from.good() || position >= into_.states.size()) return false;
    into_.states[position].stamp = stamp;
    return true;
  }

  bool take_product(Unpacker& from) {
    from.value(into_.products.emplace_back().path);
    return from.good();
  }

  bool take_made(Unpacker& from) {
    const uint64_t position = from.number();
    MadeProduct made;
    unpack(from, made.stamp);
    made.command = from.number();
    from.value(made.inputs);
    if (!from.good() || position >= into_.products.size() || !all_known(made.inputs)) return false;
    made.path = std::move(into_.products[position].path);
    into_.products[position] = std::move(made);
    into_.outcome.clear();
    return true;
  }

  bool take_struck(Unpacker& from) {
    const uint64_t position = from.number();
    if (!from.good() || position >= into_.products.size()) return false;
    into_.products[position].stamp = {};
    into_.outcome.clear();
    return true;
  }

  bool take_outcome(Unpacker& from) {
    from.value(into_.outcome);
    from.value(into_.premises);
    return from.good() && all_known(into_.premises);
  }

  bool all_known(const std::vector<uint32_t>& states) const {
    return std::all_of(states.begin(), states.end(), [&](uint32_t state) { return state < into_.states.size(); });
  }

  RecordContent& into_;
};

/// The length of what follows, as `Packer::number` wrote it; nothing where the bytes end.
std::optional<uint64_t> take_length(std::string_view& bytes) {
  uint64_t value = 0;
  for (unsigned shift = 0; shift < 35 && !bytes.empty(); shift += 7) {
    const auto byte = static_cast<unsigned char>(bytes.front());
    bytes.remove_prefix(1);
    value |= static_cast<uint64_t>(byte & 0x7fU) << shift;
    if (byte < 0x80) return value;
  }
  return std::nullopt;
}

}  // namespace

struct RecordFile::Handle {
  AppendFile file;
};

RecordFile::RecordFile(fs::path path) : path_(std::move(path)) {}
RecordFile::~RecordFile() = default;

RecordContent RecordFile::read() {
  RecordContent recorded;
  whole_ = 0;
  const auto text = read_text(path_, uint64_t{4} << 30U);
  if (!text || !text->starts_with(heading)) return recorded;
  std::string_view rest = std::string_view(*text).substr(heading.size());
  EntryReader reader(recorded);
  whole_ = heading.size();
  while (!rest.empty()) {
    const auto length = take_length(rest);
    uint32_t digest = 0;
    if (!length || *length == 0 || rest.size() < sizeof digest + *length) break;
    std::copy_n(rest.data(), sizeof digest, reinterpret_cast<char*>(&digest));
    const std::string_view body = rest.substr(sizeof digest, *length);
    if (digest != static_cast<uint32_t>(quick_digest(body)) || !reader.take(body)) break;
    rest.remove_prefix(sizeof digest + *length);
    whole_ = text->size() - rest.size();
  }
  return recorded;
}

Result<void> RecordFile::write(const RecordContent& recorded) {
  std::string text(heading);
  for (const auto& state : recorded.states) text += state_entry(state);
  for (const auto& product : recorded.products) text += product_entry(product.path);
  for (uint32_t i = 0; i < recorded.products.size(); ++i) {
    if (recorded.products[i].stamp.there()) text += made_entry(i, recorded.products[i]);
  }
  if (!recorded.outcome.empty()) text += outcome_entry(recorded);
  handle_.reset();
  if (auto written = write_in(path_.parent_path(), path_.filename().string(), text, Flush::later); !written)
    return written;
  whole_ = text.size();
  return {};
}

Result<void> RecordFile::append(const std::string& entry) {
  if (!handle_) {
    // `<root>/.fibula/<lane>/record`: nothing of it may be a link.
    const fs::path lane = path_.parent_path(), root = lane.parent_path().parent_path();
    if (auto made = Folder::make_in(root, shown_from(root, lane)); !made) return pass(made);
    auto file = AppendFile::open(path_, whole_);
    if (!file) return pass(file);
    handle_ = std::make_unique<Handle>(Handle{std::move(*file)});
    if (whole_ == 0) {
      if (auto written = handle_->file.append(heading); !written) return written;
    }
  }
  return handle_->file.append(entry);
}

Result<void> RecordFile::add_state(const FileState& state) {
  return append(state_entry(state));
}

Result<void> RecordFile::move_state(uint32_t position, const Stamp& stamp) {
  Packer packed;
  packed.number(position);
  pack(packed, stamp);
  return append(framed(Kind::moved, packed));
}

Result<void> RecordFile::add_product(const std::string& path) {
  return append(product_entry(path));
}

Result<void> RecordFile::make_product(uint32_t position, const MadeProduct& product) {
  return append(made_entry(position, product));
}

Result<void> RecordFile::add_outcome(const RecordContent& recorded) {
  return append(outcome_entry(recorded));
}

Result<void> RecordFile::strike_product(uint32_t position) {
  Packer packed;
  packed.number(position);
  return append(framed(Kind::struck, packed));
}

}  // namespace fibula
