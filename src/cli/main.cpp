#include <iostream>

#include "cli/terminal/run.hpp"
#include "disk/disk.hpp"

int main(int argc, char** argv) {
  jolly_iris::keep_standard_streams();
  jolly_iris::leave_nothing_when_stopped();
  return jolly_iris::cli::run({argv + 1, argv + argc}, std::cout, std::cerr);
}
