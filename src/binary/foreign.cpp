#include "binary/foreign.hpp"

#include "base/text.hpp"

#include <fmt/format.h>
#include <algorithm>

namespace fibula {
namespace {

constexpr std::string_view download_again =
    "a server answered with a page instead of the file: download it again, from the link to the file itself";
constexpr std::string_view unpack_first = "unpack it, and name the folder";

struct Row {
  std::string_view name;
  bool (*recognises)(Bytes);
  std::string_view remedy;
};

bool is_text(Bytes bytes) {
  const auto head = bytes.text().substr(0, 4096);
  return std::all_of(head.begin(), head.end(), [](char c) {
    const auto byte = static_cast<unsigned char>(c);
    return byte >= 0x20 || byte == '\n' || byte == '\r' || byte == '\t' || byte == '\f';
  });
}

bool is_web_page(Bytes bytes) {
  const auto head = text::lower(text::trim(bytes.text().substr(0, 1024)));
  return head.starts_with("<!doctype html") || head.starts_with("<html") || head.find("<html") != std::string::npos;
}

bool is_source(Bytes bytes) {
  if (!is_text(bytes)) return false;
  const auto head = bytes.text().substr(0, 8192);
  return head.find("#include") != std::string_view::npos || head.find("#define") != std::string_view::npos ||
         head.find("#pragma") != std::string_view::npos;
}

/// GNU Libtool's manual, "Libtool library file format".
bool is_libtool_description(Bytes bytes) {
  const auto head = bytes.text().substr(0, 4096);
  return is_text(bytes) &&
         (head.find("a libtool library file") != std::string_view::npos ||
          (head.find("dlname=") != std::string_view::npos && head.find("library_names=") != std::string_view::npos));
}

/// One line that names a library: what is left of a link when an archive is unpacked, or a checkout made, where links
/// cannot be kept.
bool is_flattened_link(Bytes bytes) {
  const auto line = text::trim(bytes.text().substr(0, 512));
  const bool one_name =
      !line.empty() && bytes.size() < 512 && line.find_first_of(" \t\r\n\"'=<>") == std::string_view::npos;
  if (!one_name || !is_text(bytes)) return false;
  const auto name = text::lower(line.substr(line.find_last_of('/') + 1));
  return name.find(".so") != std::string::npos || name.ends_with(".a") || name.ends_with(".dylib");
}

/// Programs that unpack something when they are run carry the name of their maker in their first pages.
bool is_installer(Bytes bytes) {
  if (!bytes.starts_with("MZ")) return bytes.starts_with("\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1");  // Windows Installer
  return bytes.text().substr(0, 1U << 20U).find("Nullsoft.NSIS") != std::string_view::npos;
}

/// A magic number at an offset.
struct Magic {
  std::string_view bytes;
  uint64_t offset;
  std::string_view name;
  std::string_view remedy;
};

constexpr std::string_view decrypt_first = "decrypt it first";
constexpr std::string_view install_first = "it installs a library: unpack or install it, and name the folder";

constexpr Magic magics[] = {
    {"version https://git-lfs", 0, "a pointer of a large-file store",
     "fetch the file itself from the store that the pointer names"},
    {"PK\3\4", 0, "a zip archive", unpack_first},
    {"PK\5\6", 0, "a zip archive", unpack_first},
    {"\x1f\x8b", 0, "a gzip archive", unpack_first},
    {"\xfd"
     "7zXZ",
     0, "an xz archive", unpack_first},
    {"BZh", 0, "a bzip2 archive", unpack_first},
    {"\x28\xb5\x2f\xfd", 0, "a zstd archive", unpack_first},
    {"\x04\x22\x4d\x18", 0, "an lz4 archive", unpack_first},
    {"LZIP", 0, "an lzip archive", unpack_first},
    {"7z\xbc\xaf\x27\x1c", 0, "a 7z archive", unpack_first},
    {"Rar!\x1a\x07", 0, "a rar archive", unpack_first},
    {"MSCF", 0, "a cabinet archive", unpack_first},
    {"ustar", 257, "a tar archive", unpack_first},
    {"xar!", 0, "an installer package", install_first},
    {"\xed\xab\xee\xdb", 0, "an rpm package", install_first},
    {"Salted__", 0, "an encrypted file", decrypt_first},
    {"-----BEGIN PGP MESSAGE", 0, "an encrypted file", decrypt_first},
    {"\x85\x01\x0c\x03", 0, "an encrypted file", decrypt_first},
    {"\x85\x02\x0c\x03", 0, "an encrypted file", decrypt_first},
    {"age-encryption.org/", 0, "an encrypted file", decrypt_first},
    {"-----BEGIN", 0, "a key or certificate", "name the library itself"},
    {"Microsoft C/C++ MSF", 0, "a file of debugging records",
     "it belongs to a DLL or program: name that, or its import library"},
    {"\xca\xfe\xba\xbe", 0, "compiled Java", "no linker takes it: name the native library"},
    {std::string_view("\0asm", 4), 0, "a WebAssembly module", "no native linker takes it: name the native library"},
    {"%PDF", 0, "a PDF document", "name the library itself"},
    {"\x89PNG", 0, "a picture", "name the library itself"},
    {"\xff\xd8\xff", 0, "a picture", "name the library itself"},
    {"#!", 0, "a script", "name the library that it installs or builds"},
};

constexpr Row table[] = {
    {"an empty file", [](Bytes b) { return b.empty(); },
     "it was cut off while it was copied or downloaded: fetch it again"},
    {"a Debian package", is_package, install_first},
    {"an installer", is_installer, install_first},
    {"a web page", is_web_page, download_again},
    {"a libtool description of a library", is_libtool_description,
     "link the .a or .so that it names, in its folder or in .libs beside it"},
    {"a flattened link", is_flattened_link,
     "the copy lost its links: unpack the original where links can be kept, or name the file that the text names"},
    {"a file of zero bytes only",
     [](Bytes b) { return b.text().substr(0, 65536).find_first_not_of('\0') == std::string_view::npos; },
     "it was made, and never filled: fetch it again"},
    {"source text", is_source, "source is compiled, not linked: name the library that was built from it"},
    {"a text file", [](Bytes b) { return is_text(b); }, "name the library itself"},
};

Error named(std::string_view name, std::string_view remedy) {
  return {.code = Code::not_a_library, .what = fmt::format("is {}, not a library", name), .hint = std::string(remedy)};
}

}  // namespace

bool is_package(Bytes bytes) {
  return bytes.starts_with("!<arch>\ndebian-binary");
}

Error name_foreign(Bytes bytes) {
  for (const auto& magic : magics) {
    if (bytes.size() > magic.offset && bytes.text().substr(magic.offset).starts_with(magic.bytes))
      return named(magic.name, magic.remedy);
  }
  for (const auto& row : table) {
    if (row.recognises(bytes)) return named(row.name, row.remedy);
  }
  std::string head;
  for (const char c : bytes.text().substr(0, 8)) head += fmt::format(" {:02x}", static_cast<unsigned char>(c));
  return {.code = Code::not_a_library,
          .what = fmt::format("is of no known kind; its first bytes are{}", head),
          .hint = "object files, archives, shared libraries and linker scripts can be read"};
}

}  // namespace fibula
