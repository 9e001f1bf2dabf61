// What a pipeline engineer's first program does: read a shot, resolve it, write and read a picture.
#include <cmath>
#include <jolly_iris/jolly_iris.hpp>

int main(int argc, char** argv) {
  using namespace jolly_iris;
  if (argc != 3) return 2;
  const LoadedShot loaded = load_shot(argv[1]);
  Frame frame{Picture({4, 2}, {0.5F, 0.25F, 0.125F, 1.0F}), std::vector<float>(8, 12.0F)};
  write_picture(argv[2], frame);
  const Frame back = read_picture(argv[2]);
  const Picture blurred = defocus(back, loaded.answer.camera);
  return std::abs(blurred.at(1, 1)[0] - 0.5F) < 1e-3F ? 0 : 1;
}
