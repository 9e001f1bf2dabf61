// A number that somebody set by feel in another program ("9 at 20 m"), taken to other distances:
// as blur goes, as sizes in the picture go, or along the straight line that one would draw.
//
//   const ValueCarrier carrier(body, lens, take, {{9.0, 20_m}}, Length::infinity());
//   carrier.at(CarryLaw::blur, 7_m).value;    // 27 and a bit: blur grows faster than the line says
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/body.hpp"
#include "jolly_iris/optics/lens.hpp"
#include "jolly_iris/optics/take.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// What was set while the subject, in focus, was so far away (axial).
struct FeltValue {
  double value = 0.0;
  Length distance{};
};

/// How it goes with distance.
enum class CarryLaw {
  blur,  ///< as the blur of what is `behind` the subject does: D v (1/s − 1/(s + behind))
  size,  ///< as sizes in the picture do: v / s
  line   ///< a straight line through what was set, least squares: two distances or more
};

/// "blur", "size", "line".
std::string_view to_string(CarryLaw law);

struct CarriedValue {
  std::optional<double> value{};  ///< none: the law has none there
  std::string breaks{};           ///< why not, or why it cannot be meant
};

class ValueCarrier {
 public:
  /// @param take its stop and the lens make the blur; its mark does not count
  /// @param behind how far what is blurred is behind the subject (in front: below zero), ≠ 0; may
  ///        be infinite
  /// @throws UsageError for no value, a value that is not finite, or `behind` of zero; OpticsError
  ///         for a distance that the lens cannot focus on
  ValueCarrier(Body body, Lens lens, const Take& take, std::vector<FeltValue> felt, Length behind);

  CarriedValue at(CarryLaw law, Length distance) const;
  /// How far a law is off what was set, by value.
  std::vector<double> residuals(CarryLaw law) const;
  /// Where the line crosses zero; none: it does not, or there is no line.
  std::optional<Length> line_ends() const;
  /// Whether the line rises with distance, so that it is negative nearer than where it ends.
  bool line_rises() const { return slope_ && *slope_ > 0.0; }

 private:
  std::optional<double> shape(CarryLaw law, Length distance) const;
  double factor(CarryLaw law) const;

  Body body_;
  Lens lens_;
  Take take_;
  std::vector<FeltValue> felt_;
  Length behind_;
  std::optional<double> slope_{};  // of the line, a metre
  double offset_ = 0.0;
};

}  // namespace jolly_iris
