// Spikes: the opening's diffraction, from its drawn field to light within pixels.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <numeric>

#include "area_raster.hpp"
#include "disc_table.hpp"
#include "fourier.hpp"
#include "jolly_iris/optics/colour_matching.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/memory.hpp"
#include "jolly_iris/optics/pupil.hpp"
#include "jolly_iris/picture/scatter.hpp"
#include "parallel.hpp"
#include "to_size.hpp"

namespace jolly_iris {

namespace {

// Chords stand off their arcs by this part of the radius: a sixth of a sample of the finest field.
constexpr double tolerance = 1e-4;
// Light is told at so many places in a pixel's width, where that is finer than what an opening
// needs.
constexpr double places_a_px = 4.0;
// The field reaches a little beyond the opening at least, and leaves it so many samples at least.
constexpr double least_field = 1.1;
constexpr double least_samples = 60.0;
// Where nobody says: a tenth of a second, and two.
constexpr int least_usual_samples = 1024;
constexpr int most_usual_samples = 4096;
// The kernel's outermost part, over which it fades.
constexpr double fading = 1.0 / 7.0;

// Summed up from the corner of a square of cells: light within any rectangle at once.
class LightSum {
 public:
  // Square, frequency 0 in the middle.
  // @param all the light of the whole, in the same measure
  LightSum(int side, const std::vector<RealTransform::Complex>& field, double all)
      : side_(side), all_(all), sums_(to_size(side + 1) * to_size(side + 1)) {
    const int half = side / 2;
    // What is drawn is the mean over a sample, which takes this from high frequencies.
    std::vector<double> undo(to_size(half) + 1, 1.0);
    for (int u = 1; u <= half; ++u) {
      const double x = std::numbers::pi * u / side;
      undo[to_size(u)] = std::pow(x / std::sin(x), 2.0);
    }
    parallel_for(0, side, [&](int y) {
      double row = 0.0;
      double* out = sums_.data() + to_size(y + 1) * to_size(side_ + 1);
      const double down = undo[to_size(std::abs(y - half))];
      for (int x = 0; x < side; ++x) {
        int u = x - half;
        int v = y - half;
        if (u < 0) {  // a real field's light is the same on both sides
          u = -u;
          v = -v;
        }
        const std::size_t line = to_size((v + side) % side);
        row += down * undo[to_size(u)] * std::norm(field[line * to_size(half + 1) + to_size(u)]);
        out[x + 1] = row;
      }
    });
    for (int y = 1; y <= side; ++y) {
      double* row = sums_.data() + to_size(y) * to_size(side + 1);
      const double* above = row - side - 1;
      for (int x = 0; x <= side; ++x) row[x] += above[x];
    }
  }

  double all() const { return all_; }

  // Light within a rectangle about the middle, in cells from it.
  double within(double left, double top, double right, double bottom) const {
    const double x0 = at(left);
    const double x1 = at(right);
    const double y0 = at(top);
    const double y1 = at(bottom);
    return read(x1, y1) - read(x0, y1) - read(x1, y0) + read(x0, y0);
  }

 private:
  // Frequency 0 fills the cell from half to half + 1: its middle is at half + ½.
  double at(double cells) const {
    return std::clamp(cells + 0.5 * side_ + 0.5, 0.0, static_cast<double>(side_));
  }
  double read(double x, double y) const {
    const int i = std::min(static_cast<int>(x), side_ - 1);
    const int j = std::min(static_cast<int>(y), side_ - 1);
    const double fx = x - i;
    const double fy = y - j;
    const double* above = sums_.data() + to_size(j) * to_size(side_ + 1) + i;
    const double* below = above + side_ + 1;
    return (1.0 - fy) * ((1.0 - fx) * above[0] + fx * above[1]) +
           fy * ((1.0 - fx) * below[0] + fx * below[1]);
  }

