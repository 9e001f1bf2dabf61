#include "jolly_iris/picture/psnr.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/transfer.hpp"

namespace jolly_iris {

double psnr(const Picture& a, const Picture& b) {
  if (a.size() != b.size() || a.empty()) {
    throw UsageError(
        fmt::format("pictures of {} x {} and {} x {} cannot be compared pixel by pixel", a.width(),
                    a.height(), b.width(), b.height()));
  }
  double sum = 0.0;
  for (std::size_t i = 0; i < a.pixels().size(); ++i) {
    for (std::size_t c = 0; c < 3; ++c) {
      const float x = encode(std::clamp(a.pixels()[i][c], 0.0F, 1.0F), Transfer::srgb);
      const float y = encode(std::clamp(b.pixels()[i][c], 0.0F, 1.0F), Transfer::srgb);
      sum += static_cast<double>((x - y) * (x - y));
    }
  }
  return -10.0 * std::log10(sum / (3.0 * static_cast<double>(a.pixels().size())));
}

}  // namespace jolly_iris
