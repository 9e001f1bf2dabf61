#include "jolly_iris/picture/defocus.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/memory.hpp"
#include "jolly_iris/picture/prepared_frame.hpp"
#include "large_memory.hpp"
#include "magnify.hpp"
#include "parallel.hpp"
#include "prepare.hpp"
#include "require_finite.hpp"

namespace jolly_iris {

namespace {

using namespace blur;

// @param depth_is_sound it was looked through before
void check_distances(const Frame& frame, const DefocusSettings& settings, bool depth_is_sound) {
  if (!settings.coc_px.empty()) {
    if (settings.coc_px.size() != frame.colour.pixels().size()) {
      throw PictureError("the picture of discs has another size than the colour");
    }
    const auto odd = [&](std::size_t k) { return !std::isfinite(settings.coc_px[k]); };
    const std::size_t i = first_of(settings.coc_px.size(), odd);
    if (i < settings.coc_px.size()) {
      refuse_pixel(frame.colour, i, fmt::format("a disc's diameter is {},", settings.coc_px[i]));
    }
    return;
  }
  if (settings.distance) {
    if (!(settings.distance->mm() > 0.0)) {
      throw PictureError(fmt::format("the stated distance of {:g} m is not in front of the camera",
                                     settings.distance->m()));
    }
    return;
  }
  if (!frame.has_depth()) {
    throw NoDepthError(
        "the picture has no depth; give a picture with a channel Z (axial metres), or one distance "
        "for everything");
  }
  if (frame.depth.size() != frame.colour.pixels().size()) {
    throw PictureError("the depth picture has another size than the colour");
  }
  if (depth_is_sound) return;
  const auto behind = [&](std::size_t k) { return !(frame.depth[k] > 0.0F); };
  const std::size_t i = first_of(frame.depth.size(), behind);
  if (i < frame.depth.size()) {
    const float z = frame.depth[i];
    if (std::isnan(z)) refuse_pixel(frame.colour, i, "the depth is not a number");
    refuse_pixel(frame.colour, i,
                 fmt::format("the depth is {:g} m, which is not in front of the camera,", z));
  }
}

void check_part(const Frame& frame, const DefocusSettings& settings) {
  const PixelSize size = frame.colour.size();
  require_margin(settings.margin, size);
  if (settings.box) require_within(*settings.box, size);
}

// The whole of what it gets, blurred.
Picture blurred(const Frame& frame, const FoundLight& light, const VirtualCamera& camera,
                const DefocusSettings& settings, const GateMap& map, DiscStore* store = nullptr) {
  const PixelSize size = frame.colour.size();
  // The picture, what hides behind its edges, and the sums of what is spread; measured.
  require_memory(105.0 * size.width * size.height,
                 fmt::format("blurring a picture of {} x {} pixels", size.width, size.height));
  const Preparation ready(frame, light, camera, settings, map, store);
  const auto pass = [&](std::size_t colour, double done, double part) {
    const auto p = ready.pass(colour);
    const Execution execution = settings.execution.part(done, done + part);
    return fill_open(spread_and_join(*p, execution), p->table.reach());
  };
  Picture result;
  if (!camera.aberrations.shifts_colours()) {
    result = pass(1, 0.0, 1.0);
  } else {  // each colour is blurred on its own
    result = Picture(frame.colour.size());
    for (std::size_t c = 0; c < 3; ++c) {
      const Picture one = pass(c, static_cast<double>(c) / 3.0, 1.0 / 3.0);
      for (std::size_t i = 0; i < result.pixels().size(); ++i) {
        result.pixels()[i][c] = one.pixels()[i][c];
        if (c == 1) result.pixels()[i][3] = one.pixels()[i][3];
      }
    }
  }
  return magnified(std::move(result), camera.aberrations.magnification, map);
}

Box intersection(const Box& a, const Box& b) {
  const int x = std::max(a.x, b.x);
  const int y = std::max(a.y, b.y);
  return {x, y, std::min(a.x + a.width, b.x + b.width) - x,
          std::min(a.y + a.height, b.y + b.height) - y};
}

bool by_depth(const DefocusSettings& settings) {
  return settings.coc_px.empty() && !settings.distance;
}

// Only a part, with as much around it as blur brings into it.
Picture blurred_part(const Frame& frame, const VirtualCamera& camera,
                     const DefocusSettings& settings, const GateMap& map, const Box& wanted) {
  const PixelSize size = frame.colour.size();
  const FoundLight unsought;
  const std::vector<float> coc = Preparation(frame, unsought, camera, settings, map).blur_map();
  float max = 0.0F;
  for (const float c : coc) max = std::max(max, std::abs(c));
  const Margin around =
      margin_for(camera, Length::from_m(static_cast<double>(max) * map.pixel_height));
  const int beside =
      8 + static_cast<int>(around.beside * camera.pixel_pitch_x().m() / map.pixel_width);
  const int above =
      8 + static_cast<int>(around.above * camera.pixel_pitch().m() / map.pixel_height);
  const Box part = intersection(
      {wanted.x - beside, wanted.y - above, wanted.width + 2 * beside, wanted.height + 2 * above},
      {0, 0, size.width, size.height});
  DefocusSettings of_part = settings;
  of_part.coc_px.clear();
  if (!settings.coc_px.empty()) {
    for (int y = part.y; y < part.y + part.height; ++y) {
      const auto row = settings.coc_px.begin() + static_cast<std::ptrdiff_t>(y) * size.width;
      of_part.coc_px.insert(of_part.coc_px.end(), row + part.x, row + part.x + part.width);
    }
  }
  GateMap shifted = map;
  shifted.axis_x -= part.x;
  shifted.axis_y -= part.y;
  const Frame around_it = crop(frame, part);
  const Picture result = blurred(around_it, find_light(around_it.colour), camera, of_part, shifted);
  return crop({result, {}}, {wanted.x - part.x, wanted.y - part.y, wanted.width, wanted.height})
      .colour;
}

// @param frame with distances that were checked
// @param light already found in all of the frame; null: it is looked for where it is needed
Picture through_lens(const Frame& frame, const FoundLight* light, const VirtualCamera& camera,
                     const DefocusSettings& settings, DiscStore* store) {
  check_part(frame, settings);
  const PixelSize size = frame.colour.size();
  const Margin& m = settings.margin;
  const GateMap map = gate_map(camera, size, m);
  if (settings.box) return blurred_part(frame, camera, settings, map, *settings.box);
  Picture whole = light != nullptr
                      ? blurred(frame, *light, camera, settings, map, store)
                      : blurred(frame, find_light(frame.colour), camera, settings, map, store);
  if (m.beside == 0 && m.above == 0) return whole;
  return crop({std::move(whole), {}},
              {m.beside, m.above, size.width - 2 * m.beside, size.height - 2 * m.above})
      .colour;
}

}  // namespace

struct PreparedFrame::Found {
  LargeMemoryKept kept{};
  FoundLight light{};
  DiscStore discs{};
  bool depth_is_sound = false;  // once it was looked through
};

PreparedFrame::PreparedFrame(Frame frame, const Execution& execution) : frame_(std::move(frame)) {
  require_finite(frame_.colour);
  with_threads(execution.threads, [&] {
    found_ = std::make_unique<Found>();
    found_->light = find_light(frame_.colour);
  });
}
PreparedFrame::~PreparedFrame() = default;
PreparedFrame::PreparedFrame(PreparedFrame&&) noexcept = default;
PreparedFrame& PreparedFrame::operator=(PreparedFrame&&) noexcept = default;

std::size_t PreparedFrame::discs_made() const { return found_->discs.made(); }
std::size_t PreparedFrame::discs_reused() const { return found_->discs.reused(); }

Picture PreparedFrame::defocus(const VirtualCamera& camera, const DefocusSettings& settings) {
  Picture result;
  with_threads(settings.execution.threads, [&] {
    check_distances(frame_, settings, found_->depth_is_sound);
    found_->depth_is_sound = found_->depth_is_sound || by_depth(settings);
    result = through_lens(frame_, &found_->light, camera, settings, &found_->discs);
  });
  return result;
}

Picture defocus(const Frame& frame, const VirtualCamera& camera, const DefocusSettings& settings) {
  Picture result;
  with_threads(settings.execution.threads, [&] {
    require_finite(frame.colour);
    check_distances(frame, settings, false);
    result = through_lens(frame, nullptr, camera, settings, nullptr);
  });
  return result;
}

namespace {

// @param frame_of, holds_out, blur of a layer's number
template <class FrameOf, class HoldsOut, class Blur>
Picture joined_layers(std::size_t count, const FrameOf& frame_of, const HoldsOut& holds_out,
                      const Blur& blur, const DefocusSettings& settings) {
  if (count == 0) throw PictureError("there is no layer to blur");
  const PixelSize size = frame_of(0).colour.size();
  Picture sum;
  std::vector<float> open;  // not covered by what is in front
  for (std::size_t k = 0; k < count; ++k) {
    const PixelSize own = frame_of(k).colour.size();
    if (own != size) {
      throw PictureError(fmt::format("layer {} is {} x {}, but the first is {} x {}", k + 1,
                                     own.width, own.height, size.width, size.height));
    }
    DefocusSettings one = settings;
    const auto n = static_cast<double>(count);
    one.execution =
        settings.execution.part(static_cast<double>(k) / n, (static_cast<double>(k) + 1.0) / n);
    Picture blurred;
    try {
      blurred = blur(k, one);
    } catch (const PictureError& e) {
      throw PictureError(fmt::format("layer {}: {}", k + 1, e.what()));
    }
    if (k == 0) {
      sum = Picture(blurred.size());
      open.assign(sum.pixels().size(), 1.0F);
    }
    for (std::size_t i = 0; i < open.size(); ++i) {
      const Rgba& p = blurred.pixels()[i];
      if (!holds_out(k)) {
        for (std::size_t c = 0; c < 4; ++c) sum.pixels()[i][c] += open[i] * p[c];
      }
      open[i] *= 1.0F - std::clamp(p[3], 0.0F, 1.0F);
    }
  }
  return sum;
}

}  // namespace

std::vector<std::size_t> layer_order(const std::vector<std::optional<Length>>& distances) {
  std::vector<std::size_t> order(distances.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
    if (!distances[a] || !distances[b]) return distances[a].has_value() && !distances[b];
    return *distances[a] < *distances[b];
  });
  return order;
}

