# Every public header compiles on its own: one source that includes nothing else, for each. Nothing of them is run.
#
# What a header includes anyway may be read once for all of its kind: whatever that brings, the header has by itself.
# So headers are parted by the foundation that they include, whether themselves or by others, the last of this list.
# What is not Tanzen's is read once too; of it, tests/program/test_public_headers.cpp sees that each header includes
# what it names.
set(foundations vector problem method outcome)
set(read_for_vector tanzen/numeric/vector.hpp)
set(read_for_problem tanzen/problem/problem.hpp)
set(read_for_method tanzen/search/evaluator.hpp tanzen/search/method.hpp)
set(read_for_outcome tanzen/search/outcome.hpp)
set(not_ours <algorithm> <chrono> <coroutine> <filesystem> <functional> <map> <memory> <optional> <set> <span> <string>
  <variant> <vector> <Eigen/Core> <fmt/format.h>)

# Sets `included` to the headers of Tanzen that one includes, directly or not.
function(tanzen_included_by header)
  get_property(is_known GLOBAL PROPERTY included_by_${header} SET)
  if(NOT is_known)
    set(all "")
    file(STRINGS ${PROJECT_SOURCE_DIR}/include/${header} lines REGEX "^#include \"tanzen/")
    foreach(line IN LISTS lines)
      string(REGEX REPLACE ".*\"(.*)\".*" "\\1" direct "${line}")
      if(EXISTS ${PROJECT_SOURCE_DIR}/include/${direct}) # the version's is written by the build
        tanzen_included_by(${direct})
        list(APPEND all ${direct} ${included})
      endif()
    endforeach()
    list(REMOVE_DUPLICATES all)
    set_property(GLOBAL PROPERTY included_by_${header} "${all}")
  endif()
  get_property(known GLOBAL PROPERTY included_by_${header})
  set(included ${known} PARENT_SCOPE)
endfunction()

file(GLOB_RECURSE headers CONFIGURE_DEPENDS RELATIVE ${PROJECT_SOURCE_DIR}/include ${PROJECT_SOURCE_DIR}/include/*.hpp)
foreach(header IN LISTS headers)
  tanzen_included_by(${header})
  set(base none)
  foreach(foundation IN LISTS foundations)
    set(missing ${read_for_${foundation}})
    list(REMOVE_ITEM missing ${included})
    if(NOT missing)
      set(base ${foundation})
    endif()
  endforeach()
  string(MAKE_C_IDENTIFIER ${header} unit)
  set(source ${CMAKE_CURRENT_BINARY_DIR}/headers/${unit}.cpp)
  file(CONFIGURE OUTPUT ${source} CONTENT "#include \"@header@\"\n" @ONLY)
  list(APPEND sources_on_${base} ${source})
endforeach()

foreach(base IN LISTS foundations ITEMS none)
  add_library(tanzen_headers_on_${base} OBJECT ${sources_on_${base}})
  target_link_libraries(tanzen_headers_on_${base} PRIVATE tanzen::cli tanzen_options)
  target_compile_options(tanzen_headers_on_${base} PRIVATE -O0)
  list(TRANSFORM read_for_${base} REPLACE "(.+)" "<\\1>" OUTPUT_VARIABLE foundation)
  target_precompile_headers(tanzen_headers_on_${base} PRIVATE ${not_ours} ${foundation})
endforeach()
