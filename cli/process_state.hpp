#pragma once

namespace cli {

/// Brings what the process was started with to what the rest relies on: three open streams, and errors instead of
/// signals; a file that is cut short while it is read is named. Call it first.
void settle_process();

}  // namespace cli
