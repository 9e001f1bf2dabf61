#include "jolly_iris/workflow/finish_measurement.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "jolly_iris/optics/transfer.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"

namespace jolly_iris {

namespace {

constexpr double eight_bits = 255.0;
constexpr double clips_at = 0.98;
// Half of a JPEG's block: marks are strongest there.
constexpr int codec_marks_px = 4;

// Whether all values are among the 256 that a file of eight bits has.
bool has_eight_bits(const Picture& picture, const PlateEntry& plate) {
  const Transfer transfer = plate.transfer.value_or(Transfer::srgb);
  std::size_t looked_at = 0;
  std::size_t on_steps = 0;
  const std::size_t every = std::max<std::size_t>(1, picture.pixels().size() / 4096);
  for (std::size_t i = 0; i < picture.pixels().size(); i += every) {
    const float light = picture.pixels()[i][1];
    const float code =
        transfer == Transfer::table ? encode(light, plate.curve) : encode(light, transfer);
    const double step = eight_bits * static_cast<double>(code);
    ++looked_at;
    on_steps += std::abs(step - std::round(step)) < 0.02;
  }
  return static_cast<double>(on_steps) > 0.98 * static_cast<double>(looked_at);
}

std::string three(const std::array<Measured, 3>& v) {
  return fmt::format("[{:.3g}, {:.3g}, {:.3g}]", v[0].value, v[1].value, v[2].value);
}

}  // namespace

FinishMeasurement measure_finish(const LoadedShot& loaded, std::vector<std::string>& files) {
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
  if (has_eight_bits(read.colour, plate)) out.file_steps = eight_bits;
  out.delivered_px = static_cast<double>(loaded.answer.camera.pixels.width) / read.colour.width();
  out.grain = grain_in(read.colour, {.steps = out.file_steps});
  // What a codec leaves beside bright things is no halo.
  const std::string ending = std::filesystem::path(plate.file).extension().string();
  const bool coded = ending == ".jpg" || ending == ".jpeg" || ending == ".JPG" || ending == ".JPEG";
  const bool ends_at_white = out.file_steps > 0.0;
  out.halo = halo_in(read.colour, {.clips_at = ends_at_white ? clips_at : 0.0,
                                   .codec_px = coded ? codec_marks_px : 0});
  return out;
}

std::string finish_toml(const FinishMeasurement& found) {
  std::string text;
  if (found.halo.halo) {
    const HaloInPlate& h = *found.halo.halo;
    double most = 0.0;
    for (const Measured& m : h.fraction) most = std::max(most, m.value);
    text += fmt::format(
        "[finish.halo]\nshare  = \"{:.3g} %\"\ncolour = [{:.3g}, {:.3g}, {:.3g}]\nreach  = "
        "\"{:.3g} "
        "px\"\npower  = {:.3g}\n",
        100.0 * most, h.fraction[0].value / most, h.fraction[1].value / most,
        h.fraction[2].value / most, h.reach_px.value * found.delivered_px, h.power.value);
  }
  if (!found.grain.grain) return text;
  if (!text.empty()) text += "\n";
  const GrainInPlate& g = *found.grain.grain;
  std::array<Measured, 3> grey = g.grey;
  for (std::size_t c = 0; c < 3; ++c) grey[c].value = std::max(grey[c].value, g.black[c].value);
  text += fmt::format("[finish.grain]\nblack = {}\ngrey  = {}\n", three(g.black), three(grey));
  if (g.size_px.value > g.size_px.margin) {
    text += fmt::format("size  = \"{:.2f} px\"\n", g.size_px.value * found.delivered_px);
  }
  if (g.alike.value > g.alike.margin) {
    text += fmt::format("alike = {:.2f}\n", std::min(1.0, g.alike.value));
  }
  return text;
}

}  // namespace jolly_iris
