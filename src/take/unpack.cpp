#include "take/unpack.hpp"

#include "base/bytes.hpp"
#include "base/text.hpp"
#include "binary/foreign.hpp"
#include "os/files.hpp"
#include "take/archive_api.hpp"
#include "take/entry_names.hpp"
#include "take/written_tree.hpp"

#include <fmt/format.h>
#include <clocale>
#include <fstream>
#include <memory>

namespace fibula {
namespace {

using Handle = std::unique_ptr<archive, int (*)(archive*)>;

/// libarchive gives names in the character set of the calling thread; ours is UTF-8 while an archive is read.
class Utf8Names {
 public:
  Utf8Names() : names_(::newlocale(LC_CTYPE_MASK, "C.UTF-8", nullptr)) {
    if (names_ != nullptr) before_ = ::uselocale(names_);
  }
  Utf8Names(const Utf8Names&) = delete;
  Utf8Names& operator=(const Utf8Names&) = delete;
  ~Utf8Names() {
    if (names_ == nullptr) return;
    ::uselocale(before_);
    ::freelocale(names_);
  }

 private:
  locale_t names_;
  locale_t before_ = nullptr;
};

/// Only readers that are built in: others would start programs.
Handle new_reader(const ArchiveApi& api) {
  Handle handle(api.archive_read_new(), api.archive_read_free);
  for (const auto support :
       {api.archive_read_support_format_tar, api.archive_read_support_format_zip, api.archive_read_support_format_7zip,
        api.archive_read_support_format_cpio, api.archive_read_support_filter_gzip,
        api.archive_read_support_filter_bzip2, api.archive_read_support_filter_xz, api.archive_read_support_filter_lzma,
        api.archive_read_support_filter_zstd, api.archive_read_support_filter_lz4, api.archive_read_support_filter_rpm})
    support(handle.get());
  return handle;
}

std::string first_bytes(const fs::path& file, size_t count) {
  std::ifstream stream(file, std::ios::binary);
  std::string head(count, '\0');
  stream.read(head.data(), static_cast<std::streamsize>(count));
  head.resize(static_cast<size_t>(std::max<std::streamsize>(stream.gcount(), 0)));
  return head;
}

/// The rows of foreign files know a Debian package already.
bool is_debian_package(std::string_view head) {
  return is_package(Bytes(std::as_bytes(std::span(head))));
}

bool is_rpm(std::string_view head) {
  return head.starts_with("\xed\xab\xee\xdb");
}

/// "rpm file format", the lead: name-version-release at byte 10, ended by a zero.
Unpacked rpm_lead(std::string_view head) {
  std::string_view name = head.size() < 76 ? std::string_view() : head.substr(10, 66);
  name = name.substr(0, name.find('\0'));
  const size_t release = name.rfind('-');
  const size_t version = release == std::string_view::npos || release == 0 ? release : name.rfind('-', release - 1);
  if (version == std::string_view::npos) return {};
  return {std::string(name.substr(0, version)), std::string(name.substr(version + 1, release - version - 1))};
}

/// What was read so far, and whether it is too much.
class Meter {
 public:
  Meter(const fs::path& file, const UnpackLimits& limits, const ProgressSink& progress)
      : limits_(limits), progress_(progress) {
    std::error_code ignored;
    packed_ = fs::file_size(file, ignored);
  }

  Result<void> entry() {
    if (++entries_ <= limits_.entries) return {};
    return fail(beyond(fmt::format("holds more than {} files", limits_.entries)));
  }

  /// `end` is where a file reaches to, which counts for holes too; `read` is how much of the archive was read for it.
  Result<void> grows(uint64_t by, uint64_t read) {
    unpacked_ += by;
    if (unpacked_ > limits_.bytes) return fail(beyond(fmt::format("unpacks to more than {} bytes", limits_.bytes)));
    if (unpacked_ > limits_.ratio_free && unpacked_ / limits_.ratio > std::max<uint64_t>(read, 1))
      return fail(beyond(fmt::format("unpacks to more than {} times its size", limits_.ratio)));
    if (progress_ && unpacked_ - told_ > (8U << 20U)) {
      told_ = unpacked_;
      progress_({"unpacking", std::min(read, packed_), packed_});
    }
    return {};
  }

 private:
  static Error beyond(std::string what) {
    return {.code = Code::limit,
            .what = std::move(what),
            .hint = "if that is right, unpack it yourself, and take the folder"};
  }

  const UnpackLimits& limits_;
  const ProgressSink& progress_;
  uint64_t packed_ = 0, unpacked_ = 0, told_ = 0;
  size_t entries_ = 0;
};

/// One stream of entries on its way into a folder.
class Unpacker {
 public:
  Unpacker(const ArchiveApi& api, WrittenTree& tree, Meter& meter, bool rooted)
      : api_(api), tree_(tree), meter_(meter), rooted_(rooted) {}

  /// False for a tar archive without the mark of its end: it may have been cut off between two files.
  bool ended() const { return ended_; }

