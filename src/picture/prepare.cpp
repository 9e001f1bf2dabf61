#include "prepare.hpp"

#include <fmt/format.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_reduce.h>

#include <algorithm>
#include <atomic>
#include <cmath>
#include <limits>
#include <map>
#include <tuple>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "lamps.hpp"
#include "optics/quantile.hpp"
#include "parallel.hpp"
#include "to_size.hpp"

namespace jolly_iris::blur {

namespace {

// A disc of many frames' size says that the depth is in another unit, not that the blur is large.
constexpr float sane_frames = 2.0F;

[[noreturn]] void refuse_size(float coc_px, std::size_t i, const Frame& frame) {
  const auto width = static_cast<std::size_t>(frame.colour.width());
  throw PictureError(fmt::format(
      "at pixel {}, {} the depth is {:.4g} m, which would be blurred over {:.0f} px, more than "
      "{:g} times the picture's width; is the depth in metres?",
      i % width, i / width, frame.has_depth() ? frame.depth[i] : 0.0F, std::abs(coc_px),
      sane_frames));
}

// More lamps than this share the table's discs.
constexpr std::size_t max_own_discs = 8192;
// Pixels of lamps this near each other, px, share a traced disc.
constexpr int shared_lamp_px = 12;
// Light beyond so many medians is brought without sums of differences, which would leave a residue
// of it beside.
constexpr float difference_range = 64.0F;

// Half of all pixels are at most so bright; of a mostly black picture, a share of its mean.
float usual_light(const Picture& picture) {
  std::vector<float> light;
  double sum = 0.0;
  const std::size_t every = std::max<std::size_t>(1, picture.pixels().size() / 65536);
  for (std::size_t i = 0; i < picture.pixels().size(); i += every) {
    const Rgba& p = picture.pixels()[i];
    light.push_back(std::max({p[0], p[1], p[2], 0.0F}));
    sum += static_cast<double>(light.back());
  }
  return std::max(upper_median(light),
                  static_cast<float>(0.05 * sum / static_cast<double>(light.size())));
}

bool has_alpha(const Picture& picture) {
  const auto rows = [&](const tbb::blocked_range<std::size_t>& range, bool found) {
    for (std::size_t i = range.begin(); i < range.end() && !found; ++i) {
      found = picture.pixels()[i][3] != 1.0F;
    }
    return found;
  };
  return tbb::parallel_reduce(tbb::blocked_range<std::size_t>(0, picture.pixels().size(), 65536),
                              false, rows, [](bool a, bool b) { return a || b; });
}

}  // namespace

FoundLight find_light(const Picture& picture) {
  return {lamp_fraction(picture), difference_range * usual_light(picture), has_alpha(picture)};
}

Preparation::Preparation(const Frame& frame, const FoundLight& light, const VirtualCamera& camera,
                         const DefocusSettings& settings, const GateMap& map, DiscStore* store)
    : frame_(frame),
      camera_(camera),
      settings_(settings),
      size_(frame.colour.size()),
      map_(map),
      pupil_(camera),
      maker_(pupil_, map_.pixel_width, map_.pixel_height, settings.glass.get()),
      colouring_(camera, map_, size_),
      light_(light),
      store_(store) {}

// Px of blur for a dioptre off the focus.
double Preparation::blur_strength() const {
  const LensSampler& lens = pupil_.lens();
  return 2.0 * lens.radius * lens.focal / map_.pixel_height;
}

// 1/m of what is blurred so much.
double Preparation::inverse_z(double coc_px) const {
  return std::max(0.0, pupil_.lens().inverse_focus - coc_px / blur_strength());
}

// One row's signed diameters on the picture (px of its height), focus shifts included.
void Preparation::blur_row(int y, std::size_t colour, float* coc) const {
  const LensSampler& lens = pupil_.lens();
  const double strength = blur_strength();
  const std::size_t row = to_size(y) * to_size(size_.width);
  const bool flat = lens.curvature == 0.0;
  const bool given = !settings_.coc_px.empty();
  const bool plain = !given && !camera_.blur_override.bends() && !settings_.distance;
  if (plain && flat) {
    const auto at_infinity = static_cast<float>(strength * lens.power_at(0.0, 0.0, colour));
    const auto a_dioptre = static_cast<float>(strength);
    const float* depth = frame_.depth.data() + row;
    for (int x = 0; x < size_.width; ++x) coc[x] = at_infinity - a_dioptre / depth[x];
    return;
  }
  for (int x = 0; x < size_.width; ++x) {
    const DiscPlace place = flat ? DiscPlace{} : map_.place(x + 0.5, y + 0.5, 0.0);
    const double power = lens.power_at(place.right, place.up, colour);
    const std::size_t i = row + to_size(x);
    double c = 0.0;
    if (given) {
      c = static_cast<double>(settings_.coc_px[i]) + strength * (power - lens.inverse_focus);
    } else if (plain) {
      c = strength * (power - 1.0 / static_cast<double>(frame_.depth[i]));
    } else {
      const Length z = settings_.distance ? *settings_.distance
                                          : Length::from_m(static_cast<double>(frame_.depth[i]));
      c = circle_of_confusion(camera_, z).m() / map_.pixel_height +
          strength * (power - lens.inverse_focus);
    }
    coc[x] = static_cast<float>(c);
  }
}

std::vector<float> Preparation::blur_map() const {
  std::vector<float> coc(frame_.colour.pixels().size());
  parallel_for(0, size_.height,
               [&](int y) { blur_row(y, 1, coc.data() + to_size(y) * to_size(size_.width)); });
  return coc;
}

std::unique_ptr<Pass> Preparation::pass(std::size_t colour) const {
  std::vector<float> coc(frame_.colour.pixels().size());
  Spread spread;
  spread.size = size_;
  spread.edge = settings_.edge;
  sort_into_layers(colour, coc, spread);
  const auto unmixed = part_edges(frame_.colour, coc, spread.step, light_.lamp_fraction);
  for (int y = 0; y < size_.height; ++y) {
    for (const PartedPixel& p : unmixed[to_size(y)]) {
      const std::size_t i = to_size(y) * to_size(size_.width) + to_size(p.x);
      spread.step[i] = p.step;
      coc[i] = p.coc;
    }
  }
  // What a store keeps is told apart by the pupil, which a glass does not go by.
  DiscStore* const store = settings_.glass ? nullptr : store_;
  DiscTable table(maker_, map_, size_, spread.step, colour, store);
  auto pass = std::make_unique<Pass>(Pass{std::move(spread), std::move(table), {}});
  bring_light(coc, unmixed, colour, *pass);
  return pass;
}

void Preparation::sort_into_layers(std::size_t colour, std::vector<float>& coc,
                                   Spread& spread) const {
  spread.step.resize(coc.size());
  const float max = sane_frames * static_cast<float>(std::max(size_.width, 32));
  struct CocRange {
    int low = 1 << 15;
    int high = -(1 << 15);
    std::size_t insane = std::numeric_limits<std::size_t>::max();
  };
  const CocRange seen = tbb::parallel_reduce(
      tbb::blocked_range<int>(0, size_.height), CocRange{},
      [&](const tbb::blocked_range<int>& rows, CocRange s) {
        for (int y = rows.begin(); y < rows.end(); ++y) {
          const std::size_t row = to_size(y) * to_size(size_.width);
          blur_row(y, colour, coc.data() + row);
          const std::size_t end = row + to_size(size_.width);
          for (std::size_t i = row; i < end; ++i) {
            if (!(std::abs(coc[i]) <= max)) {
              s.insane = std::min(s.insane, i);
              break;
            }
          }
          if (s.insane < end) continue;
          for (std::size_t i = row; i < end; ++i) {
            const int step = coc_step(coc[i]);
            spread.step[i] = static_cast<std::int16_t>(step);
            s.low = std::min(s.low, step);
            s.high = std::max(s.high, step);
          }
        }
        return s;
      },
      [](const CocRange& a, const CocRange& b) {
        return CocRange{std::min(a.low, b.low), std::max(a.high, b.high),
                        std::min(a.insane, b.insane)};
      });
  if (seen.insane < coc.size()) refuse_size(coc[seen.insane], seen.insane, frame_);
  spread.with_alpha = light_.has_alpha || settings_.edge == FrameEdge::black;
  spread.first_step = seen.low;
  const int nearest = layer_of(coc_of_step(seen.low));
  for (int step = seen.low; step <= seen.high; ++step) {
    spread.layer_of_step.push_back(static_cast<std::int8_t>(layer_of(coc_of_step(step)) - nearest));
  }
  spread.layers = spread.layer_of_step.back() + 1;
  spread.focus_layer = layer_of(0.0) - nearest;
}

// Every pixel's light as surface, lamp or excess, with what its place in the frame does to it.
void Preparation::bring_light(const std::vector<float>& coc,
                              const std::vector<std::vector<PartedPixel>>& unmixed,
                              std::size_t colour, Pass& pass) const {
  Spread& spread = pass.spread;
  const double nearest = inverse_z(coc_of_step(spread.first_step));
  const Vignette vignette(maker_, map_, size_, nearest);
  const bool darkens = settings_.vignetting && !vignette.none();
  const auto focus = static_cast<float>(pupil_.lens().inverse_focus);
  const auto dioptres_a_px = static_cast<float>(1.0 / blur_strength());
  const auto channels = to_size(spread.channels());
  spread.make_surface(pass.table.reach());
  spread.excess.resize(to_size(size_.height));
  std::vector<std::vector<Lamp>> lamps(to_size(size_.height));
  std::atomic<bool> any_excess{false};
  parallel_for(0, size_.height, [&](int y) {
    const Vignette::Row gains = vignette.row(y + 0.5);
    const std::size_t row = to_size(y) * to_size(size_.width);
    const auto bring = [&](int x, const Rgba& from, float covers, float* to) {
      const std::size_t i = row + to_size(x);
      std::array<float, 3> light{from[0], from[1], from[2]};
      const float gain =
          darkens ? vignette.at(gains, static_cast<float>(x) + 0.5F, focus - coc[i] * dioptres_a_px)
                  : 1.0F;
      if (!colouring_.none()) {
        const auto tint = colouring_.at(x + 0.5, y + 0.5, static_cast<double>(coc[i]));
        for (std::size_t c = 0; c < 3; ++c) light[c] *= tint[c];
      }
      const float fraction = light_.lamp_fraction[i];
      const float kept = (1.0F - fraction) * gain;
      const float largest = std::max({light[0], light[1], light[2]}) * kept;
      for (std::size_t c = 0; c < 3; ++c) to[c] = std::min(light[c] * kept, light_.excess_from);
      if (largest > light_.excess_from) {
        spread.excess[to_size(y)].push_back(
            {x, {light[0] * kept - to[0], light[1] * kept - to[1], light[2] * kept - to[2]}});
        any_excess = true;
      }
      to[3] = covers;
      if (channels > 4) {
        to[4] = from[3];
        to[5] = to[6] = to[7] = 0.0F;
      }
      if (fraction <= 0.0F) return;
      for (float& c : light) c *= fraction * gain;
      lamps[to_size(y)].push_back({x, y, spread.layer_at(i), nullptr, light});
    };
    float* to = spread.surface_at(y, 0);
    auto edge = unmixed[to_size(y)].begin();
    for (int x = 0; x < size_.width; to += channels) {
      const int until = edge == unmixed[to_size(y)].end() ? size_.width : edge->x;
      for (; x < until; ++x, to += channels) {
        bring(x, frame_.colour.pixels()[row + to_size(x)], 1.0F, to);
      }
      if (x == size_.width) break;
      bring(x, edge->light, edge->fraction, to);
      ++x;
      ++edge;
    }
  });
  if (!any_excess) spread.excess.clear();
  for (auto& one : lamps) spread.lamps.insert(spread.lamps.end(), one.begin(), one.end());
  give_discs(coc, colour, pass);
}

void Preparation::give_discs(const std::vector<float>& coc, std::size_t colour, Pass& pass) const {
  Spread& spread = pass.spread;
  std::vector<Disc>& own = pass.own;
  const DiscTable& table = pass.table;
  if (maker_.traced()) return share_discs(coc, pass);
  const bool few = spread.lamps.size() <= max_own_discs;
  own.resize(few ? spread.lamps.size() : 0);
  parallel_for(std::size_t{0}, spread.lamps.size(), [&](std::size_t k) {
    Lamp& lamp = spread.lamps[k];
    const std::size_t i = to_size(lamp.y) * to_size(size_.width) + to_size(lamp.x);
    if (!few) {
      lamp.disc = &table.discs()[to_size(table.index(lamp.x, lamp.y, spread.step[i]))];
      return;
    }
    DiscPlace place =
        map_.place(lamp.x + 0.5, lamp.y + 0.5, static_cast<double>(coc[i]) * map_.pixel_height);
    place.colour = colour;
    own[k] = maker_.make(place);
    lamp.disc = &own[k];
  });
}

// Traced discs are dear: neighbours that are blurred alike are one lamp, or might be.
void Preparation::share_discs(const std::vector<float>& coc, Pass& pass) const {
  Spread& spread = pass.spread;
  struct Kind {
    int step = 0;
    int x = 0;
    int y = 0;
    bool operator<(const Kind& o) const {
      return std::tie(step, y, x) < std::tie(o.step, o.y, o.x);
    }
  };
  std::map<Kind, std::size_t> number;
  std::vector<std::size_t> made_for;  // the first lamp of each kind
  std::vector<std::size_t> disc_of_lamp;
  for (std::size_t k = 0; k < spread.lamps.size(); ++k) {
    const Lamp& lamp = spread.lamps[k];
    const std::size_t i = to_size(lamp.y) * to_size(size_.width) + to_size(lamp.x);
    const Kind kind{spread.step[i], lamp.x / shared_lamp_px, lamp.y / shared_lamp_px};
    const auto [found, is_new] = number.try_emplace(kind, made_for.size());
    if (is_new) made_for.push_back(k);
    disc_of_lamp.push_back(found->second);
  }
  const bool few = made_for.size() <= max_own_discs;
  std::vector<Disc>& own = pass.own;
  own.resize(few ? made_for.size() : 0);
  parallel_for(std::size_t{0}, own.size(), [&](std::size_t d) {
    const Lamp& lamp = spread.lamps[made_for[d]];
    const std::size_t i = to_size(lamp.y) * to_size(size_.width) + to_size(lamp.x);
    own[d] = maker_.make(
        map_.place(lamp.x + 0.5, lamp.y + 0.5, static_cast<double>(coc[i]) * map_.pixel_height));
  });
  for (std::size_t k = 0; k < spread.lamps.size(); ++k) {
    Lamp& lamp = spread.lamps[k];
    const std::size_t i = to_size(lamp.y) * to_size(size_.width) + to_size(lamp.x);
    lamp.disc =
        few ? &own[disc_of_lamp[k]]
            : &pass.table.discs()[to_size(pass.table.index(lamp.x, lamp.y, spread.step[i]))];
  }
}

}  // namespace jolly_iris::blur
