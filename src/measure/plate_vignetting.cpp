#include "plate_vignetting.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "grey_image.hpp"
#include "measure/constants.hpp"
#include "normal_equations.hpp"
#include "picture/parallel.hpp"

namespace jolly_iris::measuring {

namespace {

using std::numbers::pi;

// The edge of a disc, as points of the plate.
struct CutEdge {
  std::array<double, 2> at{};  // px from the picture's middle, right and up
  double radius = 0.0;         // half its height
  bool turned = false;
  struct Point {
    double x, y;    // px from the disc's middle, right and up
    double weight;  // 1 / variance, radii
  };
  std::vector<Point> points{};
};

struct Rim {
  double radius = 1e3;
  double shift = 0.0;  // per px
};

class RimFit {
 public:
  RimFit(std::vector<CutEdge> edges, const BladeShape& shape, double aspect, bool turned_is_known,
         double reach)
      : edges_(std::move(edges)),
        shape_(shape),
        aspect_(aspect),
        known_(turned_is_known),
        reach_(reach) {
    uncut_.resize(edges_.size());
    parallel_for(std::size_t{0}, edges_.size(),
                 [&](std::size_t i) { uncut_[i] = off_of(edges_[i], {}, false); });
  }

  // χ² of one disc, tamed, with the place and size that suit this rim, and a second one beside it.
  double off_of(const CutEdge& e, const Rim& rim, bool in_front, const Rim& beside = {}) const {
    const double sign = in_front ? -1.0 : 1.0;
    const double cx = sign * rim.shift * e.at[0];
    const double cy = sign * rim.shift * e.at[1];
    const double sx = sign * beside.shift * e.at[0];
    const double sy = sign * beside.shift * e.at[1];
    Terms<3> q{};  // place in radii, log size
    double sum = 0.0;
    constexpr int steps = 5;
    for (int round = 0; round <= steps; ++round) {
      const bool last = round == steps;
      NormalEquations<3> normal(1.0 / (tube_rim::moved * tube_rim::moved), {-q[0], -q[1], -q[2]});
      sum = dot(q, q) / (tube_rim::moved * tube_rim::moved);
      const double height = e.radius * std::exp(q[2]);
      for (const CutEdge::Point& p : e.points) {
        const double x = (p.x - q[0] * e.radius) / (height * aspect_);
        const double y = (p.y - q[1] * e.radius) / height;
        const double r = std::sqrt(x * x + y * y);
        if (!(r > 0.05)) continue;
        const double ux = x / r;
        const double uy = y / r;
        const double turn = e.turned ? pi : 0.0;
        const double outline = shape_.radius(std::atan2(y, x) + turn);
        double open = tube_opens_to(aspect_ * ux, uy, {cx, cy}, rim.radius);
        if (beside.shift != 0.0) {
          open = std::min(open, tube_opens_to(aspect_ * ux, uy, {sx, sy}, beside.radius));
        }
        const double off = r - std::min(outline, open);
        const double chi2 = off * off * p.weight;
        if (last) {
          sum += 9.0 * std::log1p(chi2 / 9.0);
          continue;
        }
        const double robust = 1.0 / (1.0 + chi2 / 9.0);
        normal.add({-ux * e.radius / (height * aspect_), -uy * e.radius / height, -r}, -off,
                   robust * p.weight);
      }
      if (last) break;
      const Terms<3> step = normal.solve();
      const double shorter = std::min(1.0, 0.3 / std::max(std::sqrt(dot(step, step)), 1e-12));
      for (std::size_t i = 0; i < 3; ++i) q[i] += shorter * step[i];
    }
    return sum;
  }

  double chi2(const Rim& rim, const Rim& beside = {}) const {
    std::vector<double> each(edges_.size());
    parallel_for(std::size_t{0}, edges_.size(), [&](std::size_t i) {
      if (!cuts(rim, edges_[i]) && (beside.shift == 0.0 || !cuts(beside, edges_[i]))) {
        each[i] = uncut_[i];
        return;
      }
      each[i] = off_of(edges_[i], rim, false, beside);
      if (!known_) each[i] = std::min(each[i], off_of(edges_[i], rim, true, beside));
    });
    double sum = 0.0;
    for (const double c : each) sum += c;
    return sum;
  }

  // With another rim beside it, if there is one.
  Rim best(const Rim& beside = {}) const {
    // A grid first: many rims cut nothing, and no slope leads from there.
    Rim best;
    double min = chi2(best, beside);
    // Of a second one no more is asked than whether there is any.
    const double coarse = beside.shift != 0.0 ? 2.0 : 1.0;
    for (double radius = 1.0; radius < 5.0; radius *= std::pow(1.15, coarse)) {
      for (double at_corner = 0.2; at_corner < 5.0; at_corner *= std::pow(1.25, coarse)) {
        if (radius > 0.9 + at_corner || radius < 0.4 + 0.3 * at_corner) continue;
        for (const double sign : {1.0, -1.0}) {
          // The same with all discs on the other side, as long as no other rim says which.
          if (sign < 0.0 && !known_ && beside.shift == 0.0) continue;
          const Rim rim{radius, sign * at_corner / reach_};
          const double c = chi2(rim, beside);
          if (c >= min) continue;
          min = c;
          best = rim;
        }
      }
    }
    return nearer(best, beside);
  }

