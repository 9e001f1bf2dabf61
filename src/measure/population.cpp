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

std::vector<const FittedDisc*> lamps_among(const std::vector<DiscItem>& items) {
  std::vector<double> contrast;
  for (const DiscItem& i : items) {
    if (i.fit.good) contrast.push_back(i.fit.disc.contrast);
  }
  std::vector<const FittedDisc*> out;
  if (contrast.empty()) return out;
  const double least = levels::faintest_lamp * quantile(contrast, 0.9);
  for (const DiscItem& i : items) {
    if (i.fit.good && i.fit.disc.contrast >= least && !too_soft(i.fit.disc)) out.push_back(&i.fit);
  }
  return out;
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
  for (const FittedDisc* f : lamps_among(items)) {
    const DrawnDisc& d = f->disc;
    if (f->clipped() || d.height < 14.0) continue;
    shares.push_back(std::sqrt(std::max(d.soft * d.soft - kernel_px * kernel_px, 0.0)) / d.height);
  }
  if (shares.size() < 4) return std::nullopt;
  const double middle = std::max(quantile(shares, 0.5), 1e-3);
  const double wider = std::max(quantile(shares, 0.84), middle);
  return LampSize{middle, std::clamp(std::log(wider / middle), 0.6, 0.8)};
}

}  // namespace jolly_iris::measuring
