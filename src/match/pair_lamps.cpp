#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <numbers>

#include "jolly_iris/match/match.hpp"
#include "match/constants.hpp"

namespace jolly_iris {

using namespace matching;

namespace {

struct Pair {
  std::size_t disc;
  std::size_t lamp;
};

// The plate against the noted camera's picture, about the middle.
struct Scale {
  double x = 1.0;
  double y = 1.0;
};

class Pairing {
 public:
  Pairing(const std::vector<DetectedDisc>& discs, const std::vector<ExpectedLamp>& lamps,
          double picture_width)
      : discs_(discs),
        lamps_(lamps),
        width_(picture_width),
        max_px_(fitting::lamp_reach * picture_width) {}

  // Nearest to each other, at a scale.
  std::vector<Pair> at(const Scale& scale) const {
    std::vector<Pair> pairs;
    for (std::size_t d = 0; d < discs_.size(); ++d) {
      std::size_t best = 0;
      double least = std::numeric_limits<double>::infinity();
      for (std::size_t l = 0; l < lamps_.size(); ++l) {
        const double off = apart2(d, l, scale);
        if (off >= least) continue;
        least = off;
        best = l;
      }
      if (least > max_px_ * max_px_) continue;
      const bool own = std::none_of(discs_.begin(), discs_.end(), [&](const DetectedDisc& other) {
        const auto o = static_cast<std::size_t>(&other - discs_.data());
        return o != d && apart2(o, best, scale) < least;
      });
      if (own) pairs.push_back({d, best});
    }
    return pairs;
  }

  // As many as there could be.
  double most() const { return static_cast<double>(std::min(discs_.size(), lamps_.size())); }

  // Whether so many pairs at a scale are more than chance makes of discs and lamps that have
  // nothing to do with each other (Poisson), at the best of so many scales.
  bool beyond_chance(std::size_t pairs, const Scale& scale, double scales) const {
    if (static_cast<double>(pairs) >= pairing::half * most()) return pairs > 0;
    double lamps = 0.0;
    for (const ExpectedLamp& l : lamps_) {
      lamps += std::abs(scale.x * l.at[0]) < 0.5 * width_ ? 1.0 : 0.0;
    }
    const double frame = width_ * width_ * pairing::usual_shape;
    const double expected =
        static_cast<double>(discs_.size()) * lamps * std::numbers::pi * max_px_ * max_px_ / frame;
    double fewer = 0.0;
    double term = std::exp(-expected);
    for (std::size_t k = 0; k < pairs; ++k) {
      fewer += term;
      term *= expected / static_cast<double>(k + 1);
    }
    return scales * (1.0 - fewer) < pairing::by_chance;
  }

 private:
  // Squared: this is asked millions of times.
  double apart2(std::size_t d, std::size_t l, const Scale& scale) const {
    const double x = discs_[d].at[0] - scale.x * lamps_[l].at[0];
    const double y = discs_[d].at[1] - scale.y * lamps_[l].at[1];
    return x * x + y * y;
  }

  const std::vector<DetectedDisc>& discs_;
  const std::vector<ExpectedLamp>& lamps_;
  double width_;
  double max_px_;
};

struct ScaleFit {
  Scale scale{};
  std::array<double, 2> sigma{};  // of x and y
};

class Places {
 public:
  Places(const std::vector<DetectedDisc>& discs, const std::vector<ExpectedLamp>& lamps)
      : discs_(discs), lamps_(lamps) {}

  // The scale that pairs show, and how far off they leave it; x and y apart only where they differ
  // by more than that, and by more than a camera's place in the scene does.
  std::optional<ScaleFit> fit(const std::vector<Pair>& pairs) const {
    std::array<double, 2> top{};
    std::array<double, 2> bottom{};
    for (const Pair& p : pairs) {
      for (std::size_t i = 0; i < 2; ++i) {
        const double b = lamps_[p.lamp].at[i];
        top[i] += discs_[p.disc].at[i] * b;
        bottom[i] += b * b;
      }
    }
    if (!(bottom[0] + bottom[1] > 0.0)) return std::nullopt;
    ScaleFit out;
    const double both = (top[0] + top[1]) / (bottom[0] + bottom[1]);
    out.scale = {both, both};
    const double n = 2.0 * static_cast<double>(pairs.size());
    const double sigma_both =
        std::sqrt(residual2(pairs, out.scale) / std::max(1.0, n - 1.0) / (bottom[0] + bottom[1]));
    out.sigma = {sigma_both, sigma_both};
    if (static_cast<int>(pairs.size()) < pairing::enough || !(std::min(bottom[0], bottom[1]) > 0.0))
      return out;
    const Scale apart{top[0] / bottom[0], top[1] / bottom[1]};
    const double variance = residual2(pairs, apart) / std::max(1.0, n - 2.0);
    const std::array<double, 2> sigma{std::sqrt(variance / bottom[0]),
                                      std::sqrt(variance / bottom[1])};
    const double off = std::abs(std::log(apart.x / apart.y));
    if (off > std::max(3.0 * std::hypot(sigma[0], sigma[1]) / both, pairing::stretched)) {
      out.scale = apart;
      out.sigma = sigma;
    }
    return out;
  }

