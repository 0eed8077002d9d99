# A room is a folder of public headers, include/tanzen/<room>, and one of sources, src/<room>.
function(tanzen_add_rooms target)
  foreach(room IN LISTS ARGN)
    file(GLOB_RECURSE sources CONFIGURE_DEPENDS ${PROJECT_SOURCE_DIR}/src/${room}/*.cpp)
    target_sources(${target} PRIVATE ${sources})
  endforeach()
  target_include_directories(${target} PUBLIC
    $<BUILD_INTERFACE:${PROJECT_SOURCE_DIR}/include>
    $<BUILD_INTERFACE:${PROJECT_BINARY_DIR}/generated>
    $<INSTALL_INTERFACE:${CMAKE_INSTALL_INCLUDEDIR}>)
  target_compile_features(${target} PUBLIC cxx_std_20)
  target_precompile_headers(${target} PRIVATE
    <algorithm> <cmath> <functional> <map> <memory> <optional> <string> <vector> <Eigen/Core> <fmt/format.h>
    <tanzen/problem/problem.hpp>)
endfunction()
