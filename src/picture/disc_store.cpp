#include "disc_store.hpp"

#include <algorithm>
#include <cmath>

namespace jolly_iris::blur {

namespace {

constexpr std::size_t max_shapes = 4;
// Discs of an opening that is not even have a weight a pixel; more than that is begun anew.
constexpr std::size_t max_bytes = std::size_t{24} << 20U;
// Two this near, against their size, differ by rounding alone, and by no pixel.
constexpr double same = 1e-9;

bool nearly_same(double a, double b) {
  return std::abs(a - b) <= same * std::max(std::abs(a), std::abs(b));
}
// Points of outlines are in opening radii.
bool nearly_same(const Point2& a, const Point2& b) {
  return std::max(std::abs(a.x - b.x), std::abs(a.y - b.y)) <= same;
}

bool nearly_same(const std::vector<Contour>& a, const std::vector<Contour>& b) {
  if (a.size() != b.size()) return false;
  for (std::size_t i = 0; i < a.size(); ++i) {
    if (a[i].size() != b[i].size()) return false;
    for (std::size_t k = 0; k < a[i].size(); ++k) {
      if (!nearly_same(a[i][k], b[i][k])) return false;
    }
  }
  return true;
}

std::size_t bytes_of(const Disc& disc) {
  return sizeof(Disc) + disc.rows.size() * sizeof(Disc::Row) +
         disc.taps.size() * sizeof(Disc::Tap) + disc.tint.size() * sizeof(disc.tint[0]);
}

}  // namespace

bool DiscStore::Shape::operator==(const Shape& other) const {
  return nearly_same(spherical, other.spherical) && nearly_same(coma, other.coma) &&
         nearly_same(aspect, other.aspect) && nearly_same(pixel_width, other.pixel_width) &&
         nearly_same(pixel_height, other.pixel_height) && light == other.light &&
         nearly_same(outline, other.outline);
}

DiscStore::Shape DiscStore::shape_of(const DiscMaker& maker) {
  const LensSampler& lens = maker.pupil().lens();
  return {maker.finest_outline(), lens.light.light,    lens.spherical, lens.coma, lens.aspect,
          maker.pixel_width(),    maker.pixel_height()};
}

void DiscStore::begin(const DiscMaker& maker) {
  const Shape shape = shape_of(maker);
  for (auto k = kept_.begin(); k != kept_.end(); ++k) {
    if (!(k->shape == shape)) continue;
    kept_.splice(kept_.begin(), kept_, k);
    return;
  }
  kept_.push_front({shape, {}, 0});
  if (kept_.size() > max_shapes) kept_.pop_back();
}

const Disc* DiscStore::find(int step) const {
  const auto& discs = kept_.front().discs;
  const auto found = discs.find(step);
  return found == discs.end() ? nullptr : &found->second;
}

void DiscStore::keep(int step, const Disc& disc) {
  Kept& now = kept_.front();
  now.bytes += bytes_of(disc);
  if (now.bytes > max_bytes) {
    now.discs.clear();
    now.bytes = bytes_of(disc);
  }
  now.discs.insert_or_assign(step, disc);
}

}  // namespace jolly_iris::blur
