# The flags of Fibula's own targets: on the targets only, never global, so that a consumer keeps its own.
# In large units names meet that never stand in one file: -Wshadow is for the small ones.
add_library(fibula-flags INTERFACE)
target_compile_options(fibula-flags INTERFACE
  -Wall -Wextra -Wpedantic $<$<NOT:$<BOOL:${FIBULA_LARGE_UNITS}>>:-Wshadow> -Wconversion -Wsign-conversion -Wnon-virtual-dtor -Wold-style-cast -Wimplicit-fallthrough
  -Wno-missing-field-initializers)  # a designated initialiser names what it sets; the rest has its default
if(FIBULA_DEVELOPER)
  target_compile_options(fibula-flags INTERFACE -Werror)
endif()
if(FIBULA_SANITIZE)
  target_compile_options(fibula-flags INTERFACE -fsanitize=${FIBULA_SANITIZE} -fno-omit-frame-pointer -fno-sanitize-recover=all)
  target_link_options(fibula-flags INTERFACE -fsanitize=${FIBULA_SANITIZE})
  # The fuzzer sees which way an input took through all of the code, not only through the target's own.
  if(FIBULA_FUZZ)
    target_compile_options(fibula-flags INTERFACE -fsanitize=fuzzer-no-link)
  endif()
  # Instrumented code hides from GCC that its standard library's objects are initialised.
  target_compile_options(fibula-flags INTERFACE $<$<CXX_COMPILER_ID:GNU>:-Wno-maybe-uninitialized>)
endif()
