#include "os/demangle.hpp"

#include <cxxabi.h>
#include <cstdlib>
#include <memory>

namespace fibula {

std::optional<std::string> demangle(const std::string& symbol) {
  int status = 0;
  const std::unique_ptr<char, void (*)(void*)> text(abi::__cxa_demangle(symbol.c_str(), nullptr, nullptr, &status),
                                                    std::free);
  if (status != 0 || !text) return std::nullopt;
  return std::string(text.get());
}

}  // namespace fibula
