#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/optics/quantity.hpp"
#include "jolly_iris/optics/white.hpp"
#include "shot_sections.hpp"

namespace jolly_iris {

namespace {

// One number for all channels, or three of them. @param read one of them
std::optional<Rgb> channels(ShotReader& in, const std::string& key, double max,
                            const std::string& wanted) {
  const auto value = in.tree().find(key);
  if (value == in.tree().end()) return std::nullopt;
  if (std::holds_alternative<double>(value->second.data)) {
    const auto v = in.number(key, 0.0, max, wanted);
    return v ? std::optional(Rgb{*v, *v, *v}) : std::nullopt;
  }
  const auto v = in.numbers(key, 3, 3, wanted);
  if (!v) return std::nullopt;
  for (const double one : *v) {
    if (one >= 0.0 && one <= max) continue;
    in.mistake(key, fmt::format("holds {:g}; it is {}", one, wanted));
    return std::nullopt;
  }
  return Rgb{(*v)[0], (*v)[1], (*v)[2]};
}

std::optional<Rgb> colour(ShotReader& in, const std::string& key) {
  const std::string wanted = "a colour: linear red, green and blue, 0 or more, not all 0";
  const auto v = in.numbers(key, 3, 3, wanted);
  if (!v) return std::nullopt;
  if ((*v)[0] >= 0.0 && (*v)[1] >= 0.0 && (*v)[2] >= 0.0 && (*v)[0] + (*v)[1] + (*v)[2] > 0.0) {
    return Rgb{(*v)[0], (*v)[1], (*v)[2]};
  }
  in.mistake(key, fmt::format("is not {}", wanted));
  return std::nullopt;
}

// How quickly spread light falls: with `least` or less, most of it would be infinitely far away.
std::optional<double> falling_power(ShotReader& in, const std::string& key, double least,
                                    double usual) {
  const auto v = in.number(
      key, least, 20.0,
      fmt::format("how quickly it falls, above {:g} and up to 20; {:g} is usual", least, usual));
  if (v && *v <= least) {
    in.mistake(key, fmt::format("with {:g} most of the light would be infinitely far away; write "
                                "e.g. {:g}",
                                least, usual));
  }
  return v;
}

std::string a_share(const double& v) {
  return v >= 0.0 && v <= 1.0 ? "" : "is not a share of the light, 0 to 100 %";
}

void read_lift(ShotReader& in, Finish& finish) {
  const std::array keys{"finish.lift_from", "finish.lift_to", "finish.lift_peak",
                        "finish.lamp_colour"};
  if (std::none_of(keys.begin(), keys.end(), [&](const char* k) { return in.has(k); })) {
    for (const char* k : keys) in.know(k);
    return;
  }
  HighlightLift lift;
  in.require("finish.lift_from", "lift_from = \"3 stops\" (above mid-grey)");
  in.require("finish.lift_to", "lift_to = \"8 stops\" (for what is brightest)");
  if (const auto v = in.quantity<double>("finish.lift_from", parse_stops)) lift.from_stops = *v;
  if (const auto v = in.quantity<double>("finish.lift_to", parse_stops)) lift.to_stops = *v;
  lift.peak_stops = in.quantity<double>("finish.lift_peak", parse_stops);
  lift.lamp_colour = colour(in, "finish.lamp_colour");
  if (in.has("finish.lift_from") && in.has("finish.lift_to") &&
      !(lift.to_stops > lift.from_stops) && in.good()) {
    in.mistake("finish.lift_to", "is not above lift_from: the lift brings light up");
  }
  finish.lift = lift;
}

// Motion vectors have no common meaning: each part of it is asked for.
void read_vectors(ShotReader& in, const std::string& file, Smear& smear) {
  const bool wanted = smear.from == Smear::From::vectors;
  if (wanted) {
    in.require("finish.smear.means",
               "means = \"to the next frame\" (or \"from the last frame\", \"to the last frame\")");
    in.require("finish.smear.up", "up = false (true where the second number counts upward)");
  }
  using Way = VectorMeaning::Way;
  if (const auto v = in.choice<Way>("finish.smear.means", {{"to the next frame", Way::to_next},
                                                           {"from the last frame", Way::from_last},
                                                           {"to the last frame", Way::to_last}})) {
    smear.meaning.way = *v;
  }
  if (const auto v = in.truth("finish.smear.up")) smear.meaning.up = *v;
  if (const auto v = in.choice<bool>("finish.smear.unit", {{"px", false}, {"width", true}})) {
    smear.meaning.of_the_width = *v;
  }
  if (const auto v = in.text("finish.smear.vectors")) smear.file = beside(file, *v);
  if (const auto v = in.text("finish.smear.layer")) smear.layer = *v;
  for (const char* key : {"finish.smear.means", "finish.smear.up", "finish.smear.unit",
                          "finish.smear.vectors", "finish.smear.layer"}) {
    if (wanted || !in.has(key)) continue;
    in.mistake(key, "belongs to from = \"vectors\"");
  }
}

void read_smear(ShotReader& in, const std::string& file, Finish& finish) {
  const bool there = in.has_section("finish.smear.");
  Smear smear;
  if (there) in.require("finish.smear.from", "from = \"scene\" (or \"camera\", \"vectors\")");
  using From = Smear::From;
  if (const auto v = in.choice<From>(
          "finish.smear.from",
          {{"scene", From::scene}, {"camera", From::camera}, {"vectors", From::vectors}})) {
    smear.from = *v;
  }
  using Place = ShutterPlace;
  if (const auto v =
          in.choice<Place>("finish.smear.shutter", {{"centred", Place::centred},
                                                    {"from the frame", Place::from_frame},
                                                    {"to the frame", Place::to_frame}})) {
    smear.shutter = *v;
  }
  if (const auto v = in.number("finish.smear.times", 1e-3, 1e3,
                               "a factor above zero: 1 is as long as the shutter is open")) {
    smear.times = *v;
  }
  read_vectors(in, file, smear);
  if (there) finish.smear = smear;
}

void read_halo(ShotReader& in, Finish& finish) {
  const bool there = in.has_section("finish.halo.");
  Halo halo;
  if (there) {
    in.require("finish.halo.share", "share = \"4 %\" (of the light)");
    halo.reach = {BlurSize::Kind::percent, 0.3};
  }
  if (const auto v = in.quantity<double>("finish.halo.share", parse_fraction, a_share)) {
    halo.fraction = {*v, *v, *v};
  }
  if (const auto v = channels(in, "finish.halo.colour", 100.0,
                              "what red, green and blue have of the share, e.g. [1, 0.9, 0.8]")) {
    for (std::size_t c = 0; c < 3; ++c) halo.fraction[c] *= (*v)[c];
    for (const double f : halo.fraction) {
      if (f > 1.0) in.mistake("finish.halo.colour", "makes the share more than all of the light");
    }
  }
  if (const auto v = in.quantity<BlurSize>("finish.halo.reach", parse_blur_size)) halo.reach = *v;
  if (const auto v = falling_power(in, "finish.halo.power", 2.0, 3.0)) halo.power = *v;
  if (there) finish.halo = halo;
}

void read_spikes(ShotReader& in, Finish& finish) {
  if (const auto v = in.number("finish.spikes.times", smallest_above_zero, 1e6,
                               "a factor above zero: 1 is what physics says")) {
    finish.spikes = Spikes{*v};
  }
}

void read_streak(ShotReader& in, Finish& finish) {
  const bool there = in.has_section("finish.streak.");
  Streak streak;
  if (there) {
    in.require("finish.streak.share", "share = \"2 %\" (of the light)");
    streak.reach = {BlurSize::Kind::percent, 3.0};
  }
  if (const auto v = in.quantity<double>("finish.streak.share", parse_fraction, a_share)) {
    streak.fraction = *v;
  }
  if (const auto v = in.quantity<Angle>("finish.streak.direction", parse_angle)) {
    streak.direction = *v;
  }
  if (const auto v = in.quantity<BlurSize>("finish.streak.reach", parse_blur_size)) {
    streak.reach = *v;
  }
  if (const auto v = falling_power(in, "finish.streak.power", 1.0, 2.0)) streak.power = *v;
  if (const auto v = colour(in, "finish.streak.colour")) streak.colour = *v;
  if (there) finish.streak = streak;
}

void read_corners_and_cast(ShotReader& in, Finish& finish) {
  if (const auto v = in.quantity<double>("finish.corners", parse_stops)) {
    finish.corners = Corners{*v};
  }
  if (const auto v = in.number("finish.corners_power", 0.1, 20.0,
                               "how late it sets in: 2 (as cos\u2074) up to 20")) {
    if (finish.corners) {
      finish.corners->power = *v;
    } else if (!in.has("finish.corners")) {
      in.mistake("finish.corners_power", "needs to know how much: corners = \"1.2 stops\"");
    }
  }
  const auto mired =
      in.number("finish.cast", -1000.0, 1000.0, "a shift in mired, + warmer; write e.g. 20");
  const auto tint = in.number("finish.cast_tint", -max_tint, max_tint,
                              "a tint within \u00b10.05 (Duv), + greener");
  if (mired || tint) finish.cast = Cast{mired.value_or(0.0), tint.value_or(0.0)};
}

void read_grain(ShotReader& in, Finish& finish) {
  const bool there = in.has_section("finish.grain.");
  Grain grain;
  if (there) {
    in.require("finish.grain.grey", "grey = 0.006 (standard deviation at 0.18, linear light)");
  }
  const std::string wanted =
      "a standard deviation in linear light, 0 to 1; one, or one each of "
      "red, green and blue";
  if (const auto v = channels(in, "finish.grain.grey", 1.0, wanted)) grain.grey = *v;
  if (const auto v = channels(in, "finish.grain.black", 1.0, wanted)) grain.black = *v;
  for (std::size_t c = 0; c < 3; ++c) {
    if (grain.black[c] <= grain.grey[c] || !in.has("finish.grain.grey")) continue;
    in.mistake("finish.grain.black", "is more than at grey: light brings noise with it");
    break;
  }
  if (const auto v = in.quantity<BlurSize>("finish.grain.size", parse_blur_size)) grain.size = *v;
  if (const auto v =
          in.number("finish.grain.alike", 0.0, 1.0, "the channels' correlation, 0 to 1")) {
    grain.alike = *v;
  }
  if (const auto v =
          in.number("finish.grain.seed", 0.0, 1e6, "a seed, a whole number to 1000000")) {
    if (*v == std::floor(*v)) {
      grain.seed = static_cast<std::uint32_t>(*v);
    } else {
      in.mistake("finish.grain.seed", fmt::format("'{:g}' is no whole number", *v));
    }
  }
  if (there) finish.grain = grain;
}

}  // namespace

void read_finish(ShotReader& in, const std::string& file, Finish& finish) {
  read_lift(in, finish);
  read_smear(in, file, finish);
  read_halo(in, finish);
  read_spikes(in, finish);
  read_streak(in, finish);
  read_corners_and_cast(in, finish);
  read_grain(in, finish);
}

}  // namespace jolly_iris
