// What belongs together in expose.
#include <fmt/format.h>

#include <charconv>
#include <cmath>

#include "jolly_iris/errors.hpp"
#include "jolly_iris/quantity.hpp"
#include "typed.hpp"

namespace jolly_iris::cli {

namespace {

// "12, 40.5" → numbers, of which there are `least` to `most`.
std::vector<double> numbers_of(const char* option, const std::string& text, std::size_t least,
                               std::size_t most, const char* example) {
  std::vector<double> numbers;
  bool good = true;
  for (const std::string& part : split(text)) {
    double value = 0.0;
    const auto [end, error] = std::from_chars(part.data(), part.data() + part.size(), value);
    good = good && error == std::errc{} && end == part.data() + part.size() && std::isfinite(value);
    numbers.push_back(value);
  }
  if (!good || numbers.size() < least || numbers.size() > most) {
    throw UsageError(fmt::format("{} {}: write numbers with commas between, e.g. {} {}", option,
                                 text, option, example));
  }
  return numbers;
}

PxBox px_box(const char* option, const std::string& text) {
  const auto n = numbers_of(option, text, 4, 4, "800,300,60,40 (left, top, width, height)");
  return {n[0], n[1], n[2], n[3]};
}

// "2 stops/s" → 2: a number and exactly these words.
std::optional<double> number_before(const std::string& text,
                                    std::initializer_list<const char*> units) {
  double value = 0.0;
  const char* end = text.data() + text.size();
  const auto [next, error] = std::from_chars(text.data(), end, value);
  if (error != std::errc{}) return std::nullopt;
  std::string rest(next, end);
  rest.erase(0, rest.find_first_not_of(' '));
  for (const char* unit : units) {
    if (rest == unit) return value;
  }
  return std::nullopt;
}

double share_of(const std::string& text) {
  auto share = number_before(text, {"%"});
  if (share) *share /= 100.0;
  if (!share) share = number_before(text, {""});
  if (!share || !(*share >= 0.0 && *share < 1.0)) {
    throw UsageError(fmt::format(
        "--may-clip {}: write a share of the pixels under 100 %, e.g. \"0.1 %\"", text));
  }
  return *share;
}

double speed_of(const std::string& text) {
  const auto slash = text.rfind('/');
  const std::string per = slash == std::string::npos ? "" : text.substr(slash + 1);
  const double seconds = per == "s" ? 1.0 : per == "min" ? 60.0 : per == "h" ? 3600.0 : 0.0;
  try {
    if (seconds > 0.0) {
      const double speed = parse_length(text.substr(0, slash)).m() / seconds;
      if (speed >= 0.0) return speed;
    }
  } catch (const QuantityError&) {
    // told below, with what would be right
  }
  throw UsageError(fmt::format("--speed {}: write a speed, e.g. \"1.2 m/s\" or \"5 km/h\"", text));
}

template <class Value>
Value one_of(const char* option, const std::string& text,
             std::initializer_list<std::pair<const char*, Value>> choices) {
  std::string names;
  for (const auto& [name, value] : choices) {
    if (text == name) return value;
    names += std::string(names.empty() ? "" : ", ") + name;
  }
  throw UsageError(fmt::format("{} {}: write one of {}", option, text, names));
}

std::optional<White> white_of(const char* option, const std::string& text) {
  if (text.empty()) return std::nullopt;
  try {
    return parse_white(text);
  } catch (const QuantityError& e) {
    throw UsageError(fmt::format("{}: {}", option, e.what()));
  }
}

NeutralOptions neutral_of(const std::string& text) {
  NeutralOptions neutral;
  if (text == "mean")
    neutral.by = NeutralBy::grey_world;
  else if (text == "brightest")
    neutral.by = NeutralBy::brightest;
  else if (text.find(',') != std::string::npos)
    neutral.patch = px_box("--neutral", text);
  else if (!text.empty())
    throw UsageError(
        fmt::format("--neutral {}: write mean, brightest, or a patch as X,Y,W,H", text));
  return neutral;
}

void read_metering(ExposeOptions& o, const Typed& typed) {
  if (!typed.meter.empty()) {
    o.meter = one_of<MeterWay>("--meter", typed.meter,
                               {{"average", MeterWay::average},
                                {"centre", MeterWay::centre},
                                {"spot", MeterWay::spot},
                                {"region", MeterWay::region},
                                {"highlights", MeterWay::highlights}});
  }
  if (!typed.at.empty()) {
    const auto n = numbers_of("--at", typed.at, 2, 3, "960,540");
    o.spot = {n[0], n[1], n.size() > 2 ? n[2] : 0.0};
    if (n.size() > 2 && !(n[2] > 0.0)) {
      throw UsageError(fmt::format("--at {}: the radius is above zero", typed.at));
    }
  }
  for (const std::string& text : typed.regions) o.regions.push_back(px_box("--region", text));
  if (!typed.may_clip.empty()) o.may_clip = share_of(typed.may_clip);
  if (!(o.wanted > 0.0) || !std::isfinite(o.wanted)) {
    throw UsageError(fmt::format("--grey {:g}: a picture value above zero, e.g. 0.18", o.wanted));
  }
  if ((o.meter == MeterWay::spot) != o.spot.has_value()) {
    throw UsageError("a spot is --meter spot and --at X,Y together");
  }
  if (!typed.may_clip.empty() && o.meter != MeterWay::highlights) {
    throw UsageError("--may-clip belongs to --meter highlights");
  }
}

void read_ramp(ExposeOptions& o, const Typed& typed) {
  if (typed.ramp.empty()) {
    if (!typed.delay.empty()) throw UsageError("--delay belongs to --ramp");
    return;
  }
  const auto speed = number_before(typed.ramp, {"stops/s", "stop/s"});
  if (!speed || !(*speed > 0.0)) {
    throw UsageError(
        fmt::format("--ramp {}: write a speed above zero, e.g. \"2 stops/s\"", typed.ramp));
  }
  o.ramp.emplace();
  o.ramp->stops_per_second = *speed;
  if (!typed.delay.empty()) {
    const auto delay = number_before(typed.delay, {"s"});
    if (!delay || !(*delay >= 0.0)) {
      throw UsageError(fmt::format("--delay {}: write a time, e.g. \"0.3 s\"", typed.delay));
    }
    o.ramp->delay = Duration::from_seconds(*delay);
  }
  if (!o.frames.asked) throw UsageError("--ramp goes over --frames");
}

void check_together(const ExposeOptions& o) {
  const bool picture = !o.picture.empty();
  const bool about_picture = o.meter || !o.regions.empty() || o.as_plate || o.stops != 0.0 ||
                             o.neutral.any() || o.apply || !o.sheet.empty() || o.frames.asked ||
                             o.coding.transfer || o.fall_off != ExposeOptions::FallOffUse::none;
  if (about_picture && !picture) {
    throw UsageError(
        "name the PICTURE that shall be metered, compared or changed, behind the shot file");
  }
  if (!o.out.empty() && !o.apply) throw UsageError("-o names what --apply writes; give both");
  if (o.metres_per_second && o.of.empty()) {
    throw UsageError("--speed needs --of NAME: how far away it is");
  }
  if (o.pay && picture) throw UsageError("--pay is about the take; leave PICTURE out");
  if (o.as_plate && (o.meter || o.neutral.any())) {
    throw UsageError(
        "--as-plate finds exposure and white by itself: leave --meter and --neutral out");
  }
  if (!(std::abs(o.stops) <= 60.0)) {
    throw UsageError(fmt::format("--stops {:g}: write stops within ±60, e.g. -1.5", o.stops));
  }
  if (o.card && !o.as_plate) throw UsageError("--card belongs to --as-plate");
  if (o.gains && picture) {
    throw UsageError("--gains only asks which light they belong to; leave PICTURE out");
  }
  if (o.as_plate && o.frames.asked) {
    throw UsageError(
        "--as-plate compares one picture with the plate; for a sequence find --stops by it first");
  }
  if (o.neutral.any() && (o.light || o.told)) {
    throw UsageError("--neutral finds the light's white by itself: leave --light and --told out");
  }
  if (o.adapt && (!o.light || o.as_plate)) {
    throw UsageError("--adapt goes from --light to --told; say what the light is");
  }
  const bool numbered = o.picture.find('#') != std::string::npos;
  if (o.frames.asked && !numbered) {
    throw UsageError(fmt::format(
        "--frames: '{}' has no # for the frame's number; write e.g. cg.####.exr", o.picture));
  }
  for (const std::string& name : o.out) {
    if (o.frames.asked && name.find('#') == std::string::npos) {
      throw UsageError(fmt::format(
          "-o {}: every frame would be written over the last; write e.g. done.####.exr", name));
    }
  }
  if (o.frames.asked && !o.sheet.empty())
    throw UsageError("--sheet draws one picture, not --frames");
}

}  // namespace

ExposeOptions expose_of(ExposeOptions o, const Typed& typed) {
  if (!typed.pay.empty()) {
    o.pay = one_of<Partner>("--pay", typed.pay,
                            {{"stop", Partner::stop},
                             {"shutter", Partner::shutter},
                             {"iso", Partner::iso},
                             {"nd", Partner::nd}});
  }
  if (!typed.speed.empty()) o.metres_per_second = speed_of(typed.speed);
  read_metering(o, typed);
  o.told = white_of("--told", typed.told);
  o.light = white_of("--light", typed.light);
  if (!typed.adapt.empty()) {
    o.adapt = one_of<Adaptation>(
        "--adapt", typed.adapt, {{"CAT16", Adaptation::cat16}, {"Bradford", Adaptation::bradford}});
  }
  o.neutral = neutral_of(typed.neutral);
  if (!typed.fall_off.empty()) {
    using Use = ExposeOptions::FallOffUse;
    o.fall_off =
        one_of<Use>("--fall-off", typed.fall_off, {{"add", Use::add}, {"remove", Use::remove}});
  }
  if (!typed.card.empty()) o.card = px_box("--card", typed.card);
  if (!typed.gains.empty()) {
    const auto n = numbers_of("--gains", typed.gains, 3, 3, "1.9,1,1.4");
    o.gains = Rgb{n[0], n[1], n[2]};
  }
  o.coding = coding_of(typed.transfer);
  read_ramp(o, typed);
  check_together(o);
  return o;
}

}  // namespace jolly_iris::cli
