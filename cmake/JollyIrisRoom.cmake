# A room of the house: one library with the alias JollyIris::NAME, installed and exported.

set(JOLLY_IRIS_SO_VERSION ${PROJECT_VERSION_MAJOR}.${PROJECT_VERSION_MINOR})
# Modules are no libraries to link with: they have a folder of their own.
set(JOLLY_IRIS_MODULES ${CMAKE_INSTALL_LIBDIR}/jolly_iris)

function(jolly_iris_warnings target)
  target_compile_options(${target} PRIVATE -Wall -Wextra -Wconversion -Wshadow)
  if(JOLLY_IRIS_WERROR)
    target_compile_options(${target} PRIVATE -Werror)
  endif()
  if(JOLLY_IRIS_SANITIZE)
    target_compile_options(${target} PRIVATE -fsanitize=${JOLLY_IRIS_SANITIZE}
      -fno-omit-frame-pointer -fno-sanitize-recover=all)
    target_link_options(${target} PRIVATE -fsanitize=${JOLLY_IRIS_SANITIZE})
    if(CMAKE_CXX_COMPILER_ID MATCHES "Clang")
      target_compile_options(${target} PRIVATE
        -fsanitize-ignorelist=${PROJECT_SOURCE_DIR}/cmake/not_ours.txt)
    endif()
  endif()
  # What no sanitizer sees: an empty optional, a place between a vector's end and its room. Beside the
  # address sanitizer that takes twice as long, so fuzzing for hours has it instead.
  if(JOLLY_IRIS_SANITIZE MATCHES "fuzzer")
    target_compile_definitions(${target} PRIVATE _GLIBCXX_ASSERTIONS)
  endif()
endfunction()

# Only what headers declare is shown. clang takes a function for hidden whose definition stands in a
# namespace that is opened plainly, so there all is shown.
function(jolly_iris_hide target)
  if(CMAKE_CXX_COMPILER_ID STREQUAL GNU)
    set_target_properties(${target} PROPERTIES CXX_VISIBILITY_PRESET hidden
      VISIBILITY_INLINES_HIDDEN ON)
  endif()
endfunction()

# Headers that nearly every file includes are read once for all targets that are compiled alike; beside
# them the solver's for rooms that solve, and a loaded shot's for rooms that begin with one.
function(jolly_iris_precompile target kind)
  get_property(first GLOBAL PROPERTY jolly_iris_precompiled_${kind})
  if(first)
    target_precompile_headers(${target} REUSE_FROM ${first})
  else()
    target_precompile_headers(${target} PRIVATE <algorithm> <array> <cmath> <cstddef> <filesystem>
      <functional> <map> <memory> <optional> <string> <utility> <vector> <fmt/format.h>)
    if(kind STREQUAL SOLVES)
      target_precompile_headers(${target} PRIVATE <ceres/ceres.h>)
    elseif(kind STREQUAL COLD)
      target_precompile_headers(${target} PRIVATE <jolly_iris/workflow/load.hpp>
        <jolly_iris/match/match.hpp> <jolly_iris/measure/discs.hpp>
        <jolly_iris/picture_files/picture_file.hpp> <disk/json.hpp>)
    endif()
    set_property(GLOBAL PROPERTY jolly_iris_precompiled_${kind} ${target})
  endif()
  if(CMAKE_CXX_COMPILER_ID STREQUAL GNU)
    # The first is for compiler caches. The others: gcc 12 takes the inside of std::string, read this
    # way, for code of ours and finds fault with it.
    target_compile_options(${target} PRIVATE -fpch-preprocess
      -Wno-array-bounds -Wno-stringop-overflow -Wno-stringop-overread -Wno-restrict)
  endif()
endfunction()

# How much a target is optimised. What is asked for once a command (COLD) need not be fast, but
# compiled quickly.
function(jolly_iris_optimise target kind)
  if(kind STREQUAL COLD)
    target_compile_options(${target} PRIVATE $<$<CONFIG:Release>:-O1>)
    if(JOLLY_IRIS_SANITIZE)
      target_compile_options(${target} PRIVATE -O0)
    endif()
  else()
    target_compile_options(${target} PRIVATE $<$<CONFIG:Release>:-O2>)
  endif()
  jolly_iris_precompile(${target} ${kind})
endfunction()

# The loops that take the time.
function(jolly_iris_hot room)
  list(TRANSFORM ARGN PREPEND ${PROJECT_SOURCE_DIR}/src/${room}/ OUTPUT_VARIABLE files)
  set_source_files_properties(${files} PROPERTIES COMPILE_OPTIONS "$<$<CONFIG:Release>:-O3>")
endfunction()

