/// What tools say when something does not work, before anything is looked up.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace fibula {

struct Complaint {
  enum class Kind : uint8_t {
    // Compilers and assemblers.
    header_missing,  ///< name: the header as it was included
    header_refuses,  ///< name: the text behind #error
    unknown_name,    ///< name: an identifier that nothing declares
    language,        ///< an error that is none of these; name: its text; file: where the same was read before
    assembler,       ///< the same of an assembler
    source_missing,  ///< name: a file that the command compiles
    // Linkers.
    undefined,         ///< name: the symbol, readable or mangled
    not_on_line,       ///< name: a symbol of a library that only another library brings
    hidden,            ///< name: a symbol that its file keeps to itself
    library_missing,   ///< name: what stood behind -l, or the file
    library_skipped,   ///< file: passed over, since it is for another machine
    file_missing,      ///< file
    wrong_machine,     ///< file
    wrong_format,      ///< file: not of a form that the linker takes
    no_library,        ///< file: a text or something else
    truncated,         ///< file
    no_index,          ///< file: an archive without a symbol table
    member_gone,       ///< file: of a thin archive; name: the member
    foreign_lto,       ///< file: link-time code of another compiler
    not_pic,           ///< file
    duplicate,         ///< name: the symbol; file and user: both sides
    float_abi,         ///< file
    processor,         ///< file
    flavour,           ///< name: the key of a mismatch; file and user: both sides
    no_subsystem,      ///< nothing says which
    no_room,           ///< name: a memory region
    static_of_shared,  ///< file: a shared library in a static link
    need_missing,      ///< name: a shared library that file needs
    thread_kind,       ///< name: a symbol that is a thread's own in one file, and not in another
    dll_on_line,       ///< file: a DLL where an import library belongs
    // Loaders.
    missing,        ///< name: a file that is nowhere
    wrong_arch,     ///< name: a file for another machine
    unloadable,     ///< name: a file that is no library; detail: what the loader says of it
    version,        ///< name: the file; detail: the symbol version that it lacks
    symbol,         ///< name: the symbol; file: where it was looked for, if told
    no_loader,      ///< name: the program, whose own loader is not there
    other_machine,  ///< name: the program, which is for another machine
    permission,     ///< name: the program or library
    sanitizer,      ///< name: the sanitizer's run-time, which is not loaded first
    instruction,    ///< the processor does not know an instruction
    // Programs and shells.
    data_missing,  ///< name: a file that a program could not open
    no_tool,       ///< name: a program that is not there
    unwritten,     ///< name: a file that a tool could not write; detail: why
    failed,        ///< name: a driver's words that its linker failed; why stood before them
  };
  Kind kind;
  std::string name = {};
  std::string user = {};  ///< who asks: "main.o: in function `main'", or a path, or as much of one as is printed
  std::string detail = {};
  std::string file = {};
  std::string program = {};                     ///< where a loader names it beside the one who asks
  std::vector<std::string> included_from = {};  ///< of a compiler's: who includes the file, the nearest first
  size_t line = 0;                              ///< of the log, from 0
  enum class Teller : uint8_t { any, microsoft, apple } teller = Teller::any;  ///< whose linker, where it shows
};

/// Whether a complaint is one of a loader.
inline bool is_of_loader(Complaint::Kind kind) {
  return kind >= Complaint::Kind::missing && kind <= Complaint::Kind::instruction;
}

}  // namespace fibula
