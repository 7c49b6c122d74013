#include "take/choice_names.hpp"

#include "base/text.hpp"

#include <algorithm>
#include <iterator>

namespace fibula {
namespace {

struct PurposeRow {
  std::string_view purpose;
  std::vector<std::string_view> alternatives;
};

const std::vector<PurposeRow>& purposes() {
  static const std::vector<PurposeRow> all = {
      {"bus", {"twi", "i2c", "spi", "uart", "usart", "serial", "can", "usb", "sdio", "bitbang", "onewire", "smbus"}},
      {"display", {"x11", "xcb", "wayland", "drm", "kms", "fbdev", "framebuffer"}},
      {"events", {"epoll", "kqueue", "poll", "select", "devpoll", "iocp", "wepoll", "uring"}},
      {"processor", {"cpu", "gpu", "cuda", "hip", "rocm", "opencl", "vulkan", "sycl", "metal", "tpu", "npu"}},
      {"processes", {"serial", "sequential", "parallel", "mpi", "openmp", "omp"}},
      {"sound", {"alsa", "pulse", "pulseaudio", "jack", "oss", "sndio", "pipewire"}},
      {"threads", {"pthread", "pthreads", "winpthread", "posix", "win32", "mcf", "single", "nothreads", "threads"}},
      {"tls", {"openssl", "gnutls", "mbedtls", "wolfssl", "nss", "schannel", "libressl", "boringssl"}},
  };
  return all;
}

/// "cuda12" is a cuda, "io_uring" a uring; "x11" is a name.
bool is_one_of(const std::vector<std::string_view>& words, const std::string& alternative) {
  const std::string name = text::lower(alternative);
  const std::string plain = name.substr(0, name.find_last_not_of("0123456789.-_") + 1);
  const std::string last = name.substr(name.find_last_of("_-") + 1);
  return std::any_of(words.begin(), words.end(),
                     [&](std::string_view word) { return word == name || word == plain || word == last; });
}

}  // namespace

bool does_nothing(const std::string& alternative) {
  static constexpr std::string_view words[] = {"none", "null", "dummy", "stub", "stubs", "empty", "generic"};
  return std::find(std::begin(words), std::end(words), alternative) != std::end(words);
}

bool is_the_usual(const std::string& alternative) {
  static constexpr std::string_view words[] = {"gcc", "gnu", "posix", "unix", "std", "ansi", "portable", "native"};
  return std::find(std::begin(words), std::end(words), text::lower(alternative)) != std::end(words);
}

std::string usual_for(const std::string& purpose) {
  return purpose == "processes" ? "serial" : "";
}

std::string purpose_of(const std::vector<std::string>& alternatives) {
  for (const auto& row : purposes()) {
    const auto known = [&](const std::string& one) { return is_one_of(row.alternatives, one); };
    const auto fits = [&](const std::string& one) { return known(one) || one == "plain" || does_nothing(one); };
    if (std::all_of(alternatives.begin(), alternatives.end(), fits) &&
        std::any_of(alternatives.begin(), alternatives.end(), known))
      return std::string(row.purpose);
  }
  return {};
}

}  // namespace fibula
