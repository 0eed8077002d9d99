# What a user's own method compiles to is their compiler's: one built by clang, under its sanitizer, runs with the library.
find_program(CLANG NAMES clang++-16 clang++)
if(CLANG AND CMAKE_CXX_COMPILER_ID STREQUAL "GNU")
  set(program ${CMAKE_CURRENT_BINARY_DIR}/other_compiler_own_method)
  add_test(NAME other_compiler_builds
    COMMAND ${CLANG} -std=c++20 -O1 -g1 -Wall -Wextra -Wpedantic -Wshadow -Wconversion -Werror -fsanitize=address,undefined
      -I${PROJECT_SOURCE_DIR}/include -I${PROJECT_BINARY_DIR}/generated
      -isystem$<TARGET_PROPERTY:Eigen3::Eigen,INTERFACE_INCLUDE_DIRECTORIES>
      ${CMAKE_CURRENT_SOURCE_DIR}/other_compiler/own_method.cpp $<TARGET_FILE:tanzen_core>
      $<TARGET_FILE:fmt::fmt> -o ${program})
  add_test(NAME other_compiler_runs COMMAND ${program})
  set_tests_properties(other_compiler_builds PROPERTIES FIXTURES_SETUP other_compiler)
  set_tests_properties(other_compiler_runs PROPERTIES FIXTURES_REQUIRED other_compiler)
endif()