Picture defocus_layers(const std::vector<DefocusLayer>& layers, const VirtualCamera& camera,
                       const DefocusSettings& settings) {
  std::vector<std::optional<Length>> distances;
  for (const DefocusLayer& layer : layers) distances.push_back(layer.distance);
  const std::vector<std::size_t> order = layer_order(distances);
  return joined_layers(
      layers.size(), [&](std::size_t k) -> const Frame& { return layers[order[k]].frame; },
      [&](std::size_t k) { return layers[order[k]].holdout; },
      [&](std::size_t k, DefocusSettings one) {
        const DefocusLayer& layer = layers[order[k]];
        if (layer.distance) one.distance = layer.distance;
        return defocus(layer.frame, camera, one);
      },
      settings);
}

Picture defocus_layers(const std::vector<PreparedLayer*>& layers,
                       const std::vector<std::optional<Length>>& distances,
                       const VirtualCamera& camera, const DefocusSettings& settings) {
  std::vector<std::optional<Length>> all = distances;
  all.resize(layers.size());
  const std::vector<std::size_t> order = layer_order(all);
  return joined_layers(
      layers.size(), [&](std::size_t k) -> const Frame& { return layers[order[k]]->frame.frame(); },
      [&](std::size_t k) { return layers[order[k]]->holdout; },
      [&](std::size_t k, DefocusSettings one) {
        if (all[order[k]]) one.distance = all[order[k]];
        return layers[order[k]]->frame.defocus(camera, one);
      },
      settings);
}

std::vector<float> blur_map(const Frame& frame, const VirtualCamera& camera,
                            const DefocusSettings& settings) {
  require_finite(frame.colour);
  check_distances(frame, settings, false);
  const FoundLight unsought;
  return Preparation(frame, unsought, camera, settings,
                     gate_map(camera, frame.colour.size(), settings.margin))
      .blur_map();
}

}  // namespace jolly_iris
