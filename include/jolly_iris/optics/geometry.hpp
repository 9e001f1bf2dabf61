// Points, directions and placements in space: right-handed, y up, −z ahead of a camera, as in glTF.
// Plain values without any library, so that whoever includes a header of ours takes no other along.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <cstddef>
#include <limits>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A point, a direction or a colour: three numbers of one kind.
template <class T>
struct Vector3 {
  T x{};
  T y{};
  T z{};

  constexpr Vector3() = default;
  constexpr Vector3(T x_, T y_, T z_) : x(x_), y(y_), z(z_) {}
  /// Of the same numbers in another precision.
  template <class U>
  constexpr explicit Vector3(const Vector3<U>& v)
      : x(static_cast<T>(v.x)), y(static_cast<T>(v.y)), z(static_cast<T>(v.z)) {}
  constexpr explicit Vector3(const std::array<T, 3>& v) : x(v[0]), y(v[1]), z(v[2]) {}

  static constexpr Vector3 all(T v) { return {v, v, v}; }
  static constexpr Vector3 unit_x() { return {T(1), T(0), T(0)}; }
  static constexpr Vector3 unit_y() { return {T(0), T(1), T(0)}; }
  static constexpr Vector3 unit_z() { return {T(0), T(0), T(1)}; }

  /// By index: 0 is x, 1 is y, 2 is z.
  constexpr T operator[](std::size_t i) const { return i == 0 ? x : i == 1 ? y : z; }
  constexpr T& operator[](std::size_t i) { return i == 0 ? x : i == 1 ? y : z; }

  friend constexpr bool operator==(const Vector3&, const Vector3&) = default;
  friend constexpr Vector3 operator+(const Vector3& a, const Vector3& b) {
    return {a.x + b.x, a.y + b.y, a.z + b.z};
  }
  friend constexpr Vector3 operator-(const Vector3& a, const Vector3& b) {
    return {a.x - b.x, a.y - b.y, a.z - b.z};
  }
  friend constexpr Vector3 operator-(const Vector3& a) { return {-a.x, -a.y, -a.z}; }
  friend constexpr Vector3 operator*(const Vector3& a, T s) { return {a.x * s, a.y * s, a.z * s}; }
  friend constexpr Vector3 operator*(T s, const Vector3& a) { return a * s; }
  friend constexpr Vector3 operator/(const Vector3& a, T s) { return {a.x / s, a.y / s, a.z / s}; }
  constexpr Vector3& operator+=(const Vector3& b) { return *this = *this + b; }
  constexpr Vector3& operator-=(const Vector3& b) { return *this = *this - b; }
  constexpr Vector3& operator*=(T s) { return *this = *this * s; }
  constexpr Vector3& operator/=(T s) { return *this = *this / s; }

  constexpr T dot(const Vector3& b) const { return x * b.x + y * b.y + z * b.z; }
  constexpr Vector3 cross(const Vector3& b) const {
    return {y * b.z - z * b.y, z * b.x - x * b.z, x * b.y - y * b.x};
  }
  /// Component by component: a colour seen through a filter.
  constexpr Vector3 times(const Vector3& b) const { return {x * b.x, y * b.y, z * b.z}; }
  constexpr T squared_length() const { return dot(*this); }
  T length() const { return std::sqrt(squared_length()); }
  /// Of length 1; the zero vector stays what it is.
  Vector3 normalized() const {
    const T l = length();
    return l > T(0) ? *this / l : *this;
  }
  Vector3 abs() const { return {std::abs(x), std::abs(y), std::abs(z)}; }
  constexpr T largest() const { return std::max({x, y, z}); }
  constexpr T mean() const { return (x + y + z) / T(3); }
  constexpr bool is_zero() const { return x == T(0) && y == T(0) && z == T(0); }
  bool is_finite() const { return std::isfinite(x) && std::isfinite(y) && std::isfinite(z); }
};

using Vec3 = Vector3<double>;
using Vec3f = Vector3<float>;

/// Whether two points are as near as a share of their own distance from the origin.
template <class T>
bool nearly_equal(const Vector3<T>& a, const Vector3<T>& b, T fraction) {
  return (a - b).squared_length() <=
         fraction * fraction * std::min(a.squared_length(), b.squared_length());
}

/// The smallest box along the axes around some points; empty without any.
template <class T>
struct Box3 {
  Vector3<T> min = Vector3<T>::all(std::numeric_limits<T>::infinity());
  Vector3<T> max = Vector3<T>::all(-std::numeric_limits<T>::infinity());