 private:
  double residual2(const std::vector<Pair>& pairs, const Scale& scale) const {
    double sum = 0.0;
    for (const Pair& p : pairs) {
      const auto& a = discs_[p.disc].at;
      const auto& b = lamps_[p.lamp].at;
      sum += std::pow(a[0] - scale.x * b[0], 2) + std::pow(a[1] - scale.y * b[1], 2);
    }
    return sum;
  }

  const std::vector<DetectedDisc>& discs_;
  const std::vector<ExpectedLamp>& lamps_;
};

// A wrong focal length or gate moves all lamps towards the middle or away from it, and a stretch
// moves them sideways besides. The notes' own scale is preferred: another must pair clearly more.
// Nothing, where chance pairs as many.
std::optional<Scale> scale_of(const Pairing& pairing) {
  std::optional<Scale> found;
  double most = 0.0;
  const auto look = [&](const Scale& s, double scales) {
    const std::size_t pairs = pairing.at(s).size();
    if (static_cast<double>(pairs) <= 1.15 * most + 0.5) return;
    if (!pairing.beyond_chance(pairs, s, scales)) return;
    most = static_cast<double>(pairs);
    found = s;
  };
  look({}, 1.0);
  const auto over_all = [&](double k, double scales) {
    for (double octaves = -1.3; octaves <= 1.3; octaves += 0.02) {
      const double s = std::exp2(octaves);
      look({k * s, s}, scales);
    }
  };
  over_all(1.0, pairing::scales);
  if (most < pairing::most_of * pairing.most() && pairing.most() >= pairing::enough) {
    for (const double k : pairing::stretches) {
      over_all(k, pairing::scales * static_cast<double>(pairing::stretches.size()));
    }
  }
  return found;
}

}  // namespace

LampPairs pair_lamps(const std::vector<DetectedDisc>& discs, const std::vector<ExpectedLamp>& lamps,
                     double focal_px, double picture_width) {
  LampPairs out;
  const Pairing pairing(discs, lamps, picture_width);
  const Places places(discs, lamps);
  ScaleFit fit;
  // Where the scale is looked for, the largest are enough: time grows with discs times lamps.
  std::vector<DetectedDisc> largest = discs;
  std::sort(largest.begin(), largest.end(),
            [](const DetectedDisc& a, const DetectedDisc& b) { return a.height_px > b.height_px; });
  largest.resize(std::min(largest.size(), pairing::looked_at));
  std::vector<Pair> best;
  if (const auto found = scale_of(Pairing(largest, lamps, picture_width))) {
    fit.scale = *found;
    best = pairing.at(fit.scale);
  }
  for (int round = 0; round < 5 && best.size() >= 2; ++round) {
    const std::optional<ScaleFit> next = places.fit(best);
    if (!next) break;
    fit = *next;
    best = pairing.at(fit.scale);
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
    o.own_px = d.clipped ? fit.scale.y * focal_px * (lamps[p.lamp].own / lamps[p.lamp].z) : 0.0;
    o.group = o.name.substr(0, o.name.find_last_not_of("0123456789 ") + 1);
    o.at = lamps[p.lamp].z;
    out.discs.push_back(o);
    out.which.push_back(p.disc);
  }
  if (best.size() >= 4) {
    Observation view;
    view.kind = Observation::Kind::view;
    view.name = "places of lamps";
    view.value = fit.scale.y * focal_px;
    // The CG camera is hardly placed better than to a thousandth.
    view.sigma = focal_px * std::hypot(fit.sigma[1], 0.001 * fit.scale.y);
    std::vector<Length> distances;
    for (const Pair& p : best) distances.push_back(lamps[p.lamp].z);
    std::sort(distances.begin(), distances.end());
    view.at = distances[distances.size() / 2];
    out.view = view;
    if (fit.scale.x != fit.scale.y) {
      // What stretches places stretches whatever is round.
      Observation stretch;
      stretch.kind = Observation::Kind::circle;
      stretch.name = "places, high against wide";
      stretch.value = fit.scale.y / fit.scale.x;
      stretch.sigma =
          stretch.value * std::hypot(fit.sigma[0] / fit.scale.x, fit.sigma[1] / fit.scale.y, 0.001);
      out.stretch = stretch;
    }
  }
  return out;
}

}  // namespace jolly_iris
