#include <tidecalc.h>
#include <saltlog/log.hpp>

#include <cassert>
#include <cstdio>

namespace saltlog {

std::vector<Entry> high_waters(double from, double to) {
  assert(from <= to);
  int count = 0;
  const tide_constituent* tide = tide_sample_harbour(&count);
  std::vector<Entry> entries;
  for (double hours = tide_next_high_water(tide, count, from); hours < to;
       hours = tide_next_high_water(tide, count, hours + 1)) {
    char text[64];
    std::snprintf(text, sizeof text, "high water %.2f m", tide_height(tide, count, hours));
    entries.push_back({hours, text});
  }
  return entries;
}

std::string line(const Entry& entry) {
  char hours[32];
  std::snprintf(hours, sizeof hours, "%.2f  ", entry.hours);
  return hours + entry.text;
}

}  // namespace saltlog
