#include "link/linker_symbols.hpp"

#include <algorithm>
#include <iterator>

namespace fibula {
namespace {

constexpr std::string_view provided[] = {
    "_DYNAMIC", "_GLOBAL_OFFSET_TABLE_", "_PROCEDURE_LINKAGE_TABLE_", "_TLS_MODULE_BASE_", "__bss_start",
    "__bss_start__", "_bss_end__", "__bss_end__", "__data_start", "__ehdr_start", "__end__", "__etext",
    "__executable_start", "__exidx_end", "__exidx_start", "__fini_array_end", "__fini_array_start", "__global_pointer$",
    "__init_array_end", "__init_array_start", "__preinit_array_end", "__preinit_array_start", "__rela_iplt_end",
    "__rela_iplt_start", "__rel_iplt_end", "__rel_iplt_start", "_edata", "_end", "_etext", "edata", "end", "etext",
    "_gp", "_gp_disp", "__gnu_local_gp", ".TOC.", "_SDA_BASE_", "_SDA2_BASE_",
    // The default scripts of AVR and of bare-metal Arm.
    "_stack", "__bss_end", "__ctors_end", "__ctors_start", "__data_end", "__data_load_end", "__data_load_start",
    "__dtors_end", "__dtors_start", "__eeprom_end", "__heap_start", "__noinit_end", "__noinit_start",
    "__persistent_end", "__persistent_start", "__trampolines_end", "__trampolines_start"};

/// Calls of these are taken out of x86 programs, where the linker knows where thread-local data lies ("ELF Handling For
/// Thread-Local Storage", section 4.2): glibc's archive does not even define them.
constexpr std::string_view relaxed_on_x86[] = {"__tls_get_addr", "___tls_get_addr"};

constexpr std::string_view provided_for_windows[] = {
    "__CTOR_LIST__", "__DTOR_LIST__", "__IAT_end__", "__IAT_start__", "__ImageBase",
    "__RUNTIME_PSEUDO_RELOC_LIST_END__", "__RUNTIME_PSEUDO_RELOC_LIST__", "___CTOR_LIST__", "___DTOR_LIST__",
    "___RUNTIME_PSEUDO_RELOC_LIST_END__", "___RUNTIME_PSEUDO_RELOC_LIST__", "___crt_xc_end__", "___crt_xc_start__",
    "___crt_xi_end__", "___crt_xi_start__", "___crt_xl_start__", "___crt_xp_end__", "___crt_xp_start__",
    "___crt_xt_end__", "___crt_xt_start__", "___tls_end__", "___tls_start__", "__bss_end__", "__bss_start__",
    "__data_end__", "__data_start__", "__end__", "__rt_psrelocs_end", "__rt_psrelocs_size", "__rt_psrelocs_start",
    "_end", "end", "etext", "_etext", "__image_base__", "__section_alignment__", "__file_alignment__",
    "__major_os_version__", "__minor_os_version__", "__major_image_version__", "__minor_image_version__",
    "__major_subsystem_version__", "__minor_subsystem_version__", "__subsystem__", "__size_of_stack_reserve__",
    "__size_of_stack_commit__", "__size_of_heap_reserve__", "__size_of_heap_commit__", "__loader_flags__",
    "__dll_characteristics__", "__dll__",
    // MSVC-style linkers make these from what the program has.
    "__safe_se_handler_table", "__safe_se_handler_count", "__guard_fids_table", "__guard_fids_count", "__guard_flags",
    "__guard_iat_table", "__guard_iat_count", "__guard_longjmp_table", "__guard_longjmp_count", "__guard_eh_cont_table",
    "__guard_eh_cont_count", "__enclave_config"};

constexpr std::string_view provided_for_macos[] = {"dyld_stub_binder", "_mh_execute_header", "_mh_dylib_header",
                                                   "_mh_bundle_header", "__dso_handle"};

template <class List>
bool is_in(const List& list, std::string_view name) {
  return std::find(std::begin(list), std::end(list), name) != std::end(list);
}

}  // namespace

bool is_linker_defined(std::string_view name, const Target& target) {
  const bool underscore = family_of(target.format) == Format::macho || target.arch == Arch::x86;
  switch (family_of(target.format)) {
    case Format::pe:
      return is_in(provided_for_windows, name) ||
             (underscore && name.starts_with('_') && is_in(provided_for_windows, name.substr(1)));
    case Format::macho:
      // `section$start$…` and its like are bounds (ld64's manual page).
      return name.starts_with("section$") || name.starts_with("segment$") || is_in(provided_for_macos, name) ||
             (name.starts_with('_') && is_in(provided_for_macos, name.substr(1)));
    default:
      return is_in(provided, name) ||
             ((target.arch == Arch::x86 || target.arch == Arch::x86_64) && is_in(relaxed_on_x86, name));
  }
}

std::string_view bounded_section(std::string_view name) {
  for (const std::string_view start : {"__start_", "__stop_"}) {
    if (name.starts_with(start)) return name.substr(start.size());
  }
  return {};
}

}  // namespace fibula
