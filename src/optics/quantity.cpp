#include "jolly_iris/optics/quantity.hpp"

#include <fmt/format.h>

#include <array>
#include <charconv>
#include <cmath>
#include <optional>
#include <utility>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/exposure.hpp"
#include "jolly_iris/optics/range.hpp"
#include "jolly_iris/optics/white.hpp"

namespace jolly_iris {

namespace {

constexpr double mm_per_inch = 25.4;  // international inch, 1959

// Reads a quantity from left to right; each try either takes something or leaves all as it was.
class Cursor {
 public:
  explicit Cursor(std::string_view text) : rest_(text) { skip(); }

  bool done() const { return rest_.empty(); }

  std::optional<double> number() {
    std::string_view digits = rest_;
    if (digits.starts_with('+')) digits.remove_prefix(1);
    double value = 0.0;
    const auto [end, error] = std::from_chars(digits.data(), digits.data() + digits.size(), value);
    const bool plain =
        !digits.empty() && (digits[0] == '-' || digits[0] == '.' || digit(digits[0]));
    if (error != std::errc{} || !plain || !std::isfinite(value)) return std::nullopt;
    rest_.remove_prefix(static_cast<std::size_t>(end - rest_.data()));
    skip();
    return value;
  }

  // Takes one of `words`, ignoring case; letters may not go on behind a word.
  bool word(std::initializer_list<std::string_view> words) {
    for (const std::string_view w : words) {
      if (rest_.size() < w.size() || !same(rest_.substr(0, w.size()), w)) continue;
      const bool runs_on = rest_.size() > w.size() && letter(w.back()) && letter(rest_[w.size()]);
      if (runs_on) continue;
      rest_.remove_prefix(w.size());
      skip();
      return true;
    }
    return false;
  }

  // Takes a sign or a first letter that a number may follow directly, as in "f2".
  bool mark(std::initializer_list<std::string_view> marks) {
    for (const std::string_view m : marks) {
      if (!rest_.starts_with(m)) continue;
      rest_.remove_prefix(m.size());
      skip();
      return true;
    }
    return false;
  }

