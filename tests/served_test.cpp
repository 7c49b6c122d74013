/// Shelves in several places: read-only, inside a project, and given out by a plain web server.
#include "support/support.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>
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

const char* const program = "#include <tidecalc.h>\nint main(void) { return tide_height(0, 0, 0) > 9; }\n";

TEST(ServedShelf, IsUsedOverHttpCheckedAndKept) {
  const Workplace place;
  ASSERT_EQ(place.fibula("take " + (place.prebuilt() / "tidecalc-2.1.0").string()).status, 0);
  const Nginx server(place, place.shelf());
  const auto app = place.folder().write("app/main.c", program).parent_path();
  const std::string shelf = fmt::format("--shelf '{}' ", server.url());
  EXPECT_EQ(place.fibula(shelf + "shelf").out.substr(0, 15), "tidecalc  2.1.0");
  ASSERT_EQ(place.fibula(shelf + "attach tidecalc", app).status, 0);
  EXPECT_EQ(server.log().find("libtidecalc.a"), std::string::npos) << "files are fetched when they are needed";
  const auto built = place.fibula(shelf + "build --run", app);
  EXPECT_EQ(built.status, 0) << built.all();
  EXPECT_EQ(place.fibula(shelf + "shelf check").status, 0);
  // What was fetched serves without the server too.
  server.stop();
  EXPECT_EQ(place.fibula(shelf + "fit", app).status, 0);
  EXPECT_EQ(place.fibula(shelf + "take .").status, 2) << "nothing can be put on it";
}

/// Two machines: folders and caches of their own, one served shelf, one lock.
TEST(ServedShelf, GivesTheSameBytesToWhoHasTheLock) {
  const Workplace place;
  ASSERT_EQ(place.fibula("take " + (place.prebuilt() / "tidecalc-2.1.0").string()).status, 0);
  const Nginx server(place, place.shelf());
  place.folder().write("one/app/main.c", program);
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
  const auto app = place.folder().write("app/main.c", program).parent_path();
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
  const auto app = place.folder().write("app/main.c", program).parent_path();
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
  const auto app = place.folder().write("app/main.c", program).parent_path();
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
  EXPECT_NE(place.shell("$FIBULA shelf publish cairn --to " + server.url()).all().find("nothing was built of cairn"),
            std::string::npos);
  const auto put = place.shell("$FIBULA shelf publish pebble --to " + server.url());
  EXPECT_NE(put.all().find("pebble 1: 1 build handed on"), std::string::npos) << put.all() << server.log();
  EXPECT_NE(place.shell("$FIBULA shelf publish pebble --to " + server.url()).all().find("is there already"),
            std::string::npos);
  place.shell("$FIBULA shelf publish pebble --to ../folder-shelf");
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
  // Finding what is not there costs one request.
  const auto before = server.log().size();
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
                .shell("$FIBULA take pebble --version 1 && $FIBULA -C app build && $FIBULA shelf publish pebble --to " +
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
