include(CMakePackageConfigHelpers)

install(TARGETS fibula EXPORT fibula-targets)
if(TARGET fibula-shared)
  install(TARGETS fibula-shared EXPORT fibula-targets)
endif()
install(TARGETS fibula-cli)
install(DIRECTORY ${PROJECT_SOURCE_DIR}/include/fibula DESTINATION ${CMAKE_INSTALL_INCLUDEDIR})
install(EXPORT fibula-targets NAMESPACE fibula:: DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/fibula)

configure_package_config_file(${PROJECT_SOURCE_DIR}/cmake/fibula-config.cmake.in ${PROJECT_BINARY_DIR}/fibula-config.cmake
  INSTALL_DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/fibula)
write_basic_package_version_file(${PROJECT_BINARY_DIR}/fibula-config-version.cmake COMPATIBILITY SameMinorVersion)
install(FILES ${PROJECT_BINARY_DIR}/fibula-config.cmake ${PROJECT_BINARY_DIR}/fibula-config-version.cmake
  DESTINATION ${CMAKE_INSTALL_LIBDIR}/cmake/fibula)
