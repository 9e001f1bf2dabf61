// A plate beside CG, with the places where they differ most.
#include <fmt/format.h>

#include <array>

#include "drawing/result_sheets.hpp"
#include "report/text.hpp"

namespace jolly_iris {

MarkedPicture differing_places(const PlateComparison& comparison) {
  const ImageComparison& like = comparison.likes.front();
  const SameSizePair both = compared_pair(comparison);
  MarkedPicture out;
  out.picture = beside(both.plate, both.cg);
  const int right = out.picture.width() - both.cg.width();
  int number = 0;
  for (const DifferingPlace& p : like.left.places) {
    ++number;
    for (const int beside_px : {0, right}) {
      const double x0 = p.box.x - like.part.x + beside_px;
      const double y0 = p.box.y - like.part.y;
      const double x1 = x0 + p.box.width;
      const double y1 = y0 + p.box.height;
      out.marks.push_back({{{x0, y0}, {x1, y0}, {x1, y1}, {x0, y1}},
                           fmt::format("{}", number),
                           PictureMark::Kind::found});
    }
  }
  out.title = fmt::format("{} and {}", comparison.reference,
                          report::file_name(comparison.tries.front().file));
  out.subtitle = !like.same_view ? "these do not show the same view"
                 : number == 0   ? "what is left over is noise"
                                 : fmt::format(
                                       "{} where they differ most, once CG has the plate's "
                                         "light",
                                       report::counted(like.left.places.size(), "place"));
  out.foot = fmt::format(
      "Left the plate, right CG. Off by {:.1f} of 255 over all; {:.1f} % of the "
      "picture by more than noise.",
      255.0 * like.left.off, 100.0 * like.left.fraction);
  return out;
}

}  // namespace jolly_iris
