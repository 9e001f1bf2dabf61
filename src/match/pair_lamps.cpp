#include <algorithm>
#include <cmath>

#include "match/constants.hpp"

#include "jolly_iris/match/match.hpp"

namespace jolly_iris {

namespace {

struct Pair {
  std::size_t disc;
  std::size_t lamp;
};

// Nearest to each other, at a scale.
std::vector<Pair> pairs_at(const std::vector<DetectedDisc>& discs,
                           const std::vector<ExpectedLamp>& lamps, double scale, double max_px) {
  const auto apart = [&](std::size_t d, std::size_t l) {
    return std::hypot(discs[d].at[0] - scale * lamps[l].at[0],
                      discs[d].at[1] - scale * lamps[l].at[1]);
  };
  std::vector<Pair> pairs;
  for (std::size_t d = 0; d < discs.size(); ++d) {
    std::size_t best = lamps.size();
    for (std::size_t l = 0; l < lamps.size(); ++l) {
      if (best == lamps.size() || apart(d, l) < apart(d, best)) best = l;
    }
    if (best == lamps.size() || apart(d, best) > max_px) continue;
    const bool own = std::none_of(discs.begin(), discs.end(), [&](const DetectedDisc& other) {
      const auto o = static_cast<std::size_t>(&other - discs.data());
      return o != d && apart(o, best) < apart(d, best);
    });
    if (own) pairs.push_back({d, best});
  }
  return pairs;
}

}  // namespace

LampPairs pair_lamps(const std::vector<DetectedDisc>& discs, const std::vector<ExpectedLamp>& lamps,
                     double focal_px, double picture_width) {
  LampPairs out;
  // A wrong focal length or gate moves all lamps towards the middle or away from it. The notes'
  // own scale is preferred: another must pair clearly more.
  const double max = fitting::lamp_reach * picture_width;
  std::vector<Pair> best = pairs_at(discs, lamps, 1.0, max);
  double scale = 1.0;
  for (double octaves = -1.3; octaves <= 1.3; octaves += 0.02) {
    const double s = std::exp2(octaves);
    std::vector<Pair> pairs = pairs_at(discs, lamps, s, max);
    if (static_cast<double>(pairs.size()) > 1.15 * static_cast<double>(best.size()) + 0.5) {
      best = std::move(pairs);
      scale = s;
    }
  }
  double sigma = 0.0;
  for (int round = 0; round < 5 && best.size() >= 2; ++round) {
    double top = 0.0;
    double bottom = 0.0;
    for (const Pair& p : best) {
      const auto& a = discs[p.disc].at;
      const auto& b = lamps[p.lamp].at;
      top += a[0] * b[0] + a[1] * b[1];
      bottom += b[0] * b[0] + b[1] * b[1];
    }
    if (bottom <= 0.0) break;
    scale = top / bottom;
    double residual2 = 0.0;
    for (const Pair& p : best) {
      const auto& a = discs[p.disc].at;
      const auto& b = lamps[p.lamp].at;
      residual2 += std::pow(a[0] - scale * b[0], 2) + std::pow(a[1] - scale * b[1], 2);
    }
    sigma =
        std::sqrt(residual2 / std::max(1.0, 2.0 * static_cast<double>(best.size()) - 1.0) / bottom);
    best = pairs_at(discs, lamps, scale, max);
  }
  for (std::size_t d = 0; d < discs.size(); ++d) {
    const auto paired = [&](const Pair& p) { return p.disc == d; };
    if (std::none_of(best.begin(), best.end(), paired)) out.left.push_back(d);
  }
  for (const Pair& p : best) {
    Observation o;
    o.kind = Observation::Kind::disc;
    o.name = lamps[p.lamp].name;
    const DetectedDisc& d = discs[p.disc];
    o.value = d.height_px;
    o.sigma = d.sigma;
    o.own_px = d.clipped ? scale * focal_px * (lamps[p.lamp].own / lamps[p.lamp].z) : 0.0;
    o.group = o.name.substr(0, o.name.find_last_not_of("0123456789 ") + 1);
    o.at = lamps[p.lamp].z;
    out.discs.push_back(o);
  }
  if (best.size() >= 4) {
    Observation view;
    view.kind = Observation::Kind::view;
    view.name = "places of lamps";
    view.value = scale * focal_px;
    // The CG camera is hardly placed better than to a thousandth.
    view.sigma = focal_px * scale * std::hypot(sigma / scale, 0.001);
    std::vector<Length> distances;
    for (const Pair& p : best) distances.push_back(lamps[p.lamp].z);
    std::sort(distances.begin(), distances.end());
    view.at = distances[distances.size() / 2];
    out.view = view;
  }
  return out;
}

}  // namespace jolly_iris
