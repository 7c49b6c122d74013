/// Shelves in several places: read-only, inside a project, and given out by a plain web server.
#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <algorithm>
#include <fibula/fibula.hpp>

using test::Workplace;

namespace {

/// nginx, giving out a folder as it is.
class Nginx {
 public:
  Nginx(const Workplace& place, const test::fs::path& folder) : root_(place / "nginx") {
    test::fs::create_directories(root_);
    port_ = 20000 + static_cast<int>(::getpid() % 20000);
    for (int tries = 0; tries < 20; ++tries, ++port_) {
      place.folder().write(
          "nginx/nginx.conf",
          fmt::format("daemon on; pid {0}/pid; error_log {0}/error;\nevents {{}}\nhttp {{ access_log {0}/log; "
                      "client_body_temp_path {0}/a; proxy_temp_path {0}/b; fastcgi_temp_path {0}/c; "
                      "uwsgi_temp_path {0}/d; scgi_temp_path {0}/e;\nserver {{ listen 127.0.0.1:{1}; root "
                      "{2}; dav_methods PUT; create_full_put_path on; }} }}\nuser root;\n",
                      root_.string(), port_, folder.string()));
      if (test::shell("/usr/sbin/nginx -c '" + (root_ / "nginx.conf").string() + "'").status == 0) return;
    }
    throw std::runtime_error("nginx does not start: " + test::read(root_ / "error"));
  }
  Nginx(const Nginx&) = delete;
  Nginx& operator=(const Nginx&) = delete;
  ~Nginx() { stop(); }

  void stop() const { test::shell("kill $(cat pid) && while [ -e pid ]; do sleep 0.01; done", root_); }
  std::string url() const { return fmt::format("http://127.0.0.1:{}", port_); }
  std::string log() const { return test::read(root_ / "log"); }

