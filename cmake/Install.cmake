include(CMakePackageConfigHelpers)

set_target_properties(tanzen_core PROPERTIES EXPORT_NAME core)
set_target_properties(tanzen_cli PROPERTIES EXPORT_NAME cli)

install(TARGETS tanzen_core tanzen_options EXPORT TanzenCoreTargets ARCHIVE DESTINATION ${CMAKE_INSTALL_LIBDIR})
install(TARGETS tanzen tanzen_cli EXPORT TanzenTargets ARCHIVE DESTINATION ${CMAKE_INSTALL_LIBDIR})
install(TARGETS tanzen_program RUNTIME DESTINATION ${CMAKE_INSTALL_BINDIR})
if(TARGET tanzen_mpi)
  install(TARGETS tanzen_mpi RUNTIME DESTINATION ${CMAKE_INSTALL_BINDIR} OPTIONAL)
endif()
install(DIRECTORY include/tanzen DESTINATION ${CMAKE_INSTALL_INCLUDEDIR})
install(FILES ${PROJECT_BINARY_DIR}/generated/tanzen/version.hpp DESTINATION ${CMAKE_INSTALL_INCLUDEDIR}/tanzen)
install(DIRECTORY data/fits DESTINATION ${CMAKE_INSTALL_DATADIR}/tanzen)
install(FILES LICENSE README.md DESTINATION ${CMAKE_INSTALL_DOCDIR})
install(DIRECTORY docs/guide examples DESTINATION ${CMAKE_INSTALL_DOCDIR} PATTERN CMakeLists.txt EXCLUDE)

set(package_dir ${CMAKE_INSTALL_LIBDIR}/cmake/Tanzen)
install(EXPORT TanzenCoreTargets NAMESPACE tanzen:: DESTINATION ${package_dir})
install(EXPORT TanzenTargets NAMESPACE tanzen:: DESTINATION ${package_dir})
configure_package_config_file(cmake/TanzenConfig.cmake.in ${PROJECT_BINARY_DIR}/TanzenConfig.cmake
  INSTALL_DESTINATION ${package_dir})
write_basic_package_version_file(${PROJECT_BINARY_DIR}/TanzenConfigVersion.cmake COMPATIBILITY SameMinorVersion)
install(FILES ${PROJECT_BINARY_DIR}/TanzenConfig.cmake ${PROJECT_BINARY_DIR}/TanzenConfigVersion.cmake
  DESTINATION ${package_dir})

# Relative to itself, so that the installed tree can be moved.
file(RELATIVE_PATH TANZEN_PREFIX_FROM_PKGCONFIG /${CMAKE_INSTALL_LIBDIR}/pkgconfig /)
configure_file(cmake/tanzen.pc.in ${PROJECT_BINARY_DIR}/tanzen.pc @ONLY)
install(FILES ${PROJECT_BINARY_DIR}/tanzen.pc DESTINATION ${CMAKE_INSTALL_LIBDIR}/pkgconfig)
