#include "match/levels.hpp"

#include <gtest/gtest.h>

using namespace fibula;

namespace {

TEST(Levels, WhichCodeRunsWhere) {
  struct Case {
    Arch arch;
    const char *code, *guaranteed;
    Reach reach;
  };
  const Case cases[] = {
      {Arch::x86_64, "x86-64", "x86-64-v3", Reach::runs},
      {Arch::x86_64, "x86-64-v4", "x86-64-v3", Reach::needs_more},
      {Arch::arm, "v6S-M", "v6-M", Reach::runs},
      {Arch::arm, "v6-M", "v7E-M", Reach::runs},
      {Arch::arm, "v7E-M", "v7-M", Reach::needs_more},
      {Arch::arm, "v8-M.baseline", "v7E-M", Reach::needs_more},
      {Arch::arm, "v7-M", "v8-M.baseline", Reach::needs_more},
      {Arch::arm, "v6-M", "v8-M.baseline", Reach::runs},
      {Arch::arm, "v7E-M", "v4T", Reach::needs_more},
      {Arch::arm, "v7-A", "v7E-M", Reach::other_kind},
      {Arch::arm, "v7E-M", "v7-A", Reach::other_kind},
      {Arch::arm, "v5TE", "v7-A", Reach::runs},
      {Arch::arm, "v8-A", "v7-A", Reach::needs_more},
      {Arch::arm, "v7-A", "v6", Reach::needs_more},
      {Arch::avr, "avr4", "avr5", Reach::near_only},
      {Arch::avr, "avr25", "avr4", Reach::runs},
      {Arch::avr, "avr5", "avr4", Reach::needs_more},
      {Arch::avr, "avr5", "avr51", Reach::runs},
      {Arch::avr, "avr51", "avr5", Reach::needs_more},
      {Arch::avr, "avr6", "avr5", Reach::other_kind},
      {Arch::avr, "avrxmega2", "avr5", Reach::other_kind},
      {Arch::riscv64, "rv64i", "rv64gc", Reach::not_known},
  };
  for (const auto& c : cases)
    EXPECT_EQ(level_reach(c.arch, c.code, c.guaranteed), c.reach) << c.code << " on " << c.guaranteed;
}

}  // namespace
