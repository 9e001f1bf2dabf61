// Quantities of any text: refused, or a number within what cameras and sets have.
#include <cmath>

#include "fuzz_file.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/memory.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "jolly_iris/optics/range.hpp"

namespace {

using namespace jolly_iris;

void hold(const Range& range, double value) {
  if (!range.holds(value)) fuzz::fail("out of range: " + std::to_string(value));
}

void length(Length l) {
  if (l.mm() != 0.0 && l.is_finite()) hold(range::length_mm, std::abs(l.mm()));
  if (std::isnan(l.mm())) fuzz::fail("a length is none");
}

void read_as(unsigned char kind, std::string_view bytes) {
  const std::string text(bytes);
  switch (kind % 21) {
    case 0:
      return length(parse_length(text));
    case 1:
      return length(parse_distance(text));
    case 2:
      return hold(range::angle_deg, parse_angle(text).degrees());
    case 3:
      return hold(range::stop, parse_stop(text).value);
    case 4: {
      const Shutter s = parse_shutter(text);
      if (s.time) hold(range::time_s, s.time->seconds());
      return;
    }
    case 5: {
      const Extent e = parse_extent(text);
      length(e.width);
      return length(e.height);
    }
    case 6:
      return hold({1.0, 1 << 20}, parse_pixel_size(text).width);
    case 7:
      return hold(range::power_dpt, parse_power(text).dioptres());
    case 8: {
      const ZoomRange z = parse_zoom(text);
      hold(range::focal_mm, z.shortest.mm());
      return hold(range::focal_mm, z.longest.mm());
    }
    case 9:
      return hold(range::temperature_K, parse_temperature(text).kelvin());
    case 10:
      return hold(range::multiple, parse_multiple(text));
    case 11:
      return (void)parse_blade_radius(text);
    case 12:
      return hold(range::nd_stops, parse_density(text));
    case 13:
      return hold(range::luminance_cd_m2, parse_luminance(text));
    case 14:
      return hold(range::blur, parse_blur_size(text).value);
    case 15:
      return (void)parse_criterion(text);
    case 16:
      return (void)parse_white(text);
    case 17:
      return hold(range::time_s, parse_duration(text));
    case 18:
      return hold({-range::nd_stops.max, range::nd_stops.max}, parse_stops(text));
    case 19:
      return hold({0.0, range::factor.max}, parse_fraction(text));
    default:
      return hold({1.0, 1e18}, static_cast<double>(parse_memory(text)));
  }
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  return fuzz::chosen(data, size, read_as);
}
