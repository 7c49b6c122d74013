/// Sources, objects and headers around a command that have a name.
#pragma once

#include "diagnose/link_scene.hpp"

namespace fibula {

/// An object or source of the program that defines a symbol and is not on the command.
struct DefiningFile {
  fs::path file;
  bool proved = false;  ///< by a symbol table; else by the text of a source that does not compile as it is
};
/// Objects first. What has a main beside the program's is another program's.
std::optional<DefiningFile> own_definer(const std::string& symbol, const LinkScene& scene);

/// The source of the program that an input was compiled from: of an object the one near the command that is called like
/// it, where there is just one.
std::optional<fs::path> source_of(const SceneInput& input, const LinkScene& scene);

/// A source of the command that declares a class of which the symbol is a member.
std::optional<fs::path> own_declaration(const std::string& symbol, const LinkScene& scene);

/// A header that declares it.
std::optional<fs::path> header_that_declares(const std::string& symbol, const LinkScene& scene);

}  // namespace fibula
