/// Lanes, and what their compilers answer when asked.
#pragma once

#include <fibula/result.hpp>
#include <fibula/target.hpp>

#include <filesystem>
#include <map>
#include <string>
#include <vector>

namespace fibula {

enum class Linkage { any, static_, shared };
FIBULA_API std::string_view to_string(Linkage linkage);

/// How a project uses one library.
struct LibraryUse {
  std::string name;
  std::string version = {};  ///< a range, ">=2.1 <3"; empty takes any
  Linkage linkage = Linkage::any;
  std::filesystem::path folder = {};  ///< a copy inside the project instead of the shelf; absolute
  std::string place = {};             ///< "line 12" of fibula.toml
};

/// One way in which the program must build, as the project file says it.
struct Lane {
  std::string name;
  std::string compiler;
  std::vector<std::string> flags = {};
  std::string configuration = "release";  ///< debug or release
  std::string runner = {};                ///< starts programs that this machine cannot start itself
  std::vector<std::string> definitions = {};
  std::map<std::string, LibraryUse> overrides = {};  ///< [lane.X.library.Y]
  std::string place = {};                            ///< "line 12" of fibula.toml
};

enum class Family { gcc, clang };
FIBULA_API std::string_view to_string(Family family);

/// One thing that a compiler driver hands to the linker by itself, in the order of its command line.
struct LinkStep {
  enum class Kind {
    file,         ///< a start or end file
    library,      ///< -l
    user_inputs,  ///< where the program's own objects and libraries stand
    group_begin,
    group_end,
    as_needed,  ///< shared libraries from here on only when they satisfy a reference
    no_as_needed,
    push_state,
    pop_state,
    only_static,  ///< -l finds archives only, from here on
    any_linkage,
  };
  Kind kind;
  std::string name = {};  ///< a path, or a library's name without -l
};

/// What a compiler with its flags makes code for, where it searches, and what it adds to a link: asked, never assumed.
struct Toolchain {
  std::filesystem::path compiler;
  Family family = Family::gcc;
  std::string version;
  std::string triple;
  Target target;
  bool pie = false;          ///< programs are position independent unless flags say otherwise
  bool static_link = false;  ///< the flags ask for a program without shared libraries
  std::filesystem::path sysroot;
  std::filesystem::path linker;
  std::vector<std::filesystem::path> include_directories;
  std::vector<std::filesystem::path> library_directories;
  std::vector<LinkStep> link_steps;
  std::vector<std::string> environment;  ///< variables that change the answers: "LIBRARY_PATH=/opt/lib"
};

struct Question {
  std::string compiler;
  std::vector<std::string> flags = {};
};

/// Asks one compiler, or takes the answer kept for its identity, flags and environment. At most two runs of it.
/// Errors: missing_tool (no such program), refused (it rejects a flag, hangs, or does not answer like GCC or Clang).
FIBULA_API Result<Toolchain> ask(const Question& question);

/// Asks several side by side; one answer for each question, in their order.
FIBULA_API std::vector<Result<Toolchain>> ask_all(const std::vector<Question>& questions);

/// C++ compilers of the GCC and Clang families in PATH, each real program once, sorted by name.
FIBULA_API std::vector<std::filesystem::path> find_compilers();

}  // namespace fibula
