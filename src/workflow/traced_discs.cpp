#include "workflow/traced_discs.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/bokeh.hpp"
#include "jolly_iris/scene/scene_lamps.hpp"
#include "jolly_iris/workflow/shot_glass.hpp"
#include "optics/seeded.hpp"
#include "workflow/straight_places.hpp"

namespace jolly_iris {

namespace {

// One that is drawn: which observation of the plate it stands for, and where.
struct DrawnDisc {
  Observation* seen = nullptr;
  const PlateDisc* found = nullptr;
  double thin_px = 0.0;  // of the plate: what a thin lens makes of it
};

// Ground as noisy as the plate's: the finder weighs edges by it. One seed: what is compared from
// camera to camera has the same noise.
Picture noisy_ground(PixelSize size, double noise) {
  Seeded random(1);
  Picture out(size, {0, 0, 0, 1});
  for (Rgba& p : out.pixels()) {
    for (std::size_t c = 0; c < 3; ++c) {
      // Box and Muller (1958).
      const double far = std::sqrt(-2.0 * std::log(1.0 - random.next()));
      p[c] = static_cast<float>(noise * far * std::cos(2.0 * std::numbers::pi * random.next()));
    }
  }
  return out;
}

// The disc of a lamp that is no point: even light over so many px, with soft edges of such a
// deviation. With room for it.
Picture softened(const Picture& disc, double own_px, double sigma) {
  const double radius = 0.5 * own_px;
  const int reach = static_cast<int>(std::ceil(radius + 2.0 * sigma));
  Picture to({disc.width() + 2 * reach, disc.height() + 2 * reach});
  const auto lit = [&](int dx, int dy) {
    const double out = std::hypot(dx, dy) - radius;
    return std::clamp(0.5 - out / (1.0 + 2.0 * sigma), 0.0, 1.0);
  };
  double sum = 0.0;
  for (int dy = -reach; dy <= reach; ++dy) {
    for (int dx = -reach; dx <= reach; ++dx) sum += lit(dx, dy);
  }
  for (int dy = -reach; dy <= reach; ++dy) {
    for (int dx = -reach; dx <= reach; ++dx) {
      const auto by = static_cast<float>(lit(dx, dy) / sum);
      if (by <= 0.0F) continue;
      for (int y = 0; y < disc.height(); ++y) {
        for (int x = 0; x < disc.width(); ++x) {
          const Rgba& p = disc.at(x, y);
          Rgba& t = to.at(x + reach + dx, y + reach + dy);
          for (std::size_t c = 0; c < 3; ++c) t[c] += by * p[c];
        }
      }
    }
  }
  return to;
}

// How large the lamps of the scene are, px of the plate, by name.
double own_px(const LoadedShot& loaded, const std::string& lamp, double focal_px) {
  if (!loaded.scene) return 0.0;
  for (const SceneLamp& l : lamps_of(*loaded.scene, loaded.answer.place)) {
    if (l.name == lamp && l.at.z < 0.0) return l.diameter_m / -l.at.z * focal_px;
  }
  return 0.0;
}

// The value of a picture between its pixels; nothing beyond it.
Rgba value_at(const Picture& picture, double x, double y) {
  const double left = std::floor(x - 0.5);
  const double top = std::floor(y - 0.5);
  const double along = x - 0.5 - left;
  const double down = y - 0.5 - top;
  Rgba out{};
  for (int k = 0; k < 4; ++k) {
    const int px = static_cast<int>(left) + k % 2;
    const int py = static_cast<int>(top) + k / 2;
    if (px < 0 || py < 0 || px >= picture.width() || py >= picture.height()) continue;
    const double by = (k % 2 == 0 ? 1.0 - along : along) * (k / 2 == 0 ? 1.0 - down : down);
    for (std::size_t c = 0; c < 3; ++c) out[c] += static_cast<float>(by) * picture.at(px, py)[c];
  }
  return out;
}

// Adds a disc (of the straight picture, its lamp in the middle) about a place of the plate, bent as
// the lens bends it there, with so much light in each colour.
void add_disc(const Picture& disc, const StraightPlaces& bend, std::array<double, 2> at,
              const std::array<double, 3>& light, Picture& out) {
  const std::array<double, 2> middle = bend.straight(at);
  // Nothing that is bent back comes from twice as far.
  const int reach = std::max(disc.width(), disc.height());
  const int left = std::max(0, static_cast<int>(at[0]) - reach);
  const int top = std::max(0, static_cast<int>(at[1]) - reach);
  const int right = std::min(out.width(), static_cast<int>(at[0]) + reach + 1);
  const int bottom = std::min(out.height(), static_cast<int>(at[1]) + reach + 1);
  Picture bent({std::max(1, right - left), std::max(1, bottom - top)});
  std::array<double, 3> sum{};
  for (int y = top; y < bottom; ++y) {
    for (int x = left; x < right; ++x) {
      const auto from = bend.straight({x + 0.5, y + 0.5});
      const Rgba v = value_at(disc, from[0] - middle[0] + 0.5 * disc.width(),
                              from[1] - middle[1] + 0.5 * disc.height());
      bent.at(x - left, y - top) = v;
      for (std::size_t c = 0; c < 3; ++c) sum[c] += static_cast<double>(v[c]);
    }
  }
  for (int y = top; y < bottom; ++y) {
    for (int x = left; x < right; ++x) {
      for (std::size_t c = 0; c < 3; ++c) {
        if (!(sum[c] > 0.0)) continue;
        out.at(x, y)[c] += static_cast<float>(light[c] / sum[c]) * bent.at(x - left, y - top)[c];
      }
    }
  }
}

void clip(Picture& picture, double at) {
  const auto most = static_cast<float>(at);
  for (Rgba& p : picture.pixels()) {
    for (std::size_t c = 0; c < 3; ++c) p[c] = std::min(p[c], most);
  }
}

Observation* observation_of(const std::string& lamp, PlateObservations& seen) {
  for (Observation& o : seen.all) {
    if (o.kind == Observation::Kind::disc && o.at && o.name == lamp) return &o;
  }
  return nullptr;
}

// The shot as it would be with that camera.
LoadedShot shot_of(const LoadedShot& loaded, const CameraEstimate& at) {
  LoadedShot out = loaded;
  out.now.lens = at.lens;
  out.now.take = at.take;
  out.now.body = at.body;
  out.answer.camera = camera_of(at);
  return out;
}

// How far a disc that is drawn and measured may be from one of a plate, as a share of it: rays one
// by one against pieces of light (1.2 % at most of what was compared), and a finder that fits cut
// circles to what is none: the more of an edge is hidden, the more.
double model_share(double cut) { return 0.012 + 0.2 * cut * cut; }
// One whose edge the finder doubts, and one that it does not tell at all: then a thin lens's size
// has to do.
constexpr double doubted_share = 0.04;
constexpr double untold_share = 0.08;
// How far from where it was drawn its middle may be found, as a share of its diameter.
constexpr double same_place = 0.3;

void put(Observation& o, double value, double deviation) {
  o.as_traced = value;
  o.traced_px = deviation;
}

}  // namespace

std::optional<std::vector<std::string>> trace_discs(const LoadedShot& loaded,
                                                    const CameraEstimate& at,
                                                    const DiscSearch& search,
                                                    PlateObservations& seen) {
  std::shared_ptr<const GlassCamera> glass;
  LoadedShot there;
  try {
    there = shot_of(loaded, at);
    glass = glass_for_discs(there);
  } catch (const OpticsError&) {
    return std::nullopt;  // a stop or a distance that this glass does not have
  }
  if (!glass) return std::nullopt;
  const VirtualCamera& camera = there.answer.camera;
  const double to_plate = static_cast<double>(seen.plate_size.height) / camera.pixels.height;
  const double focal_px = to_plate * (camera.focal / camera.pixel_pitch());

  Picture picture = noisy_ground(seen.plate_size, seen.found.noise);
  const StraightPlaces bend(camera, to_plate);
  std::vector<DrawnDisc> drawn;
  DiscHints hints;
  for (const PairedDisc& pair : seen.paired) {
    Observation* o = observation_of(pair.lamp, seen);
    if (o == nullptr) continue;
    const PlateDisc& found = seen.found.discs[pair.disc];
    Observation thin = *o;
    thin.as_traced = 1.0;
    drawn.push_back({o, &found, to_plate * predicted(thin, at, camera)});
    // Smaller ones the finder does not see.
    if (drawn.back().thin_px < search.min_px) continue;
    const Length z =
        o->at->is_finite() && o->in_scene ? *o->at * at.scene_scale + at.farther : *o->at;
    const std::array<double, 2> straight = bend.straight(found.at);
    const FramePlace place{2.0 * straight[0] / seen.plate_size.width - 1.0,
                           1.0 - 2.0 * straight[1] / seen.plate_size.height};
    const BokehDisc disc = bokeh_disc(camera, place, z, to_plate, glass.get());
    const double own = own_px(loaded, pair.lamp, focal_px);
    // An even disc of the lamp's size is as soft as a quarter of it.
    const double soft = found.edge_sigma_px;
    const double rest = std::sqrt(std::max(0.0, soft * soft - own * own / 16.0));
    add_disc(softened(disc.picture, own, rest), bend, found.at, found.light, picture);
    hints.lamps.push_back({found.at, drawn.back().thin_px, pair.lamp});
  }
  std::vector<std::string> untold;
  if (seen.found.clipped_at) clip(picture, *seen.found.clipped_at);
  DiscSettings settings = disc_settings(search, seen.plate_size);
  settings.look.reset();
  settings.clipped_at = seen.found.clipped_at;
  const FoundDiscs again = discs_in_plate(picture, hints, settings);
  for (const DrawnDisc& d : drawn) {
    const auto same = std::find_if(again.discs.begin(), again.discs.end(), [&](const PlateDisc& p) {
      const double off = std::hypot(p.at[0] - d.found->at[0], p.at[1] - d.found->at[1]);
      return off < same_place * std::max(d.found->height_px.value, d.thin_px);
    });
    if (same == again.discs.end()) {
      put(*d.seen, 1.0, untold_share * d.seen->value);
      untold.push_back(d.seen->name);
      continue;
    }
    const double high = same->height_px.value;
    const double sigma = std::hypot(0.5 * same->height_px.margin,
                                    high * (model_share(std::max(d.found->cut, same->cut)) +
                                            (same->outlier ? doubted_share : 0.0)));
    put(*d.seen, high / d.thin_px, sigma / to_plate);
  }
  for (Observation& o : seen.all) {
    if (o.kind != Observation::Kind::oval) continue;
    const Measured& oval = again.iris.height_over_width;
    if (!(oval.value > 0.0)) {
      put(o, 1.0, untold_share);
      continue;
    }
    Observation thin = o;
    thin.as_traced = 1.0;
    put(o, oval.value / predicted(thin, at, camera), 0.5 * oval.margin);
  }
  return untold;
}

}  // namespace jolly_iris
