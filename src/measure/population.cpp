#include "population.hpp"

#include <algorithm>
#include <cmath>

#include "measure/constants.hpp"

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

double usual_scatter(const std::vector<DiscItem>& items) {
  std::vector<double> all;
  for (const DiscItem& i : items) {
    if (i.fit.good) all.push_back(i.fit.scatter);
  }
  return all.empty() ? 1.0 : std::max(1.0, quantile(all, 0.5));
}

std::optional<LampSize> usual_lamp(const std::vector<DiscItem>& items, double kernel_px) {
  std::vector<double> shares;
  const double faint = levels::lamps_contrast * usual_disc(items).contrast;
  for (const DiscItem& i : items) {
    const DrawnDisc& d = i.fit.disc;
    if (!i.fit.good || i.fit.clipped() || d.height < 16.0) continue;
    if (d.contrast < faint || too_soft(d)) continue;  // patches of the ground
    shares.push_back(std::sqrt(std::max(d.soft * d.soft - kernel_px * kernel_px, 0.0)) / d.height);
  }
  if (shares.size() < 5) return std::nullopt;
  const double middle = std::max(quantile(shares, 0.5), 1e-3);
  const double wider = std::max(quantile(shares, 0.84), middle);
  return LampSize{middle, std::clamp(std::log(wider / middle), 0.6, 0.8)};
}

}  // namespace jolly_iris::measuring
