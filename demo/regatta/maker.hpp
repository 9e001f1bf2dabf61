// A program that makes files of the demo into a folder.
#pragma once

#include <exception>
#include <filesystem>
#include <iostream>

/// The whole of its main: usage where no folder is named, a sentence where making fails.
/// @return the program's exit code
template <class Make>
int made_into_folder(const char* program, int argc, char** argv, Make make) {
  if (argc != 2) {
    std::cerr << "usage: " << program << " FOLDER\n";
    return 2;
  }
  try {
    make(std::filesystem::path(argv[1]));
  } catch (const std::exception& e) {
    std::cerr << program << ": " << e.what() << '\n';
    return 3;
  }
  return 0;
}
