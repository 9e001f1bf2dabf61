// What a renderer's author links: the optics alone, and nothing else comes along.
#include <cmath>
#include <jolly_iris/optics/camera.hpp>
#include <jolly_iris/version.hpp>

int main() {
  using namespace jolly_iris;
  const Body body{.gate = {19.1_mm, 10.7_mm}, .pixels = {1920, 1080}};
  const Lens lens{.focal = 53_mm, .adapter = 0.76};
  const Take take{.stop = f_number(2.2), .mark = 2.6_m};
  const VirtualCamera camera = resolve(body, lens, take);
  static_assert(JOLLY_IRIS_VERSION_MAJOR == 0);
  return std::abs(camera.focal.mm() - 41.13638) < 1e-4 ? 0 : 1;
}
