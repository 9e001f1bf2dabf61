#include "jolly_iris/measure/render_noise.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

// A square's luminance, row by row.
struct Square {
  int side = 0;
  std::vector<double> v{};

  double at(int x, int y) const { return v[static_cast<std::size_t>(y * side + x)]; }

  // Means of two by two.
  Square halved() const {
    Square out{side / 2, {}};
    for (int y = 0; y + 1 < side; y += 2) {
      for (int x = 0; x + 1 < side; x += 2) {
        out.v.push_back(0.25 * (at(x, y) + at(x + 1, y) + at(x, y + 1) + at(x + 1, y + 1)));
      }
    }
    return out;
  }

  // Mean square of the difference of two second differences, for white noise its variance.
  double finest() const {
    double sum = 0.0;
    for (int y = 1; y + 1 < side; ++y) {
      for (int x = 1; x + 1 < side; ++x) {
        const double d = at(x - 1, y - 1) + at(x + 1, y - 1) + at(x - 1, y + 1) + at(x + 1, y + 1) -
                         2.0 * (at(x, y - 1) + at(x - 1, y) + at(x + 1, y) + at(x, y + 1)) +
                         4.0 * at(x, y);
        sum += d * d;
      }
    }
    constexpr double of_white = 36.0;  // squares of its weights
    return sum / (of_white * static_cast<double>((side - 2) * (side - 2)));
  }
};

double mean_of(const std::vector<double>& v) {
  double sum = 0.0;
  for (const double x : v) sum += x;
  return sum / static_cast<double>(v.size());
}

Square square_of(const Picture& picture, const Box& box, const Rgb& weights) {
  Square out{box.width, {}};
  for (int y = box.y; y < box.y + box.height; ++y) {
    for (int x = box.x; x < box.x + box.width; ++x) {
      const Rgba& p = picture.at(x, y);
      const double l = weights[0] * static_cast<double>(p[0]) +
                       weights[1] * static_cast<double>(p[1]) +
                       weights[2] * static_cast<double>(p[2]);
      if (!std::isfinite(l)) {
        throw PictureError(fmt::format("pixel {}, {} is no number", x, y));
      }
      out.v.push_back(l);
    }
  }
  return out;
}

// Of one picture. White noise is a quarter as strong at twice the size, by chance up to 0.41 in one
// square of a hundred; the edge of a disc, as pixels that see an area show it, is there 0.6 or
// more.
void tell_from_one(const Square& square, double least_disc, NoisePlace& place) {
  constexpr double still_white = 0.44;
  const double fine = square.finest();
  const double coarse = square.halved().finest();
  place.noise = std::sqrt(fine);
  // A disc of d px passes nothing finer than some d / 1.22 px (the first zero of its transform).
  constexpr double blurred_px = 4.0;
  place.told = least_disc >= blurred_px && coarse <= still_white * fine;
  if (fine == 0.0) place.told = least_disc >= blurred_px;
}

template <class Tell>
RenderNoise over_squares(const Picture& picture, const std::vector<float>& coc_px,
                         const Tell& tell) {
  const PixelSize size = picture.size();
  if (coc_px.size() != picture.pixels().size()) {
    throw PictureError("the discs are not of this picture's size");
  }
  RenderNoise out;
  out.across = size.width / noise_block;
  out.down = size.height / noise_block;
  if (out.across < 1 || out.down < 1) {
    throw PictureError(fmt::format("is {} x {}: noise is told from squares of {} px", size.width,
                                   size.height, noise_block));
  }
  std::array<float, std::size_t{noise_block} * noise_block> discs{};
  for (int j = 0; j < out.down; ++j) {
    for (int i = 0; i < out.across; ++i) {
      NoisePlace place;
      place.box = {i * noise_block, j * noise_block, noise_block, noise_block};
      auto next = discs.begin();
      for (int y = place.box.y; y < place.box.y + noise_block; ++y) {
        const auto row = coc_px.begin() + std::ptrdiff_t{size.width} * y + place.box.x;
        next = std::transform(row, row + noise_block, next, [](float d) { return std::abs(d); });
      }
      const auto middle = discs.begin() + discs.size() / 2;
      std::nth_element(discs.begin(), middle, discs.end());
      place.coc_px = static_cast<double>(*middle);
      // Nearly all of its pixels are blurred by that.
      const auto least = discs.begin() + discs.size() / 20;
      std::nth_element(discs.begin(), least, middle);
      tell(place, static_cast<double>(*least));
      out.places.push_back(place);
    }
  }
  return out;
}

}  // namespace

RenderNoise render_noise(const Picture& picture, const std::vector<float>& coc_px,
                         Primaries primaries) {
  const Rgb weights = luminance_weights(primaries);
  return over_squares(picture, coc_px, [&](NoisePlace& place, double least_disc) {
    const Square square = square_of(picture, place.box, weights);
    place.level = mean_of(square.v);
    tell_from_one(square, least_disc, place);
  });
}

RenderNoise render_noise(const Picture& picture, const Picture& again,
                         const std::vector<float>& coc_px, Primaries primaries) {
  const Rgb weights = luminance_weights(primaries);
  if (again.size() != picture.size()) {
    throw PictureError(fmt::format("the second render is {} x {}, the first {} x {}", again.width(),
                                   again.height(), picture.width(), picture.height()));
  }
  bool differ = false;
  RenderNoise out = over_squares(picture, coc_px, [&](NoisePlace& place, double) {
    const Square a = square_of(picture, place.box, weights);
    const Square b = square_of(again, place.box, weights);
    double squares = 0.0;
    for (std::size_t i = 0; i < a.v.size(); ++i) squares += (a.v[i] - b.v[i]) * (a.v[i] - b.v[i]);
    differ = differ || squares > 0.0;
    place.level = 0.5 * (mean_of(a.v) + mean_of(b.v));
    place.noise = std::sqrt(0.5 * squares / static_cast<double>(a.v.size()));
    place.told = true;
  });
  if (!differ) {
    throw PictureError("the two renders are equal: give the second one other random numbers");
  }
  return out;
}

double times_the_rays(const NoisePlace& place, double wanted, double darkest) {
  const double share = place.noise / std::max(place.level, darkest);
  return share * share / (wanted * wanted);
}

}  // namespace jolly_iris
