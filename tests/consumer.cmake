# A project that has only the installed package: installed, configured, built and run; once by CMake, once by pkg-config.
add_test(NAME consumer_project
  COMMAND ${CMAKE_COMMAND}
    -DBUILD=${PROJECT_BINARY_DIR} -DSOURCE=${CMAKE_CURRENT_SOURCE_DIR}/consumer -DPLACE=${CMAKE_CURRENT_BINARY_DIR}/consumer
    -DCOMPILER=${CMAKE_CXX_COMPILER} -DFLAGS=$<$<BOOL:${TANZEN_SANITIZE}>:-fsanitize=address,undefined>
    -P ${CMAKE_CURRENT_SOURCE_DIR}/consumer/run.cmake)
set_tests_properties(consumer_project PROPERTIES TIMEOUT 600 COST 40)
