#include "rejection.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "measure/constants.hpp"

namespace jolly_iris::measuring {

namespace {

using std::numbers::pi;
constexpr double sharpest_px = 0.27;

// Whether it is as bright a little beyond the disc as within it, most of the way round: then it is
// the eye of a letter or a hole in something.
bool bright_beyond(const Picture& plate, const FittedDisc& f, std::optional<double> clipped_at) {
  constexpr int directions = 48;
  const DrawnDisc& d = f.disc;
  // Against the mean of the channels, each cut off where the plate is.
  const auto mean = [&](const auto& light) {
    double sum = 0.0;
    for (std::size_t c = 0; c < 3; ++c) {
      sum += clipped_at ? std::min(light(c), *clipped_at) : light(c);
    }
    return sum / 3.0;
  };
  const auto ground = [&](std::size_t c) { return d.ground * d.ground_colour[c]; };
  const double dark = mean(ground);
  const double level = mean([&](std::size_t c) { return ground(c) + d.contrast * f.shares[c]; });
  int bright = 0;
  int looked = 0;
  for (int k = 0; k < directions; ++k) {
    const double a = 2.0 * pi * k / directions;
    const int x = static_cast<int>(d.x + 0.5 * 1.65 * d.height * d.aspect * std::cos(a));
    const int y = static_cast<int>(d.y + 0.5 * 1.65 * d.height * std::sin(a));
    if (x < 0 || y < 0 || x >= plate.width() || y >= plate.height()) continue;
    const Rgba& p = plate.at(x, y);
    ++looked;
    const auto there = [&](std::size_t c) { return static_cast<double>(p[c]); };
    if (mean(there) > 0.5 * (dark + level)) ++bright;
  }
  return looked > 0 && bright > 0.55 * looked;
}

// The softness that even the sharpest have is the plate's own, if its kernel is no sharper.
double sharpest(const std::vector<DiscItem>& items, double kernel_px) {
  std::vector<double> all;
  for (const FittedDisc* f : lamps_among(items)) {
    if (!f->clipped()) all.push_back(f->disc.soft);
  }
  return all.size() < 4 ? kernel_px : std::min(kernel_px, quantile(all, 0.15));
}

}  // namespace

Rejection::Rejection(const Picture& plate, std::optional<double> clipped_at,
                     const std::vector<DiscItem>& items, const std::vector<PooledDisc>& pooled,
                     double kernel_px)
    : plate_(plate),
      clipped_at_(clipped_at),
      items_(items),
      pooled_(pooled),
      kernel_px_(sharpest(items, kernel_px)),
      usual_(usual_disc(items)) {
  // Discs that fit through and through vouch for those that neighbours or the barrel spoil; where
  // hardly any does, what looks like discs are leaves, letters, tiles.
  std::size_t well = 0;
  for (std::size_t i = 0; i < items.size(); ++i) well += fits_well(i) ? 1U : 0U;
  vouched_ = well >= 3 && 2 * well >= items.size() - well;
}

// A start that was led astray beside one that was not: both lie on one disc, and its edge is the
// other's.
bool Rejection::found_better(std::size_t item) const {
  const FittedDisc& f = items_[item].fit;
  if (f.left_over < together::max_left_over) return false;
  return std::any_of(items_.begin(), items_.end(), [&](const DiscItem& other) {
    const DrawnDisc& d = other.fit.disc;
    if (!other.fit.good || other.fit.left_over > 0.5 * f.left_over) return false;
    const double ratio = d.height / f.disc.height;
    return std::hypot(d.x - f.disc.x, d.y - f.disc.y) < 0.3 * d.height * std::min(1.0, d.aspect) &&
           ratio > 0.6 && ratio < 1.67;
  });
}

bool Rejection::fits_well(std::size_t item) const {
  const FittedDisc& f = items_[item].fit;
  const PooledDisc& p = pooled_[item];
  // A clipped disc's edge is seen from its foot alone.
  if (f.clipped()) return f.good && p.cut < 0.3 && p.agrees > 0.5;
  return f.good && f.left_over < 4.0 && p.cut < 0.1 && p.agrees > 0.8;
}

std::string_view Rejection::why(std::size_t item) const {
  const FittedDisc& f = items_[item].fit;
  const PooledDisc& p = pooled_[item];
  const DrawnDisc& d = f.disc;
  if (!f.good) return "no disc fits its pixels";
  if (!items_[item].name.empty()) return "";
  if (found_better(item)) return "another disc is found there that fits better";
  if (bright_beyond(plate_, f, clipped_at_)) return "it is as bright a little farther out";
  if (!vouched_ && !fits_well(item)) {
    return hardly_fits;
  }
  // A pixel alone blurs an edge by 1 / √12: what is drawn sharper than that is leaves or letters.
  if (!vouched_ && d.soft < sharpest_px) return "its edge is sharper than a pixel makes one";
  // Hidden parts are forgiven.
  if (p.agrees < 0.5 - 0.4 * std::min(p.cut, 0.5)) {
    return other_outline;
  }
  if (too_soft(d)) return "its edge is too soft for a lamp's disc";
  if (f.height_sigma > 0.02 * d.height + 0.1 && !f.clipped()) {
    return "its edge cannot be told from what is around it";
  }
  if (!f.clipped() && usual_.discs >= 6 && d.soft < 0.75 * kernel_px_) {
    return "its edge is sharper than the plate's lamps are";
  }
  if (d.soft > 3.0 * usual_.soft + 0.5 && d.contrast < 0.1 * usual_.contrast) {
    return "it is a faint and soft patch beside the others";
  }
  const double squeezed = std::abs(std::log(d.aspect / usual_.aspect));
  const double allowed = p.cut < 0.1 ? 0.15 : 0.22;
  if (squeezed > allowed + 3.0 * f.aspect_sigma) {
    return "it is squeezed otherwise than the plate's discs";
  }
  return "";
}

}  // namespace jolly_iris::measuring
