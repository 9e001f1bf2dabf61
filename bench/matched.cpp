// What match makes of plates whose truth is known, from notes that miss it as notes do.
//
//   matched [PLATES] [FIRST SEED] [FOLDER]
//
// Plates as in bench/discs, kept in the folder. Each is matched three times, from other notes:
// focal length, gate, stop, focus, scene scale and squeeze are off by what such notes usually are
// (drawn from normal distributions). Then once
// more where the set was measured: the recorded gate is known to 0.05 %, the scene's scale to 0.1
// %. Prints how often the margins hold, and how far off numbers are where their margin says they
// are known well.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <iostream>
#include <map>

#include "../tests/made_plate.hpp"
#include "jolly_iris/jolly_iris.hpp"

namespace {

using namespace jolly_iris;
using namespace jolly_iris::testing;

struct Sums {
  int cases = 0;
  int covered = 0;
  int known = 0;  // by a margin within the bound
  int good = 0;
};

const std::map<Parameter, double>& bounds() {
  static const std::map<Parameter, double> all{
      {Parameter::stop, 0.02}, {Parameter::focal, 0.003}, {Parameter::focus, 0.01}};
  return all;
}

double deviation(Parameter u, const MatchSettings& settings) {
  for (const PriorOverride& d : settings.doubts) {
    if (d.of == u) return *d.deviation;
  }
  return usual_deviation(u);
}

CameraEstimate missed(const CameraEstimate& truth, const MatchSettings& settings,
                      std::mt19937& random) {
  std::normal_distribution<double> normal(0.0, 1.0);
  const auto off = [&](Parameter u) { return std::exp(deviation(u, settings) * normal(random)); };
  CameraEstimate n = truth;
  n.lens.focal = n.lens.focal * off(Parameter::focal);
  const double gate = off(Parameter::gate);
  n.body.gate = {n.body.gate.width * gate, n.body.gate.height * gate};
  n.take.stop.value *= off(Parameter::stop);
  n.focus = n.focus * off(Parameter::focus);
  if (n.lens.squeeze > 1.0)
    n.lens.squeeze = std::max(1.0, n.lens.squeeze * off(Parameter::squeeze));
  return n;
}

std::vector<Observation> observed(const FoundDiscs& found, const MadePlate& made,
                                  const CameraEstimate& notes, double scale) {
  const VirtualCamera c = resolve(notes.body, notes.lens, notes.take, notes.focus);
  const PixelSize size = made.picture.size();
  std::vector<DetectedDisc> discs;
  for (const PlateDisc& d : found.discs) {
    if (d.outlier) continue;
    discs.push_back({{d.at[0] - 0.5 * size.width, d.at[1] - 0.5 * size.height},
                     d.height_px.value,
                     std::hypot(0.5 * d.height_px.margin, 0.01 * d.height_px.value),
                     d.clipped});
  }
  std::vector<ExpectedLamp> lamps;
  for (std::size_t i = 0; i < made.all.size(); ++i) {
    const MadeDisc& m = made.all[i];
    const auto d = direction_of_pixel(made.camera, m.at[0], m.at[1]);
    const auto px = pixel_of_direction(c, d);
    lamps.push_back({fmt::format("lamp {}", i),
                     {px[0] - 0.5 * size.width, px[1] - 0.5 * size.height},
                     Length::from_m(m.z_m / scale),
                     {}});
  }
  const LampPairs pairs = pair_lamps(discs, lamps, c.focal / c.pixel_pitch(), size.width);
  std::vector<Observation> seen = pairs.discs;
  if (pairs.view) seen.push_back(*pairs.view);
  if (found.iris.height_over_width.value > 0.0 && found.discs.size() >= 3) {
    Observation o;
    o.kind = Observation::Kind::oval;
    o.name = "shape of the discs";
    o.value = found.iris.height_over_width.value;
    o.sigma = std::hypot(0.5 * found.iris.height_over_width.margin, 0.004);
    seen.push_back(o);
  }
  return seen;
}

using SumsByParameter = std::map<Parameter, Sums>;

void one(std::uint32_t seed, const std::string& folder, const MatchSettings& settings,
         SumsByParameter& sums, int& plates) {
  const MadePlate made = made_plate(seed, {.kept = folder});
  if (made.discs.size() < 6) return;
  ++plates;
  const FoundDiscs found = discs_in_plate(made.picture);
  CameraEstimate truth{made.body, made.lens, made.take, made.camera.focus};
  std::mt19937 random(seed + 77U);
  std::normal_distribution<double> normal(0.0, 1.0);
  for (int turn = 0; turn < 3; ++turn) {
    const CameraEstimate notes = missed(truth, settings, random);
    const double scale = std::exp(deviation(Parameter::scale, settings) * normal(random));
    const std::vector<Observation> seen = observed(found, made, notes, scale);
    if (seen.size() < 5) continue;
    const MatchResult m = match(notes, seen, settings);
    std::string line;
    for (const FittedParameter& u : m.parameters) {
      const std::map<Parameter, double> is{{Parameter::focal, truth.lens.focal.mm()},
                                           {Parameter::gate, recorded_gate(truth.body).width.mm()},
                                           {Parameter::stop, truth.take.stop.value},
                                           {Parameter::focus, truth.focus.m()},
                                           {Parameter::squeeze, truth.lens.squeeze},
                                           {Parameter::scale, scale}};
      const double true_value = is.at(u.parameter);
      Sums& s = sums[u.parameter];
      ++s.cases;
      const double off = std::abs(u.value - true_value);
      s.covered += off <= 0.98 * u.margin ? 1 : 0;  // 1.96 deviations: 95 %
      const auto bound = bounds().find(u.parameter);
      if (bound != bounds().end() && u.margin <= bound->second * u.value) {
        ++s.known;
        s.good += off <= bound->second * true_value ? 1 : 0;
      }
      line += fmt::format("  {} {:+.2f} ± {:.2f} %", to_string(u.parameter),
                          100.0 * (u.value / true_value - 1.0), 100.0 * u.margin / u.value);
    }
    fmt::print("{:4} {:28} {:2} seen{}\n", seed, made.message, seen.size(), line);
  }
}

void all(int wanted, int first, const std::string& folder, const MatchSettings& settings,
         const char* title) {
  SumsByParameter sums;
  int plates = 0;
  for (int i = 0; plates < wanted && i < 3 * wanted; ++i) {
    one(static_cast<std::uint32_t>(first + i), folder, settings, sums, plates);
  }
  Sums whole;
  fmt::print("{}\n", title);
  for (const auto& [u, s] : sums) {
    whole.cases += s.cases;
    whole.covered += s.covered;
    fmt::print("{:14} {:4} cases, margins hold {:5.1f} %", to_string(u), s.cases,
               100.0 * s.covered / std::max(1, s.cases));
    const auto bound = bounds().find(u);
    if (bound != bounds().end()) {
      fmt::print("; where the margin is within {:g} %: {} of {} are", 100.0 * bound->second, s.good,
                 s.known);
    }
    fmt::print("\n");
  }
  fmt::print("plates {}  margins hold {:.1f} %\n", plates,
             100.0 * whole.covered / std::max(1, whole.cases));
}

}  // namespace

int main(int argc, char** argv) {
  const int wanted = argc > 1 ? std::atoi(argv[1]) : 10;
  const int first = argc > 2 ? std::atoi(argv[2]) : 1;
  const std::string folder = argc > 3 ? argv[3] : "";
  try {
    all(wanted, first, folder, {}, "notes as usual");
    all(wanted, first, folder, {.doubts = {{Parameter::gate, 0.0005}, {Parameter::scale, 0.001}}},
        "a measured set");
  } catch (const std::exception& e) {
    std::cerr << "matched: " << e.what() << '\n';
    return 1;
  }
  return 0;
}
