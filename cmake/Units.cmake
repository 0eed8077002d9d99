# Sources are compiled together, so that what they share is read and compiled once for all of them. A change of one
# compiles its whole unit again: presets for work on the code leave it off.
option(TANZEN_LARGE_UNITS "Compile many sources together" OFF)
set(TANZEN_UNIT_BYTES 160000 CACHE STRING "Most source in a unit, in bytes")

# A target's sources are together in the order of their list; with BY_FOLDER only those of one folder, where each names
# so much of its own that the names of all would clash.
function(tanzen_group_sources target)
  if(NOT TANZEN_LARGE_UNITS)
    return()
  endif()
  cmake_parse_arguments(only "BY_FOLDER" "" "" ${ARGN})
  get_target_property(sources ${target} SOURCES)
  set(unit 0)
  set(filled 0)
  set(folder_before "")
  foreach(source IN LISTS sources)
    get_filename_component(folder ${source} DIRECTORY)
    file(SIZE ${source} size)
    math(EXPR filled "${filled} + ${size}")
    if(filled GREATER TANZEN_UNIT_BYTES OR (only_BY_FOLDER AND NOT folder STREQUAL folder_before))
      math(EXPR unit "${unit} + 1")
      set(filled ${size})
    endif()
    set(folder_before ${folder})
    set_property(SOURCE ${source} PROPERTY UNITY_GROUP ${unit})
  endforeach()
  set_target_properties(${target} PROPERTIES UNITY_BUILD ON UNITY_BUILD_MODE GROUP)
  # A type of a source's own is no less its own for standing in a unit with others.
  target_compile_options(${target} PRIVATE $<$<CXX_COMPILER_ID:GNU>:-Wno-subobject-linkage>)
endfunction()
