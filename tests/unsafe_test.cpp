/// Archives that nobody should unpack: each is refused with its reason, and nothing of it is left anywhere.
#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <fibula/fibula.hpp>

using test::Workplace;

namespace {

struct Unsafe {
  const char* name;
  const char*
      make;  ///< Python, with `tar(name)`, `add(t, name, data)`, `link(t, name, target, hard)`; or shell behind !
  const char* file;
  int status;
  const char* message;
};

constexpr const char* python = R"(
import io, tarfile, zipfile
def tar(name): return tarfile.open(name, "w:gz", format=tarfile.GNU_FORMAT, encoding="latin-1")
def info(name, kind=tarfile.REGTYPE):
    i = tarfile.TarInfo(name); i.type = kind; return i
def add(t, name, data=b"static int x;\n"):
    i = info(name); i.size = len(data); t.addfile(i, io.BytesIO(data))
def link(t, name, target, kind=tarfile.SYMTYPE):
    i = info(name, kind); i.linkname = target; t.addfile(i)
)";

const Unsafe unsafe[] = {
    {"parent_folder", "with tar('a.tgz') as t: add(t, 'q-1/ok.h'); add(t, 'q-1/../../escaped.h')", "a.tgz", 1,
     "holds the name q-1/../../escaped.h, which leads out of its folder"},
    {"absolute_name", "with tar('a.tgz') as t: add(t, '/escaped/evil.h')", "a.tgz", 1,
     "holds the absolute name /escaped/evil.h"},
    {"zip_parent_folder", "with zipfile.ZipFile('a.zip', 'w') as z: z.writestr('../escaped.h', 'x')", "a.zip", 1,
     "which leads out of its folder"},
    {"link_to_elsewhere", "with tar('a.tgz') as t: add(t, 'q-1/a.h'); link(t, 'q-1/b.h', '../../../etc/passwd')",
     "a.tgz", 1, "holds the link q-1/b.h to ../../../etc/passwd, which leads out of its folder"},
    {"absolute_link", "with tar('a.tgz') as t: link(t, 'q-1/b.h', '/etc/passwd')", "a.tgz", 1,
     "holds the link q-1/b.h to /etc/passwd, which leads out of its folder"},
    {"links_that_lead_out_together",
     "with tar('a.tgz') as t: add(t, 'q/d/e/x.h'); link(t, 'q/d/e/up', '../..'); link(t, 'q/out', 'd/e/up/../../z')",
     "a.tgz", 1, "holds the link q/out to d/e/up/../../z, which leads out of its folder"},
    {"writing_through_a_link", "with tar('a.tgz') as t: link(t, 'q-1/d', '/tmp'); add(t, 'q-1/d/escaped.h')", "a.tgz",
     1, "which leads out of its folder"},
    {"hard_link_out", "with tar('a.tgz') as t: link(t, 'q-1/b.h', '../../etc/passwd', tarfile.LNKTYPE)", "a.tgz", 1,
     "which leads out of its folder"},
    {"hard_link_to_nothing", "with tar('a.tgz') as t: link(t, 'q-1/b.h', 'q-1/a.h', tarfile.LNKTYPE)", "a.tgz", 3,
     "holds q-1/b.h as a second name of q-1/a.h, which it does not hold"},
    {"device", "with tar('a.tgz') as t: t.addfile(info('q-1/null.h', tarfile.CHRTYPE))", "a.tgz", 1,
     "holds q-1/null.h, which is a device or a pipe"},
    {"pipe", "with tar('a.tgz') as t: t.addfile(info('q-1/pipe', tarfile.FIFOTYPE))", "a.tgz", 1,
     "which is a device or a pipe"},
    {"names_that_differ_in_case", "with tar('a.tgz') as t: add(t, 'q-1/Tide.h'); add(t, 'q-1/tide.h')", "a.tgz", 1,
     "holds q-1/Tide.h and q-1/tide.h, which differ only in the case of letters"},
    {"a_name_twice", "with tar('a.tgz') as t: add(t, 'q-1/tide.h'); add(t, 'q-1/tide.h')", "a.tgz", 1,
     "holds q-1/tide.h twice"},
    {"file_and_folder", "with tar('a.tgz') as t: add(t, 'q-1/tide'); add(t, 'q-1/tide/a.h')", "a.tgz", 3,
     "holds tide both as a file and as a folder"},
    {"no_utf8", "with tar('a.tgz') as t: add(t, 'q-1/m\\xf6we.h')", "a.tgz", 1,
     "holds the name q-1/m\\xf6we.h, which is no UTF-8"},
    {"control_character", "with tar('a.tgz') as t: add(t, 'q-1/a\\nb.h')", "a.tgz", 1,
     "holds the name q-1/a\\x0ab.h, with a control character in it"},
    {"bomb", "with tar('a.tgz') as t: add(t, 'q-1/a.h'); add(t, 'q-1/b.bin', bytes(300 << 20))", "a.tgz", 3,
     "unpacks to more than 250 times its size"},
    {"password", "!echo 'static int x;' > a.h; zip -q -P secret a.zip a.h", "a.zip", 1, "is protected with a password"},
    {"password_7z", "!echo 'static int x;' > a.h; 7z a -bd -psecret -mhe=on a.7z a.h >/dev/null", "a.7z", 1,
     "is protected with a password"},
    {"cut_off", "!mkdir q-1; seq 1 90000 > q-1/a.h; tar -czf b.tgz q-1; head -c 9000 b.tgz > a.tgz", "a.tgz", 3,
     "is damaged"},
    {"damaged_zip", "!seq 1 9000 > a.h; zip -q b.zip a.h; head -c 9000 b.zip > a.zip", "a.zip", 3, "is damaged"},
    {"package_without_data", "!echo 2.0 > debian-binary; ar rc a.deb debian-binary", "a.deb", 3,
     "is damaged: it has no data.tar"},
    {"wrong_digest", "with tar('a.tgz') as t: add(t, 'q-1/a.h')", "a.tgz --sha256 00", 1, "expected 00"},
    {"a_damaged_library_inside", "with tar('a.tgz') as t: add(t, 'q-1/a.h'); add(t, 'q-1/lib/libq.a', b'!<arch>\\nx')",
     "a.tgz", 3, "a.tgz (q-1/lib/libq.a):"},
    {"a_page_with_an_archives_name", "!echo '<!DOCTYPE html><html>' > a.tgz", "a.tgz", 3, "is a web page"},
};

