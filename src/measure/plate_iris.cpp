#include "plate_iris.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "grey_image.hpp"
#include "measure/constants.hpp"
#include "normal_equations.hpp"
#include "outline_misfit.hpp"
#include "picture/parallel.hpp"

namespace jolly_iris::measuring {

namespace {

using std::numbers::pi;
constexpr int half_profile = profile_bins / 2;

bool tells_shape(const PooledDisc& d, double from_px) {
  const double lamp2 = d.soft * d.soft - d.kernel * d.kernel;
  return d.height >= from_px &&
         lamp2 < iris::largest_lamp * iris::largest_lamp * d.height * d.height;
}

// The mean edge of all discs, each bin with its variance.
struct Pool {
  double blur = 0.0;  // radians over which corners are rounded: softness, and the bins' own width
  std::array<double, profile_bins> radius{};
  std::array<double, profile_bins> variance{};  // 0: nothing tells
  int discs = 0;
};

struct Bin {
  double radius = 0.0;
  double weight = 0.0;
};

// A disc's edge without low harmonics of its difference from a shape, hidden parts left out.
struct Agreement {
  double cut = 0.0;     // share of the edge that lies clearly within
  double agrees = 0.0;  // share that lies on the outline
};
std::array<Bin, profile_bins> levelled(const PooledDisc& d, const BladeShape& shape,
                                       Agreement* agreement) {
  std::array<Bin, profile_bins> out{};
  const auto& p = d.profile;
  const int turn = d.turned ? half_profile : 0;
  Low low{};
  std::array<bool, profile_bins> used{};
  used.fill(true);
  for (int round = 0; round < 4; ++round) {
    NormalEquations<5> normal(1e-6);
    for (int k = 0; k < profile_bins; ++k) {
      const auto from = static_cast<std::size_t>((k + turn) % profile_bins);
      const double w = p.weight[from];
      if (w <= 0.0 || !used[static_cast<std::size_t>(k)]) continue;
      normal.add(low_terms(k), p.radius[from] - shape.radius(direction_of_bin(k)), w);
    }
    low = normal.solve();
    for (int k = 0; k < profile_bins; ++k) {
      const auto from = static_cast<std::size_t>((k + turn) % profile_bins);
      const double residual =
          p.radius[from] - shape.radius(direction_of_bin(k)) - dot(low_terms(k), low);
      const double limit = round == 0 ? 0.15 : iris::cut_from;
      used[static_cast<std::size_t>(k)] = residual > -limit && residual < limit;
    }
  }
  int hidden = 0;
  int on = 0;
  int counted = 0;
  for (int k = 0; k < profile_bins; ++k) {
    const auto from = static_cast<std::size_t>((k + turn) % profile_bins);
    const double w = p.weight[from];
    if (w <= 0.0) continue;
    ++counted;
    const double r = p.radius[from] - dot(low_terms(k), low);
    const double residual = r - shape.radius(direction_of_bin(k));
    if (residual < -iris::cut_from) ++hidden;
    if (std::abs(residual) < iris::on_outline + 1.0 / std::sqrt(w)) ++on;
    if (std::abs(residual) > iris::cut_from + 2.0 / std::sqrt(w)) continue;
    out[static_cast<std::size_t>(k)] = {r, w};
  }
  if (agreement != nullptr && counted > 0) {
    *agreement = {static_cast<double>(hidden) / counted, static_cast<double>(on) / counted};
  }
  return out;
}

std::vector<std::array<Bin, profile_bins>> all_levelled(const std::vector<PooledDisc>& discs,
                                                        const BladeShape& shape,
                                                        std::vector<Agreement>* agreements) {
  std::vector<std::array<Bin, profile_bins>> out(discs.size());
  parallel_for(std::size_t{0}, discs.size(), [&](std::size_t i) {
    out[i] = levelled(discs[i], shape, agreements != nullptr ? &(*agreements)[i] : nullptr);
  });
  return out;
}

Pool pool(std::vector<PooledDisc>& discs, const BladeShape& shape, double from_px) {
  std::array<std::vector<Bin>, profile_bins> bins;
  std::vector<double> blur2;
  Pool out;
  std::vector<Agreement> agreements(discs.size());
  const auto edges = all_levelled(discs, shape, &agreements);
  for (std::size_t i = 0; i < discs.size(); ++i) {
    PooledDisc& d = discs[i];
    const Agreement& agreement = agreements[i];
    const auto& edge = edges[i];
    d.cut = agreement.cut;
    d.agrees = agreement.agrees;
    if (!tells_shape(d, from_px) || d.cut > 0.35 || d.agrees < 0.5) continue;
    ++out.discs;
    const double doubt = std::max(1.0, d.left_over);  // what something overlaps tells less
    blur2.push_back(4.0 * d.soft * d.soft / (d.height * d.height));
    for (std::size_t k = 0; k < profile_bins; ++k) {
      if (edge[k].weight > 0.0)
        bins[k].push_back({edge[k].radius, edge[k].weight / (doubt * doubt)});
    }
  }
  constexpr double bin = 2.0 * pi / profile_bins;
  if (!blur2.empty()) out.blur = std::sqrt(quantile(blur2, 0.5) + bin * bin / 12.0);
  for (std::size_t k = 0; k < profile_bins; ++k) {
    const auto& b = bins[k];
    if (b.empty()) continue;
    // Robust mean: discs that stand off the median count little.
    std::vector<double> all;
    for (const Bin& x : b) all.push_back(x.radius);
    const double middle = quantile(all, 0.5);
    for (double& r : all) r = std::abs(r - middle);
    const double scale = std::max(1.48 * quantile(all, 0.5), 2e-3);
    double sum = 0.0;
    double weight = 0.0;
    double spread = 0.0;
    for (const Bin& x : b) {
      const double residual =
          (x.radius - middle) / (3.0 * std::max(scale, 1.0 / std::sqrt(x.weight)));
      const double w = x.weight / ((1.0 + residual * residual) * (1.0 + residual * residual));
      sum += w * x.radius;
      weight += w;
    }
    out.radius[k] = sum / weight;
    for (const Bin& x : b) {
      const double residual =
          (x.radius - middle) / (3.0 * std::max(scale, 1.0 / std::sqrt(x.weight)));
      const double w = x.weight / ((1.0 + residual * residual) * (1.0 + residual * residual));
      spread += w * w * (x.radius - out.radius[k]) * (x.radius - out.radius[k]);
    }
    // What the discs say of themselves, or how they scatter, whichever is more.
    out.variance[k] = std::max(1.0 / weight, b.size() > 2 ? spread / (weight * weight) : 0.0);
  }
  return out;
}

struct BladeFit {
  int blades = 0;
  double curvature = 1.0;
  double rotation = 0.0;
  double chi2 = 0.0;
  double curvature_sigma = 0.0;
  double rotation_sigma = 0.0;
};

BladeFit fit_blades(const OutlineMisfit& p, int blades) {
  BladeFit best{blades, 1.0, 0.0, std::numeric_limits<double>::infinity(), 0.0, 0.0};
  if (blades == 0) {
    best.chi2 = p.chi2(BladeShape());
    return best;
  }
  const double turn = 2.0 * pi / blades;
  constexpr int rotations = 12;
  for (double curvature = -0.3; curvature < 0.96; curvature += 0.14) {
    const BladeShape shape = p.rounded(BladeShape(blades, curvature, 0.0));
    for (int i = 0; i < rotations; ++i) {
      const double rotation = (static_cast<double>(i) / rotations - 0.5) * turn;
      const double c = p.chi2_as_is(shape.turned_to(rotation));
      if (c < best.chi2) best = {blades, curvature, rotation, c, 0.0, 0.0};
    }
  }
  // Finer and finer around it.
  double dc = 0.07;
  double dr = 0.5 * turn / rotations;
  for (int round = 0; round < 40 && (dc > 1e-5 || dr > 1e-6); ++round) {
    bool better = false;
    for (const auto& [sc, sr] : {std::pair{1.0, 0.0}, {-1.0, 0.0}, {0.0, 1.0}, {0.0, -1.0}}) {
      const double curvature = std::clamp(best.curvature + sc * dc, -0.45, 1.0);
      const double rotation = best.rotation + sr * dr;
      const double c = p.chi2(BladeShape(blades, curvature, rotation));
      if (c < best.chi2) {
        best = {blades, curvature, rotation, c, 0.0, 0.0};
        better = true;
      }
    }
    if (!better) {
      dc *= 0.5;
      dr *= 0.5;
    }
  }
  best.rotation -= turn * std::round(best.rotation / turn);
  // Margins from how χ² rises.
  const auto sigma = [&](double step, auto with) {
    const double rise = 0.5 * (p.chi2(with(step)) + p.chi2(with(-step))) - best.chi2;
    return rise > 0.0 ? step / std::sqrt(rise) : 10.0 * step;
  };
  const double c0 = std::min(best.curvature, 0.97);
  best.curvature_sigma =
      sigma(0.02, [&](double s) { return BladeShape(blades, c0 + s, best.rotation); });
  best.rotation_sigma = sigma(
      0.02 * turn, [&](double s) { return BladeShape(blades, best.curvature, best.rotation + s); });
  return best;
}

// Odd harmonics of a disc's edge against those of the others: their sign says which way up it is.
double oddness(const std::array<Bin, profile_bins>& edge,
               const std::array<double, profile_bins>& odd, double& sigma) {
  double sum = 0.0;
  double weight = 0.0;
  for (int k = 0; k < half_profile; ++k) {
    const Bin& a = edge[static_cast<std::size_t>(k)];
    const Bin& b = edge[static_cast<std::size_t>(k) + std::size_t{half_profile}];
    if (a.weight <= 0.0 || b.weight <= 0.0) continue;
    const double w = 1.0 / (1.0 / a.weight + 1.0 / b.weight);
    const double o = odd[static_cast<std::size_t>(k)];
    sum += w * o * (a.radius - b.radius);
    weight += w * o * o;
  }
  sigma = weight > 0.0 ? 1.0 / std::sqrt(weight) : 1e9;
  return weight > 0.0 ? sum / weight : 0.0;
}

void settle_turns(std::vector<PooledDisc>& discs, const BladeShape& shape, double from_px) {
  for (PooledDisc& d : discs) d.turned = false;
  const auto edges = all_levelled(discs, shape, nullptr);
  // The disc that tells most begins; two rounds let all of them have their say.
  std::array<double, profile_bins> odd{};
  std::size_t first = discs.size();
  for (std::size_t i = 0; i < discs.size(); ++i) {
    if (tells_shape(discs[i], from_px) &&
        (first == discs.size() || discs[i].height > discs[first].height)) {
      first = i;
    }
  }
  if (first == discs.size()) return;
  const auto odd_of = [&](std::size_t i, std::size_t k) {
    const Bin& a = edges[i][k];
    const Bin& b = edges[i][k + static_cast<std::size_t>(half_profile)];
    return a.weight > 0.0 && b.weight > 0.0 ? a.radius - b.radius : 0.0;
  };
  for (std::size_t k = 0; k < static_cast<std::size_t>(half_profile); ++k)
    odd[k] = odd_of(first, k);
  for (int round = 0; round < 3; ++round) {
    std::array<double, profile_bins> sum{};
    std::array<double, profile_bins> count{};
    int turned = 0;
    int upright = 0;
    for (std::size_t i = 0; i < discs.size(); ++i) {
      double sigma = 0.0;
      const double o = oddness(edges[i], odd, sigma);
      discs[i].turned = o < 0.0;
      discs[i].tells = std::abs(o) > 3.0 * sigma;
      (discs[i].turned ? turned : upright) += discs[i].tells ? 1 : 0;
      if (!tells_shape(discs[i], from_px)) continue;  // these are told by the others
      const double sign = o < 0.0 ? -1.0 : 1.0;
      for (std::size_t k = 0; k < static_cast<std::size_t>(half_profile); ++k) {
        const double w = discs[i].height * discs[i].height;
        sum[k] += sign * w * odd_of(i, k);
        count[k] += w;
      }
    }
    for (std::size_t k = 0; k < static_cast<std::size_t>(half_profile); ++k) {
      odd[k] = count[k] > 0.0 ? sum[k] / count[k] : 0.0;
    }
    // Most lights of a plate are behind the focus.
    if (turned > upright) {
      for (PooledDisc& d : discs) d.turned = !d.turned;
      for (double& o : odd) o = -o;
    }
  }
}

// χ² of one edge against an outline, what is far off tamed.
double tamed_chi2(const PooledDisc& d, const BladeShape& shape) {
  constexpr double most = 9.0;
  const auto edge = levelled(d, shape, nullptr);
  double sum = 0.0;
  for (int k = 0; k < profile_bins; ++k) {
    const auto i = static_cast<std::size_t>(k);
    const auto from = static_cast<std::size_t>((k + (d.turned ? half_profile : 0)) % profile_bins);
    if (d.profile.weight[from] <= 0.0) continue;
    const double off = edge[i].radius - shape.radius(direction_of_bin(k));
    sum += edge[i].weight > 0.0 ? std::min(edge[i].weight * off * off, most) : most;
  }
  return sum;
}

double votes_of(const PooledDisc& d, const BladeFit& fit) {
  if (fit.blades == 0) return 0.0;
  const BladeShape as_told(fit.blades, fit.curvature, fit.rotation);
  const BladeShape turned(fit.blades, fit.curvature, fit.rotation + pi / fit.blades);
  return tamed_chi2(d, turned) - tamed_chi2(d, as_told);
}

// How much of each disc's edge lies on the outline, is cut off, and which way up it speaks for.
void tell_each(std::vector<PooledDisc>& discs, const BladeFit& fit, const BladeShape& shape) {
  parallel_for(std::size_t{0}, discs.size(), [&](std::size_t i) {
    PooledDisc& d = discs[i];
    Agreement agreement;
    levelled(d, shape, &agreement);
    d.cut = agreement.cut;
    d.agrees = agreement.agrees;
    d.votes = votes_of(d, fit);
  });
  if (fit.blades % 2 == 0) {
    for (PooledDisc& d : discs) d.turned = d.tells = false;
  }
}

}  // namespace

bool has_four_sides(const EdgeProfile& profile) {
  constexpr std::size_t harmonics = 6;
  constexpr std::size_t terms = 2 * harmonics + 1;
  Terms<terms> found{};
  found[0] = 1.0;
  static const std::array<Terms<terms>, profile_bins> terms_at = [] {
    std::array<Terms<terms>, profile_bins> all{};
    for (int k = 0; k < profile_bins; ++k) {
      Terms<terms>& t = all[static_cast<std::size_t>(k)];
      t[0] = 1.0;
      for (std::size_t h = 1; h <= harmonics; ++h) {
        t[2 * h - 1] = std::cos(static_cast<double>(h) * direction_of_bin(k));
        t[2 * h] = std::sin(static_cast<double>(h) * direction_of_bin(k));
      }
    }
    return all;
  }();
  for (int round = 0; round < 4; ++round) {
    NormalEquations<terms> normal(1e-3, found);
    for (int k = 0; k < profile_bins; ++k) {
      const auto i = static_cast<std::size_t>(k);
      if (profile.weight[i] <= 0.0) continue;
      const Terms<terms>& t = terms_at[i];
      const double residual = (profile.radius[i] - dot(t, found)) / 0.12;
      const double w = 1.0 / ((1.0 + residual * residual) * (1.0 / profile.weight[i] + 1e-4));
      normal.add(t, profile.radius[i], w);
    }
    found = normal.solve();
  }
  const auto size = [&](std::size_t h) { return std::hypot(found[2 * h - 1], found[2 * h]); };
  return size(4) > 0.04 && size(4) > 1.3 * size(5) && size(4) > 1.3 * size(6) && size(4) > size(3);
}

double shape_from_px(const std::vector<double>& heights) {
  const auto from = [&](double px) {
    return std::count_if(heights.begin(), heights.end(), [&](double h) { return h >= px; });
  };
  return from(iris::min_height) < iris::enough_discs &&
                 from(iris::small_height) >= iris::enough_small_discs
             ? iris::small_height
             : iris::min_height;
}

PooledIris pooled_iris(std::vector<PooledDisc>& discs) {
  PooledIris out;
  BladeShape shape;
  std::vector<double> heights;
  for (const PooledDisc& d : discs) heights.push_back(d.height);
  const double from_px = shape_from_px(heights);
  settle_turns(discs, shape, from_px);
  std::vector<BladeFit> fits;
  Pool p;
  // With the shape known, hidden parts and turns are told apart better.
  for (int round = 0; round < 2; ++round) {
    p = pool(discs, shape, from_px);
    out.iris.discs = p.discs;
    if (p.discs == 0) return out;
    std::vector<int> numbers{0};
    for (int n = iris::fewest_blades; n <= iris::max_blades; ++n) numbers.push_back(n);
    fits.assign(numbers.size(), {});
    const OutlineMisfit misfit(p.radius, p.variance, p.blur);
    parallel_for(std::size_t{0}, numbers.size(),
                 [&](std::size_t i) { fits[i] = fit_blades(misfit, numbers[i]); });
    const auto score = [](const BladeFit& f) {
      // Rotation and curvature are two more unknowns.
      return f.chi2 + (f.blades == 0 ? 0.0 : 2.0 * std::log(static_cast<double>(profile_bins)));
    };
    std::sort(fits.begin(), fits.end(),
              [&](const BladeFit& a, const BladeFit& b) { return score(a) < score(b); });
    const BladeFit& best = fits.front();
    shape = BladeShape(best.blades, best.curvature, best.rotation);
    int counted = 0;
    for (const double v : p.variance) counted += v > 0.0 ? 1 : 0;
    // What no shape explains (neighbours, codec) makes all of it less certain.
    const double excess = std::max(1.0, best.chi2 / std::max(1, counted - 7));
    out.iris.blades = best.blades;
    out.iris.could_be.clear();
    for (const BladeFit& f : fits) {
      // Blades as curved as that make a circle of any number of them.
      if (f.blades != 0 && f.curvature > iris::as_good_as_round) continue;
      if ((score(f) - score(best)) / excess < 9.0) out.iris.could_be.push_back(f.blades);
    }
    if (out.iris.could_be.empty()) out.iris.could_be.push_back(0);
    out.iris.blades = out.iris.could_be.front();
    out.iris.known = out.iris.could_be.size() <= 3;
    const double scale = 2.0 * std::sqrt(excess);
    out.iris.rotation_deg = {best.rotation * 180.0 / pi, scale * best.rotation_sigma * 180.0 / pi};
    out.iris.curvature = {best.curvature, scale * best.curvature_sigma};
    out.shape = shape;
    tell_each(discs, best, shape);
  }
  return out;
}

void pool_as_known(std::vector<PooledDisc>& discs, const PooledIris& known) {
  constexpr double tells_from = 9.0;  // χ² between both ways up
  BladeFit fit;
  fit.blades = known.iris.blades;
  fit.curvature = known.iris.curvature.value;
  fit.rotation = known.iris.rotation_deg.value * pi / 180.0;
  for (PooledDisc& d : discs) {
    d.turned = false;
    const double votes = votes_of(d, fit);
    d.turned = votes < 0.0;
    d.tells = std::abs(votes) > tells_from;
  }
  tell_each(discs, fit, known.shape);
}

}  // namespace jolly_iris::measuring
