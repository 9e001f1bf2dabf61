#include "iris_evidence.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "grey_image.hpp"
#include "measure/constants.hpp"
#include "population.hpp"

namespace jolly_iris::measuring {

namespace {

using std::numbers::pi;

// An edge's sagitta, r (1 − cos π/n) if it is straight, is what curvature is read from.
void doubt_curvature(const std::vector<DiscItem>& items, PlateIris& iris) {
  if (!iris.known || iris.blades < 3) return;
  std::vector<double> radius;
  std::size_t clipped = 0;
  for (const DiscItem& i : items) {
    if (!i.fit.good) continue;
    radius.push_back(0.5 * i.fit.disc.height);
    clipped += i.fit.clipped() ? 1U : 0U;
  }
  if (radius.empty()) return;
  const double soft = usual_disc(items).soft;
  const double off = 2 * clipped > radius.size()
                         ? std::hypot(together::outline_px_clipped, together::clipped_beside * soft)
                         : std::hypot(together::outline_px, together::corner_rounded * soft);
  // The larger ones tell most.
  const double sagitta = quantile(radius, 0.75) * (1.0 - std::cos(pi / iris.blades));
  iris.curvature.margin = std::hypot(iris.curvature.margin, 2.0 * off / sagitta);
  // Edges that may be as curved as their circle may be none: pixels and a codec's blocks have
  // sides, too.
  const bool round_too = iris.curvature.value + iris.curvature.margin >= 1.0;
  const auto& could_be = iris.could_be;
  if (round_too && std::find(could_be.begin(), could_be.end(), 0) == could_be.end()) {
    iris.could_be.push_back(0);
  }
}

// Whether most of some values are about the same.
bool mostly_alike(const std::vector<double>& values, double within) {
  const double usual = quantile(values, 0.5);
  const auto alike = std::count_if(values.begin(), values.end(),
                                   [&](double v) { return std::abs(v - usual) < within * usual; });
  return 3 * alike > 2 * static_cast<std::ptrdiff_t>(values.size());
}

// Whether they are of one size and stand close by each other, in rows at one distance or with never
// one over another, as tiles and windows do. Lamps that are strewn as close lie over each other: of
// every three one, by the distances to the nearest of points at random.
bool stand_in_rows(const std::vector<PlateDisc>& discs) {
  const auto size_of = [](const PlateDisc& d) {
    return std::max(d.height_px.value, d.width_px.value);
  };
  std::vector<double> sizes;
  for (const PlateDisc& d : discs) sizes.push_back(size_of(d));
  if (sizes.empty()) return false;
  const double usual = quantile(sizes, 0.5);
  std::vector<const PlateDisc*> alike;  // the others may be highlights on them
  for (const PlateDisc& d : discs) {
    if (std::abs(size_of(d) - usual) < iris::rows_of_one_size * usual) alike.push_back(&d);
  }
  if (alike.size() < 6 || 3 * alike.size() <= 2 * discs.size()) return false;
  std::vector<double> nearest;
  for (const PlateDisc* a : alike) {
    double least = std::numeric_limits<double>::infinity();
    for (const PlateDisc* b : alike) {
      if (a == b) continue;
      least = std::min(least, std::hypot(a->at[0] - b->at[0], a->at[1] - b->at[1]));
    }
    nearest.push_back(least);
  }
  if (quantile(nearest, 0.5) > iris::rows_near * usual) return false;
  const bool apart =
      nearest.size() >= iris::enough_apart && quantile(nearest, iris::some_overlap) > usual;
  return apart || mostly_alike(nearest, iris::rows_alike);
}

// How much the shapes of what agrees differ, as the deviation of log (width / height): what one
// opening drew has one, and stones have each their own.
double spread_of_ratios(const std::vector<double>& ratios) {
  const double middle = quantile(ratios, 0.5);
  std::vector<double> off;
  for (const double r : ratios) off.push_back(std::abs(r - middle));
  constexpr double normal = 1.48;  // deviations in the median of what is off, where it is normal
  return normal * quantile(off, 0.5);
}

}  // namespace

void doubt_iris(const std::vector<DiscItem>& items, PlateIris& iris) {
  doubt_curvature(items, iris);
  iris.rotation_deg.margin *= together::turned_alike;
}

void weigh_evidence(const std::vector<PlateDisc>& discs, const std::vector<PooledDisc>& pooled,
                    int others, double from_px, PlateIris& iris) {
  int could = others;
  int agree = 0;
  int for_it = 0;
  int against = 0;
  bool named = false;
  std::vector<double> ratios;
  for (std::size_t i = 0; i < discs.size(); ++i) {
    if (discs[i].height_px.value < from_px) continue;
    ++could;
    // What is as soft as that is shaded, not lit evenly.
    const PooledDisc& p = pooled[i];
    const double lamp2 = p.soft * p.soft - p.kernel * p.kernel;
    const double largest = iris::largest_lamp * p.height;
    if (discs[i].outlier || p.agrees < iris::agrees || lamp2 > largest * largest) continue;
    ++agree;
    if (p.cut < iris::hardly_cut) {
      ratios.push_back(std::log(discs[i].width_px.value / discs[i].height_px.value));
    }
    for_it += p.votes > iris::clear_vote ? 1 : 0;
    against += p.votes < -iris::clear_vote ? 1 : 0;
    named = named || !discs[i].name.empty();
  }
  iris.discs = agree;
  const bool rows = stand_in_rows(discs);
  const bool many_shapes = static_cast<int>(ratios.size()) >= iris::enough_discs &&
                           spread_of_ratios(ratios) > iris::one_shape;
  const bool split = against > iris::contradict * (for_it + against) ||
                     (iris.blades > 0 && for_it < iris::enough_discs);
  const bool inward = iris.blades > 0 && iris.curvature.value < iris::most_inward;
  const int needed = from_px < iris::min_height ? iris::enough_small_discs : iris::enough_discs;
  const bool enough = agree >= needed && 2 * agree >= could;
  if (iris.known && (named || (!rows && !many_shapes && !split && !inward && enough))) return;
  const PlateIris nothing;
  const Measured squeeze = iris.height_over_width;
  iris = nothing;
  iris.height_over_width = squeeze;
  iris.discs = agree;
  if (could == 0) {
    iris.why = fmt::format("no disc is {:.0f} px high or more, and smaller ones show no shape",
                           iris::min_height);
  } else if (rows) {
    iris.why =
        "they stand in rows like tiles or windows; one that is drawn and named would settle it";
  } else if (many_shapes) {
    iris.why =
        "some are wider and some higher, as nothing is that one opening drew; one that is drawn "
        "and named would settle it";
  } else if (agree < needed) {
    iris.why = fmt::format(
        "{} of {} discs of {:.0f} px or more {} one outline; {} would settle it, or one that is "
        "drawn and named",
        agree, could, from_px, agree == 1 ? "shows" : "share", needed == 3 ? "three" : "six");
  } else if (2 * agree < could) {
    iris.why = fmt::format("only {} of {} that could be discs share one outline", agree, could);
  } else if (inward) {
    iris.why = "their outlines bend inward farther than blades do";
  } else if (split) {
    iris.why =
        fmt::format("{} discs show blades as most do, and {} show them turned", for_it, against);
  } else {
    iris.why = "their outlines fit no number of blades clearly";
  }
}

}  // namespace jolly_iris::measuring
