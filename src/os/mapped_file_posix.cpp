#include "os/mapped_file.hpp"

#include "os/files.hpp"
#include "os/posix.hpp"

#include <fcntl.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>
#include <cerrno>
#include <cstring>

namespace fibula {
namespace {

Error system_error(const std::filesystem::path& path) {
  const bool absent = errno == ENOENT || errno == ENOTDIR;
  return {.code = absent ? Code::absent : Code::unreadable, .what = std::strerror(errno), .file = path.string()};
}

}  // namespace

Result<std::shared_ptr<const MappedFile>> MappedFile::open(const std::filesystem::path& path, Access access) {
  if (access == Access::copy) {
    auto text = read_text(path, uint64_t{4} << 30U);
    if (!text) return pass(text);
    return std::shared_ptr<const MappedFile>(new MappedFile(path, nullptr, 0, std::move(*text)));
  }
  // O_NONBLOCK: a pipe without a writer must not make us wait; it is refused below.
  const posix::Descriptor file(::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK));
  if (!file) return fail(system_error(path));
  struct stat info {};
  if (::fstat(file.get(), &info) != 0) return fail(system_error(path));
  if (!S_ISREG(info.st_mode)) {
    return fail({.code = Code::unreadable,
                 .what = S_ISDIR(info.st_mode) ? "is a folder, not a file" : "is not a regular file",
                 .file = path.string()});
  }
  const auto size = static_cast<size_t>(info.st_size);
  const std::byte* data = nullptr;
  if (size > 0) {
    void* mapped = ::mmap(nullptr, size, PROT_READ, MAP_PRIVATE, file.get(), 0);
    if (mapped == MAP_FAILED) return fail(system_error(path));
    data = static_cast<const std::byte*>(mapped);
  }
  return std::shared_ptr<const MappedFile>(new MappedFile(path, data, size));
}

MappedFile::~MappedFile() {
  if (data_ != nullptr) ::munmap(const_cast<std::byte*>(data_), size_);
}

}  // namespace fibula
