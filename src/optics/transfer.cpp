#include "jolly_iris/optics/transfer.hpp"

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

float srgb_to_linear(float v) {
  return v <= 0.04045F ? v / 12.92F : std::pow((v + 0.055F) / 1.055F, 2.4F);
}

float linear_to_srgb(float v) {
  return v <= 0.0031308F ? v * 12.92F : 1.055F * std::pow(v, 1.0F / 2.4F) - 0.055F;
}

// The constants with enough digits that the two pieces meet.
constexpr float rec709_alpha = 1.09929682680944F;
constexpr float rec709_beta = 0.018053968510807F;

float rec709_to_linear(float v) {
  return v < 4.5F * rec709_beta ? v / 4.5F
                                : std::pow((v + rec709_alpha - 1.0F) / rec709_alpha, 1.0F / 0.45F);
}

float linear_to_rec709(float v) {
  return v < rec709_beta ? 4.5F * v : rec709_alpha * std::pow(v, 0.45F) - (rec709_alpha - 1.0F);
}

constexpr float cct_slope = 10.5402377416545F;
constexpr float cct_offset = 0.0729055341958355F;
constexpr float cct_break = 0.0078125F;

float acescct_to_linear(float v) {
  return v <= cct_slope * cct_break + cct_offset ? (v - cct_offset) / cct_slope
                                                 : std::exp2(v * 17.52F - 9.72F);
}

float linear_to_acescct(float v) {
  return v <= cct_break ? cct_slope * v + cct_offset : (std::log2(v) + 9.72F) / 17.52F;
}

[[noreturn]] void need_curve() {
  throw UsageError("a transfer by a table needs the table: two rows or more of number and light");
}

// From one column of a table to the other.
float by_table(const Curve& curve, float v, std::size_t from, std::size_t to) {
  const auto& rows = curve.rows;
  if (rows.size() < 2) need_curve();
  const auto above =
      std::upper_bound(rows.begin(), rows.end(), static_cast<double>(v),
                       [&](double value, const auto& row) { return value < row[from]; });
  const auto b = std::clamp<std::ptrdiff_t>(above - rows.begin(), 1,
                                            static_cast<std::ptrdiff_t>(rows.size()) - 1);
  const auto& high = rows[static_cast<std::size_t>(b)];
  const auto& low = rows[static_cast<std::size_t>(b - 1)];
  const double t = (static_cast<double>(v) - low[from]) / (high[from] - low[from]);
  return static_cast<float>(low[to] + t * (high[to] - low[to]));
}

// One way or the other by formula.
template <bool to_light>
float by_formula(float v, Transfer transfer) {
  const float size = std::abs(v);
  switch (transfer) {
    case Transfer::linear:
      return v;
    case Transfer::srgb:
      return std::copysign(to_light ? srgb_to_linear(size) : linear_to_srgb(size), v);
    case Transfer::rec709:
      return std::copysign(to_light ? rec709_to_linear(size) : linear_to_rec709(size), v);
    case Transfer::acescct:
      return to_light ? acescct_to_linear(v) : linear_to_acescct(v);
    case Transfer::managed:
      throw UsageError(
          "a colour space of a config is decoded picture by picture, not number by number");
    case Transfer::table:
      break;
  }
  need_curve();
}

}  // namespace

float decode(float encoded, Transfer transfer) { return by_formula<true>(encoded, transfer); }
float encode(float linear, Transfer transfer) { return by_formula<false>(linear, transfer); }

float decode(float encoded, const Curve& curve) { return by_table(curve, encoded, 0, 1); }
float encode(float linear, const Curve& curve) { return by_table(curve, linear, 1, 0); }

double max_light(Transfer transfer, const Curve& curve) {
  return static_cast<double>(transfer == Transfer::table ? decode(1.0F, curve)
                                                         : decode(1.0F, transfer));
}

}  // namespace jolly_iris