  constexpr bool empty() const { return !(min.x <= max.x && min.y <= max.y && min.z <= max.z); }
  constexpr void extend(const Vector3<T>& p) {
    min = {std::min(min.x, p.x), std::min(min.y, p.y), std::min(min.z, p.z)};
    max = {std::max(max.x, p.x), std::max(max.y, p.y), std::max(max.z, p.z)};
  }
  /// @pre not empty, as of the next two
  constexpr Vector3<T> centre() const { return (min + max) / T(2); }
  constexpr Vector3<T> sizes() const { return max - min; }
  /// One of the eight, 0 … 7: bit 0 is the far side in x, bit 1 in y, bit 2 in z.
  constexpr Vector3<T> corner(std::size_t i) const {
    return {(i & 1U) != 0U ? max.x : min.x, (i & 2U) != 0U ? max.y : min.y,
            (i & 4U) != 0U ? max.z : min.z};
  }
};

/// A linear map, by where it takes the three axes.
struct Matrix3 {
  std::array<Vec3, 3> columns{Vec3::unit_x(), Vec3::unit_y(), Vec3::unit_z()};

  constexpr const Vec3& column(std::size_t i) const { return columns[i]; }
  constexpr Vec3& column(std::size_t i) { return columns[i]; }
  constexpr double operator()(std::size_t row, std::size_t col) const { return columns[col][row]; }

  friend constexpr bool operator==(const Matrix3&, const Matrix3&) = default;
  friend constexpr Vec3 operator*(const Matrix3& m, const Vec3& v) {
    return m.columns[0] * v.x + m.columns[1] * v.y + m.columns[2] * v.z;
  }
  friend constexpr Matrix3 operator*(const Matrix3& a, const Matrix3& b) {
    return {{a * b.columns[0], a * b.columns[1], a * b.columns[2]}};
  }
  constexpr Matrix3 transposed() const {
    const auto& c = columns;
    return {
        {Vec3{c[0].x, c[1].x, c[2].x}, Vec3{c[0].y, c[1].y, c[2].y}, Vec3{c[0].z, c[1].z, c[2].z}}};
  }
  constexpr double determinant() const { return columns[0].dot(columns[1].cross(columns[2])); }
  /// By cofactors. @pre the determinant is not 0
  constexpr Matrix3 inverse() const {
    const Vec3 a = columns[1].cross(columns[2]);
    const Vec3 b = columns[2].cross(columns[0]);
    const Vec3 c = columns[0].cross(columns[1]);
    return Matrix3{{a / determinant(), b / determinant(), c / determinant()}}.transposed();
  }
  static constexpr Matrix3 scaling(double s) {
    return {{Vec3{s, 0, 0}, Vec3{0, s, 0}, Vec3{0, 0, s}}};
  }
  static constexpr Matrix3 scaling(const Vec3& s) {
    return {{Vec3{s.x, 0, 0}, Vec3{0, s.y, 0}, Vec3{0, 0, s.z}}};
  }
};

/// A rotation as four numbers (W. R. Hamilton); of length 1 wherever it rotates.
struct Quaternion {
  double w = 1.0;
  double x = 0.0;
  double y = 0.0;
  double z = 0.0;

