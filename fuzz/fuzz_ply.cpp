// Clouds of any bytes: a message, or points that are places, each with what belongs to it.
#include <cstdlib>
#include <string_view>

#include "jolly_iris/files/point_cloud.hpp"
#include "jolly_iris/optics/errors.hpp"

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, std::size_t size) {
  using namespace jolly_iris;
  try {
    const Primitive p = points_of_ply({reinterpret_cast<const char*>(data), size}, "fuzz");
    const std::size_t n = p.positions.size();
    if (n == 0 || (!p.colours.empty() && p.colours.size() != n) ||
        (!p.normals.empty() && p.normals.size() != n)) {
      std::abort();
    }
    for (const auto* list : {&p.positions, &p.colours, &p.normals}) {
      for (const Vec3f& v : *list) {
        if (!v.is_finite()) std::abort();
      }
    }
  } catch (const Error&) {
    // told: that is what shall happen
  }
  return 0;
}
