#include <iostream>

#include "run.hpp"

int main(int argc, char** argv) {
  return jolly_iris::cli::run({argv + 1, argv + argc}, std::cout, std::cerr);
}
