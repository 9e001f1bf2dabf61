# A room of the house: one shared library with the alias JollyIris::NAME, installed and exported.

function(jolly_iris_warnings target)
  target_compile_options(${target} PRIVATE -Wall -Wextra -Wconversion -Wshadow)
  if(JOLLY_IRIS_WERROR)
    target_compile_options(${target} PRIVATE -Werror)
  endif()
  if(JOLLY_IRIS_SANITIZE)
    target_compile_options(${target} PRIVATE -fsanitize=${JOLLY_IRIS_SANITIZE}
      -fno-omit-frame-pointer -fno-sanitize-recover=all)
    target_link_options(${target} PRIVATE -fsanitize=${JOLLY_IRIS_SANITIZE})
  endif()
endfunction()

function(jolly_iris_room name)
  cmake_parse_arguments(ROOM "" "" "SOURCES;PUBLIC;PRIVATE" ${ARGN})
  set(target jolly_iris_${name})
  list(TRANSFORM ROOM_SOURCES PREPEND ${PROJECT_SOURCE_DIR}/src/${name}/)
  add_library(${target} SHARED ${ROOM_SOURCES})
  add_library(JollyIris::${name} ALIAS ${target})
  set_target_properties(${target} PROPERTIES EXPORT_NAME ${name} SOVERSION ${PROJECT_VERSION_MAJOR}
    VERSION ${PROJECT_VERSION})
  target_compile_features(${target} PUBLIC cxx_std_20)
  target_include_directories(${target}
    PUBLIC $<BUILD_INTERFACE:${PROJECT_SOURCE_DIR}/include>
           $<INSTALL_INTERFACE:${CMAKE_INSTALL_INCLUDEDIR}>
    PRIVATE ${PROJECT_SOURCE_DIR}/src/${name})
  target_link_libraries(${target} PUBLIC ${ROOM_PUBLIC} PRIVATE ${ROOM_PRIVATE})
  jolly_iris_warnings(${target})
  # A room that uses another without saying so does not link: the arrows stay as they are drawn.
  if(NOT JOLLY_IRIS_SANITIZE)
    target_link_options(${target} PRIVATE -Wl,--no-undefined)
  endif()
  install(TARGETS ${target} EXPORT JollyIrisTargets)
endfunction()

# A module that room ROOM loads by itself when it is first needed.
function(jolly_iris_module name room)
  cmake_parse_arguments(MODULE "" "" "SOURCES;PRIVATE" ${ARGN})
  set(target jolly_iris_${name})
  list(TRANSFORM MODULE_SOURCES PREPEND ${PROJECT_SOURCE_DIR}/src/${room}/)
  add_library(${target} MODULE ${MODULE_SOURCES})
  target_include_directories(${target} PRIVATE ${PROJECT_SOURCE_DIR}/src/${room})
  target_link_libraries(${target} PRIVATE ${MODULE_PRIVATE})
  jolly_iris_warnings(${target})
  add_dependencies(jolly_iris_${room} ${target})
  install(TARGETS ${target} LIBRARY DESTINATION ${CMAKE_INSTALL_LIBDIR})
endfunction()
