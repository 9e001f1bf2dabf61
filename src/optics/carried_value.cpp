#include "jolly_iris/optics/carried_value.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/sharpness.hpp"

namespace jolly_iris {

std::string_view to_string(CarryLaw law) {
  switch (law) {
    case CarryLaw::blur:
      return "blur";
    case CarryLaw::size:
      return "size";
    case CarryLaw::line:
      break;
  }
  return "line";
}

ValueCarrier::ValueCarrier(Body body, Lens lens, const Take& take, std::vector<FeltValue> felt,
                           Length behind)
    : body_(std::move(body)),
      lens_(std::move(lens)),
      take_(take),
      felt_(std::move(felt)),
      behind_(behind) {
  if (felt_.empty()) throw UsageError("no value was given that could be carried; write 9 at 20 m");
  if (behind_ == Length{}) {
    throw UsageError("what is blurred is as far away as the subject, so no law says how it goes");
  }
  double n = 0.0;
  double sum = 0.0;
  double sum_at = 0.0;
  for (const FeltValue& f : felt_) {
    if (!std::isfinite(f.value) || !(f.distance.m() > 0.0) || f.distance.is_infinite()) {
      throw UsageError(fmt::format("{:g} at {:g} m: both are finite, and the distance above zero",
                                   f.value, f.distance.m()));
    }
    (void)resolve(body_, lens_, take_, f.distance);  // or says why not
    n += 1.0;
    sum += f.value;
    sum_at += f.distance.m();
  }
  double above = 0.0;
  double below = 0.0;
  for (const FeltValue& f : felt_) {
    const double d = f.distance.m() - sum_at / n;
    above += d * f.value;
    below += d * d;
  }
  if (below > 1e-12 * sum_at * sum_at) {
    slope_ = above / below;
    offset_ = sum / n - *slope_ * sum_at / n;
  }
}

std::optional<double> ValueCarrier::shape(CarryLaw law, Length distance) const {
  const VirtualCamera camera = resolve(body_, lens_, take_, distance);
  if (law == CarryLaw::size) return camera.focal / distance;
  const Length z = behind_.is_infinite() ? behind_ : distance + behind_;
  if (!(z.m() > 0.0)) return std::nullopt;
  return to_pixels(circle_of_confusion(camera, z), camera);
}

// By least squares over what was set.
double ValueCarrier::factor(CarryLaw law) const {
  double above = 0.0;
  double below = 0.0;
  for (const FeltValue& f : felt_) {
    const double s = shape(law, f.distance).value_or(0.0);
    above += f.value * s;
    below += s * s;
  }
  return below > 0.0 ? above / below : 0.0;
}

CarriedValue ValueCarrier::at(CarryLaw law, Length distance) const {
  if (law == CarryLaw::line) {
    if (!slope_) return {std::nullopt, "a line takes values at two distances"};
    const double v = offset_ + *slope_ * distance.m();
    const bool all_positive =
        std::all_of(felt_.begin(), felt_.end(), [](const FeltValue& f) { return f.value > 0.0; });
    const bool wrong = all_positive && v <= 0.0;
    return {v, wrong ? "negative: there is no such blur" : ""};
  }
  try {
    const auto s = shape(law, distance);
    if (!s) {
      return {std::nullopt, fmt::format("what is blurred is behind the camera, {:.3g} m from it",
                                        (distance + behind_).m())};
    }
    const bool in_front = law == CarryLaw::blur && *s < 0.0;
    return {factor(law) * *s, in_front ? "in front of the focus" : ""};
  } catch (const OpticsError& e) {
    return {std::nullopt, e.what()};
  }
}

std::vector<double> ValueCarrier::residuals(CarryLaw law) const {
  std::vector<double> out;
  for (const FeltValue& f : felt_) out.push_back(at(law, f.distance).value.value_or(0.0) - f.value);
  return out;
}

std::optional<Length> ValueCarrier::line_ends() const {
  if (!slope_ || *slope_ == 0.0) return std::nullopt;
  const double at = -offset_ / *slope_;
  return at > 0.0 && std::isfinite(at) ? std::optional(Length::from_m(at)) : std::nullopt;
}

}  // namespace jolly_iris
