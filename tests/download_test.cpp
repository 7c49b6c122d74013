/// Downloads from servers that are honest, and from some that are not.
#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <cstdio>

using test::Workplace;

namespace {

/// A server of one's own for a folder's tidecalc.tar.gz; its log tells what was asked.
class Server {
 public:
  explicit Server(const Workplace& place) : log_(place / "server.log") {
    test::must("tar -czf tidecalc-2.1.0.tar.gz tidecalc-2.1.0", place.prebuilt());
    const auto file = place / "prebuilt/tidecalc-2.1.0.tar.gz";
    digest = test::must("sha256sum < " + test::quoted(file)).substr(0, 64);
    pid_ = test::must(fmt::format("{} '{}/tests/support/harbour_server.py' {} > {} 2>&1 & echo $!", TEST_PYTHON,
                                  FIBULA_SOURCE, test::quoted(file), test::quoted(log_)));
    pid_.pop_back();
    while (test::read(log_).find('\n') == std::string::npos) ::usleep(10'000);
    port_ = test::read(log_).substr(0, test::read(log_).find('\n'));
  }
  Server(const Server&) = delete;
  Server& operator=(const Server&) = delete;
  ~Server() { test::shell("kill " + pid_); }

  std::string url(const std::string& kind) const {
    return fmt::format("http://127.0.0.1:{}/{}/tidecalc-2.1.0.tar.gz", port_, kind);
  }
  std::string log() const { return test::read(log_); }
  std::string digest;

 private:
  test::fs::path log_;
  std::string pid_, port_;
};

TEST(Download, TakesWhatComesAndRecordsItsDigest) {
  const Workplace place;
  const Server server(place);
  for (const char* kind : {"good", "moved"}) {
    const auto taken = place.fibula(fmt::format("take {} --replace --sha256 {}", server.url(kind), server.digest));
    ASSERT_EQ(taken.status, 0) << taken.all();
  }
  ASSERT_EQ(place.fibula("take --replace " + server.url("good")).status, 0);
  const auto card = test::read(place.shelf() / "tidecalc/2.1.0/card.toml");
  EXPECT_NE(card.find("sha256 = \"" + server.digest + "\""), std::string::npos) << card;
  EXPECT_NE(card.find("path = \"" + server.url("good") + "\""), std::string::npos) << card;
}

struct Refusal {
  const char* kind;
  const char* options;
  int status;
  const char* message;
};

TEST(Download, SaysWhatIsWrongAndPutsNothingOnTheShelf) {
  const Workplace place;
  const Server server(place);
  for (const auto& row :
       {Refusal{"gone", "", 3, "is not there: the server answers 404"},
        Refusal{"broken", "", 3, "cannot be fetched: the server answers 500"}, Refusal{"page", "", 3, "is a web page"},
        Refusal{"good", "--sha256 0123", 1, ", expected 0123\n"}, Refusal{"longer", "", 3, "stopped after"},
        Refusal{"shorter", "", 3, "is damaged"}}) {
    SCOPED_TRACE(row.kind);
    const auto ran = place.fibula(fmt::format("take {} {}", server.url(row.kind), row.options));
    EXPECT_EQ(ran.status, row.status) << ran.all();
    EXPECT_NE(ran.err.find(row.message), std::string::npos) << ran.err;
    EXPECT_TRUE(place.shelf_entries().empty());
  }
  const auto nobody = place.fibula("take http://127.0.0.1:1/q-1.zip");
  EXPECT_EQ(nobody.status, 3);
  EXPECT_NE(nobody.err.find("cannot be fetched"), std::string::npos) << nobody.err;
  EXPECT_EQ(place.fibula("take ftp://127.0.0.1/q-1.zip").status, 2);
}

TEST(Download, GoesOnWhereItStopped) {
  const Workplace place;
  const Server server(place);
  const auto stopped = place.fibula("take " + server.url("stops"));
  EXPECT_EQ(stopped.status, 3);
  EXPECT_NE(stopped.err.find("the same command goes on from there"), std::string::npos) << stopped.err;
  EXPECT_TRUE(place.shelf_entries().empty());
  const auto taken = place.fibula("take " + server.url("stops"));
  ASSERT_EQ(taken.status, 0) << taken.all();
  EXPECT_NE(server.log().find("stops bytes="), std::string::npos) << server.log();
  EXPECT_EQ(test::must("find cache -type f | wc -l", place.folder().path()), "0\n")
      << "nothing is kept when it is done";
}

}  // namespace
