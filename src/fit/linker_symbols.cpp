#include "fit/linker_symbols.hpp"

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

}  // namespace

bool is_linker_defined(std::string_view name) {
  return std::find(std::begin(provided), std::end(provided), name) != std::end(provided);
}

std::string_view bounded_section(std::string_view name) {
  for (const std::string_view start : {"__start_", "__stop_"}) {
    if (name.starts_with(start)) return name.substr(start.size());
  }
  return {};
}

}  // namespace fibula
