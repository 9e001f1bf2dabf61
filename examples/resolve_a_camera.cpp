// From what the camera report says to what a virtual camera must be given. Needs no file.
#include <fmt/format.h>

#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/sharpness.hpp"

int main() {
  using namespace jolly_iris;

  const Body body{.gate = {25.9_mm, 14.6_mm}, .pixels = {3840, 2160}};
  const Lens lens{.focal = 53_mm, .adapter = 0.76};
  const Take take{.stop = f_number(2.2), .mark = 2.4_m};

  const VirtualCamera camera = resolve(body, lens, take);
  fmt::print("{:.2f} mm, f/{:.2f}, {:.1f} px at the bridge\n", camera.focal.mm(), camera.f_number,
             to_pixels(circle_of_confusion(camera, 12_m), camera));
}
