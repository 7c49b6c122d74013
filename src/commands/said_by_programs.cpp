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
    {"{*}ar: {f}: No such file or directory", What::file_missing},
    {"{*}ar: {f}: file format not recognized", What::wrong_format},
    {"{*}: error: linker input file not found: {n}", What::source_missing},
    {"{*}: error: {f}: No such file or directory", What::file_missing},
    {"{*}: error: no such file or directory: '{f}'", What::file_missing},
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

std::span<const LineRow> said_of_opened_files() {
  return opened;
}

}  // namespace fibula
