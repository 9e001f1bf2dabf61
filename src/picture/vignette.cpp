#include "vignette.hpp"

#include <algorithm>

#include "parallel.hpp"

namespace jolly_iris::blur {

namespace {

// Which two knots a place lies between, and how far behind the first.
struct Between {
  std::size_t knot;
  float fraction;
};
Between between(double at, double whole, int knots) {
  const double k = std::clamp(at / whole, 0.0, 1.0) * (knots - 1);
  const int i = std::min(static_cast<int>(k), knots - 2);
  return {static_cast<std::size_t>(i), static_cast<float>(k - i)};
}

}  // namespace

Vignette::Vignette(const DiscMaker& maker, const GateMap& map, PixelSize size, double nearest)
    : size_(size),
      nearest_(std::max(nearest, 1e-9)),
      columns_a_px_(static_cast<float>(columns - 1) / static_cast<float>(size.width)),
      depths_a_dioptre_(static_cast<float>((depths - 1) / nearest_)) {
  if (!maker.vignettes()) return;
  const LensSampler& lens = maker.pupil().lens();
  knots_.resize(std::size_t{columns} * std::size_t{rows} * std::size_t{depths});
  parallel_for(0, columns * rows * depths, [&](int i) {
    const int x = i % columns;
    const int y = i / columns % rows;
    const int d = i / (columns * rows);
    const DiscPlace place = map.place(static_cast<double>(x) / (columns - 1) * size.width,
                                      static_cast<double>(y) / (rows - 1) * size.height, 0.0);
    knots_[static_cast<std::size_t>(i)] = static_cast<float>(maker.light(
        PupilPlace{place.right / lens.focal, place.up / lens.focal, nearest_ * d / (depths - 1)}));
  });
}

Vignette::Row Vignette::row(double y) const {
  Row out{};
  if (knots_.empty()) return out;
  const Between by = between(y, size_.height, rows);
  for (std::size_t d = 0; d < depths; ++d) {
    for (std::size_t i = 0; i < columns; ++i) {
      const std::size_t k = (d * rows + by.knot) * columns + i;
      out[i][d] = (1.0F - by.fraction) * knots_[k] + by.fraction * knots_[k + columns];
    }
  }
  return out;
}

Colouring::Colouring(const VirtualCamera& camera, const GateMap& map, PixelSize size)
    : size_(size) {
  if (!camera.colouring.any()) return;
  for (int y = 0; y < rows; ++y) {
    for (int x = 0; x < columns; ++x) {
      const DiscPlace place = map.place(static_cast<double>(x) / (columns - 1) * size.width,
                                        static_cast<double>(y) / (rows - 1) * size.height, 0.0);
      const auto c =
          disc_colour(camera.colouring, Length::from_m(place.right), Length::from_m(place.up));
      knots_.push_back(
          {static_cast<float>(c[0]), static_cast<float>(c[1]), static_cast<float>(c[2])});
    }
  }
}

std::array<float, 3> Colouring::at(double x, double y, double coc_px) const {
  const auto fraction = static_cast<float>(colour_fraction(coc_px));
  if (fraction <= 0.0F) return {1.0F, 1.0F, 1.0F};
  const Between bx = between(x, size_.width, columns);
  const Between by = between(y, size_.height, rows);
  std::array<float, 3> out{};
  for (std::size_t c = 0; c < 3; ++c) {
    const auto at = [&](std::size_t i, std::size_t j) {
      return knots_[(by.knot + j) * columns + bx.knot + i][c];
    };
    const float v =
        (1.0F - by.fraction) * ((1.0F - bx.fraction) * at(0, 0) + bx.fraction * at(1, 0)) +
        by.fraction * ((1.0F - bx.fraction) * at(0, 1) + bx.fraction * at(1, 1));
    out[c] = 1.0F + fraction * (v - 1.0F);
  }
  return out;
}

}  // namespace jolly_iris::blur
