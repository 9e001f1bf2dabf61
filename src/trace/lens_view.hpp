// The geometry of the lens in camera space (x right, y up, looking along −z, metres): which ray a
// place in the picture and a point of the opening stand for, and where a point in space comes to
// lie in the picture. The lens itself is lens_sampler.hpp; here are its pixels.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <span>
#include "jolly_iris/glass/glass_camera.hpp"
#include "jolly_iris/optics/geometry.hpp"

#include "jolly_iris/optics/pupil.hpp"

namespace jolly_iris::tracing {

struct ViewRay {
  Vec3 origin;
  Vec3 direction;  ///< z is −1, so the ray's parameter is the axial distance
  Vec3f weight;
};

class LensView {
 public:
  /// @param glass which rays go through instead of the thin lens; lives longer; null: none
  LensView(const VirtualCamera& camera, PixelSize size, bool pinhole,
           const GlassCamera* glass = nullptr)
      : pinhole_(pinhole),
        glass_(pinhole ? nullptr : glass),
        corner_(pinhole ? 1.0 : Opening(camera.iris, camera.aperture_radius).corner_radius()),
        colouring_(camera.colouring),
        width_m_(camera.picture.width.m() / size.width),
        height_m_(camera.picture.height.m() / size.height),
        axis_{0.5 * size.width - camera.shift_right.m() / width_m_,
              0.5 * size.height + camera.shift_up.m() / height_m_} {
    if (!pinhole) {
      lens_ = lens_sampler(camera);
      return;
    }
    lens_.radius = 0.0;
    lens_.focal = camera.focal.m();
    lens_.inverse_focus = 1.0 / camera.focus.m();
  }

  /// The ray that shows the picture at (x, y) px through the opening's point for (u, v).
  ViewRay ray(double x, double y, double u, double v, std::size_t colour = 1) const {
    if (glass_ != nullptr) {
      return from(glass_->ray((x - axis_.x) * width_m_, (axis_.y - y) * height_m_, u, v, colour));
    }
    return from(lens_.ray((x - axis_.x) * width_m_, (axis_.y - y) * height_m_, u, v, colour));
  }
  bool through_glass() const { return glass_ != nullptr; }
  /// Of a glass: many rays of one colour at once, at places (px) by pairs of numbers.
  void rays(std::span<const std::array<double, 4>> numbers, int x, int y, std::size_t colour,
            std::span<ViewRay> out) const {
    constexpr std::size_t most = 256;
    std::array<double, most> right{};
    std::array<double, most> up{};
    std::array<double, most> u{};
    std::array<double, most> v{};
    std::array<GlassCameraRay, most> traced{};
    for (std::size_t first = 0; first < numbers.size(); first += most) {
      const std::size_t n = std::min(most, numbers.size() - first);
      for (std::size_t i = 0; i < n; ++i) {
        const auto& [a, b, c, d] = numbers[first + i];
        right[i] = (x + a - axis_.x) * width_m_;
        up[i] = (axis_.y - y - b) * height_m_;
        u[i] = c;
        v[i] = d;
      }
      glass_->rays({right.data(), n}, {up.data(), n}, {u.data(), n}, {v.data(), n}, colour,
                   {traced.data(), n});
      for (std::size_t i = 0; i < n; ++i) out[first + i] = from(traced[i]);
    }
  }
  /// The same through the pupil's middle, as the pinhole sees it.
  ViewRay straight(double x, double y) const {
    const double k = 1.0 / lens_.focal;
    return {Vec3{},
            {(x - axis_.x) * width_m_ * k, (axis_.y - y) * height_m_ * k, -1.0},
            Vec3f::all(1.0F)};
  }

  /// (Of a glass: the two numbers themselves.)
  Point2 opening_point(double u, double v) const {
    return glass_ != nullptr ? Point2{u, v} : lens_.point(u, v);
  }
  /// That point in space.
  Vec3 pupil_point(Point2 p) const {
    if (glass_ != nullptr) {
      const auto at = glass_->pupil_point(p.x, p.y);
      return {at[0], at[1], at[2]};
    }
    return {p.x * lens_.radius * lens_.aspect, p.y * lens_.radius, 0.0};
  }

