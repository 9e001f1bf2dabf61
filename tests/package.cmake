# Installs the build into a fresh folder and builds the consumer against it, and against it alone.
file(REMOVE_RECURSE ${WORK})

function(must)
  execute_process(COMMAND ${ARGN} RESULT_VARIABLE code OUTPUT_VARIABLE out ERROR_VARIABLE out)
  if(code)
    message(FATAL_ERROR "failed: ${ARGN}\n${out}")
  endif()
endfunction()

must(${CMAKE_COMMAND} --install ${BUILD} --prefix ${WORK}/prefix)
set(flags "")
if(SANITIZE)
  set(flags "-fsanitize=${SANITIZE}")
endif()
must(${CMAKE_COMMAND} -S ${CONSUMER} -B ${WORK}/build -G Ninja
  -DCMAKE_PREFIX_PATH=${WORK}/prefix -DCMAKE_CXX_COMPILER=${COMPILER}
  -DCMAKE_CXX_COMPILER_LAUNCHER=${LAUNCHER} -DCMAKE_CXX_FLAGS=${flags})
must(${CMAKE_COMMAND} --build ${WORK}/build)
must(${WORK}/build/consumer ${DEMO}/hero.shot.toml ${WORK}/consumer.exr)
must(${WORK}/prefix/bin/jolly-iris report ${DEMO}/hero.shot.toml)
