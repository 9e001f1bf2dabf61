// How some program counts: which numbers it asks for, in which order, in which units. A dialect is
// data (see docs/dialects.md); no program is named anywhere.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/cg_camera.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// One number that a program asks for.
struct DialectField {
  enum class Quantity {
    focal_length,
    field_of_view,  ///< `along`
    gate,           ///< `along`
    f_number,
    aperture,  ///< radius or diameter, `unit`
    focus,     ///< axial or radial, `unit`
    squeeze,   ///< the aperture's height against its width, or its inverse
    blades,
    rotation,      ///< of the blades
    shift_across,  ///< to the right; `unit`, or a share of the picture
    shift_up,
    pixel_aspect  ///< a pixel's width against its height
  };
  enum class Along { width, height, diagonal };
  enum class Unit { mm, cm, m, inch, scene, tenths, pixels, degrees, radians, fraction };

  std::string label{};
  Quantity quantity = Quantity::focal_length;
  Along along = Along::width;  ///< of a field or a gate; of a share: which side is 1
  Unit unit = Unit::mm;        ///< tenths: of a scene unit
  bool diameter = false;       ///< aperture: as a diameter
  bool radial = false;         ///< focus: along the ray to what is in focus
  bool inverse = false;        ///< squeeze: width against height
  bool zero_right = false;     ///< rotation: 0 = a corner at the right, not at the top
  bool clockwise = false;      ///< rotation: turns the other way
};

struct Dialect {
  std::string name{};
  std::string says{};  ///< what it does, in a sentence
  /// A program whose gate cannot be set has this one; focal lengths and f-numbers are scaled to it.
  std::optional<Length> fixed_gate{};
  DialectField::Along fixed_along = DialectField::Along::width;
  std::vector<DialectField> fields{};
};

/// What a dialect needs to know beside the camera.
struct DialectSetting {
  Length unit = Length::from_m(1.0);  ///< one unit of the scene
  PixelSize pixels{};
  Angle off_axis{};  ///< under which what is in focus is seen: for radial focus
};

/// One field filled in. Infinite focus is infinity.
struct DialectValue {
  std::string label{};
  double value = 0.0;
  std::string unit{};  ///< as it is read behind the number: "mm", "units", "px", "deg", ""
};

/// A camera in a dialect's own numbers, in its order.
/// @throws OpticsError for a camera that lacks what a field asks for
std::vector<DialectValue> fields_in(const Dialect& dialect, const CgCamera& camera,
                                    const DialectSetting& setting);

/// And back: typed numbers by label → the camera they mean.
/// @param picture the picture's extent on the gate, for programs that are told no gate: only its
///        shape and scale count
/// @throws UsageError for a label the dialect does not have, and where nothing tells the framing
/// @throws OpticsError for a number that no camera has
CgCamera meant_by(const Dialect& dialect, const std::map<std::string, double>& typed,
                  const DialectSetting& setting, const Extent& picture);

}  // namespace jolly_iris
