#pragma once

#include <cstddef>
#include <functional>

namespace fibula {

/// Calls `work` with every number below `count`, side by side on the machine's cores, this thread being one of them;
/// with fewer than `worth_a_thread` calls for each, on as few as that needs. Returns when all are done.
void each_in_parallel(size_t count, size_t worth_a_thread, const std::function<void(size_t)>& work);

}  // namespace fibula
