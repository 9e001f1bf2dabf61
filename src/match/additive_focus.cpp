#include "additive_focus.hpp"

namespace jolly_iris::matching {

void find_movers(AdditiveFocus& model) {
  for (int round = 0; round < 4; ++round) {
    for (std::size_t p = 0; p < model.pieces().size(); ++p) {
      Piece& piece = model.pieces()[p];
      double off = 0.0;
      double own = 0.0;
      for (const TrackReading& r : piece.readings) {
        off += std::min(std::pow(model.left_over(p, r), 2.0), 100.0 * r.sigma * r.sigma);
        own += r.sigma * r.sigma;
      }
      const auto n = static_cast<double>(piece.readings.size());
      piece.moves = std::sqrt(std::max(0.0, (off - own) / n));
    }
    model.solve(3);
  }
}

double grown_alike(const AdditiveFocus& model, double worth_asking) {
  struct Sums {
    double n = 0.0, x = 0.0, y = 0.0, xx = 0.0, xy = 0.0;
  };
  std::vector<Sums> sums(model.focus().size());
  for (std::size_t p = 0; p < model.pieces().size(); ++p) {
    const Piece& piece = model.pieces()[p];
    for (const TrackReading& r : piece.readings) {
      const double sigma = std::hypot(r.sigma, piece.moves);
      const double w = 1.0 / (sigma * sigma);
      // s r = k (q − d): k is the slope against −d.
      const double x = -model.lamp(p);
      const double y = piece.sign * r.value;
      Sums& s = sums[r.frame];
      s.n += w;
      s.x += w * x;
      s.y += w * y;
      s.xx += w * x * x;
      s.xy += w * x * y;
    }
  }
  std::vector<double> slopes;
  for (const Sums& s : sums) {
    if (!(s.n > 0.0)) continue;
    const double spread = s.xx - s.x * s.x / s.n;
    if (!(spread > 1.0 / (worth_asking * worth_asking))) continue;
    slopes.push_back((s.xy - s.x * s.y / s.n) / spread);
  }
  if (slopes.size() < 8) return 0.0;
  std::sort(slopes.begin(), slopes.end());
  const double low = slopes[slopes.size() / 10];
  const double high = slopes[slopes.size() - 1 - slopes.size() / 10];
  return low > 0.0 ? std::log(high / low) : 1.0;
}

}  // namespace jolly_iris::matching