  struct Landing {
    Point2 at;  ///< px
    Vec3f weight;
  };
  /// Where a point in space lies in the picture, seen through a point of the opening.
  Landing land(const Vec3& point, Point2 p, std::size_t colour = 1) const {
    if (glass_ != nullptr) return land_through_glass(point, p, colour);
    const auto l = lens_.land({point.x, point.y, point.z}, p, colour);
    return {{axis_.x + l.at.x / width_m_, axis_.y - l.at.y / height_m_},
            {l.weight[0], l.weight[1], l.weight[2]}};
  }
  Point2 project(const Vec3& point) const {
    if (glass_ != nullptr) {
      if (const auto at = glass_->project({point.x, point.y, point.z})) {
        return {axis_.x + (*at)[0] / width_m_, axis_.y - (*at)[1] / height_m_};
      }
    }
    const double k = lens_.focal / -point.z;
    return {axis_.x + point.x * k / width_m_, axis_.y - point.y * k / height_m_};
  }

  bool coloured() const { return glass_ != nullptr || lens_.coloured(); }
  bool colours_discs() const { return colouring_.any() && !pinhole_ && glass_ == nullptr; }
  /// What discs of something at axial distance z are coloured by, at a place of the picture.
  Vec3f disc_colour(double x, double y, double z) const {
    const double right = (x - axis_.x) * width_m_;
    const double up = (axis_.y - y) * height_m_;
    const auto colour =
        jolly_iris::disc_colour(colouring_, Length::from_m(right), Length::from_m(up));
    const double c = 2.0 * lens_.radius * lens_.focal * (lens_.inverse_focus - 1.0 / z) / height_m_;
    const double fraction = colour_fraction(c);
    Vec3f out;
    for (std::size_t i = 0; i < 3; ++i) {
      out[i] = static_cast<float>(1.0 + fraction * (colour[i] - 1.0));
    }
    return out;
  }

  /// Focal length in pixels: the larger of the two where pixels are not square.
  double focal_px() const { return lens_.focal / std::min(width_m_, height_m_); }
  /// Pixels that one squared radian around the axis covers.
  double px_a_steradian() const { return lens_.focal * lens_.focal / (width_m_ * height_m_); }
  /// Diameter of the blur disc of something in a direction at axial distance z, in px, at its
  /// largest, faults included.
  double blur_px(const Vec3& point) const {
    if (pinhole_) return 0.0;
    if (glass_ != nullptr) {
      return 2.0 * glass_->reach({point.x, point.y, point.z}) / std::min(width_m_, height_m_) + 2.0;
    }
    const double z = -point.z;
    const double right = lens_.focal * point.x / z;
    const double up = lens_.focal * point.y / z;
    double max = 0.0;
    for (std::size_t c = 0; c < 3; ++c) {
      const double aside = (lens_.magnification[c] - 1.0) * std::hypot(right, up);
      max = std::max(max, 2.0 * lens_.radius * corner_ * lens_.focal *
                                  std::abs(lens_.power_at(right, up, c) - 1.0 / z) +
                              2.0 * std::abs(aside));
    }
    const double beside = 4.0 * std::abs(lens_.spherical) * corner_ * corner_ * corner_ +
                          4.0 * std::abs(lens_.coma) * std::hypot(right, up) * corner_ * corner_;
    return (max + beside) / std::min(width_m_, height_m_);
  }

 private:
  // A splat counts A v² / (z² cos θ) pixels for each of its points: the glass's own weight is put
  // in place of that.
  Landing land_through_glass(const Vec3& point, Point2 p, std::size_t colour) const {
    const Vec3 pupil = pupil_point(p);
    const GlassLanding l =
        glass_->land({point.x, point.y, point.z}, {pupil.x, pupil.y, pupil.z}, colour);
    const double z = -point.z;
    const double cosine = z / (point - pupil).length();
    const double weight = l.weight * z * z * cosine / (lens_.focal * lens_.focal);
    return {{axis_.x + l.at[0] / width_m_, axis_.y - l.at[1] / height_m_},
            Vec3f::all(static_cast<float>(weight))};
  }

  static ViewRay from(const GlassCameraRay& r) {
    return {{r.origin[0], r.origin[1], r.origin[2]},
            {r.direction[0], r.direction[1], r.direction[2]},
            Vec3f::all(static_cast<float>(r.weight))};
  }
  static ViewRay from(const LensRay& r) {
    return {{r.origin[0], r.origin[1], r.origin[2]},
            {r.direction[0], r.direction[1], r.direction[2]},
            {r.weight[0], r.weight[1], r.weight[2]}};
  }

  bool pinhole_;
  const GlassCamera* glass_;
  double corner_;
  LensSampler lens_{};
  DiscColouring colouring_;
  double width_m_;
  double height_m_;
  Point2 axis_;  // where the picture shows the view axis
};

}  // namespace jolly_iris::tracing
