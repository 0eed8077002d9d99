# Misuse that the types forbid: each snippet must be refused by the compiler, for the stated reason and in at most 25
# lines; without its misuse it must compile, so that it is not refused for a reason of its own.
file(GLOB snippets CONFIGURE_DEPENDS ${CMAKE_CURRENT_SOURCE_DIR}/misuse/*.cpp)
get_target_property(eigen_includes Eigen3::Eigen INTERFACE_INCLUDE_DIRECTORIES)
foreach(snippet IN LISTS snippets)
  get_filename_component(name ${snippet} NAME_WE)
  set(compile ${CMAKE_CXX_COMPILER} -std=c++20 -fsyntax-only -I${PROJECT_SOURCE_DIR}/include
    -I${PROJECT_BINARY_DIR}/generated -isystem ${eigen_includes} ${snippet})
  file(STRINGS ${snippet} reason REGEX "^// refused: ")
  string(REPLACE "// refused: " "" reason "${reason}")
  add_test(NAME misuse_${name}_is_refused COMMAND ${CMAKE_COMMAND} "-DCOMPILE=${compile};-DMISUSE" "-DREASON=${reason}"
    -DMOST_LINES=25 -P ${CMAKE_CURRENT_SOURCE_DIR}/misuse/refused.cmake)
  add_test(NAME misuse_${name}_is_the_only_fault COMMAND ${compile})
endforeach()
