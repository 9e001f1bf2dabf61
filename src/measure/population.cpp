#include "population.hpp"

#include <algorithm>
#include <cmath>

namespace jolly_iris::measuring {

UsualDisc usual_disc(const std::vector<DiscItem>& items) {
  std::vector<double> soft;
  std::vector<double> contrast;
  std::vector<double> aspect;
  for (const DiscItem& i : items) {
    if (!i.fit.good) continue;
    const DrawnDisc& d = i.fit.disc;
    soft.push_back(d.soft);
    contrast.push_back(d.contrast);
    if (d.soft < 0.14 * d.height) aspect.push_back(d.aspect);
  }
  UsualDisc usual;
  if (soft.empty()) return usual;
  usual.discs = soft.size();
  usual.soft = quantile(soft, 0.5);
  usual.contrast = quantile(contrast, 0.5);
  if (!aspect.empty()) usual.aspect = quantile(aspect, 0.5);
  return usual;
}

double own_softness(const std::vector<DiscItem>& items) {
  std::vector<double> all;
  for (const DiscItem& i : items) {
    if (i.fit.good && !i.fit.clipped()) all.push_back(i.fit.disc.soft);
  }
  return all.size() < 4 ? 0.45 : 0.95 * quantile(all, 0.15);
}

std::optional<LampSize> usual_lamp(const std::vector<DiscItem>& items, double own_softness_px) {
  std::vector<double> shares;
  for (const DiscItem& i : items) {
    const DrawnDisc& d = i.fit.disc;
    if (!i.fit.good || i.fit.clipped() || d.height < 16.0) continue;
    shares.push_back(std::sqrt(std::max(d.soft * d.soft - own_softness_px * own_softness_px, 0.0)) /
                     d.height);
  }
  if (shares.size() < 5) return std::nullopt;
  const double middle = std::max(quantile(shares, 0.5), 1e-3);
  const double wider = std::max(quantile(shares, 0.84), middle);
  return LampSize{middle, std::clamp(std::log(wider / middle), 0.5, 0.7)};
}

}  // namespace jolly_iris::measuring