  Result<void> unpack(archive* from) {
    for (;;) {
      archive_entry* entry = nullptr;
      const int status = api_.archive_read_next_header(from, &entry);
      if (status == ARCHIVE_EOF) {
        ended_ = !is_tar(from) || has_end_mark(from);
        return {};
      }
      if (api_.archive_read_has_encrypted_entries(from) > 0 ||
          (entry != nullptr && api_.archive_entry_is_encrypted(entry) > 0))
        return fail(encrypted());
      // A warning here is about a name that could not be converted, which is refused below.
      if (status != ARCHIVE_OK && status != ARCHIVE_WARN) return fail(damaged(from));
      if (auto counted = meter_.entry(); !counted) return counted;
      if (auto done = take(from, entry); !done) return done;
    }
  }

  static Error encrypted() {
    return {.code = Code::refused,
            .what = "is protected with a password",
            .hint = "unpack it yourself, and take the folder"};
  }

  Error damaged(archive* from) const {
    const char* said = api_.archive_error_string(from);
    const std::string why = said == nullptr ? "it ends too early" : said;
    const bool cut = text::lower(why).find("truncated") != std::string::npos;
    return {.code = cut ? Code::truncated : Code::malformed,
            .what = fmt::format("is damaged: {}", why),
            .hint = "fetch it again"};
  }

 private:
  static const char* first_of(const char* utf8, const char* raw) { return utf8 != nullptr ? utf8 : raw; }

  Result<void> take(archive* from, archive_entry* entry) {
    const char* raw = first_of(api_.archive_entry_pathname_utf8(entry), api_.archive_entry_pathname(entry));
    if (raw == nullptr) {
      return fail({.code = Code::refused,
                   .what = "holds a name in an unknown character set",
                   .hint = "unpack it with a tool that knows its character set, and take the folder"});
    }
    std::string_view shown = raw;
    // The packages of systems are made to be unpacked at the root.
    while (rooted_ && shown.starts_with('/')) shown.remove_prefix(1);
    auto name = safe_name(shown);
    if (!name) return pass(name);
    if (const char* target = first_of(api_.archive_entry_hardlink_utf8(entry), api_.archive_entry_hardlink(entry)))
      return take_twin(*name, target);
    return take_kind(from, entry, *name);
  }

  Result<void> take_kind(archive* from, archive_entry* entry, const std::string& name) {
    switch (api_.archive_entry_filetype(entry)) {
      case AE_IFDIR: return tree_.folder(name);
      case AE_IFREG: return name.empty() ? Result<void>() : take_file(from, entry, name);
      case AE_IFLNK: {
        const char* target = first_of(api_.archive_entry_symlink_utf8(entry), api_.archive_entry_symlink(entry));
        return tree_.link(name, target == nullptr ? "" : target, rooted_);
      }
      default:
        return fail({.code = Code::refused,
                     .what = fmt::format("holds {}, which is a device or a pipe", name),
                     .hint = "no library needs one: ask where it came from for a sound archive"});
    }
  }

  /// A second name of a file that came before.
  Result<void> take_twin(const std::string& name, std::string_view target) {
    while (rooted_ && target.starts_with('/')) target.remove_prefix(1);
    auto of = safe_name(target);
    if (!of) return pass(of);
    return tree_.twin(name, *of);
  }

  Result<void> take_file(archive* from, archive_entry* entry, const std::string& name) {
    auto file = tree_.file(name, (api_.archive_entry_perm(entry) & 0111) != 0);
    if (!file) return pass(file);
    uint64_t end = 0;
    for (;;) {
      const void* block = nullptr;
      size_t size = 0;
      la_int64_t offset = 0;
      const int status = api_.archive_read_data_block(from, &block, &size, &offset);
      const auto reaches = std::max<uint64_t>(end, static_cast<uint64_t>(offset) + size);
      if (status == ARCHIVE_EOF && size == 0) return file->close();
      if (status != ARCHIVE_OK && status != ARCHIVE_EOF) {
        return fail(api_.archive_read_has_encrypted_entries(from) > 0 ? encrypted() : damaged(from));
      }
      auto bounded = meter_.grows(reaches - end, static_cast<uint64_t>(api_.archive_filter_bytes(from, -1)));
      if (!bounded) return bounded;
      end = reaches;
      if (auto written = file->write(block, size, offset); !written) return written;
    }
  }

  bool is_tar(archive* from) const {
    return (api_.archive_format(from) & ARCHIVE_FORMAT_BASE_MASK) == ARCHIVE_FORMAT_TAR;
  }

  /// Blocks of zeros, read as the header that is none (POSIX.1-2017, pax, "ustar Interchange Format").
  bool has_end_mark(archive* from) const {
    return api_.archive_filter_bytes(from, 0) > api_.archive_read_header_position(from);
  }

