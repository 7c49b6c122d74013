/// How a file was made: compiler, language, configuration, debug information, and what was left of the builder's
/// machine.
#pragma once

#include "binary/image.hpp"
#include "facts/name_traits.hpp"

#include <fibula/facts.hpp>

namespace fibula {

void add_toolset(const Image& image, Facts& facts);
/// After the toolset: its version may name the thread model.
void add_thread_model(Facts& facts);
void add_language(const Image& image, const NameTraits& traits, bool any_symbol, Facts& facts);
/// After the run-time facts: an MSVC-style run-time tells the configuration.
void add_configuration(const Image& image, Facts& facts);
void add_debug(const Image& image, Facts& facts);

}  // namespace fibula
