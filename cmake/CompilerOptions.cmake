# Options for Tanzen's own code; never handed on to who uses it.
add_library(tanzen_options INTERFACE)
target_compile_options(tanzen_options INTERFACE -Wall -Wextra -Wpedantic -Wshadow -Wconversion)

# A fused multiply-add rounds once where two instructions round twice: the same bits everywhere need it off.
target_compile_options(tanzen_options INTERFACE -ffp-contract=off)

# Nothing reads errno after a function of mathematics; without it a square root is one instruction.
target_compile_options(tanzen_options INTERFACE -fno-math-errno)

if(TANZEN_SANITIZE)
  add_compile_options(-fsanitize=address,undefined -fno-sanitize-recover=all -fno-omit-frame-pointer)
  # Where things lie is settled by the linker, not at each of the tests' two thousand starts of the program.
  add_link_options(-fsanitize=address,undefined -no-pie)
  if(CMAKE_CXX_COMPILER_ID MATCHES "Clang")
    # Local variables on the heap, where clang puts them to find uses after return, take most of a test's time.
    add_compile_options(-fsanitize-address-use-after-return=never)
    add_compile_options(-fsanitize-ignorelist=${CMAKE_CURRENT_LIST_DIR}/undefined.ignorelist)
    # Twenty programs of 50 MB each are linked in a quarter of the time.
    find_program(TANZEN_LINKER NAMES ld.lld-16 ld.lld)
    if(TANZEN_LINKER)
      add_link_options(--ld-path=${TANZEN_LINKER})
    endif()
  endif()
  add_compile_definitions(_GLIBCXX_ASSERTIONS)
endif()

# Units of many sources: collecting what the compiler itself threw away takes a tenth of its time, and saves a sixth of
# its memory, of which it takes up to 2 GB.
if(TANZEN_LARGE_UNITS AND CMAKE_CXX_COMPILER_ID STREQUAL "GNU")
  add_compile_options(--param=ggc-min-expand=10000 --param=ggc-min-heapsize=2000000)
endif()

# For what only calls the libraries, where all time goes: to be compiled soon matters more.
set(tanzen_light $<IF:$<BOOL:${TANZEN_SANITIZE}>,-O0,$<$<CONFIG:Release>:-O1>>)

find_program(CCACHE ccache)
if(CCACHE)
  # Precompiled headers carry times that ccache must not take for changes. What a source reads is told by its compilation,
  # not by another run of the preprocessor before it.
  set(CMAKE_CXX_COMPILER_LAUNCHER
    env CCACHE_DEPEND=1 CCACHE_SLOPPINESS=pch_defines,time_macros ${CCACHE})
endif()
