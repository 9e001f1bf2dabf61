#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/files/shot_file.hpp"

namespace jolly_iris {

namespace {

// A line of the starter file: known values are written with where they came from, unknown ones are
// left blank in a comment, so that the file reads without mistakes as soon as the needed are
// filled.
std::string line(const std::string& key, const std::string& value, const std::string& comment) {
  return fmt::format("{:<33} # {}\n", key + " = " + value, comment);
}

// A basic string of TOML: what would end it or break its line is written as its code.
std::string toml_text(const std::string& text) {
  std::string safe;
  for (const char c : text) {
    const auto code = static_cast<unsigned char>(c);
    if (code < 0x20 || code == 0x7f) {
      safe += fmt::format("\\u{:04X}", code);
      continue;
    }
    if (c == '"' || c == '\\') safe += '\\';
    safe += c;
  }
  return '"' + safe + '"';
}

// What stands in a comment ends with its line.
std::string on_one_line(std::string text) {
  for (char& c : text) {
    if (static_cast<unsigned char>(c) < 0x20 || c == 0x7f) c = '?';
  }
  return text;
}

std::string known(const std::string& key, const std::optional<std::string>& value,
                  const std::string& comment, const std::string& blank_comment) {
  if (value) return line(key, *value, comment);
  return line(key, "\"\"", "??? " + blank_comment);
}

// Not needed for an answer: a blank is left out, as a comment.
std::string optional(const std::string& key, const std::optional<std::string>& value,
                     const std::string& comment, const std::string& example) {
  if (value) return line(key, *value, comment);
  return fmt::format("{:<33} # ??? {}\n", "# " + key + " = " + example, comment);
}

std::optional<std::string> shutter_text(const PlateFacts& facts) {
  if (!facts.exposure_time) return std::nullopt;
  const double t = facts.exposure_time->seconds();
  const double below = 1.0 / t;
  if (t < 0.5 && std::abs(below - std::round(below)) < 0.02 * below) {
    return toml_text(fmt::format("1/{:.0f} s", below));
  }
  return toml_text(fmt::format("{:.6g} s", t));
}

std::optional<std::string> distance_text(const PlateFacts& facts) {
  if (!facts.distance) return std::nullopt;
  if (facts.distance->is_infinite()) return toml_text("infinity");
  return toml_text(fmt::format("{:.4g} m", facts.distance->m()));
}

}  // namespace

std::string starter_shot(const PlateFacts& facts, const std::string& plate_name) {
  const auto number = [](const std::optional<double>& v) {
    return v ? std::optional(fmt::format("{:g}", *v)) : std::nullopt;
  };
  const std::string message = "as the picture file says";
  std::string out = fmt::format(
      "# The camera of {}. What the picture file knew is filled in;\n"
      "# ??? marks what only the camera report can tell.\n",
      on_one_line(plate_name));
  for (const std::string& doubt : facts.doubts)
    out += "# Not believed: " + on_one_line(doubt) + "\n";
  out += '\n';
  out += line("unit", "\"m\"", "one unit of your CG scene: mm, cm, m, in, ft …");

  out += "\n[body]\n";
  if (facts.camera) out += line("name", toml_text(*facts.camera), message);
  const auto by_equivalent = gate_from_equivalent(facts);
  const auto gate = facts.gate ? facts.gate : by_equivalent;
  if (facts.gate && by_equivalent &&
      std::abs(facts.gate->width / by_equivalent->width - 1.0) > 0.05) {
    out += fmt::format(
        "# the 35 mm equivalent would make it {:.2f} x {:.2f} mm: one of the two is "
        "wrong\n",
        by_equivalent->width.mm(), by_equivalent->height.mm());
  }
  out += known("gate",
               gate ? std::optional(toml_text(
                          fmt::format("{:.2f} x {:.2f} mm", gate->width.mm(), gate->height.mm())))
                    : std::nullopt,
               facts.gate ? "worked out from the focal plane's resolution in the picture file"
                          : "worked out from the 35 mm equivalent, taken to mean the same diagonal "
                            "angle and rounded to whole mm: check it against the data sheet",
               "recorded width x height on the sensor, e.g. \"25.9 x 14.6 mm\"");
  out += line("pixels", toml_text(fmt::format("{} x {}", facts.pixels.width, facts.pixels.height)),
              "the plate's size");

  out += "\n[lens]\n";
  if (facts.lens) out += line("name", toml_text(*facts.lens), message);
  out +=
      known("focal",
            facts.focal ? std::optional(toml_text(fmt::format("{:g} mm", facts.focal->mm())))
                        : std::nullopt,
            message + "; as marked, without any adapter", "as marked on the lens, e.g. \"53 mm\"");
  out += optional("adapter", std::nullopt, "a reducer (< 1) or extender (> 1) behind the lens",
                  "0.76");
  out += "[lens.iris]\n";
  out += optional("blades", std::nullopt, "count the corners of a blurred lamp", "7");
  out +=
      optional("blade_radius", std::nullopt, "straight, round, or how far they bend", "\"1.5 x\"");

  out += "\n[take]\n";
  out += known("stop",
               facts.f_number ? std::optional(toml_text(fmt::format("f/{:g}", *facts.f_number)))
                              : std::nullopt,
               message, "\"f/2\" or \"T2.1\"");
  out += known("mark", distance_text(facts), message + "; the barrel's mark counts from the sensor",
               "what the barrel said, e.g. \"2.4 m\"; or use [focus] below");
  out += optional("iso", number(facts.iso), facts.iso ? message : "sensitivity", "800");
  out += optional("shutter", shutter_text(facts), facts.exposure_time ? message : "time or angle",
                  "\"1/48 s\"");
  out += optional("fps", number(facts.fps), facts.fps ? message : "frames a second", "24");

  out +=
      "\n# [focus]                         # what the CG camera focuses on; leads over take.mark\n"
      "# on = \"boat\"\n"
      "\n# [[subject]]                     # anything with a name and a place\n"
      "# name = \"boat\"\n"
      "# at = \"2.35 m\"                   # along the view axis, from the camera's origin\n"
      "\n# [scene]\n"
      "# file = \"set.gltf\"\n"
      "# camera = \"taking camera\"\n";

  out += "\n[plate]\n" + line("file", toml_text(plate_name), "relative to this file");
  if (facts.transfer) {
    out += line("transfer", toml_text(std::string(to_string(*facts.transfer))),
                "how its numbers stand for light: linear, sRGB, Rec.709, ACEScct");
  }
  return out;
}

}  // namespace jolly_iris
