// desqueeze and squeeze.
#include <fmt/format.h>

#include <array>
#include <cmath>
#include <nlohmann/json.hpp>
#include <ostream>

#include "jolly_iris/errors.hpp"
#include "jolly_iris/picture_file.hpp"
#include "jolly_iris/picture_size.hpp"
#include "jolly_iris/stretch.hpp"
#include "output.hpp"
#include "progress.hpp"
#include "text.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

namespace {

using Json = nlohmann::ordered_json;

double shape_of(PixelSize size) { return static_cast<double>(size.width) / size.height; }

bool same_shape(double a, double b) { return std::abs(a / b - 1.0) < 0.004; }

std::string times(PixelSize size) { return fmt::format("{} x {}", size.width, size.height); }

// ---- --sizes ------------------------------------------------------------------------------------

std::optional<PixelSize> recorded_photosites(const Body& body) {
  return body.window ? body.window : body.photosites;
}

// "super 35 3-perf …": how wide gates become behind common squeezes.
std::string table_of_gates(Json& json) {
  constexpr std::array squeezes{1.33, 1.5, 1.8, 2.0};
  std::string text = "\nShapes of other gates, desqueezed\n";
  text += fmt::format("  {:<18}{:>14}", "gate", "mm");
  for (const double s : squeezes) text += fmt::format("{:>9}", fmt::format("{:g} x", s));
  text += '\n';
  json["gates"] = Json::array();
  for (const TradeFormat& f : trade_formats()) {
    text += fmt::format("  {:<18}{:>14}", f.name,
                        fmt::format("{:.2f} x {:.2f}", f.gate.width.mm(), f.gate.height.mm()));
    Json row{{"gate", f.name}};
    for (const double s : squeezes) {
      const double shape = s * (f.gate.width / f.gate.height);
      text += fmt::format("{:>9.2f}", shape);
      row["shapes"].push_back({{"squeeze", s}, {"shape", shape}});
    }
    text += '\n';
    json["gates"].push_back(row);
  }
  return text;
}

void say_sizes(const SqueezeOptions& options, const LoadedShot& loaded, const Streams& io) {
  const Body& body = loaded.now.body;
  const double squeeze = loaded.now.lens.squeeze;
  const Extent gate = recorded_gate(body);
  const auto photosites = recorded_photosites(body);
  const double whole = squeeze * (gate.width / gate.height);
  Json json{{"squeeze", squeeze}, {"shape", whole}};
  std::string text =
      tried_line(loaded.shot) +
      fmt::format("A squeeze of {:g} x on a gate of {:.2f} x {:.2f} mm: desqueezed {:.2f} : 1\n",
                  squeeze, gate.width.mm(), gate.height.mm(), whole);
  if (photosites) {
    const PixelSize wide = desqueezed_size(*photosites, squeeze);
    const PixelSize low = desqueezed_size(*photosites, squeeze, KeptSide::width);
    text += fmt::format("  {:<34}{}\n", "as recorded, squeezed", times(*photosites));
    text += fmt::format("  {:<34}{}\n", "desqueezed, its height kept", times(wide));
    text += fmt::format("  {:<34}{}\n", "desqueezed, its width kept", times(low));
    json["recorded"] = {photosites->width, photosites->height};
    json["height_kept"] = {wide.width, wide.height};
    json["width_kept"] = {low.width, low.height};
  } else {
    text += "  (body.photosites would tell the sizes as recorded)\n";
  }
  text += fmt::format("\nCut out of it, as large as fits\n  {:<18}{:>12}{:>7}   {}\n",
                      "delivered as", "px", "shape",
                      photosites ? "of the gate           photosites for a px" : "of the gate");
  json["deliveries"] = Json::array();
  for (const ProposedSize& p : proposed_sizes(gate, squeeze, photosites)) {
    std::string sites;
    Json row{{"name", p.delivery.name},
             {"width", p.delivery.pixels.width},
             {"height", p.delivery.pixels.height},
             {"gate_wide", p.gate_wide},
             {"gate_high", p.gate_high}};
    if (p.photosites_across) {
      sites = fmt::format("{:.2f} across, {:.2f} down", *p.photosites_across, *p.photosites_down);
      row["photosites_across"] = *p.photosites_across;
      row["photosites_down"] = *p.photosites_down;
    }
    std::string line = fmt::format(
        "  {:<18}{:>12}{:>7.2f}   {:<22}{}", p.delivery.name, times(p.delivery.pixels), p.shape,
        fmt::format("{:.0f} % wide, {:.0f} % high", 100.0 * p.gate_wide, 100.0 * p.gate_high),
        sites);
    line.erase(line.find_last_not_of(' ') + 1);
    text += line + '\n';
    json["deliveries"].push_back(row);
  }
  text += table_of_gates(json);
  say(options.shot.form, io, json.dump(2) + "\n", text);
}

// ---- pictures -----------------------------------------------------------------------------------

std::string picture_of(const SqueezeOptions& options, const LoadedShot& loaded) {
  if (!options.picture.empty()) return options.picture;
  if (!options.back && loaded.now.plate && !loaded.now.plate->file.empty()) {
    return loaded.now.plate->file;
  }
  throw UsageError(loaded.shot.file + (options.back ? ": name the picture to squeeze"
                                                    : ": names no plate to desqueeze; name a "
                                                      "picture, or write [plate] file = "
                                                      "\"plate.exr\""));
}

double squeeze_of(const LoadedShot& loaded) {
  if (loaded.now.lens.squeeze != 1.0) return loaded.now.lens.squeeze;
  throw UsageError(loaded.shot.where("lens.squeeze") +
                   "the lens does not squeeze; write lens.squeeze = 2");
}

// What the file says of its own pixels against what is about to be done to it.
void doubt_pixels(const SqueezeOptions& options, const LoadedShot& loaded,
                  const std::string& picture, PixelSize size, double squeeze, const Streams& io) {
  const double aspect = read_plate_facts(picture).pixel_aspect.value_or(1.0);
  if (options.back) {
    if (std::abs(aspect / squeeze - 1.0) < 0.01) {
      throw UsageError(fmt::format(
          "{}: is squeezed already: its header says that pixels are {:g} times as wide as high",
          picture, aspect));
    }
    return;
  }
  if (aspect != 1.0 && std::abs(aspect / squeeze - 1.0) > 0.01) {
    io.err << fmt::format(
        "warning: {} says that its pixels are {:g} times as wide as high, but the lens squeezes "
        "{:g} times ({})\n",
        picture, aspect, squeeze, loaded.shot.where("lens.squeeze") + "lens.squeeze");
  }
  if (aspect == 1.0 && size == loaded.answer.camera.pixels) {
    io.err << fmt::format(
        "warning: {} is as large as the delivered picture, {}: if it is desqueezed already, this "
        "does it twice\n",
        picture, times(size));
  }
}

// To the delivered picture's own size where that is what it comes to: no rounding of 1706.67.
PixelSize wanted_size(const SqueezeOptions& options, const LoadedShot& loaded, PixelSize size,
                      double squeeze) {
  const PixelSize delivered = loaded.answer.camera.pixels;
  if (options.back) {
    return squeezed_size(size, squeeze, options.kept.value_or(KeptSide::height));
  }
  const bool fits = loaded.now.body.pixel_aspect == 1.0 &&
                    same_shape(shape_of(size) * squeeze, shape_of(delivered));
  const bool kept = size.height == delivered.height || size.width == delivered.width;
  if (fits && kept && !options.kept) return delivered;
  return desqueezed_size(size, squeeze, options.kept.value_or(KeptSide::height));
}

}  // namespace

