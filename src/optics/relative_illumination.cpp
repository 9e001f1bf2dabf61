#include "jolly_iris/optics/relative_illumination.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/pupil.hpp"

namespace jolly_iris {

namespace {

constexpr double min_fraction = 1e-4;  // 13 stops: darker than that, a corner is simply black

// Slopes of a monotone cubic through (0, 0) and the table's rows, level at the axis. Source:
// Fritsch and Carlson, SIAM J. Numer. Anal. 17 (1980); the harmonic mean of Fritsch and Butland
// (1984).
std::vector<double> slopes_of(const std::vector<LossPoint>& table) {
  const std::size_t n = table.size() + 1;
  const auto x = [&](std::size_t i) { return i == 0 ? 0.0 : table[i - 1].height.mm(); };
  const auto y = [&](std::size_t i) { return i == 0 ? 0.0 : table[i - 1].stops; };
  std::vector<double> slope(n, 0.0);
  for (std::size_t i = 1; i + 1 < n; ++i) {
    const double before = (y(i) - y(i - 1)) / (x(i) - x(i - 1));
    const double after = (y(i + 1) - y(i)) / (x(i + 1) - x(i));
    if (before * after > 0.0) slope[i] = 2.0 * before * after / (before + after);
  }
  if (n > 1) slope[n - 1] = (y(n - 1) - y(n - 2)) / (x(n - 1) - x(n - 2));
  return slope;
}

double table_stops(const std::vector<LossPoint>& table, const std::vector<double>& slopes,
                   double height) {
  std::size_t i = 0;
  while (i < table.size() && height > table[i].height.mm()) ++i;
  if (i == table.size()) {
    return std::max(0.0, table.back().stops + slopes.back() * (height - table.back().height.mm()));
  }
  const double x0 = i == 0 ? 0.0 : table[i - 1].height.mm();
  const double y0 = i == 0 ? 0.0 : table[i - 1].stops;
  const double width = table[i].height.mm() - x0;
  const double t = (height - x0) / width;
  const double u = 1.0 - t;
  return y0 * (1.0 + 2.0 * t) * u * u + table[i].stops * t * t * (3.0 - 2.0 * t) +
         width * t * u * (slopes[i] * u - slopes[i + 1] * t);
}

}  // namespace

double natural_fraction(const VirtualCamera& camera, Length right, Length up) {
  const double v2 = camera.focal.mm() * camera.focal.mm();
  const double cos2 = v2 / (v2 + right.mm() * right.mm() + up.mm() * up.mm());
  return cos2 * cos2;
}

double open_fraction_of(const std::vector<VignettingRim>& vignetting, const VirtualCamera& camera,
                        Length right, Length up, Length z) {
  if (vignetting.empty()) return 1.0;
  VirtualCamera with = camera;
  with.vignetting = vignetting;
  return Pupil(with).open({right / camera.focal, up / camera.focal, 1.0 / z.m()});
}

namespace {

// The loss at any place, with what is the same for all of them made once.
class Loss {
 public:
  Loss(const Lens& lens, const VirtualCamera& camera, Length z)
      : lens_(lens), camera_(camera), z_(z), slopes_(slopes_of(lens.loss)) {
    require_possible(lens);
    if (!lens.loss.empty() || lens.vignetting.empty()) return;
    VirtualCamera with = camera;
    with.vignetting = lens.vignetting;
    pupil_.emplace(with);
  }

  // At a place of the picture, as shares of its width to the right and of its height up.
  struct Place {
    Length right{};
    Length up{};
  };
  Place at(double across, double up) const {
    return {camera_.picture.width * across + camera_.shift_right,
            camera_.picture.height * up + camera_.shift_up};
  }

  // Measured on the gate as recorded: an oval in the desqueezed picture.
  double recorded_height_mm(const Place& p) const {
    return std::hypot(p.right.mm() / camera_.squeeze, p.up.mm());
  }
  double natural(const Place& p) const {
    return -std::log2(natural_fraction(camera_, p.right, p.up));
  }
  double stops(const Place& p) const {
    if (!lens_.loss.empty()) return table_stops(lens_.loss, slopes_, recorded_height_mm(p));
    if (!pupil_) return natural(p);
    const double open =
        pupil_->light({p.right / camera_.focal, p.up / camera_.focal, 1.0 / z_.m()});
    return natural(p) - std::log2(std::max(open, min_fraction));
  }

 private:
  const Lens& lens_;
  const VirtualCamera& camera_;
  Length z_;
  std::vector<double> slopes_;
  std::optional<Pupil> pupil_{};  // none without a barrel
};

}  // namespace

CornerLoss corner_loss(const Lens& lens, const VirtualCamera& camera, Length z) {
  const Loss loss(lens, camera, z);
  CornerLoss corner;
  corner.measured = !lens.loss.empty();
  corner.vignetting_known = !lens.vignetting.empty();
  for (const double across : {-0.5, 0.5}) {
    for (const double up : {-0.5, 0.5}) {
      const Loss::Place place = loss.at(across, up);
      const double stops = loss.stops(place);
      if (stops < corner.stops) continue;
      corner.stops = stops;
      if (corner.measured) {
        corner.beyond_table = loss.recorded_height_mm(place) > lens.loss.back().height.mm();
      } else {
        corner.natural = loss.natural(place);
        corner.vignetting = stops - *corner.natural;
      }
    }
  }
  return corner;
}

RelativeIllumination::RelativeIllumination(const Lens& lens, const VirtualCamera& camera, Length z)
    : delivered_(camera.pixels) {
  const Loss loss(lens, camera, z);
  stops_.reserve(static_cast<std::size_t>(columns) * rows);
  for (int y = 0; y < rows; ++y) {
    for (int x = 0; x < columns; ++x) {
      stops_.push_back(loss.stops(loss.at(static_cast<double>(x) / (columns - 1) - 0.5,
                                          0.5 - static_cast<double>(y) / (rows - 1))));
    }
  }
}

double RelativeIllumination::fraction(const std::array<double, 2>& px) const {
  const auto within = [](double at, int count) {
    return std::clamp(at * (count - 1), 0.0, static_cast<double>(count - 1));
  };
  const double x = within(px[0] / delivered_.width, columns);
  const double y = within(px[1] / delivered_.height, rows);
  const int i = std::min(static_cast<int>(x), columns - 2);
  const int j = std::min(static_cast<int>(y), rows - 2);
  const auto at = [&](int column, int row) {
    return stops_[static_cast<std::size_t>(row) * columns + static_cast<std::size_t>(column)];
  };
  const double a = x - i;
  const double b = y - j;
  const double stops = (at(i, j) * (1.0 - a) + at(i + 1, j) * a) * (1.0 - b) +
                       (at(i, j + 1) * (1.0 - a) + at(i + 1, j + 1) * a) * b;
  return std::exp2(-stops);
}

}  // namespace jolly_iris