  double length() const { return std::sqrt(w * w + x * x + y * y + z * z); }
  Quaternion normalized() const {
    const double l = length();
    return {w / l, x / l, y / l, z / l};
  }
  /// By the right-hand rule. @param axis of length 1
  static Quaternion about(const Vec3& axis, double radians) {
    const double s = std::sin(0.5 * radians);
    return {std::cos(0.5 * radians), s * axis.x, s * axis.y, s * axis.z};
  }
  /// @param m a rotation; the largest of the four is found first, so that no root loses figures (S.
  /// W. Shepperd, "Quaternion from rotation matrix", 1978)
  static Quaternion from(const Matrix3& m) {
    const double trace = m(0, 0) + m(1, 1) + m(2, 2);
    if (trace > 0.0) {
      const double r = std::sqrt(1.0 + trace);
      const double s = 0.5 / r;
      return {0.5 * r, (m(2, 1) - m(1, 2)) * s, (m(0, 2) - m(2, 0)) * s, (m(1, 0) - m(0, 1)) * s};
    }
    const std::size_t i = m(0, 0) > m(1, 1)   ? (m(0, 0) > m(2, 2) ? 0 : 2)
                          : m(1, 1) > m(2, 2) ? 1
                                              : 2;
    const std::size_t j = (i + 1) % 3;
    const std::size_t k = (i + 2) % 3;
    const double r = std::sqrt(1.0 + m(i, i) - m(j, j) - m(k, k));
    const double s = 0.5 / r;
    Vec3 v;
    v[i] = 0.5 * r;
    v[j] = (m(j, i) + m(i, j)) * s;
    v[k] = (m(k, i) + m(i, k)) * s;
    return {(m(k, j) - m(j, k)) * s, v.x, v.y, v.z};
  }
  Matrix3 to_matrix() const {
    return {{Vec3{1 - 2 * (y * y + z * z), 2 * (x * y + w * z), 2 * (x * z - w * y)},
             Vec3{2 * (x * y - w * z), 1 - 2 * (x * x + z * z), 2 * (y * z + w * x)},
             Vec3{2 * (x * z + w * y), 2 * (y * z - w * x), 1 - 2 * (x * x + y * y)}}};
  }
  /// First b, then a.
  friend Quaternion operator*(const Quaternion& a, const Quaternion& b) {
    return {a.w * b.w - a.x * b.x - a.y * b.y - a.z * b.z,
            a.w * b.x + a.x * b.w + a.y * b.z - a.z * b.y,
            a.w * b.y - a.x * b.z + a.y * b.w + a.z * b.x,
            a.w * b.z + a.x * b.y - a.y * b.x + a.z * b.w};
  }
  /// The same rotation, said the other way round.
  constexpr Quaternion operator-() const { return {-w, -x, -y, -z}; }
  constexpr double dot(const Quaternion& b) const { return w * b.w + x * b.x + y * b.y + z * b.z; }
  /// Along the shorter arc at a steady rate, t from 0 to 1 (K. Shoemake, "Animating rotation with
  /// quaternion curves", 1985).
  Quaternion slerp(double t, const Quaternion& to) const {
    const double d = dot(to);
    double a = 1.0 - t;
    double b = t;
    if (std::abs(d) < 1.0 - std::numeric_limits<double>::epsilon()) {
      const double angle = std::acos(std::abs(d));
      a = std::sin((1.0 - t) * angle) / std::sin(angle);
      b = std::sin(t * angle) / std::sin(angle);
    }
    if (d < 0.0) b = -b;
    return {a * w + b * to.w, a * x + b * to.x, a * y + b * to.y, a * z + b * to.z};
  }
  /// By how much it rotates, radians, 0 … π.
  double angle() const { return 2.0 * std::atan2(std::hypot(x, y, z), std::abs(w)); }
};

/// Where something is in its parent's space, how it is turned and scaled, or sheared.
struct Affine {
  Matrix3 linear{};
  Vec3 translation{};

  friend constexpr Vec3 operator*(const Affine& a, const Vec3& p) {
    return a.linear * p + a.translation;
  }
  friend constexpr Affine operator*(const Affine& a, const Affine& b) {
    return {a.linear * b.linear, a * b.translation};
  }
  /// @pre the linear part can be inverted
  constexpr Affine inverse() const {
    const Matrix3 back = linear.inverse();
    return {back, -(back * translation)};
  }
  /// What `moved`, `turned` and `scaled` do comes first, in the thing's own space.
  constexpr Affine moved(const Vec3& by) const { return {linear, *this * by}; }
  Affine turned(const Quaternion& by) const { return {linear * by.to_matrix(), translation}; }
  constexpr Affine scaled(const Vec3& by) const {
    return {linear * Matrix3::scaling(by), translation};
  }
  bool is_finite() const {
    return linear.columns[0].is_finite() && linear.columns[1].is_finite() &&
           linear.columns[2].is_finite() && translation.is_finite();
  }
};

/// Where something rigid stands, and how it is turned: camera → world, metres.
struct Pose {
  Matrix3 linear{};  ///< a rotation
  Vec3 translation{};

  friend constexpr bool operator==(const Pose&, const Pose&) = default;
  friend constexpr Vec3 operator*(const Pose& a, const Vec3& p) {
    return a.linear * p + a.translation;
  }
  friend constexpr Pose operator*(const Pose& a, const Pose& b) {
    return {a.linear * b.linear, a * b.translation};
  }
  friend constexpr Affine operator*(const Pose& a, const Affine& b) { return a.affine() * b; }
  constexpr Affine affine() const { return {linear, translation}; }
  constexpr Pose inverse() const {
    const Matrix3 back = linear.transposed();
    return {back, -(back * translation)};
  }
  constexpr Pose moved(const Vec3& by) const { return {linear, *this * by}; }
  Pose turned(const Quaternion& by) const { return {linear * by.to_matrix(), translation}; }
};

}  // namespace jolly_iris
