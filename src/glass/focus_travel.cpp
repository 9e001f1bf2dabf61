#include "jolly_iris/glass/focus_travel.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/glass/aim.hpp"
#include "jolly_iris/glass/paraxial.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "spot_size.hpp"

namespace jolly_iris {

namespace {

// How exactly a travel is found, mm; and in how many looks at the most.
constexpr double found_travel_mm = 1e-10;
constexpr int most_looks = 60;
// A lens whose groups may go on for ever goes this many focal lengths: half as large as life.
constexpr double as_far_as = 0.5;
// Steps in which the way to a travel's end is looked at.
constexpr int travel_steps = 48;
// How far from the axis's focus light is looked at, as a share of the focal length.
constexpr double light_reach = 0.04;
// How nearly in focus it has to be where it lies, and at its travel's end, to be so: rounding.
constexpr double at_the_end = 1e-12;

// What has to vanish for the film to be in focus: of an object at a distance from the film, B
// divided by it; at infinity, A.
double misfocus(const TracedGlass& glass, double distance_mm) {
  const RayMatrix m = matrix_of(glass, Meridian::up);
  const double behind = -glass.surfaces().back().z;
  const double a = m.a + behind * m.c;
  const double b = m.b + behind * m.d;
  if (!std::isfinite(distance_mm)) return a;
  const double before = distance_mm + glass.surfaces().front().z;
  return a * before / distance_mm + b / distance_mm;
}

std::string distance_words(Length l) {
  return l.is_finite() ? fmt::format("{:.4g} m", l.m()) : std::string("infinity");
}

class Search {
 public:
  Search(const Prescription& p, double distance_mm, double um)
      : p_(p), distance_mm_(distance_mm), um_(um), range_(travel_range(p)) {
    focal_ = paraxial_facts(TracedGlass(p, {}, um)).focal.mm();
    const double bound = as_far_as * std::abs(focal_);
    const double whole = std::abs(whole_travel());
    low_ = std::max(range_.least.mm(), -bound * whole);
    high_ = std::min(range_.most.mm(), bound * whole);
  }

  double low() const { return low_; }
  double high() const { return high_; }
  int looks() const { return looks_; }

  double at(double travel) {
    ++looks_;
    return misfocus(TracedGlass(p_, Length::from_mm(travel), um_), distance_mm_);
  }

  // The root next to where the prescription lies; none within the travel.
  std::optional<double> root() {
    double a = std::clamp(0.0, low_, high_);
    double fa = at(a);
    if (std::abs(fa) < at_the_end) return a;
    // Which way, and about how far: by a small step.
    const double small = 1e-3 * std::abs(focal_);
    const double probe = a + small <= high_ ? a + small : a - small;
    const double slope = (at(probe) - fa) / (probe - a);
    double step = slope != 0.0 ? -fa / slope : small;
    const double limit = 0.25 * (high_ - low_);
    step = std::clamp(1.05 * step, -limit, limit);
    if (step == 0.0) return std::nullopt;
    double b = a;
    double fb = fa;
    while (looks_ < most_looks) {
      b = std::clamp(a + step, low_, high_);
      if (b == a) return std::abs(fa) < at_the_end ? std::optional(a) : std::nullopt;
      fb = at(b);
      if ((fa < 0.0) != (fb < 0.0)) break;
      a = b;
      fa = fb;
      step *= 1.6;
    }
    if ((fa < 0.0) == (fb < 0.0)) return std::nullopt;
    return between(a, fa, b, fb);
  }

 private:
  // Travels count as one where the fastest group moves 1.
  double whole_travel() const {
    double most = p_.groups.empty() ? 1.0 : 0.0;
    for (const GlassGroup& g : p_.groups) most = std::max(most, std::abs(g.moves));
    return most > 0.0 ? 1.0 / most : 1.0;
  }

  // Brent, Algorithms for Minimization without Derivatives (1973), chapter 4.
  double between(double a, double fa, double b, double fb) {
    double c = a;
    double fc = fa;
    double d = b - a;
    double e = d;
    while (looks_ < most_looks) {
      if (std::abs(fc) < std::abs(fb)) {
        a = b;
        b = c;
        c = a;
        fa = fb;
        fb = fc;
        fc = fa;
      }
      const double tolerance = 0.5 * found_travel_mm;
      const double middle = 0.5 * (c - b);
      if (std::abs(middle) <= tolerance || fb == 0.0) return b;
      if (std::abs(e) < tolerance || std::abs(fa) <= std::abs(fb)) {
        d = e = middle;
      } else {
        const double s = fb / fa;
        double p = 2.0 * middle * s;
        double q = 1.0 - s;
        if (a != c) {
          const double u = fa / fc;
          const double r = fb / fc;
          p = s * (2.0 * middle * u * (u - r) - (b - a) * (r - 1.0));
          q = (u - 1.0) * (r - 1.0) * (s - 1.0);
        }
        if (p > 0.0) {
          q = -q;
        } else {
          p = -p;
        }
        const bool inside =
            2.0 * p < std::min(3.0 * middle * q - std::abs(tolerance * q), std::abs(e * q));
        e = inside ? d : middle;
        d = inside ? p / q : middle;
      }
      a = b;
      fa = fb;
      b += std::abs(d) > tolerance ? d : std::copysign(tolerance, middle);
      fb = at(b);
      if ((fb < 0.0) == (fc < 0.0)) {
        c = a;
        fc = fa;
        d = e = b - a;
      }
    }
    return b;
  }

