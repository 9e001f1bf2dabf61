#include <fmt/format.h>

#include <cmath>
#include <limits>

#include "jolly_iris/optics/quantity.hpp"
#include "shot_sections.hpp"

namespace jolly_iris {

namespace {

// A whole number; none (and a mistake) otherwise.
std::optional<int> count(ShotReader& in, const std::string& key, int max,
                         const std::string& wanted) {
  const auto v = in.number(key, 0.0, max, wanted);
  if (!v) return std::nullopt;
  if (*v == std::floor(*v)) return static_cast<int>(*v);
  in.mistake(key, fmt::format("'{:g}' is not {}", *v, wanted));
  return std::nullopt;
}

std::string beside_value(ShotReader& in, const std::string& key, const std::string& file,
                         const std::string& name) {
  return beside(file_of(in.tree().at(key), file), name);
}

// A file of its own, or corners: [[x, y], …] in any unit, y up.
void read_outline_key(ShotReader& in, const std::string& file, Iris& iris) {
  const std::string key = "lens.iris.outline";
  const auto value = in.tree().find(key);
  if (value == in.tree().end()) return;
  if (std::holds_alternative<std::string>(value->second.data)) {
    if (const auto v = in.text(key)) iris.outline_file = beside_value(in, key, file, *v);
  } else if (const auto corners = in.pixels(key, 3)) {
    for (const auto& [x, y] : *corners) iris.outline.push_back({x, y});
  }
  if (in.has("lens.iris.blades") || in.has("lens.iris.blade_radius")) {
    in.mistake(key, "takes the place of the blades; give the one or the other");
  }
}

void read_light(ShotReader& in, const std::string& file, Iris& iris) {
  if (const auto v = in.number("lens.iris.obstruction", 0.0, 0.95,
                               "the blocked middle's diameter as a share of the opening's, 0 to "
                               "0.95")) {
    iris.obstruction = *v;
  }
  if (const auto v = in.number("lens.iris.rim", -8.0, 8.0,
                               "the edge's light against the middle's in stops, -8 to 8")) {
    iris.edge_falloff = *v;
  }
  if (const auto v = count(in, "lens.iris.rings", 64, "a number of rings; write 0 to 64")) {
    iris.rings = *v;
    iris.ring_strength = 0.3;
  }
  if (const auto v = in.number("lens.iris.ring_strength", 0.0, 8.0,
                               "the bright against the dark part of a ring in stops, 0 to 8")) {
    iris.ring_strength = *v;
    if (!in.has("lens.iris.rings")) {
      in.mistake("lens.iris.ring_strength", "needs to know how many rings there are: rings = 8");
    }
  }
  if (const auto v = count(in, "lens.iris.dust", 10000, "a number of specks; write 0 to 10000")) {
    iris.dust = *v;
  }
  if (const auto v = in.number("lens.iris.dust_size", smallest_above_zero, 0.5,
                               "a speck's diameter as a share of the opening's, up to 0.5")) {
    iris.dust_size = *v;
    if (!in.has("lens.iris.dust")) {
      in.mistake("lens.iris.dust_size", "needs to know how many specks there are: dust = 40");
    }
  }
  if (const auto v =
          count(in, "lens.iris.scratches", 1000, "a number of scratches; write 0 to 1000")) {
    iris.scratches = *v;
  }
  if (const auto v = in.text("lens.iris.picture")) {
    iris.picture_file = beside_value(in, "lens.iris.picture", file, *v);
  }
}

void read_iris(ShotReader& in, const std::string& file, Iris& iris) {
  const std::string wanted = "a number of blades; write 0 (round) or 3 to 32";
  if (const auto v = count(in, "lens.iris.blades", 32, wanted)) {
    if (*v == 1 || *v == 2) {
      in.mistake("lens.iris.blades", fmt::format("'{}' is not {}", *v, wanted));
    } else {
      iris.blades = *v;
    }
  }
  if (const auto v = in.quantity<Angle>("lens.iris.rotation", parse_angle)) iris.rotation = *v;
  if (const auto v = in.quantity<BladeRadius>("lens.iris.blade_radius", parse_blade_radius)) {
    iris.blade_radius = *v;
  }
  if (const auto v = in.choice<SizeBy>("lens.iris.size_by",
                                       {{"area", SizeBy::area}, {"corners", SizeBy::corners}})) {
    iris.size_by = *v;
  }
  if (const auto v = in.number("lens.iris.uneven", 0.0, 0.2,
                               "how far blades stand in or out, as a share of the opening's "
                               "radius: 0 to 0.2")) {
    iris.uneven = *v;
  }
  if (const auto v = count(in, "lens.iris.seed", 1000000, "a seed: a whole number up to 1000000")) {
    iris.seed = static_cast<std::uint32_t>(*v);
  }
  read_outline_key(in, file, iris);
  read_light(in, file, iris);
}

// What makes the corners darker.
void read_relative_illumination(ShotReader& in, Lens& lens) {
  for (std::size_t i = 0; in.has_section(fmt::format("lens.barrel[{}].", i)); ++i) {
    const std::string base = fmt::format("lens.barrel[{}]", i);
    VignettingRim rim;
    in.require(base + ".radius", "radius = \"21 mm\"");
    in.require(base + ".ahead", "ahead = \"40 mm\" (of the entrance pupil; behind it: -30 mm)");
    if (const auto v = in.quantity<Length>(base + ".radius", parse_length, above_zero)) {
      rim.radius = *v;
    }
    if (const auto v = in.quantity<Length>(base + ".ahead", parse_length)) rim.ahead = *v;
    lens.vignetting.push_back(rim);
  }
  for (std::size_t i = 0; in.has_section(fmt::format("lens.loss[{}].", i)); ++i) {
    const std::string base = fmt::format("lens.loss[{}]", i);
    LossPoint point;
    in.require(base + ".height", "height = \"10 mm\" (from the middle of the gate)");
    in.require(base + ".stops", "stops = 0.6");
    if (const auto v = in.quantity<Length>(base + ".height", parse_length, above_zero)) {
      point.height = *v;
    }
    if (const auto v = in.number(base + ".stops", 0.0, 20.0, "a loss of 0 to 20 stops")) {
      point.stops = *v;
    }
    lens.loss.push_back(point);
  }
}

void read_aberrations(ShotReader& in, Aberrations& aberrations) {
  const std::string base = "lens.faults.";
  const auto length = [&](const char* key, Length& to) {
    if (const auto v = in.quantity<Length>(base + key, parse_length)) to = *v;
  };
  length("spherical", aberrations.spherical);
  length("coma", aberrations.coma);
  if (const auto v = in.quantity<Power>(base + "curvature", parse_power))
    aberrations.curvature = *v;
  if (const auto v = in.quantity<Length>(base + "height", parse_length, above_zero)) {
    aberrations.height = *v;
  }
  for (const char* key : {"coma", "curvature"}) {
    if (in.has(base + key) && !in.has(base + "height")) {
      in.mistake(base + key,
                 "grows towards the corners; say at which image height it is so much: "
                 "height = \"14 mm\"");
    }
  }
  constexpr std::array colours{"red", "green", "blue"};
  for (std::size_t c = 0; c < colours.size(); ++c) {
    const std::string shift = fmt::format("{}focus_{}", base, colours[c]);
    if (const auto v = in.quantity<Power>(shift, parse_power)) aberrations.focus_shift[c] = *v;
    const auto v = in.number(fmt::format("{}magnification_{}", base, colours[c]), 0.5, 2.0,
                             "a colour's picture size against the whole's, near 1: 1.0005");
    if (v) aberrations.magnification[c] = *v;
  }
}

void read_colouring(ShotReader& in, std::vector<ColourPlace>& places) {
  for (std::size_t i = 0; in.has_section(fmt::format("lens.colouring[{}].", i)); ++i) {
    const std::string base = fmt::format("lens.colouring[{}]", i);
    ColourPlace place;
    in.require(base + ".colour", "colour = [1, 0.7, 0.5] (linear red, green, blue)");
    in.require(base + ".reach", "reach = \"6 mm\" (on the gate)");
    if (const auto v = in.quantity<Length>(base + ".right", parse_length)) place.right = *v;
    if (const auto v = in.quantity<Length>(base + ".up", parse_length)) place.up = *v;
    if (const auto v = in.quantity<Length>(base + ".reach", parse_length, above_zero)) {
      place.reach = *v;
    }
    if (const auto v =
            in.numbers(base + ".colour", 3, 3, "a colour: linear red, green and blue, 0 or more")) {
      place.colour = {(*v)[0], (*v)[1], (*v)[2]};
    }
    places.push_back(place);
  }
}

std::string tint_share(const double& v) {
  return v >= 0.0 && v <= 1.0 ? "" : "is no share of the tint, 0 to 100 %";
}

void read_tint(ShotReader& in, std::optional<DiscTint>& into) {
  const bool there = in.has_section("lens.tint.");
  DiscTint tint;
  if (there) {
    in.require("lens.tint.colour", "colour = [1, 0.8, 0.6] (linear red, green, blue)");
    in.require("lens.tint.reach", "reach = \"12 mm\" (on the gate, from the picture's middle)");
  }
  if (const auto v =
          in.numbers("lens.tint.colour", 3, 3, "a colour: linear red, green and blue, 0 or more")) {
    tint.colour = {(*v)[0], (*v)[1], (*v)[2]};
  }
  tint.towards = in.quantity<Angle>("lens.tint.towards", parse_angle);
  if (const auto v = in.quantity<Length>("lens.tint.reach", parse_length, above_zero)) {
    tint.reach = *v;
  }
  if (const auto v = in.number("lens.tint.power", 0.05, 20.0,
                               "how late it sets in, above 0 and up to 20; 1 is even")) {
    tint.power = *v;
  }
  if (const auto v = in.quantity<double>("lens.tint.least", parse_fraction, tint_share)) {
    tint.least = *v;
  }
  if (const auto v = in.quantity<double>("lens.tint.most", parse_fraction, tint_share)) {
    tint.most = *v;
  }
  if (there) into = tint;
}

}  // namespace

void read_opening(ShotReader& in, const std::string& file, Lens& lens) {
  read_iris(in, file, lens.iris);
  read_relative_illumination(in, lens);
  read_aberrations(in, lens.aberrations);
  read_colouring(in, lens.colouring.places);
  read_tint(in, lens.colouring.tint);
  for (const char* key : {"lens.faults.spherical", "lens.faults.coma"}) {
    if (in.has(key) && !in.has("lens.widest")) {
      in.mistake(key,
                 "is given at the lens's widest stop; say which that is: [lens] widest = "
                 "\"f/1.4\"");
    }
  }
}

}  // namespace jolly_iris