  // Downhill from there.
  Rim nearer(Rim best, const Rim& beside) const {
    double min = chi2(best, beside);
    double step = 0.08;
    for (int round = 0; round < 40 && step > 5e-4 && best.shift != 0.0; ++round) {
      bool better = false;
      for (const auto& [r, s] :
           {std::pair{1.0, 0.0}, {-1.0, 0.0}, {0.0, 1.0}, {0.0, -1.0}, {1.0, 1.5}, {-1.0, -1.5}}) {
        // What is smaller than the opening would be the stop itself.
        const Rim rim{std::max(1.0, best.radius * std::exp(r * step)),
                      best.shift * std::exp(s * step)};
        const double c = chi2(rim, beside);
        if (c >= min) continue;
        min = c;
        best = rim;
        better = true;
      }
      if (!better) step *= 0.5;
    }
    return best;
  }

  // What a second rim beside this one leaves over, both as they suit each other.
  double chi2_of_two(Rim one) const {
    Rim two = best(one);
    for (int round = 0; round < 2; ++round) {
      one = nearer(one, two);
      two = nearer(two, one);
    }
    return chi2(one, two);
  }

  // Two deviations of the logarithms of radius and shift, from how χ² rises. What the drawing
  // leaves over makes them wider, and so does that neighbouring places of an edge are off alike.
  std::array<double, 2> margins(const Rim& rim) const {
    constexpr double step = 0.01;
    const auto at = [&](double r, double s) {
      return chi2({rim.radius * std::exp(r * step), rim.shift * std::exp(s * step)});
    };
    const double here = at(0, 0);
    const double rr = at(1, 0) + at(-1, 0) - 2.0 * here;
    const double ss = at(0, 1) + at(0, -1) - 2.0 * here;
    const double rs = 0.25 * (at(1, 1) + at(-1, -1) - at(1, -1) - at(-1, 1));
    const double alike =
        determined() / (edge_line::independent * static_cast<double>(edges_.size()));
    const double excess = std::max(1.0, here / determined()) * std::max(1.0, alike);
    const double whole = rr * ss - rs * rs;
    if (!(whole > 0.0) || !(rr > 0.0)) return {10.0, 10.0};  // it is not told
    // χ² rises by half of what these second differences make of a step.
    const double unit = 2.0 * step * std::sqrt(2.0 * excess);
    return {unit * std::sqrt(ss / whole), unit * std::sqrt(rr / whole)};
  }

  const std::vector<CutEdge>& edges() const { return edges_; }
  /// χ² of the disc of an edge that no rim cuts.
  double uncut(std::size_t edge) const { return uncut_[edge]; }

  // Places of edges that there are.
  double determined() const {
    double count = 0.0;
    for (const CutEdge& e : edges_) count += static_cast<double>(e.points.size());
    return std::max(1.0, count);
  }

 private:
  // Whether it comes as near as any outline reaches.
  bool cuts(const Rim& rim, const CutEdge& e) const {
    const double moved = std::abs(rim.shift) * std::hypot(e.at[0], e.at[1]);
    return rim.radius - moved < outline::farthest * std::max(1.0, aspect_);
  }

