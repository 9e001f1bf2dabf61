// Values over frames as curves: what each frame told, the curve through it with its margin, what
// the notes say, what is left over; with the plate as a strip above.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// One value; all lists have one entry for each frame, `notes` may have none.
struct SheetCurve {
  std::string title{};
  std::vector<double> frames{};
  std::vector<double> value{};
  std::vector<double> margin{};  ///< in the same unit as the value, ≥ 0
  std::vector<double> notes{};
  std::vector<std::optional<double>> points{};  ///< what single frames told
  std::vector<double> point_margin{};
  struct Tick {
    double at = 0.0;
    std::string words{};
  };
  std::vector<Tick> ticks{};  ///< of the value's axis; those without room are left out
  struct Span {
    double begins = 0.0;
    double ends = 0.0;
    std::string words{};
  };
  std::vector<Span> moves{};
  double least_range = 0.0;  ///< that the axis shows, so that noise does not fill it
};

struct StripPicture {
  double frame = 0.0;
  Picture picture{};  ///< linear light; empty: not shown
};

struct CurveSheet {
  std::string title{};
  std::string subtitle{};
  std::string foot{};
  std::vector<StripPicture> strip{};
  SheetCurve main{};                 ///< large, with what is left over below it
  std::vector<SheetCurve> others{};  ///< small, up to four
};

/// The drawing, 1280 × 800. @return the file's bytes
/// @throws UsageError for a curve without frames, or lists of another length
std::string curves_png(const CurveSheet& sheet);
std::string curves_svg(const CurveSheet& sheet);

}  // namespace jolly_iris