void squeeze(const SqueezeOptions& options, const Streams& io, std::vector<std::string>& files) {
  const LoadedShot loaded = load(options.shot, files);
  if (options.sizes) {
    say_sizes(options, loaded, io);
    return;
  }
  const double by = squeeze_of(loaded);
  const std::string picture = picture_of(options, loaded);
  files.push_back(picture);
  WrittenPicture what;
  what.names = picture_names(options.out,
                             stem_of(picture) + (options.back ? ".squeeze.exr" : ".desqueeze.exr"));
  Progress progress(io.err, options.back ? "squeezing" : "desqueezing");
  const bool plate = loaded.now.plate && picture == loaded.now.plate->file;
  const Frame frame = plate && !options.coding.transfer
                          ? read_plate(*loaded.now.plate)
                          : read_coded(picture, options.coding, files);
  const PixelSize size = frame.colour.size();
  doubt_pixels(options, loaded, picture, size, by, io);
  const PixelSize wanted = wanted_size(options, loaded, size, by);
  const Frame out = stretched(frame, wanted);
  const PixelSize delivered = loaded.answer.camera.pixels;
  if (!options.back && !same_shape(shape_of(wanted), shape_of(delivered))) {
    io.err << fmt::format(
        "note: the result is {:.2f} : 1, the delivered picture {:.2f} : 1 (body.pixels): it shows "
        "more or less of the gate\n",
        shape_of(wanted), shape_of(delivered));
  }
  what.words = fmt::format("{} {:g} x", options.back ? "squeezed" : "desqueezed", by);
  what.pixel_aspect = options.back ? by : 1.0;
  what.seconds = progress.seconds();
  write_pictures(what, out, loaded, options.shot.form, io);
}

}  // namespace jolly_iris::cli
