// saltlog: the harbour's log book, a line for each high water.
// SPDX-License-Identifier: MIT
#pragma once

#include <string>
#include <vector>

#define SALTLOG_VERSION "1.2.0"

namespace saltlog {

/// One line of the log.
struct Entry {
  double hours;
  std::string text;
};

/// The high waters between two hours after hour zero, in order.
std::vector<Entry> high_waters(double from, double to);

/// A line as it is written: "12.41  high water 1.96 m".
std::string line(const Entry& entry);

}  // namespace saltlog
