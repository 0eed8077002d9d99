function(run)
  execute_process(COMMAND ${ARGN} RESULT_VARIABLE code OUTPUT_VARIABLE output ERROR_VARIABLE output)
  if(NOT code EQUAL 0)
    message(FATAL_ERROR "failed with ${code}: ${ARGN}\n${output}")
  endif()
endfunction()

file(REMOVE_RECURSE ${PLACE})
run(${CMAKE_COMMAND} --install ${BUILD} --prefix ${PLACE}/installed)
run(${CMAKE_COMMAND} -G Ninja -S ${SOURCE} -B ${PLACE}/build -DCMAKE_PREFIX_PATH=${PLACE}/installed
  -DCMAKE_CXX_COMPILER=${COMPILER} -DCMAKE_CXX_FLAGS=${FLAGS})
run(${CMAKE_COMMAND} --build ${PLACE}/build)
run(${PLACE}/build/consumer)
run(${CMAKE_COMMAND} -G Ninja -S ${SOURCE}/core -B ${PLACE}/build-core -DCMAKE_PREFIX_PATH=${PLACE}/installed
  -DCMAKE_CXX_COMPILER=${COMPILER} -DCMAKE_CXX_FLAGS=${FLAGS} -DCMAKE_DISABLE_FIND_PACKAGE_SQLite3=ON
  -DCMAKE_DISABLE_FIND_PACKAGE_CLI11=ON -DCMAKE_DISABLE_FIND_PACKAGE_TBB=ON)
run(${CMAKE_COMMAND} --build ${PLACE}/build-core)
run(${PLACE}/build-core/consumer)

file(GLOB_RECURSE descriptions ${PLACE}/installed/*/tanzen.pc)
get_filename_component(folder ${descriptions} DIRECTORY)
set(ENV{PKG_CONFIG_PATH} ${folder})
execute_process(COMMAND pkg-config --cflags --libs tanzen
  OUTPUT_VARIABLE flags RESULT_VARIABLE code OUTPUT_STRIP_TRAILING_WHITESPACE)
if(NOT code EQUAL 0)
  message(FATAL_ERROR "pkg-config does not know tanzen")
endif()
separate_arguments(flags)
run(${COMPILER} ${FLAGS} ${SOURCE}/main.cpp ${flags} -o ${PLACE}/by_pkg_config)
run(${PLACE}/by_pkg_config)
