#include "jolly_iris/optics/undistort.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

double power_series(const std::array<double, 3>& k, double r2) {
  return 1.0 + r2 * (k[0] + r2 * (k[1] + r2 * k[2]));
}

// d/d(r²) of the series.
double series_slope(const std::array<double, 3>& k, double r2) {
  return k[0] + r2 * (2.0 * k[1] + r2 * 3.0 * k[2]);
}

// Places along the frame's border, from the top left corner clockwise.
template <class Visit>
void along_border(PixelSize size, const Visit& visit) {
  constexpr int steps = 200;
  const double w = size.width;
  const double h = size.height;
  for (int i = 0; i <= steps; ++i) {
    const double t = static_cast<double>(i) / steps;
    visit(std::array<double, 2>{t * w, 0.0});
    visit(std::array<double, 2>{t * w, h});
    visit(std::array<double, 2>{0.0, t * h});
    visit(std::array<double, 2>{w, t * h});
  }
}

}  // namespace

bool Distortion::any() const {
  const auto zero = [](double v) { return v == 0.0; };
  return !(std::all_of(k.begin(), k.end(), zero) && std::all_of(p.begin(), p.end(), zero) &&
           (!width || std::all_of(width->begin(), width->end(), zero)));
}

DistortionMap::DistortionMap(const VirtualCamera& camera)
    : lens_(camera.distortion), size_(camera.pixels) {
  const Length radius = lens_.radius.value_or(Length::from_mm(std::hypot(camera.gate.width.mm(),  //
                                                                         camera.gate.height.mm()) /
                                                              2.0));
  const Length width = camera.pixel_pitch_x();
  const Length height = camera.pixel_pitch();
  axis_x_ = 0.5 * size_.width - camera.shift_right / width;
  axis_y_ = 0.5 * size_.height + camera.shift_up / height;
  radius_x_ = radius / width;
  radius_y_ = radius / height;
  if (!lens_.any()) return;
  // Neighbours must stay neighbours from the axis to a tenth beyond the frame.
  const auto require = [&](const std::array<double, 2>& end) {
    const Place last = in_radii(end);
    constexpr int steps = 110;
    for (int i = 0; i <= steps; ++i) {
      const double t = i / 100.0;
      const Place d{last.x * t, last.y * t};
      double j[4];
      slope(d, j);
      const double area = j[0] * j[3] - j[1] * j[2];
      const Place u = bent_back(d);
      const bool outward = i == 0 || u.x * d.x + u.y * d.y > 0.0;
      if (area > 0.0 && j[0] + j[3] > 0.0 && outward && std::isfinite(area)) continue;
      throw OpticsError(
          fmt::format("the distortion folds the picture onto itself at {:.0f} % of the way from "
                      "the axis to ({:.0f}, {:.0f}) px; the coefficients cannot be right (are "
                      "they for another radius, or the other way round?)",
                      100.0 * t, end[0], end[1]),
          "lens.distortion");
    }
  };
  constexpr int every = 20;
  int count = 0;
  along_border(size_, [&](const std::array<double, 2>& place) {
    if (count++ % every < 4) require(place);
  });
}

DistortionMap::Place DistortionMap::in_radii(const std::array<double, 2>& px) const {
  return {(px[0] - axis_x_) / radius_x_, (axis_y_ - px[1]) / radius_y_};
}

std::array<double, 2> DistortionMap::in_px(const Place& p) const {
  return {axis_x_ + p.x * radius_x_, axis_y_ - p.y * radius_y_};
}

DistortionMap::Place DistortionMap::bent_back(const Place& d) const {
  const double r2 = d.x * d.x + d.y * d.y;
  const auto& [p1, p2] = lens_.p;
  const double across = power_series(lens_.width.value_or(lens_.k), r2);
  const double up = power_series(lens_.k, r2);
  return {d.x * across + p1 * (r2 + 2.0 * d.x * d.x) + 2.0 * p2 * d.x * d.y,
          d.y * up + p2 * (r2 + 2.0 * d.y * d.y) + 2.0 * p1 * d.x * d.y};
}

// Derivatives of bent_back: du/dx, du/dy, dv/dx, dv/dy.
void DistortionMap::slope(const Place& d, double (&j)[4]) const {
  const double r2 = d.x * d.x + d.y * d.y;
  const auto& [p1, p2] = lens_.p;
  const auto width = lens_.width.value_or(lens_.k);
  const double width_slope = 2.0 * series_slope(width, r2);
  const double height_slope = 2.0 * series_slope(lens_.k, r2);
  j[0] = power_series(width, r2) + d.x * d.x * width_slope + 6.0 * p1 * d.x + 2.0 * p2 * d.y;
  j[1] = d.x * d.y * width_slope + 2.0 * p1 * d.y + 2.0 * p2 * d.x;
  j[2] = d.x * d.y * height_slope + 2.0 * p2 * d.x + 2.0 * p1 * d.y;
  j[3] = power_series(lens_.k, r2) + d.y * d.y * height_slope + 6.0 * p2 * d.y + 2.0 * p1 * d.x;
}

