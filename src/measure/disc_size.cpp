#include "disc_size.hpp"

#include <algorithm>
#include <cmath>

#include "measure/constants.hpp"
#include "robust_mean.hpp"

namespace jolly_iris::measuring {

namespace {

// What all discs say together.
template <class What>
Measured common(const std::vector<DiscItem>& items, const What& what) {
  std::vector<Measured> all;
  for (const DiscItem& i : items) {
    if (i.fit.good) all.push_back(what(i.fit));
  }
  return robust_mean(std::move(all), 0.2);
}

// A disc's size with all that leaves it open; `common` is what is off of all discs alike.
struct DiscSize {
  Measured height{};
  Measured width{};
  Measured high_over_wide{};
  double common = 0.0;     // of that, half a margin
  double common_px = 0.0;  // of the sizes, likewise
};
DiscSize size_of(const FittedDisc& f, const SizeDoubt& plate) {
  const DrawnDisc& d = f.disc;
  // What the drawing leaves over near the edge, beyond noise, is doubt of the edge's place.
  const double doubt = std::sqrt(plate.scatter) * std::max(1.0, f.left_over);
  const double height = doubt * f.height_sigma;
  const double aspect = doubt * f.aspect_sigma;
  // How far a bent edge's blur moves it is known to first order in softness over radius.
  const double bend = 0.5 * d.height * std::min(d.aspect * d.aspect, 1.0 / d.aspect);
  const double moves = d.soft * d.soft / bend * std::min(1.0, d.soft / bend);
  const double of_kernel =
      plate.codec ? together::clipped_of_kernel_codec : together::clipped_of_kernel;
  const double common =
      std::hypot(together::common_px, plate.codec ? together::common_px_codec : 0.0,
                 f.clipped() ? of_kernel * plate.kernel_px : 0.0);
  const double farther = std::hypot(std::hypot(f.lamp_sigma_px, f.kernel_sigma_px, common),
                                    std::hypot(moves, together::min_sigma_px));
  // What moves the edge as far in all directions changes the shape of an oval.
  const double a = d.aspect;
  const double shape = std::abs(1.0 - a) / (d.height * a * a);
  DiscSize out;
  out.height = {d.height, 2.0 * std::hypot(height, farther)};
  out.width = {d.height * a, 2.0 * std::hypot(height * a, aspect * d.height, farther)};
  out.high_over_wide = {1.0 / a, 2.0 * std::hypot(aspect / (a * a), shape * f.lamp_sigma_px)};
  // Lamps' sizes and brightnesses differ; what is believed of them beforehand is off for all.
  out.common_px = std::hypot(f.kernel_sigma_px, together::believed * f.lamp_sigma_px, common);
  out.common = shape * out.common_px;
  return out;
}

}  // namespace

Measured common_shape(const std::vector<DiscItem>& items, const SizeDoubt& plate) {
  std::vector<double> off;
  for (const DiscItem& i : items) {
    if (i.fit.good) off.push_back(size_of(i.fit, plate).common);
  }
  Measured all = common(items, [&](const FittedDisc& f) {
    const Measured one = size_of(f, plate).high_over_wide;
    return Measured{one.value, 0.5 * one.margin};
  });
  if (!off.empty()) all.margin = std::hypot(all.margin, 2.0 * quantile(off, 0.5));
  return all;
}

PlateDisc plate_disc(const DiscItem& item, const PooledDisc& pooled, const SizeDoubt& plate) {
  const FittedDisc& f = item.fit;
  const DiscSize size = size_of(f, plate);
  PlateDisc d;
  d.name = item.name;
  d.at = {f.disc.x, f.disc.y};
  d.height_px = size.height;
  d.width_px = size.width;
  d.common_px = 2.0 * size.common_px;
  d.light = f.light;
  d.contrast = f.disc.contrast * (f.shares[0] + f.shares[1] + f.shares[2]) / 3.0;
  d.edge_sigma_px = f.disc.soft;
  d.edge_falloff_stops = f.disc.rim;
  d.clipped = f.clipped();
  d.fringe_px = f.fringe_px;
  d.cut = pooled.cut;
  d.residual = f.left_over;
  if (pooled.tells) d.facing = f.disc.turned ? Facing::turned : Facing::upright;
  d.outlier = f.left_over > together::max_left_over;
  if (d.outlier) d.why = "its edge is not that of one disc alone; something may overlap it";
  return d;
}

Measured common_falloff(const std::vector<DiscItem>& items) {
  return common(items, [](const FittedDisc& f) {
    return Measured{f.disc.rim, f.clipped() || f.disc.height < 16.0 ? 0.0 : f.edge_falloff_sigma};
  });
}

}  // namespace jolly_iris::measuring
