#include "jolly_iris/picture/expose_picture.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "parallel.hpp"

namespace jolly_iris {

void change(Picture& picture, const PictureChange& what) {
  for (const double v : {what.factor, what.gains[0], what.gains[1], what.gains[2]}) {
    if (v > 0.0 && std::isfinite(v)) continue;
    throw UsageError(
        fmt::format("a picture cannot become {:g} times as bright; a factor is above "
                    "zero and finite",
                    v));
  }
  if (picture.empty()) return;
  const auto scale = [&](std::size_t c) { return what.factor * what.gains[c]; };
  const Rgb all{scale(0), scale(1), scale(2)};
  // The fall-off's places are px of the delivered picture.
  parallel_for(0, picture.height(), [&](int y) {
    for (int x = 0; x < picture.width(); ++x) {
      Rgba& p = picture.at(x, y);
      double fraction = 1.0;
      if (what.relative_illumination != nullptr) {
        const PixelSize whole = what.relative_illumination->delivered();
        fraction =
            what.relative_illumination->fraction({(x + 0.5) * whole.width / picture.width(),
                                                  (y + 0.5) * whole.height / picture.height()});
        if (what.take_out) fraction = 1.0 / fraction;
      }
      Rgb v{static_cast<double>(p[0]), static_cast<double>(p[1]), static_cast<double>(p[2])};
      if (what.colours) v = product(*what.colours, v);
      for (std::size_t c = 0; c < 3; ++c) p[c] = static_cast<float>(v[c] * all[c] * fraction);
    }
  });
}

}  // namespace jolly_iris
