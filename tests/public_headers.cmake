# Every public header compiles on its own: one source that includes nothing else, for each.
file(GLOB_RECURSE headers CONFIGURE_DEPENDS RELATIVE ${PROJECT_SOURCE_DIR}/include ${PROJECT_SOURCE_DIR}/include/*.hpp)
add_library(tanzen_headers_alone OBJECT)
foreach(header IN LISTS headers)
  string(REPLACE "/" "_" unit ${header})
  set(source ${CMAKE_CURRENT_BINARY_DIR}/headers/${unit}.cpp)
  file(CONFIGURE OUTPUT ${source} CONTENT "#include \"@header@\"\n" @ONLY)
  target_sources(tanzen_headers_alone PRIVATE ${source})
endforeach()
target_link_libraries(tanzen_headers_alone PRIVATE tanzen::cli tanzen_options)
# Nothing of them is run. What is not Tanzen's is read once: of it, tests/program/test_public_headers.cpp sees that each
# header includes what it names.
target_compile_options(tanzen_headers_alone PRIVATE -O0)
target_precompile_headers(tanzen_headers_alone PRIVATE <Eigen/Core> <algorithm> <chrono> <coroutine> <filesystem>
  <functional> <map> <memory> <optional> <set> <span> <string> <variant> <vector> <fmt/format.h>)
