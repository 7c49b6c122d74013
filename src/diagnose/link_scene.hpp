/// A link as a command asks for it: its inputs found as the linker finds them, and the rehearsal of it.
#pragma once

#include "diagnose/evidence.hpp"
#include "link/rehearsal.hpp"

namespace fibula {

/// One input of the command and the file that the linker takes for it.
struct SceneInput {
  CommandInput asked;
  fs::path file = {};                      ///< empty: there is none, or it is no file
  std::vector<fs::path> passed_over = {};  ///< of its name, for other machines
  bool own = true;                         ///< not from the compiler's directories
  bool compiled = false;                   ///< from a source of the command, in a scratch folder

  bool of_unknown_form = false;  ///< a script, a list of exports, a source of another language

  bool is_library_name() const { return asked.step.kind == LinkStep::Kind::library; }
};

/// Linkers that differ in how they look for libraries and archives' members.
struct LinkerTraits {
  bool any_order = false;         ///< an archive may stand before its users
  bool passes_strangers = false;  ///< libraries for other machines are passed over in the search
  bool wants_index = false;       ///< an archive without a symbol table is refused
  bool weighs_needs = false;      ///< what shared libraries lack counts
  bool weighs_versions = false;   ///< and so do versions of symbols
  bool weighs_threads = false;    ///< whether a name is a thread's own
  bool refuses_hidden = false;    ///< what an object hides is no library's
};
LinkerTraits traits_of(const Toolchain& toolchain);

class LinkScene {
 public:
  /// Sources are compiled where that is allowed; without their objects there is no rehearsal.
  LinkScene(const ToolCommand& command, const Toolchain& toolchain, Evidence& evidence);

  const ToolCommand& command() const { return command_; }
  const Toolchain& toolchain() const { return toolchain_; }
  const LinkerTraits& traits() const { return traits_; }
  Evidence& evidence() const { return evidence_; }
  const std::vector<SceneInput>& inputs() const { return inputs_; }
  /// What a compile of one of its sources said, where one failed.
  const std::string& compile_failure() const { return compile_failure_; }
  /// Whether objects are missing that nothing could make.
  bool incomplete() const { return incomplete_; }

  /// The folders that the linker searches, the command's first.
  std::vector<fs::path> folders() const;
  /// Errors: those of a file that is damaged or no library.
  Result<Rehearsal> rehearse() const;
  /// The same with the inputs of other words, whose objects were made already.
  LinkScene changed(const std::vector<std::string>& words) const;

 private:
  void resolve();
  void resolve_library(SceneInput& input, bool only_static);
  void compile_source(SceneInput& input);

  ToolCommand command_;
  const Toolchain& toolchain_;
  Evidence& evidence_;
  LinkerTraits traits_;
  std::vector<SceneInput> inputs_;
  std::string compile_failure_;
  bool incomplete_ = false;
};

/// "main.cpp" for an object that was made of it, "libtide.a(tide.o)", "lib/libtide.so": as a reader of the command
/// knows a file.
std::string shown_in(const LinkScene& scene, const fs::path& file);
/// The command with one more object: behind its last one, so that libraries still serve it.
std::vector<std::string> with_object(const LinkScene& scene, const fs::path& object);
/// Whether an input is an object, or a source that becomes one.
bool is_object(const LinkScene& scene, const SceneInput& input);

std::string shown_user(const LinkScene& scene, const Unresolved& missing);

}  // namespace fibula
