#include "prepare.hpp"

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <atomic>
#include <cmath>

#include "jolly_iris/errors.hpp"
#include "jolly_iris/sharpness.hpp"
#include "lamps.hpp"

namespace jolly_iris::blur {

namespace {

std::size_t to_size(int v) { return static_cast<std::size_t>(v); }

// A disc of many frames' size says that the depth is in another unit, not that the blur is large.
void require_sane(const std::vector<float>& coc_px, const Frame& frame) {
  constexpr float frames = 2.0F;
  const auto most = frames * static_cast<float>(std::max(frame.colour.width(), 32));
  const auto width = static_cast<std::size_t>(frame.colour.width());
  for (std::size_t i = 0; i < coc_px.size(); ++i) {
    if (std::abs(coc_px[i]) <= most) continue;
    throw PictureError(fmt::format(
        "at pixel {}, {} the depth is {:.4g} m, which would be blurred over {:.0f} px, more than "
        "{:g} times the picture's width; is the depth in metres?",
        i % width, i / width, frame.has_depth() ? frame.depth[i] : 0.0F, std::abs(coc_px[i]),
        frames));
  }
}

// More lamps than this share the table's discs.
constexpr std::size_t most_own_discs = 8192;
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
  const auto middle = light.begin() + static_cast<std::ptrdiff_t>(light.size() / 2);
  std::nth_element(light.begin(), middle, light.end());
  return std::max(*middle, static_cast<float>(0.05 * sum / static_cast<double>(light.size())));
}

}  // namespace

Preparation::Preparation(const Frame& frame, const VirtualCamera& camera,
                         const DefocusSettings& settings)
    : frame_(frame),
      camera_(camera),
      settings_(settings),
      size_(frame.colour.size()),
      map_(gate_map(camera, size_)),
      pupil_(camera),
      maker_(pupil_, map_.pixel_wide, map_.pixel_high),
      colouring_(camera, map_, size_),
      lamp_share_(lamp_share(frame.colour)),
      excess_from_(difference_range * usual_light(frame.colour)) {}

double Preparation::inverse_z(std::size_t i) const {
  return 1.0 /
         (settings_.distance ? settings_.distance->m() : static_cast<double>(frame_.depth[i]));
}

// Signed diameters on the picture (px of its height), focus shifts included.
std::vector<float> Preparation::blur_of(std::size_t colour) const {
  const LensSampler& lens = pupil_.lens();
  const double strength = 2.0 * lens.radius * lens.focal / map_.pixel_high;
  const bool plain = !camera_.cheat.bends();
  std::vector<float> coc(frame_.colour.pixels().size());
  tbb::parallel_for(0, size_.height, [&](int y) {
    for (int x = 0; x < size_.width; ++x) {
      const std::size_t i = to_size(y) * to_size(size_.width) + to_size(x);
      const double z =
          settings_.distance ? settings_.distance->m() : static_cast<double>(frame_.depth[i]);
      const DiscPlace place = map_.place(x + 0.5, y + 0.5, 0.0);
      const double power = lens.power_at(place.right, place.up, colour);
      double c = strength * (power - 1.0 / z);
      if (!plain) {
        c = circle_of_confusion(camera_, Length::from_m(z)).m() / map_.pixel_high +
            strength * (power - lens.inverse_focus);
      }
      coc[i] = static_cast<float>(c);
    }
  });
  return coc;
}

std::unique_ptr<Pass> Preparation::pass(std::size_t colour) const {
  const std::vector<float> coc = blur_of(colour);
  require_sane(coc, frame_);
  Spread spread;
  spread.size = size_;
  spread.edge = settings_.edge;
  spread.with_alpha = std::any_of(frame_.colour.pixels().begin(), frame_.colour.pixels().end(),
                                  [](const Rgba& p) { return p[3] != 1.0F; });
  sort_into_layers(coc, spread);
  DiscTable table(maker_, map_, size_, spread.step, colour);
  auto pass = std::make_unique<Pass>(Pass{std::move(spread), std::move(table), {}});
  bring_light(coc, colour, *pass);
  return pass;
}

