// Who is sharp in a shot, before anything is rendered.
//
//   who_is_sharp SHOT
#include <fmt/format.h>

#include <iostream>

#include "jolly_iris/files/load.hpp"
#include "jolly_iris/optics/errors.hpp"

int main(int argc, char** argv) {
  using namespace jolly_iris;
  if (argc != 2) {
    std::cerr << "usage: who_is_sharp SHOT\n";
    return 2;
  }
  try {
    const LoadedShot loaded = load_shot(argv[1]);
    for (const SubjectBlur& s : loaded.answer.subjects) {
      fmt::print("{:20} {:8.2f} m  {:+7.1f} px  {}\n", s.name, s.axial.m(), s.coc_px,
                 s.sharp ? "sharp" : "");
    }
  } catch (const Error& e) {
    std::cerr << e.what() << '\n';
    return 1;
  }
}
