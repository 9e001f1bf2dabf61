#include "jolly_iris/workflow/plate_observations.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/region_light.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/scene/scene_lamps.hpp"
#include "workflow/annotation_observations.hpp"
#include "workflow/straight_places.hpp"

namespace jolly_iris {

namespace {

// How well lamps of a CG scene are usually placed: a share of the disc. Where enough of them are
// seen they tell it themselves (placed_as_seen).
constexpr double placed_fraction = 0.01;
// How exactly the edges of a disc are read by hand, px of the plate on each side.
constexpr double by_hand_px = 1.0;

std::vector<ExpectedLamp> expected_lamps(const LoadedShot& loaded, double to_plate) {
  std::vector<ExpectedLamp> out;
  const VirtualCamera& c = loaded.answer.camera;
  const auto add = [&](const SceneLamp& lamp) {
    const Vec3& at = lamp.at;
    const auto px = pixel_of_direction(c, {at.x / -at.z, at.y / -at.z, -1.0});
    out.push_back(
        {lamp.name,
         {to_plate * (px[0] - 0.5 * c.pixels.width), to_plate * (px[1] - 0.5 * c.pixels.height)},
         Length::from_m(-at.z),
         Length::from_m(lamp.diameter_m)});
  };
  if (loaded.scene) {
    for (const SceneLamp& lamp : lamps_of(*loaded.scene, loaded.answer.place)) add(lamp);
  }
  return out;
}

// A disc that somebody measured by hand counts where the plate tells no better: the finder's own
// is finer.
void add_by_hand(const LoadedShot& loaded, double to_plate, PlateObservations& seen) {
  for (const DrawnLamp& lamp : loaded.now.plate->marks.lamps) {
    if (!lamp.diameter || lamp.name.empty()) continue;
    const auto is_it = [&](const Observation& o) {
      return o.kind == Observation::Kind::disc && o.name == lamp.name;
    };
    if (std::any_of(seen.all.begin(), seen.all.end(), is_it)) continue;
    for (const SubjectBlur& s : loaded.answer.subjects) {
      if (s.name != lamp.name) continue;
      Observation o;
      o.name = s.name;
      o.value = *lamp.diameter;
      o.sigma = std::sqrt(2.0) * by_hand_px / to_plate;
      o.placed_px = placed_fraction * o.value;
      o.at = s.axial;
      o.in_scene = is_in_scene(loaded, s.name);
      seen.all.push_back(o);
      seen.by_hand.push_back(s.name);
    }
  }
}

void add_discs(const LoadedShot& loaded, PixelSize plate, PlateObservations& seen) {
  const FoundDiscs& found = seen.found;
  const VirtualCamera& c = loaded.answer.camera;
  const double to_plate = static_cast<double>(plate.height) / c.pixels.height;
  const StraightPlaces places(c, to_plate);
  std::vector<DetectedDisc> discs;
  std::vector<const PlateDisc*> who;
  for (const PlateDisc& d : found.discs) {
    if (d.outlier) {
      ++seen.discs_odd;
      continue;
    }
    const double sigma = 0.5 * d.height_px.margin;
    bool named = false;
    for (const SubjectBlur& s : loaded.answer.subjects) {
      if (d.name.empty() || s.name != d.name) continue;
      Observation o;
      o.name = s.name;
      o.value = d.height_px.value / to_plate;
      o.sigma = sigma / to_plate;
      o.placed_px = placed_fraction * o.value;
      o.at = s.axial;
      o.in_scene = is_in_scene(loaded, s.name);
      seen.all.push_back(o);
      if (!d.clipped) seen.lights.push_back({o.name, d.light, *o.at});
      seen.paired.push_back({static_cast<std::size_t>(&d - found.discs.data()), o.name});
      named = true;
    }
    if (!named) {
      const auto at = places.straight(d.at);
      discs.push_back({{at[0] - 0.5 * plate.width, at[1] - 0.5 * plate.height},
                       d.height_px.value,
                       sigma,
                       d.clipped});
      who.push_back(&d);
    }
  }
  add_by_hand(loaded, to_plate, seen);
  const double focal_px = to_plate * (c.focal / c.pixel_pitch());
  const LampPairs pairs =
      pair_lamps(discs, expected_lamps(loaded, to_plate), focal_px, plate.width);
  // All numbers are px of the delivered picture, whatever size the plate's file has.
  for (std::size_t i = 0; i < pairs.discs.size(); ++i) {
    const PlateDisc& d = *who[pairs.which[i]];
    seen.paired.push_back({static_cast<std::size_t>(&d - found.discs.data()), pairs.discs[i].name});
    if (!d.clipped) seen.lights.push_back({pairs.discs[i].name, d.light, *pairs.discs[i].at});
  }
  for (Observation o : pairs.discs) {
    o.value /= to_plate;
    o.sigma /= to_plate;
    o.own_px /= to_plate;
    o.placed_px = placed_fraction * o.value;
    seen.all.push_back(o);
  }
  if (pairs.view) {
    Observation v = *pairs.view;
    v.value /= to_plate;
    v.sigma /= to_plate;
    seen.all.push_back(v);
  }
  if (pairs.stretch) seen.all.push_back(*pairs.stretch);
  const Measured& oval = found.iris.height_over_width;
  if (oval.value > 0.0 && found.discs.size() >= 3) {
    Observation o;
    o.kind = Observation::Kind::oval;
    o.name = "shape of the discs";
    o.value = oval.value;
    o.sigma = std::hypot(0.5 * oval.margin, 0.004);
    seen.all.push_back(o);
  }
  seen.discs_left = static_cast<int>(pairs.left.size());
  // Of lamps that nobody knows, the largest behind the focus tells how large discs can be at all.
  const DetectedDisc* largest = nullptr;
  for (const std::size_t i : pairs.left) {
    if (discs[i].clipped || who[i]->facing != Facing::upright || !who[i]->side_known) continue;
    if (largest == nullptr || discs[i].height_px > largest->height_px) largest = &discs[i];
  }
  if (largest == nullptr) return;
  Observation o;
  o.name = "largest unknown lamp";
  o.value = largest->height_px / to_plate;
  o.sigma = largest->sigma / to_plate;
  seen.all.push_back(o);
}

// What the lens itself told the body. It knows of no adapter, and of a zoom no more than its ring.
void add_engraved(const LoadedShot& loaded, const PlateFacts& facts, PlateObservations& seen) {
  if (facts.focal) {
    Observation o;
    o.kind = Observation::Kind::engraved_focal;
    o.name = "the file's focal length";
    o.value = facts.focal->mm();
    o.sigma = std::max(0.02 * o.value, 0.3);
    seen.all.push_back(o);
  }
  if (facts.f_number && loaded.now.take.stop.kind == Stop::Kind::f) {
    Observation o;
    o.kind = Observation::Kind::engraved_stop;
    o.name = "the file's stop";
    o.value = *facts.f_number;
    o.sigma = 0.04 * o.value;
    seen.all.push_back(o);
  }
}

}  // namespace

PlateObservations observe_plate(const LoadedShot& loaded, const PlateFacts& facts,
                                const DiscSearch& search, std::vector<std::string>& files) {
  const std::string& file = plate_file(loaded, "to match");
  files.push_back(file);
  const Frame plate = read_plate(*loaded.now.plate);
  PlateObservations seen;
  seen.plate = std::filesystem::path(file).filename().string();
  seen.plate_size = plate.colour.size();
  seen.notes = plate.notes;
  seen.found = discs_in_plate(plate.colour, disc_hints(search, loaded, seen.plate_size),
                              disc_settings(search, seen.plate_size));
  add_discs(loaded, seen.plate_size, seen);
  add_drawn(loaded, plate.colour, seen);
  add_engraved(loaded, facts, seen);
  return seen;
}

PlateObservations observe_discs(const LoadedShot& loaded, PixelSize plate,
                                std::vector<PlateDisc> discs) {
  PlateObservations seen;
  seen.plate_size = plate;
  seen.found.discs = std::move(discs);
  add_discs(loaded, plate, seen);
  return seen;
}

void require_observed(const LoadedShot& loaded, const PlateObservations& seen) {
  using Kind = Observation::Kind;
  const auto tells = [](const Observation& o) {
    const bool engraved = o.kind == Kind::engraved_focal || o.kind == Kind::engraved_stop;
    const bool unplaced = o.kind == Kind::disc && !o.at;
    return !engraved && o.kind != Kind::oval && !unplaced;
  };
  if (std::any_of(seen.all.begin(), seen.all.end(), tells)) return;
  const std::size_t n = seen.found.discs.size();
  std::string why =
      n == 0
          ? "no disc was found in the plate, so nothing tells its blur"
          : fmt::format("{} disc{} found in the plate, but none whose distance is known: {}", n,
                        n == 1 ? "" : "s",
                        loaded.scene ? fmt::format("lamps of the scene ({}) lie where no disc is",
                                                   loaded.now.scene->file)
                                     : "the shot has no scene with lamps in it");
  // What was drawn all the same, and why it does not help.
  for (const std::string& left : seen.left) why += "; " + left;
  throw OpticsError(why + (n == 0 ? ". Draw one ([[plate.lamp]]) and name it after a subject"
                                  : ". Give the scene the lamps, or draw one and name it after a "
                                    "subject ([[plate.lamp]])"));
}

DiscSettings disc_settings(const DiscSearch& search, PixelSize plate) {
  DiscSettings out{.min_px = search.min_px, .execution = search.execution};
  if (search.look && size_of(*search.look) == plate) out.look = search.look;
  return out;
}

DiscHints disc_hints(const DiscSearch& search, const LoadedShot& loaded, PixelSize plate) {
  DiscHints hints;
  hints.lamps = loaded.now.plate->marks.lamps;
  for (const Box& b : search.boxes) {
    hints.boxes.push_back(
        box_in_picture({static_cast<double>(b.x), static_cast<double>(b.y),
                        static_cast<double>(b.width), static_cast<double>(b.height)},
                       loaded.now.body.pixels, plate));
  }
  return hints;
}

CameraEstimate estimate_of(const LoadedShot& loaded) {
  CameraEstimate estimate;
  estimate.body = loaded.now.body;
  estimate.lens = loaded.now.lens;
  estimate.take = loaded.now.take;
  estimate.focus = loaded.answer.camera.focus;
  for (const SubjectBlur& s : loaded.answer.subjects) {
    if (loaded.now.focus.on && s.name == *loaded.now.focus.on) {
      estimate.focus_in_scene = is_in_scene(loaded, s.name);
    }
    if (loaded.now.focus.on && s.name == *loaded.now.focus.on && s.radial.is_finite()) {
      estimate.off_axis = std::acos(std::clamp(s.axial / s.radial, -1.0, 1.0));
      if (s.front.is_finite() && s.back.is_finite()) {
        estimate.half_deep = (s.back - s.front) * 0.5;
      }
    }
  }
  return estimate;
}

}  // namespace jolly_iris
