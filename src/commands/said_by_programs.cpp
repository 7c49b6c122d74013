/// Drivers, archivers, shells, and what programs print when they cannot open a file of theirs. Relied on: the words of
/// gcc/gcc.cc, clang's driver, binutils' ar, bash, dash, make, and strerror's "No such file or directory".
#include "commands/said.hpp"

namespace fibula {
namespace {

using What = Complaint::Kind;

constexpr LineRow program_lines[] = {
    {"{*}: fatal error: cannot execute '{n}': {d}", What::no_tool},
    {"{*}: fatal error: cannot find '{n}'", What::no_tool},
    {"{*}: error: invalid linker name in '-fuse-ld={n}'", What::no_tool},
    {"{*}: error: invalid linker name in argument '-fuse-ld={n}'", What::no_tool},
    {"{*}: error: unable to execute command: Executable \"{n}\" doesn't exist!", What::no_tool},
    {"{*}: line {*}: {n}: command not found", What::no_tool},
    {"{*}: {n}: command not found", What::no_tool},
    {"{*}: {*}: {n}: not found", What::no_tool},
    {"make: {n}: No such file or directory", What::no_tool},
    {"libtool: error: cannot find the library '{n}' or unhandled argument{*}", What::library_missing},
    {"libtool: {*}: error: cannot find the library '{n}' or unhandled argument{*}", What::library_missing},
    {"{*}ar: {f}: No such file or directory", What::file_missing},
    {"{*}ar: {f}: file format not recognized", What::wrong_format},
    {"{*}: error: linker input file not found: {n}", What::source_missing},
    {"{*}: error: {f}: No such file or directory", What::file_missing},
    {"{*}: error: no such file or directory: '{f}'", What::file_missing},
};

/// What tools cannot write. Relied on: the words of ld, gold, LLD, mold, GNU as, GCC's and Clang's, with strerror's.
constexpr LineRow unwritten_lines[] = {
    {"{*}: cannot open output file {n}: {d}", What::unwritten},
    {"{*}: error: cannot open output file {n}: {d}", What::unwritten},
    {"{*}: error: failed to write to the output file{d}", What::unwritten},
    {"{*}: error: failed to write output '{n}': {d}", What::unwritten},
    {"{*}: fatal error: {n}: open: {d}", What::unwritten},
    {"{*}: fatal error: {n}: failed to open: {d}", What::unwritten},
    {"{*}: final link failed: No space left on device", What::unwritten},
    {"{*}: fatal error: opening dependency file {n}: {d}", What::unwritten},
    {"{*}: error: unable to open output file '{n}': '{d}'", What::unwritten},
    {"Fatal error: can't create {n}: {d}", What::unwritten},
    {"{*}: Fatal error: can't create {n}: {d}", What::unwritten},
    {"{*}: Fatal error: can't close {n}: {d}", What::unwritten},
    {"mold: fatal: cannot open {n}: Is a directory", What::unwritten},
    {"mold: fatal: open_file: failed to open {n}: {d}", What::unwritten},
    {"{*}: error writing to {n}: {d}", What::unwritten},
    {"{*}: fatal error: error writing to {n}: {d}", What::unwritten},
};

/// What a build tool is to make something from, and is not there.
constexpr LineRow unmade_lines[] = {
    {"make{*}: *** No rule to make target '{f}', needed by '{w}'.  Stop.", What::file_missing},
    {"make{*}: *** No rule to make target '{f}', needed by '{w}'.", What::file_missing},
    {"ninja: error: '{f}', needed by '{w}', missing and no known rule to make it", What::file_missing},
};

/// What programs print of a file that they cannot open: its name stands last, before the reason.
constexpr LineRow opened[] = {
    {"{*}: cannot open '{n}': No such file or directory", What::data_missing},
    {"{*}: cannot open {n}: No such file or directory", What::data_missing},
    {"{*} cannot open {n}", What::data_missing},
    {"cannot open {n}", What::data_missing},
    {"could not open {n}", What::data_missing},
    {"{*} could not open {n}", What::data_missing},
    {"failed to open {n}", What::data_missing},
    {"{*} failed to open {n}", What::data_missing},
    {"can't open {n}", What::data_missing},
    {"{*} can't open {n}", What::data_missing},
    {"{n}: No such file or directory", What::data_missing},
};

}  // namespace

std::span<const LineRow> said_by_programs() {
  return program_lines;
}

std::span<const LineRow> said_of_outputs() {
  return unwritten_lines;
}

std::span<const LineRow> said_by_build_tools() {
  return unmade_lines;
}

std::span<const LineRow> said_of_opened_files() {
  return opened;
}

}  // namespace fibula