class Unpacking : public testing::TestWithParam<Unsafe> {};

TEST_P(Unpacking, IsRefusedAndLeavesNothing) {
  const Workplace place;
  const Unsafe& row = GetParam();
  if (row.make[0] == '!') {
    test::must(row.make + 1, place / "work");
  } else {
    place.folder().write("make.py", fmt::format("{}\n{}\n", python, row.make));
    test::must(fmt::format("{} ../make.py", TEST_PYTHON), place / "work");
  }
  const auto before = test::must("find . ! -path './cache*' | sort", place.folder().path());
  const auto ran = place.fibula(std::string("take ") + row.file + " --version 1");
  EXPECT_EQ(ran.status, row.status) << ran.all();
  EXPECT_NE(ran.err.find(row.message), std::string::npos) << "wanted: " << row.message << "\ngot: " << ran.err;
  EXPECT_NE(ran.err.find("\n  remedy: "), std::string::npos) << "no remedy: " << ran.err;
  const auto after = test::must(
      "find . ! -path './cache*' ! -path './shelf' ! -path './shelf/.lock' ! -path './shelf/.arriving' | sort",
      place.folder().path());
  EXPECT_EQ(after, before);
  EXPECT_FALSE(test::fs::exists("/escaped"));
}

INSTANTIATE_TEST_SUITE_P(Archives, Unpacking, testing::ValuesIn(unsafe),
                         [](const auto& row) { return row.param.name; });

TEST(Unpacking, IsBoundedByWhatTheCallerAllows) {
  const Workplace place;
  test::must("mkdir q-1 && seq 1 300000 > q-1/a.h && tar -cf q-1.tar q-1", place / "work");
  const auto taken = fibula::take(fibula::Shelf::at(place.shelf()),
                                  {.sources = {(place / "work/q-1.tar").string()}, .limit = 1'000'000});
  ASSERT_FALSE(taken);
  EXPECT_EQ(taken.error().what, "unpacks to more than 1000000 bytes");
  EXPECT_TRUE(place.shelf_entries().empty());
}

TEST(Unpacking, KeepsLinksThatStayInside) {
  const Workplace place;
  test::must(
      "mkdir -p q-1/a/b && echo 'static int x;' > q-1/a/x.h && ln -s ../x.h q-1/a/b/y.h && ln -s a q-1/also && tar "
      "-cf q-1.tar q-1",
      place / "work");
  ASSERT_EQ(place.fibula("take q-1.tar").status, 0);
  EXPECT_EQ(test::fs::read_symlink(place.shelf() / "q/1/files/a/b/y.h"), "../x.h");
  EXPECT_EQ(test::fs::read_symlink(place.shelf() / "q/1/files/also"), "a");
}

}  // namespace
