# Man pages and completion, made by asking the tool. Without help2man there are none.
if(HELP2MAN)
  set(manual ${PROJECT_BINARY_DIR}/manual)
  add_custom_command(OUTPUT ${manual}/bash/jolly-iris
    COMMAND ${CMAKE_COMMAND} -E rm -rf ${manual}
    COMMAND ${PROJECT_SOURCE_DIR}/scripts/make_manual.sh $<TARGET_FILE:jolly-iris>
            ${PROJECT_VERSION} ${manual}
    DEPENDS jolly-iris ${PROJECT_SOURCE_DIR}/scripts/make_manual.sh
    COMMENT "Writing the manual" VERBATIM)
  add_custom_target(manual ALL DEPENDS ${manual}/bash/jolly-iris)
  install(DIRECTORY ${manual}/man1 DESTINATION ${CMAKE_INSTALL_MANDIR} COMPONENT tool)
  install(FILES ${manual}/bash/jolly-iris
    DESTINATION ${CMAKE_INSTALL_DATADIR}/bash-completion/completions COMPONENT tool)
  install(FILES ${manual}/zsh/_jolly-iris
    DESTINATION ${CMAKE_INSTALL_DATADIR}/zsh/vendor-completions COMPONENT tool)
endif()