  int side_;
  double all_;
  std::vector<double> sums_;
};

// The opening's field, drawn in the middle of a square that spans `field` diameters.
LightSum light_of(const Pupil& pupil, int samples, double field) {
  const double samples_a_radius = 0.5 * samples / field;
  blur::AreaRaster raster;
  raster.start(samples, samples);
  const auto place = [&](Point2 p) {
    return Point2{0.5 * samples + p.x * samples_a_radius, 0.5 * samples - p.y * samples_a_radius};
  };
  for (const Contour& contour : pupil.whole(tolerance)) {
    for (std::size_t i = 0; i < contour.size(); ++i) {
      // Turned over, so that the outline runs the same way round as it did with y up.
      raster.edge(place(contour[(i + 1) % contour.size()]), place(contour[i]));
    }
  }
  const RealTransform transform({samples, samples});
  const double aspect = pupil.lens().aspect;
  std::vector<double> passed(to_size(samples));
  const auto read = [&](int y, double* row) {
    const float* differences = raster.row(y);
    double covered = 0.0;
    for (int x = 0; x < samples; ++x) {
      covered += static_cast<double>(differences[x]);
      if (std::abs(covered) < 1e-6) continue;
      double light = 1.0;
      if (!pupil.even()) {
        const auto seen =
            pupil.lens().light.at({(x + 0.5 - 0.5 * samples) / samples_a_radius / aspect,
                                   (0.5 * samples - y - 0.5) / samples_a_radius});
        light = static_cast<double>(seen[0] + seen[1] + seen[2]) / 3.0;
      }
      row[x] = std::abs(covered) * std::sqrt(std::max(0.0, light));
      passed[to_size(y)] += std::abs(covered) * light;
    }
  };
  const std::vector<RealTransform::Complex> spectrum = transform.forward({{0, samples}}, read);
  // Parseval's theorem; where a sample is half covered, half of its light passes.
  const double all =
      std::accumulate(passed.begin(), passed.end(), 0.0) * samples * static_cast<double>(samples);
  return {samples, spectrum, all};
}

std::vector<double> default_wavelengths() {
  std::vector<double> out;
  for (double nm = 400.0; nm <= 700.0; nm += 10.0) out.push_back(nm);
  return out;
}

// What each wavelength counts in red, green and blue; they add up to 1 in each, so that white light
// stays white.
std::vector<Rgb> channel_weights(const std::vector<double>& wavelengths_nm) {
  std::vector<Rgb> out;
  if (wavelengths_nm.size() == 1) return {{1.0, 1.0, 1.0}};
  Rgb sum{};
  for (const double nm : wavelengths_nm) {
    out.push_back(product(rgb_from_xyz(Primaries::rec709), colour_matching(nm)));
    for (std::size_t c = 0; c < 3; ++c) sum[c] += out.back()[c];
  }
  for (Rgb& w : out) {
    for (std::size_t c = 0; c < 3; ++c) w[c] /= sum[c];
  }
  return out;
}

void require_settings(const Spikes& spikes, const SpikeSettings& settings) {
  if (!(spikes.times > 0.0 && std::isfinite(spikes.times))) {
    throw OpticsError(fmt::format("finish.spikes.times: {:g} is not above zero", spikes.times),
                      "finish.spikes.times");
  }
  const int n = settings.samples;
  if (n != 0 && (n < 256 || n > 16384 || (n & (n - 1)) != 0)) {
    throw UsageError(
        fmt::format("{} samples of an opening: they are a power of two, 256 to 16384", n));
  }
  for (const double nm : settings.wavelengths_nm) {
    if (nm >= shortest_seen_nm && nm <= longest_seen_nm) continue;
    throw UsageError(fmt::format("a wavelength of {:g} nm: light has 380 to 780", nm));
  }
}

}  // namespace

ScatterKernel spike_kernel(const Spikes& spikes, const VirtualCamera& camera, PixelSize size,
                           const Margin& margin, const SpikeSettings& settings) {
  require_settings(spikes, settings);
  const std::vector<double> wavelengths =
      settings.wavelengths_nm.empty() ? default_wavelengths() : settings.wavelengths_nm;
  const std::vector<Rgb> weights = channel_weights(wavelengths);
  const blur::GateMap map = blur::gate_map(camera, size, margin);
  const auto [shortest, longest] = std::minmax_element(wavelengths.begin(), wavelengths.end());
  const double least_m = *shortest * 1e-9 * camera.f_number;  // λN
  const double pixel = std::min(map.pixel_width, map.pixel_height);
  const int whole = settings.max_reach > 0 ? settings.max_reach : std::max(size.width, size.height);
  const double wanted_field = places_a_px * *longest * 1e-9 * camera.f_number / pixel;
  const auto field_of = [&](int n) {
    return std::clamp(wanted_field, least_field, n / least_samples);
  };
  const auto told_px = [&](int n) { return 0.5 * n * least_m / (field_of(n) * pixel); };
  int samples = settings.samples > 0 ? settings.samples : least_usual_samples;
  while (settings.samples == 0 && samples < most_usual_samples && told_px(samples) < whole + 1) {
    samples *= 2;
  }
  const double field = field_of(samples);
  require_memory(40.0 * samples * samples,
                 fmt::format("the spikes of an opening of {0} x {0} samples", samples));
  const Pupil pupil(camera);
  const LightSum light = light_of(pupil, samples, field);

  const int reach = std::max(1, static_cast<int>(std::min(std::floor(told_px(samples)) - 1.0,
                                                          static_cast<double>(whole))));
  const int reach_x = std::min(reach, size.width - 1);
  const int reach_y = std::min(reach, size.height - 1);
  std::array<ScatterShape, 3> shapes;
  const std::size_t width = to_size(2 * reach_x + 1);
  for (ScatterShape& s : shapes) {
    s = {reach_x, reach_y, {}};
    s.values.resize(width * to_size(2 * reach_y + 1));
  }
  const std::size_t middle = to_size(reach_y) * width + to_size(reach_x);
  // The lower half and, by the same numbers, the upper one turned round.
  parallel_for(0, reach_y + 1, [&](int y) {
    for (int x = y == 0 ? 1 : -reach_x; x <= reach_x; ++x) {
      const double out = std::hypot(x, y) / reach;
      if (out >= 1.0) continue;
      const double fade = std::min(1.0, (1.0 - out) / fading);
      Rgb sum{};
      for (std::size_t k = 0; k < wavelengths.size(); ++k) {
        const double cell = wavelengths[k] * 1e-9 * camera.f_number / field;
        const double w = map.pixel_width / cell;
        const double h = map.pixel_height / cell;
        const double l = light.within((x - 0.5) * w, (y - 0.5) * h, (x + 0.5) * w, (y + 0.5) * h);
        for (std::size_t c = 0; c < 3; ++c) sum[c] += weights[k][c] * l;
      }
      const std::size_t i = middle + to_size(y) * width;
      for (std::size_t c = 0; c < 3; ++c) {
        const auto v = static_cast<float>(fade * fade * (3.0 - 2.0 * fade) * sum[c] / light.all());
        shapes[c].values[x >= 0 ? i + to_size(x) : i - to_size(-x)] = v;
        const std::size_t j = middle - to_size(y) * width;
        shapes[c].values[x >= 0 ? j - to_size(x) : j + to_size(-x)] = v;
      }
    }
  });
  ScatterKernel out{"spikes", {}, {}};
  for (std::size_t c = 0; c < 3; ++c) {
    double sum = 0.0;
    for (const float v : shapes[c].values) sum += static_cast<double>(v);
    out.fraction[c] = spikes.times * sum;
    if (out.fraction[c] > 1.0) {
      throw OpticsError(
          fmt::format("finish.spikes.times: {:g} times the light of spikes, {:.3g} of all, is more "
                      "than there is",
                      spikes.times, sum),
          "finish.spikes.times");
    }
    const auto scale = static_cast<float>(1.0 / sum);
    for (float& v : shapes[c].values) v *= scale;
    out.shape[c] = std::make_shared<const ScatterShape>(std::move(shapes[c]));
  }
  return out;
}

}  // namespace jolly_iris
