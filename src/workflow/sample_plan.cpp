#include "jolly_iris/workflow/sample_plan.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

// Where blur is seen at all (the criterion's two pixels), and then by doubling or so.
constexpr std::array<double, 6> edges{0.0,  2.0,  8.0,
                                      20.0, 40.0, std::numeric_limits<double>::infinity()};
constexpr double nineteen_of_twenty = 0.95;

double at_share(std::vector<double> v, double share) {
  if (v.empty()) return 0.0;
  std::sort(v.begin(), v.end());
  const auto last = static_cast<double>(v.size() - 1);
  return v[static_cast<std::size_t>(std::ceil(share * last))];
}

SampleBand band_of(const SamplePlan& plan, double from, double to) {
  SampleBand band{from, to};
  std::vector<double> level;
  std::vector<double> noise;
  std::vector<double> times;
  std::size_t all = 0;
  for (const NoisePlace& p : plan.noise.places) {
    if (p.coc_px < from || p.coc_px >= to) continue;
    ++all;
    if (!p.told) continue;
    level.push_back(p.level);
    noise.push_back(p.noise / std::max(p.level, plan.request.darkest));
    times.push_back(times_the_rays(p, plan.request.noise, plan.request.darkest));
  }
  if (all == 0) return band;
  band.share = static_cast<double>(all) / static_cast<double>(plan.noise.places.size());
  band.told = static_cast<double>(times.size()) / static_cast<double>(all);
  band.level = at_share(level, 0.5);
  band.noise = at_share(noise, 0.5);
  band.times = at_share(times, 0.5);
  band.times_worst = at_share(times, nineteen_of_twenty);
  return band;
}

// What is not told is taken for as bad as its band; a band that is told nowhere, for the next one.
void fill_times(SamplePlan& plan) {
  for (std::size_t b = 1; b < plan.bands.size(); ++b) {
    SampleBand& band = plan.bands[b];
    if (band.told == 0.0) band.times_worst = plan.bands[b - 1].times_worst;
  }
  for (std::size_t b = plan.bands.size() - 1; b-- > 0;) {
    SampleBand& band = plan.bands[b];
    if (band.told == 0.0 && band.times_worst == 0.0) {
      band.times_worst = plan.bands[b + 1].times_worst;
    }
  }
  for (const NoisePlace& p : plan.noise.places) {
    if (p.told) {
      plan.times.push_back(times_the_rays(p, plan.request.noise, plan.request.darkest));
      continue;
    }
    for (const SampleBand& band : plan.bands) {
      if (p.coc_px >= band.from_px && p.coc_px < band.to_px) plan.times.push_back(band.times_worst);
    }
  }
}

// What stands about so far away, where exactly one thing does.
std::string subject_near(const LoadedShot& loaded, Length axial) {
  std::string name;
  for (const SubjectBlur& s : loaded.answer.subjects) {
    if (!s.in_picture || !(s.front <= axial && axial <= s.back)) continue;
    if (!name.empty()) return {};
    name = s.name;
  }
  return name;
}

void find_worst(SamplePlan& plan, const Frame& frame, const LoadedShot& loaded) {
  constexpr std::size_t most = 3;
  constexpr int apart = 3;  // squares
  std::vector<std::size_t> order(plan.noise.places.size());
  for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
  std::sort(order.begin(), order.end(),
            [&](std::size_t a, std::size_t b) { return plan.times[a] > plan.times[b]; });
  for (const std::size_t i : order) {
    const NoisePlace& p = plan.noise.places[i];
    const bool near = std::any_of(plan.worst.begin(), plan.worst.end(), [&](const SamplePlace& w) {
      return std::abs(w.at.box.x - p.box.x) < apart * noise_block &&
             std::abs(w.at.box.y - p.box.y) < apart * noise_block;
    });
    if (!p.told || near) continue;
    SamplePlace worst{p, plan.times[i], {}, {}};
    if (frame.has_depth()) {
      const auto at = static_cast<std::size_t>(p.box.y + noise_block / 2) *
                          static_cast<std::size_t>(frame.colour.width()) +
                      static_cast<std::size_t>(p.box.x + noise_block / 2);
      const auto m = static_cast<double>(frame.depth[at]);
      worst.axial = std::isfinite(m) ? Length::from_m(m) : Length::infinity();
      worst.subject = subject_near(loaded, *worst.axial);
    }
    plan.worst.push_back(worst);
    if (plan.worst.size() == most) return;
  }
}

}  // namespace

SamplePlan plan_samples(const SamplePlanRequest& request, const LoadedShot& loaded,
                        std::vector<std::string>& files) {
  SamplePlan plan;
  plan.request = request;
  DefocusRequest seen;
  seen.pictures = {request.picture};
  seen.depth = request.depth;
  seen.distance = request.distance;
  seen.blur = request.blur;
  seen.decoding = request.decoding;
  const PictureWithBlur test = picture_with_blur(seen, loaded, files);
  plan.notes = test.notes;
  plan.size = test.frame.colour.size();
  try {
    if (request.again.empty()) {
      plan.noise = render_noise(test.frame.colour, test.coc_px, loaded.now.primaries);
    } else {
      const Frame again = read_for_shot(request.again, request.decoding, loaded, files);
      plan.noise = render_noise(test.frame.colour, again.colour, test.coc_px, loaded.now.primaries);
    }
  } catch (const PictureError& e) {
    throw PictureError(request.picture + ": " + e.what());
  }
  for (std::size_t b = 0; b + 1 < edges.size(); ++b) {
    const SampleBand band = band_of(plan, edges[b], edges[b + 1]);
    if (band.share > 0.0) plan.bands.push_back(band);
    plan.told += band.share * band.told;
  }
  if (plan.told == 0.0) {
    throw OpticsError(fmt::format(
        "{}: nowhere can noise be told from detail, or neighbouring pixels share it (a wide pixel "
        "filter, or something that smooths); render the frame once more with other random numbers "
        "and give both",
        request.picture));
  }
  fill_times(plan);
  find_worst(plan, test.frame, loaded);
  plan.everywhere = at_share(plan.times, nineteen_of_twenty);
  double sum = 0.0;
  for (const double t : plan.times) sum += t;
  plan.where_needed = sum / static_cast<double>(plan.times.size());
  if (request.again.empty() && plan.told < 0.5) {
    plan.warnings.push_back(fmt::format(
        "in {:.0f} % of the picture noise cannot be told from detail; it is taken for as noisy as "
        "what is blurred alike. A second render with other random numbers would settle it",
        100.0 * (1.0 - plan.told)));
  }
  return plan;
}

Picture sample_map(const SamplePlan& plan) {
  const PixelSize size = plan.size;
  Picture map(size, {0, 0, 0, 1});
  for (int y = 0; y < size.height; ++y) {
    const int j = std::min(y / noise_block, plan.noise.down - 1);
    for (int x = 0; x < size.width; ++x) {
      const int i = std::min(x / noise_block, plan.noise.across - 1);
      const auto t =
          static_cast<float>(plan.times[static_cast<std::size_t>(j * plan.noise.across + i)]);
      map.at(x, y) = {t, t, t, 1.0F};
    }
  }
  return map;
}

}  // namespace jolly_iris
