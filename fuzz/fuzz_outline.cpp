// Outlines of any bytes: a message or an opening, whose points lie within it.
#include <cmath>
#include <cstdlib>
#include <string_view>

#include "jolly_iris/files/outline_file.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/opening.hpp"

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  using namespace jolly_iris;
  try {
    const Opening opening(
        {.outline = parse_outline({reinterpret_cast<const char*>(data), size}, "fuzz")}, 10_mm);
    const double reach = opening.corner_radius() * (1.0 + 1e-9);
    for (int i = 0; i < 64; ++i) {
      const Point2 p = opening.sample((i % 8 + 0.5) / 8.0, (i / 8 + 0.5) / 8.0);
      if (!(std::hypot(p.x, p.y) <= reach)) std::abort();
    }
  } catch (const Error&) {
    // told: that is what shall happen
  }
  return 0;
}