 private:
  static bool digit(char c) { return c >= '0' && c <= '9'; }
  static bool letter(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z'); }
  static char lower(char c) { return c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c; }
  static bool same(std::string_view a, std::string_view b) {
    for (std::size_t i = 0; i < a.size(); ++i) {
      if (lower(a[i]) != lower(b[i])) return false;
    }
    return true;
  }
  void skip() {
    while (!rest_.empty() && (rest_[0] == ' ' || rest_[0] == '\t')) rest_.remove_prefix(1);
    while (!rest_.empty() && (rest_.back() == ' ' || rest_.back() == '\t')) rest_.remove_suffix(1);
  }
  std::string_view rest_;
};

[[noreturn]] void refuse(std::string_view text, std::string_view wanted) {
  const bool comma = text.find(',') != std::string_view::npos;
  throw QuantityError(fmt::format("'{}' is not {}{}", text, wanted,
                                  comma ? "; decimals are written with a point" : ""));
}

// What is read is a number, but none that a camera or a set has.
void require(const Range& range, double value, std::string_view text, std::string_view what,
             std::string_view unit = "") {
  if (range.holds(value)) return;
  throw QuantityError(
      fmt::format("'{}' is out of reach: {} are {}", text, what, words_of(range, unit)));
}

void require_length(Length l, std::string_view text) {
  if (l.mm() != 0.0) require(range::length_mm, std::abs(l.mm()), text, "lengths", "mm");
}

// Millimetres in one of the unit written next, if it is a unit of length.
std::optional<double> length_unit(Cursor& in) {
  if (in.word({"mm", "millimetres", "millimeters"})) return 1.0;
  if (in.word({"cm"})) return 10.0;
  if (in.word({"km"})) return 1e6;
  if (in.word({"um", "µm", "μm"})) return 1e-3;
  if (in.word({"m", "metres", "meters", "metre", "meter"})) return 1e3;
  if (in.word({"in", "inch", "inches", "\"", "″", "”"})) return mm_per_inch;
  if (in.word({"ft", "feet", "foot", "'", "′", "’"})) return 12.0 * mm_per_inch;
  if (in.word({"yd", "yards"})) return 36.0 * mm_per_inch;
  return std::nullopt;
}

std::optional<Length> length(Cursor& in) {
  const auto first = in.number();
  if (!first) return std::nullopt;
  const auto unit = length_unit(in);
  if (!unit) return std::nullopt;
  double mm = *first * *unit;
  if (*unit == 12.0 * mm_per_inch && !in.done()) {  // 7' 10"
    const auto inches = in.number();
    const auto inch_unit = inches ? length_unit(in) : std::nullopt;
    if (!inch_unit || *inch_unit != mm_per_inch || *inches < 0.0) return std::nullopt;
    mm += std::copysign(*inches * mm_per_inch, *first);
  }
  return Length::from_mm(mm);
}

std::optional<Angle> angle(Cursor& in) {
  const auto value = in.number();
  if (!value) return std::nullopt;
  if (in.word({"deg", "degrees", "degree", "°"})) return Angle::from_degrees(*value);
  if (in.word({"rad", "radians"})) return Angle::from_radians(*value);
  return std::nullopt;
}

std::optional<Duration> time(Cursor& in) {
  auto value = in.number();
  if (!value) return std::nullopt;
  if (in.mark({"/"})) {
    const auto below = in.number();
    if (!below || *below == 0.0) return std::nullopt;
    value = *value / *below;
  }
  if (in.word({"s", "sec", "seconds", "second"})) return Duration::from_seconds(*value);
  if (in.word({"ms"})) return Duration::from_seconds(*value / 1000.0);
  return std::nullopt;
}

bool times_sign(Cursor& in) { return in.mark({"x", "X", "×", "*"}); }

}  // namespace

Length parse_length(std::string_view text) {
  Cursor in(text);
  const auto value = length(in);
  if (!value || !in.done()) {
    refuse(text, "a length; write a number and its unit, e.g. 53 mm, 2.4 m or 7' 10\"");
  }
  require_length(*value, text);
  return *value;
}

Length parse_distance(std::string_view text) {
  Cursor in(text);
  if (in.word({"infinity", "inf"}) && in.done()) return Length::infinity();
  return parse_length(text);
}

Angle parse_angle(std::string_view text) {
  Cursor in(text);
  const auto value = angle(in);
  if (!value || !in.done()) refuse(text, "an angle; write e.g. 20 deg");
  require(range::angle_deg, value->degrees(), text, "angles", "deg");
  return *value;
}

Stop parse_stop(std::string_view text) {
  constexpr std::string_view wanted = "a stop; write an f-number as f/2 or a T-number as T2.1";
  Cursor in(text);
  const bool f = in.mark({"f", "F"});
  const bool t = !f && in.mark({"t", "T"});
  in.mark({"/"});
  const auto value = in.number();
  if ((!f && !t) || !value || !in.done()) refuse(text, wanted);
  if (!(*value > 0.0)) {
    throw QuantityError(
        fmt::format("the stop '{}' is not above zero; write e.g. f/2 or T2.1", text));
  }
  require(range::stop, *value, text, "stops");
  return {*value, f ? Stop::Kind::f : Stop::Kind::t};
}

Shutter parse_shutter(std::string_view text) {
  Shutter shutter;
  if (Cursor as_time(text); const auto t = time(as_time)) {
    if (as_time.done()) shutter.time = t;
  }
  if (Cursor as_angle(text); const auto a = angle(as_angle)) {
    if (as_angle.done()) shutter.angle = a;
  }
  if (!shutter.time && !shutter.angle) {
    refuse(text, "a shutter; write a time as 1/48 s, or an angle as 172.8 deg");
  }
  const bool positive =
      shutter.time ? shutter.time->seconds() > 0.0
                   : shutter.angle->degrees() > 0.0 && shutter.angle->degrees() <= 360.0 + 1e-9;
  if (!positive) {
    throw QuantityError(fmt::format(
        "the shutter '{}' is out of reach; a time is above zero, an angle above 0 and at most 360 "
        "deg",
        text));
  }
  if (shutter.time) require(range::time_s, shutter.time->seconds(), text, "shutter times", "s");
  return shutter;
}

Extent parse_extent(std::string_view text) {
  constexpr std::string_view wanted = "a width x height; write e.g. 25.9 x 14.6 mm";
  Cursor in(text);
  const auto width = in.number();
  if (!width) refuse(text, wanted);
  const auto width_unit = length_unit(in);
  if (!times_sign(in)) refuse(text, wanted);
  const auto height = in.number();
  if (!height) refuse(text, wanted);
  const auto unit = length_unit(in);
  if (!unit || !in.done()) refuse(text, wanted);
  const Extent extent{Length::from_mm(*width * width_unit.value_or(*unit)),
                      Length::from_mm(*height * *unit)};
  for (const Length side : {extent.width, extent.height}) require_length(side, text);
  return extent;
}

Extent parse_gate(std::string_view text) {
  Cursor in(text);
  // "16 mm" and "6 x 7" are formats; everything else that begins with a number is an extent.
  for (const TradeFormat& format : trade_formats()) {
    Cursor whole(text);
    if (whole.word({format.name}) && whole.done()) return format.gate;
  }
  if (in.number()) return parse_extent(text);
  return gate_of_format(text);
}

Power parse_power(std::string_view text) {
  Cursor in(text);
  const auto value = in.number();
  if (!value || !in.word({"dioptres", "dioptre", "diopters", "diopter", "dpt", "/m"}) ||
      !in.done()) {
    refuse(text, "a power; write e.g. 2 dioptres");
  }
  require(range::power_dpt, *value, text, "powers", "dioptres");
  return Power::from_dioptres(*value);
}

ZoomRange parse_zoom(std::string_view text) {
  constexpr std::string_view wanted = "a zoom's range; write e.g. 19 to 53 mm";
  Cursor in(text);
  const auto shortest = in.number();
  if (!shortest) refuse(text, wanted);
  const auto first_unit = length_unit(in);
  if (!in.word({"to"}) && !in.mark({"-", "–"})) refuse(text, wanted);
  const auto longest = in.number();
  if (!longest) refuse(text, wanted);
  const auto unit = length_unit(in);
  if (!unit || !in.done()) refuse(text, wanted);
  const ZoomRange zoom{Length::from_mm(*shortest * first_unit.value_or(*unit)),
                       Length::from_mm(*longest * *unit)};
  if (!(zoom.shortest.mm() > 0.0 && zoom.shortest < zoom.longest)) refuse(text, wanted);
  for (const Length end : {zoom.shortest, zoom.longest}) {
    require(range::focal_mm, end.mm(), text, "focal lengths", "mm");
  }
  return zoom;
}

PixelSize parse_pixel_size(std::string_view text) {
  constexpr std::string_view wanted = "a picture size; write whole pixels, e.g. 3840 x 2160";
  constexpr double largest = 1 << 20;
  Cursor in(text);
  const auto width = in.number();
  if (!width || !times_sign(in)) refuse(text, wanted);
  const auto height = in.number();
  in.word({"px", "pixels"});
  if (!height || !in.done()) refuse(text, wanted);
  for (const double side : {*width, *height}) {
    if (side != std::floor(side) || side < 1.0 || side > largest) refuse(text, wanted);
  }
  return {static_cast<int>(*width), static_cast<int>(*height)};
}

Temperature parse_temperature(std::string_view text) {
  Cursor in(text);
  const auto value = in.number();
  if (!value || !in.word({"K", "kelvin"}) || !in.done() || !(*value > 0.0)) {
    refuse(text, "a colour temperature; write e.g. 5600 K");
  }
  require(range::temperature_K, *value, text, "colour temperatures", "K");
  return Temperature::from_kelvin(*value);
}

White parse_white(std::string_view text) {
  constexpr std::string_view wanted =
      "a white; write e.g. 5600 K, or 5600 K tint +0.004 (from 1000 to 25000 K, tint within ±0.05)";
  Cursor in(text);
  const auto kelvin = in.number();
  if (!kelvin || !in.word({"K", "kelvin"})) refuse(text, wanted);
  double tint = 0.0;
  if (!in.done()) {
    const bool message = in.word({"tint"});
    const auto value = message ? in.number() : std::nullopt;
    if (!value || !in.done()) refuse(text, wanted);
    tint = *value;
  }
  const bool within =
      *kelvin >= warmest_white_K && *kelvin <= coolest_white_K && std::abs(tint) <= max_tint;
  if (!within) refuse(text, wanted);
  return {Temperature::from_kelvin(*kelvin), tint};
}

double parse_multiple(std::string_view text) {
  Cursor in(text);
  const auto value = in.number();
  if (!value || !times_sign(in) || !in.done()) refuse(text, "a multiple; write e.g. 1.5 x");
  require(range::multiple, *value, text, "multiples", "x");
  return *value;
}

BladeRadius parse_blade_radius(std::string_view text) {
  Cursor in(text);
  if (in.word({"straight"}) && in.done()) return BladeRadius::straight();
  if (in.word({"round"}) && in.done()) return BladeRadius::round();
  Cursor as_multiple(text);
  if (const auto k = as_multiple.number(); k && times_sign(as_multiple) && as_multiple.done()) {
    require(range::multiple, *k, text, "multiples", "x");
    return BladeRadius::multiple(*k);
  }
  Cursor as_length(text);
  if (const auto l = length(as_length); l && as_length.done()) {
    require_length(*l, text);
    return BladeRadius::of_length(*l);
  }
  refuse(text, "a blade radius; write straight, round, a multiple as 1.5 x, or a length as 22 mm");
}

namespace {

// @param whole for the message
double stops_of_one(std::string_view one, std::string_view whole) {
  Cursor in(one);
  const auto value = in.number();
  double stops = -1.0;
  if (value && in.word({"stops", "stop"})) stops = *value;
  // 0.3 of density is taken as one stop exactly, as filters are sold
  else if (value && in.word({"density"}))
    stops = *value / 0.3;
  else if (value && times_sign(in) && *value >= 1.0)
    stops = std::log2(*value);
  if (!in.done() || stops < 0.0) {
    refuse(whole,
           "a neutral density; write 2 stops, 0.6 density, or 4 x; several with a + between");
  }
  return stops;
}

}  // namespace

double parse_density(std::string_view text) {
  double stops = 0.0;
  for (std::string_view rest = text;;) {  // several in one holder
    const std::size_t plus = rest.find('+', 1);
    stops += stops_of_one(rest.substr(0, plus), text);
    if (plus == std::string_view::npos) break;
    rest.remove_prefix(plus + 1);
  }
  require(range::nd_stops, stops, text, "neutral densities", "stops");
  return stops;
}

double parse_stops(std::string_view text) {
  Cursor in(text);
  const auto value = in.number();
  if (!value || !in.word({"stops", "stop"}) || !in.done()) {
    refuse(text, "a number of stops; write e.g. 1.2 stops");
  }
  require({-range::nd_stops.max, range::nd_stops.max}, *value, text, "stops");
  return *value;
}

double parse_fraction(std::string_view text) {
  Cursor in(text);
  const auto value = in.number();
  const bool percent = value && in.mark({"%"});
  if (!value || !in.done() || !(*value >= 0.0)) refuse(text, "a share; write e.g. 4 %");
  require({0.0, range::factor.max}, *value, text, "shares");
  return percent ? *value / 100.0 : *value;
}

double parse_duration(std::string_view text) {
  Cursor in(text);
  double seconds = 0.0;
  bool some = false;
  while (!in.done()) {
    const auto value = in.number();
    double unit = 0.0;
    if (in.word({"h", "hours", "hour"})) unit = 3600.0;
    if (unit == 0.0 && in.word({"min", "minutes", "minute"})) unit = 60.0;
    if (unit == 0.0 && in.word({"s", "seconds", "second"})) unit = 1.0;
    if (!value || unit == 0.0 || !(*value >= 0.0)) refuse(text, "a duration; write e.g. 12 min");
    seconds += unit * *value;
    some = true;
  }
  if (!some || !(seconds > 0.0)) refuse(text, "a duration above zero; write e.g. 12 min");
  require(range::time_s, seconds, text, "durations", "s");
  return seconds;
}

double parse_luminance(std::string_view text) {
  Cursor in(text);
  const auto value = in.number();
  double luminance = 0.0;
  if (value && in.word({"cd/m2", "cd/m²"})) {
    luminance = *value;
  } else if (value && in.word({"EV"}) && std::abs(*value) < 50.0) {
    luminance = metered_luminance(*value);
  }
  if (!in.done() || !(luminance > 0.0)) {
    refuse(text, "a luminance above zero; write 95 cd/m2, or what a spot meter says: 9.5 EV");
  }
  require(range::luminance_cd_m2, luminance, text, "luminances", "cd/m2");
  return luminance;
}

BlurSize parse_blur_size(std::string_view text) {
  Cursor in(text);
  const auto value = in.number();
  BlurSize size{BlurSize::Kind::pixels, value.value_or(0.0)};
  if (in.word({"px", "pixels", "pixel"})) {
    // as it is
  } else if (in.mark({"%"})) {
    size.kind = BlurSize::Kind::percent;
  } else if (const auto unit = length_unit(in); unit && value) {
    size = {BlurSize::Kind::on_gate, *value * *unit};
  } else {
    size.value = 0.0;
  }
  if (!value || !in.done() || !(size.value > 0.0)) {
    refuse(text,
           "an amount of blur; write e.g. 12 px, 0.1 mm (on the gate) or 0.5 % (of the "
           "picture's width)");
  }
  require(range::blur, size.value, text, "amounts of blur");
  return size;
}

Criterion parse_criterion(std::string_view text) {
  Cursor in(text);
  if (in.word({"photosite"}) && in.done()) return {Criterion::Kind::photosite, 0.0};
  if (in.word({"print"}) && in.done()) return {Criterion::Kind::print, 0.0};
  const auto value = in.number();
  if (!value || !in.word({"px", "pixels", "pixel"}) || !in.done() || !(*value > 0.0)) {
    refuse(text, "a sharpness criterion; write e.g. 2 px, photosite, or print");
  }
  require(range::blur, *value, text, "criteria", "px");
  return {Criterion::Kind::pixels, *value};
}

}  // namespace jolly_iris
