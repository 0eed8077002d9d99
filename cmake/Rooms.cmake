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
endfunction()

# The core stands first in a program, so that the templates that several libraries made are those of the core, where time
# goes, and not those of what was to be compiled soon.
function(tanzen_core_first target)
  target_link_options(${target} PRIVATE LINKER:--whole-archive $<TARGET_FILE:tanzen_core> LINKER:--no-whole-archive)
endfunction()