  std::vector<CutEdge> edges_;
  std::vector<double> uncut_{};  // χ² of each
  const BladeShape& shape_;
  double aspect_;
  bool known_;
  double reach_;
};

CutEdge edge_of(const FittedDisc& f, PixelSize plate) {
  CutEdge e;
  const DrawnDisc& d = f.disc;
  e.at = {d.x - 0.5 * plate.width, 0.5 * plate.height - d.y};
  e.radius = 0.5 * d.height;
  e.turned = d.turned;
  const double side = d.turned ? -1.0 : 1.0;  // profiles are told as the iris stands
  for (std::size_t k = 0; k < profile_bins; ++k) {
    if (f.profile.weight[k] <= 0.0) continue;
    const double a = 2.0 * pi * (static_cast<double>(k) + 0.5) / profile_bins;
    const double r = side * f.profile.radius[k] * e.radius;
    e.points.push_back(
        {r * std::cos(a) * d.aspect, r * std::sin(a),
         1.0 / (1.0 / f.profile.weight[k] + tube_rim::min_sigma * tube_rim::min_sigma)});
  }
  return e;
}

// What discs are that no rim cuts: those nearest to the middle.
double aspect_of(const std::vector<const FittedDisc*>& discs, PixelSize plate) {
  std::vector<double> inner;
  std::vector<double> all;
  const double reach = 0.5 * std::hypot(plate.width, plate.height);
  for (const FittedDisc* f : discs) {
    all.push_back(f->disc.aspect);
    const double r = std::hypot(f->disc.x - 0.5 * plate.width, f->disc.y - 0.5 * plate.height);
    if (r < tube_rim::middle_fraction * reach) inner.push_back(f->disc.aspect);
  }
  return quantile(inner.size() >= 3 ? inner : all, 0.5);
}

}  // namespace

FoundVignetting vignetting_of(const std::vector<const FittedDisc*>& discs, const BladeShape& shape,
                              bool turned_is_known, PixelSize plate) {
  FoundVignetting out;
  out.in_front.assign(discs.size(), false);
  out.determined.assign(discs.size(), false);
  std::vector<std::size_t> whose;
  for (std::size_t i = 0; i < discs.size(); ++i) {
    if (discs[i]->disc.height >= tube_rim::min_height) whose.push_back(i);
  }
  std::sort(whose.begin(), whose.end(), [&](std::size_t a, std::size_t b) {
    return discs[a]->disc.height > discs[b]->disc.height;
  });
  whose.resize(std::min(whose.size(), tube_rim::max_looked_at));
  if (static_cast<int>(whose.size()) < tube_rim::min_cut) return out;
  std::vector<CutEdge> edges;
  for (const std::size_t i : whose) edges.push_back(edge_of(*discs[i], plate));
  const RimFit fit(std::move(edges), shape, aspect_of(discs, plate), turned_is_known,
                   0.5 * std::hypot(plate.width, plate.height));
  int uneasy = 0;
  for (std::size_t i = 0; i < whose.size(); ++i) {
    uneasy += fit.uncut(i) > tube_rim::unexplained ? 1 : 0;
  }
  if (uneasy < tube_rim::min_cut) return out;
  const Rim rim = fit.best();
  // What overlaps and codecs leave over must not look like a rim.
  const double left = fit.chi2(rim);
  if (rim.shift == 0.0 ||
      fit.chi2({}) - left < tube_rim::clearly * std::max(1.0, left / fit.determined()))
    return out;
  PlateVignetting& b = out.vignetting;
  int better = 0;
  for (std::size_t i = 0; i < whose.size(); ++i) {
    const CutEdge& e = fit.edges()[i];
    const double shifted = std::abs(rim.shift) * std::hypot(e.at[0], e.at[1]);
    b.discs += rim.radius - shifted < 1.0 - tube_rim::hides ? 1 : 0;
    const double with = turned_is_known
                            ? fit.off_of(e, rim, false)
                            : std::min(fit.off_of(e, rim, false), fit.off_of(e, rim, true));
    better += fit.uncut(i) - with > tube_rim::unexplained ? 1 : 0;
  }
  // A rim explains most of the discs that it would cut. One as large as the opening itself is
  // another outline, and no rim.
  if (better < tube_rim::min_cut || 2 * better < b.discs || rim.radius < tube_rim::min_radius)
    return out;
  b.known = true;
  b.unexplained =
      left - fit.chi2_of_two(rim) > tube_rim::clearly * std::max(1.0, left / fit.determined());
  const std::array<double, 2> margin = fit.margins(rim);
  b.radius = {rim.radius, margin[0] * rim.radius};
  b.shift = {rim.shift, margin[1] * std::abs(rim.shift)};
  if (turned_is_known) return out;
  // All of them are on one side or the other, the small ones too.
  int balance = 0;
  for (std::size_t i = 0; i < discs.size(); ++i) {
    const CutEdge e = edge_of(*discs[i], plate);
    const double behind = fit.off_of(e, rim, false);
    const double front = fit.off_of(e, rim, true);
    out.in_front[i] = front < behind - 1.0;
    out.determined[i] = std::abs(front - behind) > tube_rim::clearly_sided;
    if (out.determined[i]) balance += front < behind ? -1 : 1;
  }
  if (balance < 0) {  // most lights of a plate are behind the focus
    b.shift.value = -b.shift.value;
    for (std::size_t i = 0; i < discs.size(); ++i)
      out.in_front[i] = out.determined[i] && !out.in_front[i];
  }
  return out;
}

void lay_over(const PlateVignetting& vignetting, bool in_front, PixelSize plate, DrawnDisc& disc) {
  const double shift = (in_front ? -1.0 : 1.0) * vignetting.shift.value;
  disc.tube = vignetting.radius.value;
  disc.tube_at = {shift * (disc.x - 0.5 * plate.width), shift * (0.5 * plate.height - disc.y)};
}

double hidden_of(const DrawnDisc& disc, const BladeShape& shape) {
  if (disc.tube <= 0.0) return 0.0;
  int hidden = 0;
  for (int k = 0; k < profile_bins; ++k) {
    const double a = 2.0 * pi * (k + 0.5) / profile_bins;
    const double open =
        tube_opens_to(disc.aspect * std::cos(a), std::sin(a), disc.tube_at, disc.tube);
    hidden += open < shape.radius(a) - tube_rim::hides ? 1 : 0;
  }
  return static_cast<double>(hidden) / profile_bins;
}

}  // namespace jolly_iris::measuring