void Preparation::sort_into_layers(const std::vector<float>& coc, Spread& spread) const {
  spread.step.resize(coc.size());
  spread.layer.resize(coc.size());
  tbb::parallel_for(0, size_.height, [&](int y) {
    const std::size_t row = to_size(y) * to_size(size_.width);
    for (std::size_t i = row; i < row + to_size(size_.width); ++i) {
      const auto c = static_cast<double>(coc[i]);
      spread.step[i] = static_cast<std::int16_t>(coc_step(c));
      spread.layer[i] = static_cast<std::int8_t>(layer_of(c));
    }
  });
  const auto [front, back] = std::minmax_element(spread.layer.begin(), spread.layer.end());
  const int nearest = *front;
  spread.layers = *back - nearest + 1;
  spread.focus_layer = layer_of(0.0) - nearest;
  for (std::int8_t& l : spread.layer) l = static_cast<std::int8_t>(l - nearest);
}

// Every pixel's light as surface, lamp or excess, with what its place in the frame does to it.
void Preparation::bring_light(const std::vector<float>& coc, std::size_t colour, Pass& pass) const {
  Spread& spread = pass.spread;
  double nearest = 0.0;
  for (std::size_t i = 0; i < coc.size(); ++i) nearest = std::max(nearest, inverse_z(i));
  const Vignette vignette(maker_, map_, size_, settings_.vignetting ? nearest : 0.0);
  const auto channels = to_size(spread.channels());
  spread.surface.assign(coc.size() * channels, 0.0F);
  spread.excess.resize(to_size(size_.height));
  std::vector<std::vector<Lamp>> lamps(to_size(size_.height));
  std::atomic<bool> any_excess{false};
  tbb::parallel_for(0, size_.height, [&](int y) {
    for (int x = 0; x < size_.width; ++x) {
      const std::size_t i = to_size(y) * to_size(size_.width) + to_size(x);
      const Rgba& from = frame_.colour.pixels()[i];
      std::array<float, 3> light{from[0], from[1], from[2]};
      float gain = 1.0F;
      if (settings_.vignetting && !vignette.none()) {
        gain = vignette.at(x + 0.5, y + 0.5, inverse_z(i));
      }
      if (!colouring_.none()) {
        const auto tint = colouring_.at(x + 0.5, y + 0.5, static_cast<double>(coc[i]));
        for (std::size_t c = 0; c < 3; ++c) light[c] *= tint[c];
      }
      const float share = lamp_share_[i];
      float* to = spread.surface.data() + i * channels;
      std::array<float, 3> beyond{};
      bool exceeds = false;
      for (std::size_t c = 0; c < 3; ++c) {
        const float kept = light[c] * (1.0F - share) * gain;
        to[c] = std::min(kept, excess_from_);
        beyond[c] = kept - to[c];
        exceeds = exceeds || beyond[c] > 0.0F;
        light[c] *= share * gain;
      }
      to[3] = 1.0F;
      if (channels > 4) to[4] = from[3];
      if (exceeds) {
        spread.excess[to_size(y)].push_back({x, beyond});
        any_excess = true;
      }
      if (share > 0.0F) lamps[to_size(y)].push_back({x, y, spread.layer[i], nullptr, light});
    }
  });
  if (!any_excess) spread.excess.clear();
  for (auto& row : lamps) spread.lamps.insert(spread.lamps.end(), row.begin(), row.end());
  give_discs(coc, colour, pass);
}

void Preparation::give_discs(const std::vector<float>& coc, std::size_t colour, Pass& pass) const {
  Spread& spread = pass.spread;
  std::vector<Disc>& own = pass.own;
  const DiscTable& table = pass.table;
  const bool few = spread.lamps.size() <= most_own_discs;
  own.resize(few ? spread.lamps.size() : 0);
  tbb::parallel_for(std::size_t{0}, spread.lamps.size(), [&](std::size_t k) {
    Lamp& lamp = spread.lamps[k];
    const std::size_t i = to_size(lamp.y) * to_size(size_.width) + to_size(lamp.x);
    if (!few) {
      lamp.disc = &table.discs()[to_size(table.index(lamp.x, lamp.y, spread.step[i]))];
      return;
    }
    DiscPlace place =
        map_.place(lamp.x + 0.5, lamp.y + 0.5, static_cast<double>(coc[i]) * map_.pixel_high);
    place.colour = colour;
    own[k] = maker_.make(place);
    lamp.disc = &own[k];
  });
}

}  // namespace jolly_iris::blur
