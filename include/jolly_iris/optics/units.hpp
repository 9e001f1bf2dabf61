// Lengths, angles, durations and temperatures as types of their own, so that no number travels
// without its unit. They behave like numbers: add, scale, compare, divide two for a ratio.
//
//   const Length mark = 2.4_m;            mark.mm() == 2400
//   const double stops = 54_mm / 27_mm;   // 2
#pragma once

#include <cmath>
#include <compare>
#include <limits>
#include <numbers>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

namespace detail {
/// A number with a unit: `Tag` keeps the kinds apart at compile time.
template <class Tag>
class Quantity {
 public:
  constexpr Quantity() = default;
  /// So many of the unit that it is kept in.
  static constexpr Tag raw(double value) {
    Tag out;
    out.value_ = value;
    return out;
  }

  friend constexpr Tag operator+(Tag a, Tag b) { return Tag::raw(a.value_ + b.value_); }
  friend constexpr Tag operator-(Tag a, Tag b) { return Tag::raw(a.value_ - b.value_); }
  friend constexpr Tag operator-(Tag a) { return Tag::raw(-a.value_); }
  friend constexpr Tag operator*(Tag a, double k) { return Tag::raw(a.value_ * k); }
  friend constexpr Tag operator*(double k, Tag a) { return Tag::raw(k * a.value_); }
  friend constexpr Tag operator/(Tag a, double k) { return Tag::raw(a.value_ / k); }
  friend constexpr double operator/(Tag a, Tag b) { return a.value_ / b.value_; }
  friend constexpr auto operator<=>(Tag a, Tag b) { return a.value_ <=> b.value_; }
  friend constexpr bool operator==(Tag a, Tag b) { return a.value_ == b.value_; }

 protected:
  double value_ = 0.0;
};
}  // namespace detail

/// A length. Kept in millimetres, the unit lenses are marked in.
class Length : public detail::Quantity<Length> {
 public:
  static constexpr Length from_mm(double mm) { return raw(mm); }
  static constexpr Length from_m(double m) { return raw(m * 1000.0); }
  /// Infinitely far: a legal subject or focus distance.
  static constexpr Length infinity() { return raw(std::numeric_limits<double>::infinity()); }

  constexpr double mm() const { return value_; }
  constexpr double m() const { return value_ / 1000.0; }
  bool is_infinite() const { return std::isinf(value_); }
  bool is_finite() const { return std::isfinite(value_); }
};

/// An angle. Kept in radians.
class Angle : public detail::Quantity<Angle> {
 public:
  static constexpr Angle from_radians(double radians) { return raw(radians); }
  static constexpr Angle from_degrees(double degrees) {
    return raw(degrees * std::numbers::pi / 180.0);
  }
  constexpr double radians() const { return value_; }
  constexpr double degrees() const { return value_ * 180.0 / std::numbers::pi; }
};

/// A stretch of time. Kept in seconds.
class Duration : public detail::Quantity<Duration> {
 public:
  static constexpr Duration from_seconds(double seconds) { return raw(seconds); }
  constexpr double seconds() const { return value_; }
};

/// A colour temperature in kelvin.
class Temperature : public detail::Quantity<Temperature> {
 public:
  static constexpr Temperature from_kelvin(double kelvin) { return raw(kelvin); }
  constexpr double kelvin() const { return value_; }
};

/// The power of a lens, and differences of focus: reciprocal metres, kept in dioptres.
class Power : public detail::Quantity<Power> {
 public:
  static constexpr Power from_dioptres(double dioptres) { return raw(dioptres); }
  constexpr double dioptres() const { return value_; }
};

/// Width and height, e.g. of a gate.
struct Extent {
  Length width{};
  Length height{};
  friend constexpr bool operator==(const Extent&, const Extent&) = default;
};

/// Picture size in pixels.
struct PixelSize {
  int width = 0;
  int height = 0;
  friend constexpr bool operator==(const PixelSize&, const PixelSize&) = default;
};

inline namespace literals {
constexpr Length operator""_mm(long double v) { return Length::from_mm(static_cast<double>(v)); }
constexpr Length operator""_mm(unsigned long long v) {
  return Length::from_mm(static_cast<double>(v));
}
constexpr Length operator""_cm(long double v) {
  return Length::from_mm(static_cast<double>(v) * 10.0);
}
constexpr Length operator""_cm(unsigned long long v) {
  return Length::from_mm(static_cast<double>(v) * 10.0);
}
constexpr Length operator""_m(long double v) { return Length::from_m(static_cast<double>(v)); }
constexpr Length operator""_m(unsigned long long v) {
  return Length::from_m(static_cast<double>(v));
}
constexpr Angle operator""_deg(long double v) {
  return Angle::from_degrees(static_cast<double>(v));
}
constexpr Angle operator""_deg(unsigned long long v) {
  return Angle::from_degrees(static_cast<double>(v));
}
constexpr Duration operator""_s(long double v) {
  return Duration::from_seconds(static_cast<double>(v));
}
constexpr Duration operator""_s(unsigned long long v) {
  return Duration::from_seconds(static_cast<double>(v));
}
constexpr Temperature operator""_K(long double v) {
  return Temperature::from_kelvin(static_cast<double>(v));
}
constexpr Temperature operator""_K(unsigned long long v) {
  return Temperature::from_kelvin(static_cast<double>(v));
}
}  // namespace literals

}  // namespace jolly_iris
