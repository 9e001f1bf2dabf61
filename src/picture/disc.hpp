// From a pupil, or a glass, to discs: what its light makes of a point at the size of a circle of
// confusion.
#pragma once

#include <array>
#include <bit>
#include <cmath>
#include <cstdint>
#include <numbers>
#include <optional>
#include <vector>

#include "disc_weights.hpp"
#include "glass_disc.hpp"
#include "jolly_iris/optics/pupil.hpp"

namespace jolly_iris::blur {

/// What a disc is made for.
struct DiscPlace {
  double right = 0.0;  ///< of the source on the gate, m, from the axis
  double up = 0.0;
  double coc = 0.0;  ///< signed diameter on the gate, m; negative turns the shape by 180°
  std::size_t colour = 1;
};

/// Makes discs of one pupil on pixels of one size.
class DiscMaker {
 public:
  /// @param pixel_width, pixel_height size of a pixel on the gate, m
  /// @param glass makes the discs instead of the pupil; lives longer; null: none
  DiscMaker(const Pupil& pupil, double pixel_width, double pixel_height,
            const GlassCamera* glass = nullptr);

  Disc make(const DiscPlace& place) const;
  /// Light that arrives against the picture's middle: the optical vignetting.
  double light(const DiscPlace& place) const { return light(seen_from(place)); }
  double light(const PupilPlace& place) const;
  /// Whether that is the same everywhere.
  bool vignettes() const { return glass_ || pupil_.has_vignetting(); }
  /// Whether the barrel cuts discs of this kind at all.
  bool cut(const DiscPlace& place) const;
  /// Whether discs at different places have different shapes.
  bool depends_on_place() const;
  /// Whether discs are traced, each by hundreds of rays.
  bool traced() const { return glass_.has_value(); }
  /// Whether each disc is of one weight throughout.
  bool even() const { return !glass_ && pupil_.even() && !bent_; }
  const Pupil& pupil() const { return pupil_; }
  double pixel_width() const { return pixel_width_; }
  double pixel_height() const { return pixel_height_; }
  /// All of the opening, in opening radii.
  const std::vector<Contour>& finest_outline() const { return outlines_.back(); }

 private:
  struct Box;
  PupilPlace seen_from(const DiscPlace& place) const;
  Point2 on_picture(Point2 p, const DiscPlace& place) const;
  Disc outlined(const DiscPlace& place, const std::vector<Contour>& contours) const;
  Disc shaded(const DiscPlace& place, const std::vector<Contour>& contours) const;
  Disc scattered(const DiscPlace& place) const;
  bool folds(double coc) const;
  std::array<double, 3> light_around(Point2 middle, double half_width, double half_height) const;

  const Pupil& pupil_;
  std::optional<GlassDiscs> glass_{};
  double pixel_width_;
  double pixel_height_;
  bool bent_;
  std::vector<std::vector<Contour>> outlines_{};  ///< of the whole opening, finer and finer
  /// Sums of the opening's light from its lower left corner, for averages over any box.
  std::vector<std::array<double, 3>> sums_{};
};

inline constexpr double step_fraction = 0.012;

/// log2 of x ≥ 1 to 1e-5: quicker than the library's, and steps need no more.
inline float quick_log2(float x) {
  const auto bits = std::bit_cast<std::uint32_t>(x);
  const auto whole = static_cast<float>(static_cast<int>(bits >> 23U) - 127);
  const auto m = std::bit_cast<float>((bits & 0x7fffffU) | 0x3f800000U);  // 1 … 2
  // Remez polynomial of log2 over [1, 2] times (m − 1), degree 5.
  const float p =
      3.1157899F +
      m * (-3.3241990F +
           m * (2.5988452F + m * (-1.2315303F + m * (3.1821337e-1F - m * 3.4436006e-2F))));
  return whole + p * (m - 1.0F);
}

/// Number of the step a CoC (px) falls on, in steps too fine to see: 1.2 % of the diameter for
/// large discs, 0.024 px for small ones. The same number, the same disc.
inline int coc_step(float coc_px) {
  constexpr auto steps_an_octave = static_cast<float>(std::numbers::ln2 / step_fraction);
  const float s = steps_an_octave * quick_log2(1.0F + 0.5F * std::abs(coc_px));
  // Rounded: s is not negative. A call to the library's rounding would be half the cost of a pixel.
  const int step = static_cast<int>(s + 0.5F);  // NOLINT(bugprone-incorrect-roundings)
  return coc_px < 0.0F ? -step : step;
}
double coc_of_step(int step);

}  // namespace jolly_iris::blur
