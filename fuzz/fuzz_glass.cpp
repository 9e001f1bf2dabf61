// Prescriptions of any bytes: a message or a lens, through which rays go or end, but are no NaN.
#include <cmath>
#include <string>

#include "fuzz_file.hpp"
#include "jolly_iris/files/glass_file.hpp"
#include "jolly_iris/glass/focus_travel.hpp"
#include "jolly_iris/glass/paraxial.hpp"

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  using namespace jolly_iris;
  try {
    const Prescription p =
        parse_glass({reinterpret_cast<const char*>(data), size}, "fuzz.glass.toml");
    const TracedGlass glass(p);
    for (int i = 0; i < 32; ++i) {
      const double h = 0.3 * i;
      const double slope = 0.02 * (i % 7 - 3);
      const double length = std::hypot(slope, 1.0);
      const GlassWay way = glass.to_film(
          {{0.0, h, glass.surfaces().front().z - 1.0}, {0.0, slope / length, 1.0 / length}});
      if (way.end == RayEnd::passed && !std::isfinite(way.ray.at[1])) fuzz::fail("no number");
    }
    (void)glass_text(p);
    (void)focused(p, Length::from_m(2.0), {});
  } catch (const Error&) {
    // told: that is what shall happen
  }
  return 0;
}