  const ArchiveApi& api_;
  WrittenTree& tree_;
  Meter& meter_;
  bool rooted_;
  bool ended_ = false;
};

/// An archive inside an archive, read while the outer one is.
struct Inner {
  const ArchiveApi& api;
  archive* outer;
  std::vector<char> buffer = std::vector<char>(64U << 10U);
};

la_ssize_t read_inner(archive*, void* data, const void** block) {
  auto& inner = *static_cast<Inner*>(data);
  *block = inner.buffer.data();
  return inner.api.archive_read_data(inner.outer, inner.buffer.data(), inner.buffer.size());
}

/// "deb-control(5)": the fields that name the package.
Unpacked read_control(const fs::path& file) {
  Unpacked control;
  const auto content = read_text(file);
  if (!content) return control;
  for (const auto line : text::lines(*content)) {
    if (line.starts_with("Package:")) control.package = text::trim(line.substr(8));
    if (line.starts_with("Version:")) control.version = text::trim(line.substr(8));
  }
  return control;
}

/// "deb(5)": an ar archive with the control files in one tar archive and the package's own in another.
Result<Unpacked> unpack_debian(const ArchiveApi& api, const fs::path& file, const fs::path& into, Meter& meter) {
  const Handle outer(api.archive_read_new(), api.archive_read_free);
  api.archive_read_support_format_ar(outer.get());
  if (api.archive_read_open_filename(outer.get(), file.c_str(), 1U << 20U) != ARCHIVE_OK)
    return fail({.code = Code::malformed, .what = "is damaged: no ar archive", .hint = "fetch it again"});
  auto control = TemporaryFolder::make(into, ".control-");
  if (!control) return pass(control);
  Unpacked unpacked;
  bool data_seen = false;
  archive_entry* entry = nullptr;
  while (api.archive_read_next_header(outer.get(), &entry) == ARCHIVE_OK) {
    const std::string member = api.archive_entry_pathname(entry);
    const bool is_data = member.starts_with("data.tar");
    if (!is_data && !member.starts_with("control.tar")) continue;
    const Handle reader = new_reader(api);
    Inner inner{api, outer.get()};
    WrittenTree tree(is_data ? into : control->path());
    Unpacker unpacker(api, tree, meter, true);
    if (api.archive_read_open(reader.get(), &inner, nullptr, read_inner, nullptr) != ARCHIVE_OK)
      return fail(unpacker.damaged(reader.get()));
    if (auto done = unpacker.unpack(reader.get()); !done) return pass(done);
    if (auto done = tree.finish(); !done) return pass(done);
    data_seen = data_seen || is_data;
    if (!is_data) unpacked = read_control(control->path() / "control");
  }
  if (!data_seen)
    return fail({.code = Code::truncated, .what = "is damaged: it has no data.tar", .hint = "fetch it again"});
  return unpacked;
}

Result<Unpacked> unpack_any(const ArchiveApi& api, const fs::path& file, const fs::path& into, Meter& meter) {
  const std::string head = first_bytes(file, 76);
  if (is_debian_package(head)) return unpack_debian(api, file, into, meter);
  const Handle reader = new_reader(api);
  WrittenTree tree(into);
  Unpacker unpacker(api, tree, meter, is_rpm(head));
  if (api.archive_read_open_filename(reader.get(), file.c_str(), 1U << 20U) != ARCHIVE_OK)
    return fail(unpacker.damaged(reader.get()));
  if (auto done = unpacker.unpack(reader.get()); !done) return pass(done);
  if (auto done = tree.finish(); !done) return pass(done);
  Unpacked unpacked = is_rpm(head) ? rpm_lead(head) : Unpacked{};
  unpacked.ended = unpacker.ended();
  return unpacked;
}

}  // namespace

bool is_archive(const fs::path& file) {
  constexpr std::string_view magics[] = {"PK\3\4",
                                         "PK\5\6",
                                         "\x1f\x8b",
                                         "\xfd"
                                         "7zXZ",
                                         "BZh",
                                         "\x28\xb5\x2f\xfd",
                                         "\x04\x22\x4d\x18",
                                         "7z\xbc\xaf\x27\x1c"};
  std::error_code ignored;
  if (!fs::is_regular_file(file, ignored)) return false;
  const std::string head = first_bytes(file, 512);
  return is_debian_package(head) || is_rpm(head) ||
         std::string_view(head).substr(std::min<size_t>(257, head.size())).starts_with("ustar") ||
         std::any_of(std::begin(magics), std::end(magics),
                     [&](std::string_view magic) { return head.starts_with(magic); });
}

Result<Unpacked> unpack(const fs::path& archive, const fs::path& into, const UnpackLimits& limits,
                        const ProgressSink& progress) {
  const auto& api = ArchiveApi::get();
  if (!api) return fail(api.error());
  const Utf8Names names;
  Meter meter(archive, limits, progress);
  auto unpacked = unpack_any(*api, archive, into, meter);
  if (!unpacked && unpacked.error().file.empty()) unpacked.error().file = archive.string();
  return unpacked;
}

}  // namespace fibula