 private:
  test::fs::path root_;
  int port_ = 0;
};

const char* const tide_program = "#include <tidecalc.h>\nint main(void) { return tide_height(0, 0, 0) > 9; }\n";

TEST(ServedShelf, IsUsedOverHttpCheckedAndKept) {
  const Workplace place;
  ASSERT_EQ(place.fibula("take " + (place.prebuilt() / "tidecalc-2.1.0").string()).status, 0);
  test::must("touch -d '1 minute ago' shelf.index", place.shelf());
  const Nginx server(place, place.shelf());
  const auto app = place.folder().write("app/main.c", tide_program).parent_path();
  const std::string shelf = fmt::format("--shelf '{}' ", server.url());
  EXPECT_EQ(place.fibula(shelf + "shelf").out.substr(0, 15), "tidecalc  2.1.0");
  ASSERT_EQ(place.fibula(shelf + "attach tidecalc", app).status, 0);
  EXPECT_EQ(server.log().find("libtidecalc.a"), std::string::npos) << "files are fetched when they are needed";
  const auto built = place.fibula(shelf + "build --run", app);
  EXPECT_EQ(built.status, 0) << built.all();
  EXPECT_EQ(place.fibula(shelf + "shelf check").status, 0);
  EXPECT_NE(server.log().find("/shelf.index HTTP/1.1\" 304"), std::string::npos) << "what is known is not sent again";
  // The server's tag is believed of the text that it was given for, and of no other.
  const std::string kept = test::must("ls -d $PWD/served/*/shelf.index", place / "cache/fibula");
  test::must("echo damaged > " + kept);
  EXPECT_EQ(place.fibula(shelf + "shelf check").status, 0);
  // What was fetched serves without the server too.
  server.stop();
  EXPECT_EQ(place.fibula(shelf + "fit", app).status, 0);
  EXPECT_EQ(place.fibula(shelf + "take .").status, 2) << "nothing can be put on it";
}

/// nginx names versions of a file by its time, in seconds, and its size, which an index often keeps.
TEST(ServedShelf, SeesAChangeThatTheServersClockHides) {
  for (const char* time : {"now", "now + 1 hour"}) {
    SCOPED_TRACE(time);
    const Workplace place;
    place.folder().write("lamp/include/lamp.h", "#define LAMP 1\n");
    const auto take = [&](const char* version) {
      ASSERT_EQ(place.fibula(fmt::format("take '{}' --version {}", (place / "lamp").string(), version)).status, 0);
    };
    take("1.0");
    const Nginx server(place, place.shelf());
    const auto list = [&] { return place.fibula(fmt::format("--shelf '{}' shelf", server.url())).out; };
    const auto size = test::fs::file_size(place.shelf() / "shelf.index");
    test::must(fmt::format("touch -d \"$(date -d '{}')\" ../time && touch -r ../time shelf.index", time),
               place.shelf());
    EXPECT_NE(list().find("1.0"), std::string::npos);
    take("1.1");
    ASSERT_EQ(test::fs::file_size(place.shelf() / "shelf.index"), size) << "else it shows nothing";
    test::must("touch -r ../time shelf.index", place.shelf());
    EXPECT_NE(list().find("1.1"), std::string::npos) << list();
  }
}

/// Two machines: folders and caches of their own, one served shelf, one lock.
TEST(ServedShelf, ServesEightAtOnce) {
  const Workplace place;
  ASSERT_EQ(place.fibula("take " + (place.prebuilt() / "tidecalc-2.1.0").string()).status, 0);
  const Nginx server(place, place.shelf());
  // Eight machines: each with a home, a cache and a project of its own.
  std::string all;
  for (int client = 0; client < 8; ++client) {
    place.folder().write(fmt::format("client{}/app/main.c", client), tide_program);
    all += fmt::format(
        "(cd '{0}' && export HOME='{0}' XDG_CACHE_HOME='{0}/cache' FIBULA_SHELF='{1}' && cd app && "
        "'{2}' attach tidecalc && '{2}' fit && cat '{0}'/cache/fibula/served/*/*/*/contents.sha256 "
        "> '{0}/list' && touch '{0}/done') > '{0}/said' 2>&1 & ",
        (place / fmt::format("client{}", client)).string(), server.url(), FIBULA_TOOL);
  }
  test::must(all + "wait");
  for (int client = 0; client < 8; ++client) {
    const std::string folder = fmt::format("client{}/", client);
    EXPECT_TRUE(test::fs::exists(place / (folder + "done"))) << test::read(place / (folder + "said"));
    EXPECT_EQ(test::read(place / (folder + "list")), test::read(place.shelf() / "tidecalc/2.1.0/contents.sha256"));
  }
}

TEST(ServedShelf, GivesTheSameBytesToWhoHasTheLock) {
  const Workplace place;
  ASSERT_EQ(place.fibula("take " + (place.prebuilt() / "tidecalc-2.1.0").string()).status, 0);
  const Nginx server(place, place.shelf());
  place.folder().write("one/app/main.c", tide_program);
  const auto on = [&](const std::string& machine, const std::string& words) {
    return test::shell(fmt::format("XDG_CACHE_HOME='{0}/{1}/cache' '{2}' --shelf '{3}' -C '{0}/{1}/app' {4}",
                                   place.folder().path().string(), machine, FIBULA_TOOL, server.url(), words));
  };
  EXPECT_EQ(on("one", "attach tidecalc").status, 0);
  const auto early = on("one", "fit --as-locked");
  EXPECT_EQ(early.status, 1) << "nothing is locked yet";
  EXPECT_NE(early.err.find("nothing is locked"), std::string::npos) << early.all();
  ASSERT_EQ(on("one", "build").status, 0);
  test::must("mkdir two && cp -r one/app two/app && rm -rf two/app/.fibula two/app/compile_commands.json",
             place.folder().path());
  // A newer version comes meanwhile; the lock does not know it.
  ASSERT_EQ(place.fibula("take " + (place / "prebuilt/tidecalc-2.1.0").string() + " --version 2.2.0").status, 0);
  ASSERT_EQ(place.fibula("shelf").status, 0);
  const auto fitted = on("two", "fit --as-locked");
  EXPECT_EQ(fitted.status, 0) << fitted.all();
  // What is not there as it is locked is not replaced by something else.
  test::must("cp fibula.lock kept && sed -i 's/2.1.0/2.0.9/' fibula.lock", place / "two/app");
  EXPECT_EQ(on("two", "fit --as-locked").status, 1);
  const auto refused = on("two", "build --as-locked");
  EXPECT_EQ(refused.status, 1);
  EXPECT_NE(refused.err.find("cannot be had as it is locked"), std::string::npos) << refused.all();
  test::must("mv kept fibula.lock", place / "two/app");
  server.stop();
  const auto built = on("two", "build");
  EXPECT_EQ(built.status, 0) << built.all();
  // Debugging records name the folders of their machine: they are left out of what is compared.
  const auto digests = [&](const std::string& machine) {
    return test::must("find .fibula -path '*-release/bin/*' -type f | sort | xargs sha256sum fibula.lock",
                      place / (machine + "/app"));
  };
  EXPECT_NE(digests("one").find("/bin/"), std::string::npos);
  EXPECT_EQ(digests("one"), digests("two"));
}

TEST(ServedShelf, TrustsNoFileThatItsIndexDoesNotName) {
  const Workplace place;
  ASSERT_EQ(place.fibula("take " + (place.prebuilt() / "tidecalc-2.1.0").string()).status, 0);
  const auto app = place.folder().write("app/main.c", tide_program).parent_path();
  ASSERT_EQ(place.fibula("attach tidecalc", app).status, 0);
  const Nginx server(place, place.shelf());
  const std::string shelf = fmt::format("--shelf '{}' ", server.url());
  test::must("chmod u+w lib/libtidecalc.a && echo x >> lib/libtidecalc.a", place.shelf() / "tidecalc/2.1.0/files");
  const auto refused = place.fibula(shelf + "fit", app);
  EXPECT_EQ(refused.status, 1) << refused.all();
  EXPECT_NE(refused.err.find("libtidecalc.a: SHA-256 is "), std::string::npos) << refused.err;
  test::must("echo '# x' >> card.toml", place.shelf() / "tidecalc/2.1.0");
  const auto edited = place.fibula("--shelf " + server.url() + "/ shelf show tidecalc", place / "work");
  EXPECT_EQ(edited.status, 0) << "the card that was checked before is kept";
  EXPECT_EQ(place.fibula("shelf").status, 0) << "where the shelf is kept, its index is written anew";
  EXPECT_EQ(place.fibula(fmt::format("--shelf {}/elsewhere shelf", server.url())).status, 3);
}

/// A server that takes files into a folder; see tests/support/put_server.py.
class PutServer {
 public:
  PutServer(const Workplace& place, const test::fs::path& folder, const std::string& manner) : log_(place / "put.log") {
    test::fs::create_directories(folder);
    // What another server said of its port is no answer of this one.
    test::fs::remove(log_);
    pid_ = test::must(fmt::format("{} '{}/tests/support/put_server.py' {} {} > {} 2>&1 & echo $!", TEST_PYTHON,
                                  FIBULA_SOURCE, test::quoted(folder), manner, test::quoted(log_)));
    pid_.pop_back();
    while (test::read(log_).find('\n') == std::string::npos) ::usleep(10'000);
  }
  PutServer(const PutServer&) = delete;
  PutServer& operator=(const PutServer&) = delete;
  ~PutServer() { test::shell("kill " + pid_); }
  std::string url() const { return "http://127.0.0.1:" + test::read(log_).substr(0, test::read(log_).find('\n')); }

 private:
  test::fs::path log_;
  std::string pid_;
};

/// Libraries of one function each, on shelves of their own.
void take_lamps_apart(const Workplace& place, int count) {
  for (int i = 1; i <= count; ++i) {
    const std::string name = fmt::format("lamp{}", i);
    place.folder().write(fmt::format("work/{}/include/{}.h", name, name), fmt::format("int {}(void);\n", name));
    place.folder().write(fmt::format("work/{}.c", name), fmt::format("int {}(void) {{ return 0; }}\n", name));
    test::must(fmt::format("gcc -c {0}.c && ar rcs {0}/lib{0}.a {0}.o", name), place / "work");
    const auto taken = place.fibula(fmt::format("--shelf ../shelf{0} take lamp{0} --version 1", i), place / "work");
    ASSERT_EQ(taken.status, 0) << taken.all();
  }
}

/// Eight publish at once, to a server and to a folder: all of it is there afterwards, and can be used.
TEST(Publishing, LosesNothingWhenEightDoItAtOnce) {
  const Workplace place;
  take_lamps_apart(place, 8);
  const PutServer server(place, place / "served", "");
  const auto common = (place / "common").string();
  for (const std::string& to : {server.url(), common}) {
    SCOPED_TRACE(to);
    const auto all =
        place.shell(fmt::format("for i in 1 2 3 4 5 6 7 8; do $FIBULA --shelf ../shelf$i shelf publish "
                                "lamp$i --to {} & done; wait",
                                to));
    EXPECT_EQ(all.err, "");
    const auto listed = place.fibula_json("--shelf " + to + " shelf");
    ASSERT_EQ(listed["libraries"].size(), 8U) << all.all() << listed.dump(1);
    const auto again = place.fibula("--shelf ../shelf3 shelf publish lamp3 --to " + to, place / "work");
    EXPECT_EQ(again.status, 0) << again.all();
    EXPECT_NE(again.out.find("all of it is there already"), std::string::npos) << again.all();
    EXPECT_EQ(place.fibula("--shelf " + to + " shelf check").status, 0);
  }
}

/// Servers that do not do what they say, and other files under the same version.
TEST(Publishing, TellsWhatDidNotCome) {
  const Workplace place;
  take_lamps_apart(place, 1);
  struct Row {
    const char* manner;
    const char* said;
  };
  for (const auto& row : {Row{"blind", "without looking at If-Match"}, Row{"forgets", "did not keep the line"},
                          Row{"full", "the server answers 507"}}) {
    SCOPED_TRACE(row.manner);
    const PutServer server(place, place / row.manner, row.manner);
    const auto ran = place.fibula("--shelf ../shelf1 shelf publish lamp1 --to " + server.url(), place / "work");
    EXPECT_NE(ran.status, 0);
    EXPECT_NE(ran.err.find(row.said), std::string::npos) << ran.all();
    EXPECT_NE(ran.err.find("remedy:"), std::string::npos) << ran.all();
  }
  const auto nowhere = place.fibula("--shelf ../shelf1 shelf publish lamp1", place / "work");
  EXPECT_EQ(nowhere.status, 2);
  EXPECT_NE(nowhere.err.find("where it is to go is not said"), std::string::npos) << nowhere.all();
  place.fibula("--shelf ../shelf1 shelf publish lamp1 --to ../common", place / "work");
  test::must("echo '/* other */' >> lamp1/include/lamp1.h", place / "work");
  ASSERT_EQ(place.fibula("--shelf ../shelf1 take lamp1 --version 1 --replace", place / "work").status, 0);
  const auto other = place.fibula("--shelf ../shelf1 shelf publish lamp1 --to ../common", place / "work");
  EXPECT_EQ(other.status, 1);
  EXPECT_NE(other.err.find("with other files"), std::string::npos) << other.all();
}

/// What a lock file names stays, and the newest of each.
TEST(Prune, KeepsWhatIsUsed) {
  const Workplace place;
  place.folder().write("work/lamp/include/lamp.h", "int lamp(void);\n");
  place.folder().write("work/lamp.c", "int lamp(void) { return 0; }\n");
  test::must("gcc -c lamp.c && ar rcs lamp/liblamp.a lamp.o", place / "work");
  for (const char* version : {"1", "2", "3"})
    ASSERT_EQ(place.fibula(fmt::format("take lamp --version {}", version)).status, 0);
  place.folder().write("work/app/src/main.c", "#include <lamp.h>\nint main(void) { return lamp(); }\n");
  for (const char* words : {"begin app", "-C app attach lamp =1", "-C app fit"})
    ASSERT_EQ(place.fibula(words).status, 0) << words;
  EXPECT_NE(place.fibula("shelf prune").out.find("came lately"), std::string::npos);
  const auto unused = [&] { return place.fibula_json("shelf prune --days 0")["unused"]; };
  ASSERT_EQ(unused().size(), 1U) << unused().dump(1);
  EXPECT_EQ(unused()[0]["version"], "2");
  // A lock that cannot be read may name it.
  test::must("cp fibula.lock kept && echo '[[' > fibula.lock", place / "work/app");
  EXPECT_EQ(unused().size(), 1U);
  test::must("rm -r app", place / "work");
  EXPECT_EQ(unused().size(), 2U) << "the project that used it is gone";
  EXPECT_EQ(place.fibula("shelf prune --days 0 --drop").status, 0);
  EXPECT_EQ(place.fibula_json("shelf")["libraries"].size(), 1U);
}

TEST(Shelves, ComeInOrder) {
  const Workplace place;
  const auto tide = (place.prebuilt() / "tidecalc-2.1.0").string();
  const auto first = (place / "first").string(), second = (place / "second").string();
  ASSERT_EQ(place.fibula(fmt::format("--shelf {} take {}", first, tide)).status, 0);
  for (const char* version : {"2.1.0", "3.0"})
    ASSERT_EQ(place.fibula(fmt::format("--shelf {} take {} --version {}", second, tide, version)).status, 0);
  const auto both = place.fibula(fmt::format("--shelf {} --shelf {} shelf", first, second));
  EXPECT_EQ(both.out, fmt::format("tidecalc  3.0    x86_64-elf-static, x86_64-elf-shared  on {}\n"
                                  "tidecalc  2.1.0  x86_64-elf-static, x86_64-elf-shared  on {}\n",
                                  second, first));
  const auto by_variable =
      test::must(fmt::format("FIBULA_SHELF='{};{}' '{}' shelf", first, second, FIBULA_TOOL), place / "work");
  EXPECT_EQ(by_variable, both.out);
}

TEST(Shelves, ReadOnlyOnesServe) {
  const Workplace place;
  ASSERT_EQ(place.fibula("take " + (place.prebuilt() / "tidecalc-2.1.0").string()).status, 0);
  const auto app = place.folder().write("app/main.c", tide_program).parent_path();
  // Another user, since root may write everywhere; that one may not reach the build folder.
  test::fs::copy_file(FIBULA_TOOL, place / "fibula");
  test::must("chmod -R a+rX . && chmod -R a-w shelf && chmod a+rwx app && mkdir -m 777 home", place.folder().path());
  const std::string run = fmt::format("cd '{}' && export FIBULA_SHELF='{}' XDG_CACHE_HOME='{}'; '{}' ", app.string(),
                                      place.shelf().string(), (place / "home").string(), (place / "fibula").string());
  const std::string as_nobody = ::getuid() == 0 ? "setpriv --reuid=65534 --clear-groups sh -c " : "sh -c ";
  for (const char* command : {"shelf check", "attach tidecalc", "build --run"}) {
    const auto ran = test::shell(as_nobody + test::quoted(run + command));
    EXPECT_EQ(ran.status, 0) << command << "\n" << ran.all();
  }
  test::must("chmod -R u+w .", place.folder().path());
}

TEST(Shelves, InsideAProjectMoveWithIt) {
  const Workplace place;
  const auto tide = (place.prebuilt() / "tidecalc-2.1.0").string();
  const auto app = place.folder().write("app/main.c", tide_program).parent_path();
  place.folder().write(
      "app/fibula.toml",
      "# our program\n[[output]]\nname = \"app\"\nsources = [\"*.c\"]\n\n[lane.desk]\ncompiler = \"gcc\"\n");
  ASSERT_EQ(place.fibula("take --here " + tide, app).status, 0);
  ASSERT_EQ(place.fibula("attach tidecalc", app).status, 0);
  ASSERT_EQ(place.fibula("build --run", app).status, 0);
  EXPECT_EQ(place.fibula("take --here --in-place " + tide, app).status, 2);
  EXPECT_EQ(test::read(app / "fibula.toml").substr(0, 40), "shelves = [\"shelf\"]\n\n# our program\n[[out");
  // Nothing that is meant to be kept names a folder of this machine.
  const auto paths = test::shell(
      "rm -rf .fibula compile_commands.json; grep -rIl '" + place.folder().path().string() + "' . || true", app);
  EXPECT_EQ(paths.out, "");
  test::fs::rename(app, place / "moved");
  const auto built = place.fibula("build --run", place / "moved");
  EXPECT_EQ(built.status, 0) << built.all();
  EXPECT_EQ(place.fibula("shelf check", place / "moved").status, 0);
  EXPECT_TRUE(place.shelf_entries().empty()) << "the user's shelf was not needed";
}

/// A library that comes as source, and a project that uses it.
void make_pebble(const Workplace& place) {
  place.folder().write("work/pebble/pebble.h", "int pebble(void);\n");
  place.folder().write("work/pebble/pebble.c", "#include \"pebble.h\"\nint pebble(void) { return 7; }\n");
  place.folder().write("work/app/main.c", "#include <pebble.h>\nint main(void) { return pebble(); }\n");
  place.folder().write(
      "work/app/fibula.toml",
      "[[output]]\nname = \"p\"\nsources = [\"main.c\"]\n[library.pebble]\n[lane.desk]\ncompiler = \"gcc\"\n");
}

TEST(ServedShelf, TakesWhatWasBuiltAndGivesItToTheNextMachine) {
  const Workplace place;
  make_pebble(place);
  const auto served = place / "served";
  test::fs::create_directories(served);
  const Nginx server(place, served);
  ASSERT_EQ(place.shell("$FIBULA take pebble --version 1 && $FIBULA -C app build").status, 0);
  EXPECT_NE(place.shell("$FIBULA shelf publish cairn --only-builds --to " + server.url())
                .all()
                .find("cairn is not on the shelf"),
            std::string::npos);
  const auto put = place.shell("$FIBULA shelf publish pebble --only-builds --to " + server.url());
  EXPECT_NE(put.all().find("pebble 1: 1 build handed on"), std::string::npos) << put.all() << server.log();
  EXPECT_NE(
      place.shell("$FIBULA shelf publish pebble --only-builds --to " + server.url()).all().find("is there already"),
      std::string::npos);
  place.shell("$FIBULA shelf publish pebble --only-builds --to ../folder-shelf");
  // Another machine: the library itself is on its own shelf, the build comes from elsewhere.
  const std::string other =
      "export FIBULA_CACHE=$PWD/cache2 FIBULA_SHELF=\"$PWD/shelf2\" && rm -rf app/.fibula cache2 shelf2 && $FIBULA "
      "take "
      "pebble --version 1 >/dev/null && FIBULA_SHELF=\"$PWD/shelf2;{}\" && $FIBULA -C app build --run";
  for (const auto& from : {server.url(), (place / "folder-shelf").string()}) {
    const auto built = place.shell(fmt::format(fmt::runtime(other), from));
    EXPECT_EQ(built.status, 7) << built.all();
    EXPECT_EQ(built.all().find("pebble:"), std::string::npos) << built.all();
  }
  // Finding one of a thousand costs one request.
  test::must("cd .built/pebble/1 && key=$(ls) && for i in $(seq 1001 2000); do cp -r $key ${key%????}$i; done", served);
  auto before = server.log().size();
  EXPECT_EQ(place.shell(fmt::format(fmt::runtime(other), server.url())).status, 7);
  const std::string found = server.log().substr(before);
  EXPECT_NE(found.find("built.sha256"), std::string::npos) << found;
  EXPECT_EQ(found.find("built.sha256"), found.rfind("built.sha256")) << found;
  EXPECT_LE(std::count(found.begin(), found.end(), '\n'), 5) << "the shelf's index, and what was built: " << found;
  // Finding what is not there costs one too.
  before = server.log().size();
  place.shell("sed -i 's/\\[lane.desk\\]/&\\nflags = [\"-O1\"]/' app/fibula.toml && " +
              fmt::format(fmt::runtime(other), server.url()));
  const std::string asked = server.log().substr(before);
  EXPECT_EQ(asked.find("built.sha256"), asked.rfind("built.sha256")) << asked;
}

TEST(ServedShelf, BuildsItselfWhatIsNotWholeOrNotRight) {
  const Workplace place;
  make_pebble(place);
  const auto served = place / "served";
  test::fs::create_directories(served);
  const Nginx server(place, served);
  ASSERT_EQ(place
                .shell("$FIBULA take pebble --version 1 && $FIBULA -C app build && $FIBULA shelf publish pebble "
                       "--only-builds --to " +
                       server.url())
                .status,
            0);
  const std::string elsewhere =
      "export FIBULA_CACHE=$PWD/cache2 FIBULA_SHELF=\"$PWD/shelf2\" && rm -rf app/.fibula cache2 shelf2 && $FIBULA "
      "take pebble --version 1 >/dev/null && FIBULA_SHELF=\"$PWD/shelf2;" +
      server.url() + "\" && $FIBULA -C app build --run";
  for (const char* damage :
       {"find . -name '*.a' -exec sh -c 'echo x >> {}' \\;", "find . -name card.toml -exec sh -c 'echo x > {}' \\;",
        "find . -name '*.a' -delete", "find . -name built.sha256 -exec sh -c 'echo ../../../x > {}' \\;"}) {
    SCOPED_TRACE(damage);
    test::must(damage, served);
    const auto built = place.shell(elsewhere);
    EXPECT_EQ(built.status, 7) << built.all();
    EXPECT_NE(built.all().find("pebble: pebble.c"), std::string::npos) << built.all();
  }
  EXPECT_NE(place
                .shell("find \"$FIBULA_SHELF/.built\" -name '*.a' -exec sh -c 'chmod u+w {}; echo x >> {}' \\; && "
                       "$FIBULA shelf check")
                .all()
                .find("libpebble.a damaged"),
            std::string::npos);
}

}  // namespace
