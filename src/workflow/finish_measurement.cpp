#include "jolly_iris/workflow/finish_measurement.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <filesystem>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/exposure.hpp"
#include "jolly_iris/optics/relative_illumination.hpp"
#include "jolly_iris/optics/transfer.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/motion.hpp"
#include "optics/quantile.hpp"

namespace jolly_iris {

namespace {

constexpr double eight_bits = 255.0;
constexpr double ends_at_white = 0.98;
// A lens or a hand takes at least so much, or it is not worth a line.
constexpr double least_corner_stops = 0.03;
constexpr double lens_hardly = 0.2;  // of all, that a lens takes
constexpr double moves_px = 0.5;
// Less motion than this on one side of a frame, of the other's: there the track ends.
constexpr double at_an_end = 0.6;

// Whether all values are among the 256 that a file of eight bits has.
bool has_eight_bits(const Picture& picture, Transfer transfer, const Curve& curve) {
  // A config's spaces may mix channels: there only the file's name tells.
  if (transfer == Transfer::managed) return false;
  std::size_t looked_at = 0;
  std::size_t on_steps = 0;
  const std::size_t every = std::max<std::size_t>(1, picture.pixels().size() / 4096);
  for (std::size_t i = 0; i < picture.pixels().size(); i += every) {
    const float light = picture.pixels()[i][1];
    const float code = transfer == Transfer::table ? encode(light, curve) : encode(light, transfer);
    const double step = eight_bits * static_cast<double>(code);
    ++looked_at;
    on_steps += std::abs(step - std::round(step)) < 0.02;
  }
  return static_cast<double>(on_steps) > 0.98 * static_cast<double>(looked_at);
}

// Where the shot's camera moves, the smear says how long its shutter was open.
std::optional<ShutterByPlate> shutter_by(const LoadedShot& loaded, const SmearFinding& found,
                                         PixelSize plate) {
  const auto time = shutter_time(loaded.now.take);
  if (!found.smear || !loaded.scene || !loaded.answer.frame || !time ||
      !cg_shutter(loaded.now.take)) {
    return std::nullopt;
  }
  TraceSettings settings;
  settings.size = plate;
  const double open = cg_shutter(loaded.now.take)->open_fraction;
  // Before and behind the frame's moment: the first frame of a track has nothing before it.
  std::array<std::vector<double>, 2> lengths;
  for (const double from : {-open, 0.0}) {
    const MotionVectors motion = trace_motion(moments_of(loaded), *loaded.answer.frame,
                                              ShutterSpan{from, from + open}, settings);
    for (const SmearedLamp& lamp : found.lamps) {
      if (!lamp.of_all) continue;
      const auto x = static_cast<std::size_t>(lamp.at[0]);
      const auto y = static_cast<std::size_t>(lamp.at[1]);
      const auto& v = motion.px_a_frame[y * static_cast<std::size_t>(plate.width) + x];
      lengths[from < 0.0 ? 0 : 1].push_back(
          open * std::hypot(static_cast<double>(v[0]), static_cast<double>(v[1])));
    }
  }
  if (lengths[0].empty()) return std::nullopt;
  ShutterByPlate out;
  const double before = quantile(lengths[0], 0.5);
  const double behind = quantile(lengths[1], 0.5);
  const double more = std::max(before, behind);
  out.expected_px = std::min(before, behind) < at_an_end * more ? more : 0.5 * (before + behind);
  if (out.expected_px < moves_px) return std::nullopt;
  out.noted_s = time->seconds();
  const double by = out.noted_s / out.expected_px;
  out.s = {by * found.smear->length_px.value, by * found.smear->length_px.margin};
  return out;
}

std::string three(const std::array<Measured, 3>& v) {
  return fmt::format("[{:.3g}, {:.3g}, {:.3g}]", v[0].value, v[1].value, v[2].value);
}

}  // namespace

FileMarks marks_of(const Picture& picture, const std::string& file, Transfer transfer,
                   const Curve& curve) {
  FileMarks out;
  std::string ending = std::filesystem::path(file).extension().string();
  std::transform(ending.begin(), ending.end(), ending.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  out.coded = ending == ".jpg" || ending == ".jpeg";
  // What is coded has lost its steps where it was softened, but it ends at white all the same; so
  // does every file of whole numbers.
  // (Where a config decodes, a file's end is another light for each colour: not looked for.)
  const double white =
      transfer == Transfer::managed ? 0.0 : ends_at_white * max_light(transfer, curve);
  if (ending == ".png" || ending == ".webp" || ending == ".dpx") out.clips_at = white;
  if (out.coded || has_eight_bits(picture, transfer, curve)) {
    out.steps = eight_bits;
    out.clips_at = white;
  }
  return out;
}

FinishMeasurement measure_finish(const LoadedShot& loaded, std::vector<std::string>& files,
                                 const Execution& execution) {
  files.push_back(plate_file(loaded, "to measure a finish in"));
  const PlateEntry& plate = *loaded.now.plate;
  Frame read = read_plate(plate);
  FinishMeasurement out;
  out.notes = std::move(read.notes);
  if (plate.file.ends_with(".exr") && plate.transfer && *plate.transfer != Transfer::linear) {
    out.notes.push_back(fmt::format(
        "{}: is decoded as {}, as plate.transfer says, though an EXR is linear as a rule; if this "
        "one is, all numbers here are wrong: plate.transfer = \"linear\"",
        plate.file, to_string(*plate.transfer)));
  }
  const VirtualCamera& camera = loaded.answer.camera;
  out.marks =
      marks_of(read.colour, plate.file, plate.transfer.value_or(Transfer::srgb), plate.curve);
  out.delivered_px = static_cast<double>(camera.pixels.width) / read.colour.width();
  try {
    out.found = finish_in(read.colour, out.marks, camera, execution);
  } catch (const PictureError& e) {
    throw PictureError(plate.file + ": " + e.what());
  }
  if (out.found.rays.spikes && loaded.now.lens.iris.blades > 0) {
    out.spikes_turned_deg = rays_against_iris(*out.found.rays.spikes, loaded.now.lens.iris);
  }
  out.lens_corner_stops = corner_loss(loaded.now.lens, camera).stops;
  out.shutter = shutter_by(loaded, out.found.smear, read.colour.size());
  out.plate = std::move(read.colour);
  return out;
}

std::string finish_toml(const FinishMeasurement& measured) {
  const FinishInPlate& found = measured.found;
  std::vector<std::string> pieces;
  if (found.corners.stops) {
    // The lens's own is in the picture already, by its barrel or its table.
    const double stops = found.corners.stops->value - measured.lens_corner_stops;
    if (std::abs(stops) > std::max(least_corner_stops, found.corners.stops->margin)) {
      std::string piece = fmt::format("[finish]\ncorners = \"{:.2f} stops\"\n", stops);
      // A lens that takes much of it has its own way of falling.
      const auto& power = found.corners.power;
      if (power && std::abs(power->value - 2.0) > power->margin &&
          std::abs(measured.lens_corner_stops) < lens_hardly * std::abs(stops)) {
        piece += fmt::format("corners_power = {:.1f}\n", power->value);
      }
      pieces.push_back(std::move(piece));
    }
  }
  if (found.halo.halo) {
    const HaloInPlate& h = *found.halo.halo;
    double most = 0.0;
    for (const Measured& m : h.fraction) most = std::max(most, m.value);
    pieces.push_back(fmt::format(
        "[finish.halo]\nshare  = \"{:.3g} %\"\ncolour = [{:.3g}, {:.3g}, {:.3g}]\nreach  = "
        "\"{:.3g} px\"\npower  = {:.3g}\n",
        100.0 * most, h.fraction[0].value / most, h.fraction[1].value / most,
        h.fraction[2].value / most, h.reach_px.value * measured.delivered_px, h.power.value));
  }
  if (found.rays.spikes) {
    const Measured& times = found.rays.spikes->times;
    const bool known = times.margin > 0.0 && times.value > times.margin;
    pieces.push_back(fmt::format("[finish.spikes]\ntimes = {:.3g}\n", known ? times.value : 1.0));
  }
  if (found.rays.streak && found.rays.streak->reach_px.margin > 0.0) {
    const PlateStreak& s = *found.rays.streak;
    double most = 0.0;
    for (const Measured& m : s.fraction) most = std::max(most, m.value);
    if (most > 0.0) {
      const auto of = [&](std::size_t c) { return std::max(0.0, s.fraction[c].value / most); };
      pieces.push_back(fmt::format(
          "[finish.streak]\nshare     = \"{:.3g} %\"\ncolour    = [{:.3g}, {:.3g}, {:.3g}]\n"
          "direction = \"{:.1f} deg\"\nreach     = \"{:.3g} px\"\npower     = {:.3g}\n",
          100.0 * most, of(0), of(1), of(2), s.direction_deg.value,
          s.reach_px.value * measured.delivered_px, std::max(1.05, s.power.value)));
    }
  }
  if (found.smear.smear && measured.shutter) {
    // As long as the plate's: more or less than the take's shutter makes, where that is sure.
    const double times = measured.shutter->s.value / measured.shutter->noted_s;
    const bool as_noted =
        std::abs(times - 1.0) * measured.shutter->noted_s <= measured.shutter->s.margin;
    pieces.push_back("[finish.smear]\nfrom  = \"scene\"\n" +
                     (as_noted ? std::string() : fmt::format("times = {:.3g}\n", times)));
  }
  if (found.grain.grain) {
    const GrainInPlate& g = *found.grain.grain;
    std::array<Measured, 3> grey = g.grey;
    for (std::size_t c = 0; c < 3; ++c) grey[c].value = std::max(grey[c].value, g.black[c].value);
    std::string text =
        fmt::format("[finish.grain]\nblack = {}\ngrey  = {}\n", three(g.black), three(grey));
    if (g.size_px.value > g.size_px.margin) {
      text += fmt::format("size  = \"{:.2f} px\"\n", g.size_px.value * measured.delivered_px);
    }
    if (g.alike.value > g.alike.margin) {
      text += fmt::format("alike = {:.2f}\n", std::min(1.0, g.alike.value));
    }
    pieces.push_back(std::move(text));
  }
  return fmt::format("{}", fmt::join(pieces, "\n"));
}

}  // namespace jolly_iris