# jolly_iris_room(NAME [COLD|SOLVES] [FUZZED] [PUBLIC targets…] [PRIVATE targets…] [LEAVE files…]): all of src/NAME but LEAVE.
# FUZZED are those that read any bytes.
# PRIVATE rooms are those whose shared internals it uses beside their public headers.
function(jolly_iris_room name)
  cmake_parse_arguments(ROOM "COLD;SOLVES;FUZZED" "" "PUBLIC;PRIVATE;LEAVE" ${ARGN})
  set(target jolly_iris_${name})
  file(GLOB sources CONFIGURE_DEPENDS ${PROJECT_SOURCE_DIR}/src/${name}/*.cpp)
  foreach(file IN LISTS ROOM_LEAVE)
    list(REMOVE_ITEM sources ${PROJECT_SOURCE_DIR}/src/${name}/${file})
  endforeach()
  add_library(${target} ${JOLLY_IRIS_LIBRARY_KIND} ${sources})
  add_library(JollyIris::${name} ALIAS ${target})
  set_target_properties(${target} PROPERTIES EXPORT_NAME ${name} SOVERSION ${JOLLY_IRIS_SO_VERSION}
    VERSION ${PROJECT_VERSION} DEFINE_SYMBOL "" POSITION_INDEPENDENT_CODE ON)
  jolly_iris_hide(${target})
  target_compile_features(${target} PUBLIC cxx_std_20)
  target_include_directories(${target}
    PUBLIC $<BUILD_INTERFACE:${PROJECT_SOURCE_DIR}/include>
           $<INSTALL_INTERFACE:${CMAKE_INSTALL_INCLUDEDIR}>
    PRIVATE ${PROJECT_SOURCE_DIR}/src ${PROJECT_SOURCE_DIR}/src/${name})
  target_link_libraries(${target} PUBLIC ${ROOM_PUBLIC} PRIVATE ${ROOM_PRIVATE} fmt::fmt)
  jolly_iris_warnings(${target})
  if(ROOM_COLD)
    jolly_iris_optimise(${target} COLD)
  elseif(ROOM_SOLVES)
    jolly_iris_optimise(${target} SOLVES)
  else()
    jolly_iris_optimise(${target} WARM)
  endif()
  # libFuzzer sees which way bytes take through these.
  if(JOLLY_IRIS_FUZZ AND ROOM_FUZZED)
    target_compile_options(${target} PRIVATE -fsanitize=fuzzer-no-link)
    set_target_properties(${target} PROPERTIES DISABLE_PRECOMPILE_HEADERS ON)
  endif()
  # A room that uses another without saying so does not link: the arrows stay as they are drawn.
  if(NOT JOLLY_IRIS_SANITIZE)
    target_link_options(${target} PRIVATE -Wl,--no-undefined)
  endif()
  set_property(GLOBAL APPEND PROPERTY JOLLY_IRIS_ROOMS ${name})
  install(TARGETS ${target} EXPORT JollyIrisTargets
    LIBRARY COMPONENT libraries NAMELINK_COMPONENT development
    ARCHIVE COMPONENT development)
endfunction()

# A module that room ROOM loads by itself when it is first needed; a part of it where all is static.
function(jolly_iris_module name room)
  cmake_parse_arguments(MODULE "" "" "SOURCES;PRIVATE" ${ARGN})
  set(target jolly_iris_${name})
  list(TRANSFORM MODULE_SOURCES PREPEND ${PROJECT_SOURCE_DIR}/src/${room}/)
  if(NOT JOLLY_IRIS_LIBRARY_KIND STREQUAL SHARED)
    target_sources(jolly_iris_${room} PRIVATE ${MODULE_SOURCES})
    target_link_libraries(jolly_iris_${room} PRIVATE ${MODULE_PRIVATE})
    target_compile_definitions(jolly_iris_${room} PRIVATE JOLLY_IRIS_STATIC)
    return()
  endif()
  add_library(${target} MODULE ${MODULE_SOURCES})
  jolly_iris_hide(${target})
  set_target_properties(${target} PROPERTIES DEFINE_SYMBOL "" POSITION_INDEPENDENT_CODE ON
    INSTALL_RPATH "$ORIGIN/.." LIBRARY_OUTPUT_DIRECTORY ${CMAKE_LIBRARY_OUTPUT_DIRECTORY}/jolly_iris)
  target_include_directories(${target} PRIVATE ${PROJECT_SOURCE_DIR}/src
    ${PROJECT_SOURCE_DIR}/src/${room})
  target_link_libraries(${target} PRIVATE ${MODULE_PRIVATE} fmt::fmt)
  jolly_iris_warnings(${target})
  jolly_iris_optimise(${target} WARM)
  add_dependencies(jolly_iris_${room} ${target})
  install(TARGETS ${target} LIBRARY DESTINATION ${JOLLY_IRIS_MODULES} COMPONENT libraries)
endfunction()

# The files of a room's page (src/ROOM/page/) become part of its library: page_files.hpp.
function(jolly_iris_page room)
  file(GLOB files CONFIGURE_DEPENDS ${PROJECT_SOURCE_DIR}/src/${room}/page/*)
  set_property(DIRECTORY APPEND PROPERTY CMAKE_CONFIGURE_DEPENDS ${files})
  set(JOLLY_IRIS_PAGE_ROOM ${room})
  set(JOLLY_IRIS_PAGE_FILES "")
  foreach(file IN LISTS files)
    get_filename_component(name ${file} NAME)
    file(READ ${file} text)
    string(APPEND JOLLY_IRIS_PAGE_FILES
      "      {\"${name}\", R\"jolly_iris(${text})jolly_iris\"},\n")
  endforeach()
  configure_file(${PROJECT_SOURCE_DIR}/cmake/page_files.cpp.in ${room}_page_files.cpp @ONLY)
  target_sources(jolly_iris_${room} PRIVATE ${CMAKE_CURRENT_BINARY_DIR}/${room}_page_files.cpp)
endfunction()