  const Prescription& p_;
  double distance_mm_;
  double um_;
  TravelRange range_;
  double focal_ = 0.0;
  double low_ = 0.0;
  double high_ = 0.0;
  int looks_ = 0;
};

// Golden section (Kiefer 1953) about the axis's focus, where the spot is least.
double least_spot(const Prescription& p, Length distance, double axis,
                  const FocusTravelSettings& how, double low, double high, int& looks) {
  const auto spot = [&](double travel) {
    ++looks;
    TracedGlass glass(p, Length::from_mm(travel), how.wavelength_um);
    if (how.opening) glass.set_opening(*how.opening);
    return axis_spot_rms(glass, distance);
  };
  constexpr double golden = 0.6180339887498949;
  const double focal = std::abs(paraxial_facts(TracedGlass(p)).focal.mm());
  double a = std::max(low, axis - light_reach * focal);
  double d = std::min(high, axis + light_reach * focal);
  const double from = a;
  const double to = d;
  double b = d - golden * (d - a);
  double c = a + golden * (d - a);
  double at_b = spot(b);
  double at_c = spot(c);
  while (d - a > 1e-4) {
    if (at_b < at_c) {
      d = c;
      c = b;
      at_c = at_b;
      b = d - golden * (d - a);
      at_b = spot(b);
    } else {
      a = b;
      b = c;
      at_b = at_c;
      c = a + golden * (d - a);
      at_c = spot(c);
    }
  }
  const double best = 0.5 * (a + d);
  if (best - from < 1e-3 || to - best < 1e-3) {
    throw OpticsError(fmt::format(
        "the glass {}: within {:.3g} mm of where rays near its axis meet the spot of all light has "
        "no least size; focus it by the axis",
        p.name, light_reach * focal));
  }
  return best;
}

}  // namespace

FocusTravel focused(const Prescription& p, Length distance, const FocusTravelSettings& how) {
  require_sound(p);
  if (!(distance.mm() > 0.0)) {
    throw OpticsError(fmt::format("{:g} m is no distance before the film", distance.m()),
                      "take.mark");
  }
  Search search(p, distance.mm(), how.wavelength_um);
  const TracedGlass lies(p, {}, how.wavelength_um);
  if (distance.mm() <= -lies.surfaces().front().z) {
    throw OpticsError(fmt::format("{:.4g} m from the film plane is within the glass {}, which is "
                                  "{:.4g} m long",
                                  distance.m(), p.name, -lies.surfaces().front().z / 1000.0),
                      "take.mark");
  }
  const std::optional<double> root = search.root();
  if (!root && !distance.is_finite()) {
    throw OpticsError(
        fmt::format("the glass {} does not focus at infinity: that meets {:.4g} mm behind the last "
                    "surface, whose gap to the film is {:.4g} mm; leave that gap out, or give it "
                    "room to travel",
                    p.name, paraxial_facts(lies).back_focus.mm(), p.surfaces.back().gap.mm()),
        "take.mark");
  }
  if (!root) {
    throw OpticsError(
        fmt::format("the glass {} does not focus at {}: its travel ends at {} from the film plane",
                    p.name, distance_words(distance), distance_words(nearest_focus(p))),
        "take.mark");
  }
  FocusTravel out{Length::from_mm(*root), search.looks()};
  if (how.by == FocusBy::light) {
    out.travel = Length::from_mm(
        least_spot(p, distance, *root, how, search.low(), search.high(), out.evaluations));
  }
  return out;
}

FocusTravel focused(const Prescription& p, Length distance) {
  return focused(p, distance, {.by = p.focus_by, .wavelength_um = line_d_um, .opening = {}});
}

Length focused_distance(const TracedGlass& glass, Meridian meridian) {
  const RayMatrix m = matrix_of(glass, meridian);
  const double behind = -glass.surfaces().back().z;
  const double a = m.a + behind * m.c;
  const double b = m.b + behind * m.d;
  // a (d + z₁) + b = 0
  const double distance = -b / a - glass.surfaces().front().z;
  return a != 0.0 && distance > 0.0 ? Length::from_mm(distance) : Length::infinity();
}

Length nearest_focus(const Prescription& p) {
  Search search(p, std::numeric_limits<double>::infinity(), line_d_um);
  Length nearest = Length::infinity();
  for (const double end : {search.low(), search.high()}) {
    // On the way to the travel's end, as long as it focuses nearer and nearer.
    Length before = Length::infinity();
    for (int i = 1; i <= travel_steps; ++i) {
      const TracedGlass glass(p, Length::from_mm(end * i / travel_steps));
      const Length at = focused_distance(glass, Meridian::up);
      if (!(at <= before) || at.mm() <= -glass.surfaces().front().z) break;
      before = at;
    }
    nearest = std::min(nearest, before);
  }
  return nearest;
}

}  // namespace jolly_iris
