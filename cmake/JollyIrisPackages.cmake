# Packages for Debian: the tool, the libraries, what it takes to build against them, and the Python
# module. `cpack -G DEB` in a build whose prefix is /usr (scripts/make_packages.sh does all of it).

set(CPACK_GENERATOR DEB)
set(CPACK_PACKAGE_NAME jolly-iris)
set(CPACK_PACKAGE_VENDOR "Jolly Iris")
set(CPACK_PACKAGE_CONTACT "The Jolly Iris authors <authors@jolly-iris.example>")
set(CPACK_PACKAGE_DESCRIPTION_SUMMARY "virtual cameras equal to real ones")
set(CPACK_PACKAGE_VERSION ${PROJECT_VERSION})
set(CPACK_PACKAGE_HOMEPAGE_URL "https://jolly-iris.example/")
set(CPACK_PACKAGING_INSTALL_PREFIX /usr)
set(CPACK_STRIP_FILES ON)
set(CPACK_DEB_COMPONENT_INSTALL ON)
set(CPACK_COMPONENTS_ALL tool libraries development)
if(JOLLY_IRIS_BUILD_PYTHON)
  list(APPEND CPACK_COMPONENTS_ALL python)
endif()
set(CPACK_COMPONENTS_GROUPING IGNORE)
set(CPACK_DEBIAN_FILE_NAME DEB-DEFAULT)
set(CPACK_DEBIAN_PACKAGE_SHLIBDEPS ON)
set(CPACK_DEBIAN_PACKAGE_SHLIBDEPS_PRIVATE_DIRS ${CMAKE_LIBRARY_OUTPUT_DIRECTORY})
set(CPACK_DEBIAN_PACKAGE_CONTROL_STRICT_PERMISSION ON)
set(CPACK_DEBIAN_COMPRESSION_TYPE xz)

set(libraries libjolly-iris${JOLLY_IRIS_SO_VERSION})
set(this_version "(= ${PROJECT_VERSION})")
set(CPACK_DEBIAN_LIBRARIES_PACKAGE_NAME ${libraries})
set(CPACK_DEBIAN_LIBRARIES_PACKAGE_SECTION libs)
# CPack's own way to say this calls ldconfig by hand.
set(shlibs "")
get_property(rooms GLOBAL PROPERTY JOLLY_IRIS_ROOMS)
foreach(room IN LISTS rooms)
  string(APPEND shlibs "libjolly_iris_${room} ${JOLLY_IRIS_SO_VERSION} ${libraries} ${this_version}\n")
endforeach()
file(WRITE ${PROJECT_BINARY_DIR}/debian/shlibs "${shlibs}")
file(WRITE ${PROJECT_BINARY_DIR}/debian/triggers "activate-noawait ldconfig\n")
set(CPACK_DEBIAN_LIBRARIES_PACKAGE_CONTROL_EXTRA
  ${PROJECT_BINARY_DIR}/debian/shlibs ${PROJECT_BINARY_DIR}/debian/triggers)
set(CPACK_DEBIAN_LIBRARIES_DESCRIPTION "From a camera report to the virtual camera that equals it: focal length,
sensor, stop, focus, exposure, iris and squeeze; its depth of field, its
discs, and what of it a plate itself tells.

These are the libraries, with the parts they load when they need them.")
set(CPACK_DEBIAN_TOOL_PACKAGE_NAME jolly-iris)
set(CPACK_DEBIAN_TOOL_PACKAGE_SECTION graphics)
set(CPACK_DEBIAN_TOOL_PACKAGE_DEPENDS "${libraries} ${this_version}")
set(CPACK_DEBIAN_TOOL_DESCRIPTION "From a camera report to the virtual camera that equals it: focal length,
sensor, stop, focus, exposure, iris and squeeze; its depth of field, its
discs, and what of it a plate itself tells.

This is the command, with its manual and completion for bash and zsh.")
set(CPACK_DEBIAN_DEVELOPMENT_PACKAGE_NAME libjolly-iris-dev)
set(CPACK_DEBIAN_DEVELOPMENT_PACKAGE_SECTION libdevel)
set(CPACK_DEBIAN_DEVELOPMENT_PACKAGE_DEPENDS "${libraries} ${this_version}")
set(CPACK_DEBIAN_DEVELOPMENT_DESCRIPTION "What programs are built with that link the libraries: headers, CMake
targets and a pkg-config file. The sampling headers need nothing but a
C++14 compiler.")
set(CPACK_DEBIAN_PYTHON_PACKAGE_NAME python3-jolly-iris)
set(CPACK_DEBIAN_PYTHON_PACKAGE_SECTION python)
set(CPACK_DEBIAN_PYTHON_PACKAGE_DEPENDS
  "${libraries} ${this_version}, python3 (>= 3.11), python3-numpy")
set(CPACK_DEBIAN_PYTHON_DESCRIPTION "The libraries in Python 3, with NumPy arrays: shots, cameras, who is sharp,
samplers, defocus, trace, measure and match.")

# Each package says what it is allowed, and what changed.
find_program(GZIP gzip)
if(GZIP)
  set(changes ${PROJECT_BINARY_DIR}/changelog.gz)
  add_custom_command(OUTPUT ${changes}
    COMMAND ${GZIP} -9nc ${PROJECT_SOURCE_DIR}/cmake/debian/changelog > ${changes}
    DEPENDS ${PROJECT_SOURCE_DIR}/cmake/debian/changelog VERBATIM)
  add_custom_target(packaged_changes ALL DEPENDS ${changes})
  foreach(component IN ITEMS TOOL LIBRARIES DEVELOPMENT PYTHON)
    string(TOLOWER ${component} part)
    if(part IN_LIST CPACK_COMPONENTS_ALL)
      set(folder ${CMAKE_INSTALL_DATADIR}/doc/${CPACK_DEBIAN_${component}_PACKAGE_NAME})
      install(FILES cmake/debian/copyright DESTINATION ${folder} COMPONENT ${part})
      install(FILES ${changes} CHANGELOG.md DESTINATION ${folder} COMPONENT ${part})
    endif()
  endforeach()
endif()

include(CPack)
