// Which made plates a bench is asked for: [COUNT] [FIRST SEED] [details].
#pragma once

#include <cstdlib>

struct AskedPlates {
  int count = 40;
  int first = 1;         ///< seed
  bool details = false;  ///< a line a plate
};

inline AskedPlates asked_plates(int argc, char** argv) {
  return {argc > 1 ? std::atoi(argv[1]) : 40, argc > 2 ? std::atoi(argv[2]) : 1, argc > 3};
}
