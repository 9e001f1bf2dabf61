// A sharp picture with depth (EXR with a channel Z) → the picture as the shot's lens saw it.
//
//   defocus_a_picture SHOT PICTURE OUT
#include <iostream>

#include "jolly_iris/files/load.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/defocus.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"

int main(int argc, char** argv) {
  using namespace jolly_iris;
  if (argc != 4) {
    std::cerr << "usage: defocus_a_picture SHOT PICTURE OUT\n";
    return 2;
  }
  try {
    const LoadedShot loaded = load_shot(argv[1]);
    const Frame sharp = read_picture(argv[2]);
    write_picture(argv[3], Frame{defocus(sharp, loaded.answer.camera), {}});
  } catch (const Error& e) {
    std::cerr << e.what() << '\n';
    return 1;
  }
}
