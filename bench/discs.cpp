// What measuring finds in plates whose truth is known: the tracer's, from random cameras.
//
//   discs [PLATES] [FIRST SEED] [FOLDER]
//
// Each plate is a field of lamps before and behind the focus, on a textured ground, through a
// random lens, as half floats with noise or as clipped 8-bit JPEG. Prints per plate, and pooled,
// how far off diameters, blades, rotation, curvature and squeeze are. Plates are kept in the
// folder, and taken from there the next time: tracing them is what takes long.
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdlib>
#include <iostream>

#include "../tests/made_plate.hpp"
#include "jolly_iris/jolly_iris.hpp"

namespace {

using namespace jolly_iris;
using namespace jolly_iris::testing;

struct Sums {
  int plates = 0;
  int discs = 0;
  int good = 0;
  int missed = 0;
  int false_discs = 0;
  int shapes = 0;
  int blades_right = 0;
  int blades_wrong_and_sure = 0;
  int rotation_good = 0;
  int rotations = 0;
  int curvature_good = 0;
  int squeeze_good = 0;
  int within_margin = 0;
  int vignettings = 0;  // seen where there is none
};

void one(std::uint32_t seed, const std::string& folder, Sums& sums) {
  const MadePlate made = made_plate(seed, {.kept = folder});
  if (made.discs.size() < 6) return;
  auto start = std::chrono::steady_clock::now();
  FoundDiscs found = discs_in_plate(made.picture);
  if (std::getenv("TWICE")) {
    start = std::chrono::steady_clock::now();
    found = discs_in_plate(made.picture);
  }
  const double seconds =
      std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  ++sums.plates;
  int here = 0;
  int good = 0;
  std::vector<double> worst;
  for (const MadeDisc& d : made.discs) {
    const PlateDisc* best = nullptr;
    for (const PlateDisc& f : found.discs) {
      const double apart = std::hypot(f.at[0] - d.at[0], f.at[1] - d.at[1]);
      if (apart < 0.3 * std::abs(d.height_px) &&
          (best == nullptr || apart < std::hypot(best->at[0] - d.at[0], best->at[1] - d.at[1]))) {
        best = &f;
      }
    }
    if (best == nullptr) {
      ++sums.missed;
      continue;
    }
    ++here;
    const double off = best->height_px.value - std::abs(d.height_px);
    worst.push_back(std::abs(off));
    if (std::abs(off) <= 0.007 * std::abs(d.height_px) + 0.15) ++good;
    if (std::abs(off) <= best->height_px.margin) ++sums.within_margin;
    if (std::getenv("DISCS") != nullptr) {
      fmt::print(
          "    {:7.1f} {:7.1f}  true {:7.2f}  found {:7.2f} ± {:.2f}  off {:+.2f}  cut {:.2f} soft "
          "{:.2f} left {:.2f} rim {:+.2f} A {:.2f} ({:.2f}) {}{}\n",
          d.at[0], d.at[1], d.height_px, best->height_px.value, best->height_px.margin, off,
          best->cut, best->edge_sigma_px, best->residual, best->edge_falloff_stops, best->contrast,
          d.value, best->clipped ? "clipped " : "", d.clean ? "" : "mixed");
    }
  }
  if (std::getenv("DISCS") != nullptr) {
    for (const RejectedDisc& r : found.rejected) {
      for (const MadeDisc& d : made.discs) {
        if (std::hypot(r.at[0] - d.at[0], r.at[1] - d.at[1]) < 0.3 * std::abs(d.height_px)) {
          fmt::print("    refused {:.1f} {:.1f} d {:.1f} true {:.1f}: {}\n", r.at[0], r.at[1],
                     r.diameter_px, d.height_px, r.why);
        }
      }
    }
  }
  int wrong = 0;
  for (const PlateDisc& f : found.discs) {
    const bool real = std::any_of(made.all.begin(), made.all.end(), [&](const MadeDisc& d) {
      return std::hypot(f.at[0] - d.at[0], f.at[1] - d.at[1]) < 0.5 * std::abs(d.height_px) + 2.0;
    });
    if (real) continue;
    ++wrong;
    if (std::getenv("DISCS") != nullptr) {
      fmt::print(
          "    false {:.1f} {:.1f}  {:.2f} x {:.2f} ± {:.2f}  off {:.2f} cut {:.2f} soft {:.2f} A "
          "{:.3f}\n",
          f.at[0], f.at[1], f.width_px.value, f.height_px.value, f.height_px.margin, f.residual,
          f.cut, f.edge_sigma_px, f.contrast);
    }
  }
  sums.discs += here;
  sums.good += good;
  sums.false_discs += wrong;
  sums.vignettings += found.vignetting.known ? 1 : 0;
  const PlateIris& iris = found.iris;
  const bool cornered = made.curvature <= 1.0 / 1.7 + 1e-9 && made.iris.blades > 0;
  const bool large = std::any_of(made.discs.begin(), made.discs.end(),
                                 [](const MadeDisc& d) { return std::abs(d.height_px) >= 40.0; });
  std::string shape = "-";
  if (cornered && large) {
    ++sums.shapes;
    const bool right = iris.blades == made.iris.blades;
    if (right) ++sums.blades_right;
    if (!right && iris.sure()) ++sums.blades_wrong_and_sure;
    if (right) {
      ++sums.rotations;
      const double turn = 360.0 / iris.blades;
      double off = iris.rotation_deg.value - made.iris.rotation.degrees();
      off -= turn * std::round(off / turn);
      // Of odd blades: upright or turned, where nobody says which.
      const double half = off - 0.5 * turn * (off > 0 ? 1 : -1);
      if (std::min(std::abs(off), std::abs(half)) <= 1.5) ++sums.rotation_good;
      if (std::abs(iris.curvature.value - made.curvature) <= 0.06) ++sums.curvature_good;
      shape = fmt::format("rot {:+.2f} curv {:+.3f} ± {:.3f}", off,
                          iris.curvature.value - made.curvature, iris.curvature.margin);
    }
  }
  if (found.iris.height_over_width.value > 0.0 &&
      std::abs(found.iris.height_over_width.value / made.height_over_width - 1.0) <= 0.007) {
    ++sums.squeeze_good;
  }
  std::sort(worst.begin(), worst.end());
  fmt::print(
      "{:4}  {:28} {:3} true {:3} found {:3} good {:2} false  p95 {:.2f} px  blades {} -> {}{} "
      "[{}]  {}  squeeze "
      "{:.3f} -> {:.3f}{}  {:.2f} s\n",
      seed, made.message, made.discs.size(), here, good, wrong,
      worst.empty() ? 0.0
                    : worst[static_cast<std::size_t>(0.95 * static_cast<double>(worst.size() - 1))],
      made.iris.blades, iris.blades, iris.sure() ? "!" : "?", fmt::join(iris.could_be, ","), shape,
      made.height_over_width, found.iris.height_over_width.value,
      found.vignetting.known
          ? fmt::format("  a barrel of {:.2f}, {:+.2g} a px", found.vignetting.radius.value,
                        found.vignetting.shift.value)
          : "",
      seconds);
  std::fflush(stdout);
}

}  // namespace

int main(int argc, char** argv) {
  const int plates = argc > 1 ? std::atoi(argv[1]) : 10;
  const int first = argc > 2 ? std::atoi(argv[2]) : 1;
  const std::string folder = argc > 3 ? argv[3] : "";
  Sums s;
  try {
    for (int i = 0; s.plates < plates && i < 3 * plates; ++i)
      one(static_cast<std::uint32_t>(first + i), folder, s);
  } catch (const std::exception& e) {
    std::cerr << "discs: " << e.what() << '\n';
    return 1;
  }
  fmt::print(
      "plates {}  discs {} found, {} missed, {} false; diameters good {:.1f} %, within margin "
      "{:.1f} %\n"
      "blades right {}/{}, wrong while sure {}; rotation {}/{}, curvature {}/{}; squeeze {}/{}; {} "
      "barrels where there is none\n",
      s.plates, s.discs, s.missed, s.false_discs, 100.0 * s.good / std::max(1, s.discs),
      100.0 * s.within_margin / std::max(1, s.discs), s.blades_right, s.shapes,
      s.blades_wrong_and_sure, s.rotation_good, s.rotations, s.curvature_good, s.rotations,
      s.squeeze_good, s.plates, s.vignettings);
  return 0;
}
