// moonphase: the age of the moon and what to call it.
// SPDX-License-Identifier: MIT
#pragma once

#include <cmath>
#include <string_view>

#define MOONPHASE_VERSION "1.3.0"

namespace moonphase {

inline constexpr double synodic_month_days = 29.530588;

/// Days since the last new moon, 0 to 29.53, on a day counted from a new moon.
inline double age(double days) {
  const double age = std::fmod(days, synodic_month_days);
  return age < 0 ? age + synodic_month_days : age;
}

/// The phase's name at an age in days.
constexpr std::string_view name(double age_days) {
  constexpr std::string_view names[] = {"new moon",  "waxing crescent", "first quarter", "waxing gibbous",
                                        "full moon", "waning gibbous",  "last quarter",  "waning crescent"};
  const int eighth = static_cast<int>(age_days / synodic_month_days * 8.0 + 0.5);
  return names[eighth % 8];
}

}  // namespace moonphase
