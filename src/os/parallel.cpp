#include "os/parallel.hpp"

#include <algorithm>
#include <atomic>
#include <thread>
#include <vector>

namespace fibula {

void each_in_parallel(size_t count, size_t worth_a_thread, const std::function<void(size_t)>& work) {
  const size_t threads = std::min<size_t>(std::thread::hardware_concurrency(), count / worth_a_thread);
  std::atomic<size_t> next = 0;
  const auto take = [&] {
    for (size_t i = next++; i < count; i = next++) work(i);
  };
  std::vector<std::jthread> helpers;
  for (size_t i = 1; i < threads; ++i) helpers.emplace_back(take);
  take();
}

}  // namespace fibula
