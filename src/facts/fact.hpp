#pragma once

#include <fibula/facts.hpp>

#include <string>
#include <utility>

namespace fibula {

template <class T>
Fact<T> fact(T value, std::string from, Certainty certainty = Certainty::read) {
  return {.value = std::move(value), .certainty = certainty, .from = std::move(from)};
}

inline Fact<std::string> derived(std::string_view value, std::string from) {
  return fact(std::string(value), std::move(from), Certainty::derived);
}

}  // namespace fibula
