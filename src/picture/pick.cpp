#include "jolly_iris/picture/pick.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/depth_code.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

struct Found {
  Length distance;
  int x;
  int y;
};

double number_at(const Frame& picture, int x, int y) {
  if (!picture.has_depth()) return static_cast<double>(picture.colour.at(x, y)[0]);
  const auto width = static_cast<std::size_t>(picture.colour.width());
  return static_cast<double>(
      picture.depth[static_cast<std::size_t>(y) * width + static_cast<std::size_t>(x)]);
}

Found at(const Frame& picture, const DepthEntry& entry, int x, int y) {
  try {
    return {decode_depth(entry.code, number_at(picture, x, y)), x, y};
  } catch (const PictureError& e) {
    throw PictureError(fmt::format("{}: at pixel {}, {}: {}", entry.file, x, y, e.what()));
  }
}

Found in_middle(const Frame& picture, const DepthEntry& entry, MiddleArea area) {
  const int width = picture.colour.width();
  const int height = picture.colour.height();
  std::vector<Found> all;
  for (int y = height / 3; y < std::max(height / 3 + 1, 2 * height / 3); ++y) {
    for (int x = width / 3; x < std::max(width / 3 + 1, 2 * width / 3); ++x) {
      const Found found = at(picture, entry, x, y);
      if (found.distance.is_finite()) all.push_back(found);
    }
  }
  if (all.empty()) {
    throw PictureError(entry.file +
                       ": there is nothing but sky in the picture's middle to focus on");
  }
  const auto nearer = [](const Found& a, const Found& b) { return a.distance < b.distance; };
  if (area == MiddleArea::nearest) return *std::min_element(all.begin(), all.end(), nearer);
  const auto middle = all.begin() + static_cast<std::ptrdiff_t>(all.size() / 2);
  std::nth_element(all.begin(), middle, all.end(), nearer);
  return *middle;
}

}  // namespace

Picked pick_depth(const Frame& picture, const DepthEntry& entry, PixelSize delivered,
                  const Focus& focus) {
  if (picture.colour.empty()) throw PictureError(entry.file + ": has no pixels");
  const double width = static_cast<double>(picture.colour.width()) / delivered.width;
  const double height = static_cast<double>(picture.colour.height()) / delivered.height;
  Found found{};
  std::string what;
  if (focus.pixel) {
    const auto& [px, py] = *focus.pixel;
    if (!(px >= 0.0 && py >= 0.0 && px < delivered.width && py < delivered.height)) {
      throw PictureError(fmt::format("{}: the pixel {:g}, {:g} is outside the picture of {} x {}",
                                     entry.file, px, py, delivered.width, delivered.height));
    }
    found = at(picture, entry, static_cast<int>(px * width), static_cast<int>(py * height));
    what = fmt::format("pixel {:g}, {:g}", px, py);
  } else {
    const MiddleArea area = focus.area.value_or(MiddleArea::median);
    found = in_middle(picture, entry, area);
    what = fmt::format("the {} of the middle, pixel {:.0f}, {:.0f}",
                       area == MiddleArea::nearest ? "nearest" : "median", found.x / width,
                       found.y / height);
  }
  Picked picked;
  const bool radial = entry.code.kind == DepthCode::Kind::radial;
  picked.distance.kind = radial ? DistanceKind::radial : DistanceKind::axial;
  picked.distance.length = found.distance;
  picked.distance.pixel = {(found.x + 0.5) / width, (found.y + 0.5) / height};
  picked.distance.pixel_in_cg = true;
  const std::string name = entry.file.substr(entry.file.rfind('/') + 1);
  picked.message = fmt::format(
      "{} of {}: {}{}", what, name,
      found.distance.is_infinite() ? "infinity" : fmt::format("{:.4g} m", found.distance.m()),
      radial ? " radial" : "");
  return picked;
}

}  // namespace jolly_iris