std::array<double, 2> DistortionMap::undistorted(const std::array<double, 2>& plate) const {
  if (!lens_.any()) return plate;
  return in_px(bent_back(in_radii(plate)));
}

std::optional<std::array<double, 2>> DistortionMap::distorted(
    const std::array<double, 2>& straight) const {
  if (!lens_.any()) return straight;
  const Place wanted = in_radii(straight);
  const double tolerance = 1e-10 / std::max(radius_x_, radius_y_);
  // From the axis outward, so that the branch that the lens shows is the one that is found: far
  // places are reached in several strides.
  Place d{};
  const int strides = std::hypot(wanted.x, wanted.y) > 1.2 ? 8 : 1;
  for (int stride = 1; stride <= strides; ++stride) {
    const double t = static_cast<double>(stride) / strides;
    if (stride == 1) d = {wanted.x * t, wanted.y * t};
    bool found = false;
    for (int i = 0; i < 60 && !found; ++i) {
      const Place u = bent_back(d);
      const double ex = wanted.x * t - u.x;
      const double ey = wanted.y * t - u.y;
      double j[4];
      slope(d, j);
      const double area = j[0] * j[3] - j[1] * j[2];
      if (!(area > 1e-9)) return std::nullopt;
      Place step{(j[3] * ex - j[1] * ey) / area, (j[0] * ey - j[2] * ex) / area};
      const double length = std::hypot(step.x, step.y);
      if (length > 0.3) step = {step.x * 0.3 / length, step.y * 0.3 / length};
      d = {d.x + step.x, d.y + step.y};
      found = length < tolerance;
    }
    if (!found) return std::nullopt;
  }
  return in_px(d);
}

Margin DistortionMap::margin() const {
  double beside = 0.0;
  double above = 0.0;
  along_border(size_, [&](const std::array<double, 2>& place) {
    const auto u = undistorted(place);
    beside = std::max({beside, -u[0], u[0] - size_.width});
    above = std::max({above, -u[1], u[1] - size_.height});
  });
  const auto up = [](double v) { return static_cast<int>(std::ceil(v - 1e-9)); };
  return {up(beside), up(above)};
}

DistortionFigures figures_of_distortion(const VirtualCamera& camera) {
  DistortionFigures figures;
  const DistortionMap map(camera);
  const double w = camera.pixels.width;
  const double h = camera.pixels.height;
  const double axis_x = 0.5 * w - camera.shift_right / camera.pixel_pitch_x();
  const double axis_y = 0.5 * h + camera.shift_up / camera.pixel_pitch();
  double far = 0.0;
  std::array<double, 2> corner{};
  for (const std::array<double, 2>& c :
       {std::array{0.0, 0.0}, std::array{w, 0.0}, std::array{0.0, h}, std::array{w, h}}) {
    const double distance = std::hypot(c[0] - axis_x, c[1] - axis_y);
    if (distance <= far) continue;
    far = distance;
    corner = c;
  }
  const auto outward = [&](double t) {
    const std::array<double, 2> d{axis_x + t * (corner[0] - axis_x),
                                  axis_y + t * (corner[1] - axis_y)};
    const auto u = map.undistorted(d);
    return std::hypot(u[0] - axis_x, u[1] - axis_y) - std::hypot(d[0] - axis_x, d[1] - axis_y);
  };
  figures.corner_px = outward(1.0);
  figures.corner_percent = 100.0 * figures.corner_px / far;
  // Barrel where places were drawn in more and more on the way out.
  constexpr int steps = 40;
  double vignetting = 0.0;
  double pincushion = 0.0;
  bool vignetting_first = true;
  for (int i = 1; i <= steps; ++i) {
    const double rise = outward(static_cast<double>(i) / steps) / i -
                        outward(static_cast<double>(i - 1) / steps) / std::max(1, i - 1);
    if (rise > 0.0 && pincushion == 0.0) vignetting_first = true;
    if (rise < 0.0 && vignetting == 0.0) vignetting_first = false;
    (rise > 0.0 ? vignetting : pincushion) += std::abs(rise);
  }
  const double small = 0.05 * (vignetting + pincushion);
  figures.kind = pincushion <= small   ? "barrel"
                 : vignetting <= small ? "pincushion"
                 : vignetting_first    ? "barrel within, pincushion outside"
                                       : "pincushion within, barrel outside";
  // The sag of the frame's own edge, which was a curve in the scene's straight picture.
  const bool long_is_width = w >= h;
  const auto a = map.undistorted({0.0, 0.0});
  const auto b = map.undistorted(long_is_width ? std::array{w, 0.0} : std::array{0.0, h});
  const auto m =
      map.undistorted(long_is_width ? std::array{0.5 * w, 0.0} : std::array{0.0, 0.5 * h});
  const double dx = b[0] - a[0];
  const double dy = b[1] - a[1];
  figures.bend_px = std::abs((m[0] - a[0]) * dy - (m[1] - a[1]) * dx) / std::hypot(dx, dy);
  return figures;
}

}  // namespace jolly_iris
