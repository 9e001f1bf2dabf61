// What measuring finds on plates that it shares no code with (tests/plates), over the whole grid of
// irises, squeezes, files and edges.
//
//   grid [PLATES] [FIRST SEED] [FOLDER]
//
// A line a plate (with DISCS set, a line a disc), then how many whole discs were found by squeeze
// and blades, and by file kind how many margins hold. Plates are kept in the folder.
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdlib>
#include <iostream>
#include <map>

#include "../tests/plates/grid.hpp"
#include "jolly_iris/jolly_iris.hpp"

namespace {

using namespace jolly_iris;

struct Share {
  int of = 0;
  int hits = 0;
  void count(bool hit) {
    ++of;
    hits += hit ? 1 : 0;
  }
  double percent() const { return of == 0 ? 0.0 : 100.0 * hits / of; }
  std::string words() const { return fmt::format("{:5.1f} % of {:<4}", percent(), of); }
};

struct Sums {
  int plates = 0;
  int false_discs = 0;
  Share found{};
  Share near{};  // diameters within 1 % + 0.2 px, clipped two times at the most
  std::map<std::pair<double, int>, Share> cells{};
  // By file kind: do margins hold?
  std::map<std::string, Share> diameter{}, rotation{}, curvature{}, squeeze{};
  std::map<std::string, Share> by_edges{};  // diameters
  Share told{};                             // irises of easy plates
  int blades_right = 0;
  int blades_wrong_and_sure = 0;
  double seconds = 0.0;
};

double turned_off(double found, double true_deg, int blades) {
  const double turn = 360.0 / blades;
  const double off = found - true_deg;
  return off - turn * std::round(off / turn);
}

void one(std::uint32_t seed, const std::string& folder, Sums& sums) {
  const plates::GridPlate made = plates::grid_plate(seed);
  const std::vector<bool> whole = plates::whole_discs(made.drawing);
  if (std::count(whole.begin(), whole.end(), true) < 6) return;
  const Picture picture = plates::picture_of(made, folder);
  const auto start = std::chrono::steady_clock::now();
  const FoundDiscs found = discs_in_plate(picture);
  sums.seconds += std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
  ++sums.plates;
  const bool words = std::getenv("DISCS") != nullptr;
  const plates::Opening& opening = made.drawing.opening;
  Share here;
  int inside = 0;
  double worst = 0.0;
  for (std::size_t i = 0; i < whole.size(); ++i) {
    if (!whole[i]) continue;
    const plates::Lamp& lamp = made.drawing.lamps[i];
    const PlateDisc* best = nullptr;
    for (const PlateDisc& f : found.discs) {
      const double apart = std::hypot(f.at[0] - lamp.at.x, f.at[1] - lamp.at.y);
      if (apart < 0.25 * lamp.height_px) best = &f;
    }
    here.count(best != nullptr);
    sums.found.count(best != nullptr);
    sums.cells[{made.drawing.squeeze, opening.blades}].count(best != nullptr);
    if (best == nullptr) {
      if (words) {
        std::string why = "not looked at";
        for (const RejectedDisc& r : found.rejected) {
          if (std::hypot(r.at[0] - lamp.at.x, r.at[1] - lamp.at.y) < 0.4 * lamp.height_px) {
            why = fmt::format("{:.1f} px: {}", r.diameter_px, r.why);
          }
        }
        fmt::print("    missed {:6.1f} {:6.1f}  {:5.2f} px  {}\n", lamp.at.x, lamp.at.y,
                   lamp.height_px, why);
      }
      continue;
    }
    const double off = best->height_px.value - lamp.height_px;
    const bool holds = std::abs(off) <= best->height_px.margin;
    inside += holds ? 1 : 0;
    sums.diameter[made.file_kind()].count(holds);
    sums.by_edges[plates::name_of(made.camera.edges)].count(holds);
    if (made.clipped <= 2.0) sums.near.count(std::abs(off) <= 0.01 * lamp.height_px + 0.2);
    worst = std::max(worst, std::abs(off));
    if (words) {
      fmt::print(
          "    {:6.1f} {:6.1f}  {:5.2f} -> {:5.2f} ± {:.2f}  {:+.2f}  soft {:.2f} left {:.2f} "
          "{}{}\n",
          lamp.at.x, lamp.at.y, lamp.height_px, best->height_px.value, best->height_px.margin, off,
          best->edge_sigma_px, best->residual, best->clipped ? "clipped " : "",
          best->outlier ? "outlier" : "");
    }
  }
  int wrong = 0;
  for (const PlateDisc& f : found.discs) {
    const bool real = std::any_of(
        made.drawing.lamps.begin(), made.drawing.lamps.end(), [&](const plates::Lamp& d) {
          return std::hypot(f.at[0] - d.at.x, f.at[1] - d.at.y) < 0.5 * d.height_px + 2.0;
        });
    wrong += real ? 0 : 1;
  }
  sums.false_discs += wrong;
  const PlateIris& iris = found.iris;
  const std::string kind = made.file_kind();
  const int true_blades = opening.round() ? 0 : opening.blades;
  std::string shape;
  int large = 0;
  for (std::size_t i = 0; i < whole.size(); ++i) {
    large += whole[i] && made.drawing.lamps[i].height_px >= 40.0 ? 1 : 0;
  }
  if (large >= 10 && true_blades <= 9 && made.clipped <= 2.0) sums.told.count(iris.sure());
  if (iris.known && iris.sure()) {
    const bool right = iris.blades == true_blades;
    (right ? sums.blades_right : sums.blades_wrong_and_sure) += 1;
    if (right && true_blades > 0) {
      const double off = turned_off(iris.rotation_deg.value, opening.rotation_deg, true_blades);
      // Odd blades may all be the other way up, where nobody says which side of the focus they are.
      const double half =
          turned_off(iris.rotation_deg.value, opening.rotation_deg + 180.0, true_blades);
      const double least = std::abs(off) < std::abs(half) ? off : half;
      sums.rotation[kind].count(std::abs(least) <= iris.rotation_deg.margin);
      const double bend = iris.curvature.value - opening.curvature;
      sums.curvature[kind].count(std::abs(bend) <= iris.curvature.margin);
      shape = fmt::format("rot {:+.2f} ± {:.2f} curv {:+.3f} ± {:.3f}", least,
                          iris.rotation_deg.margin, bend, iris.curvature.margin);
    }
  }
  if (iris.height_over_width.value > 0.0) {
    sums.squeeze[kind].count(std::abs(iris.height_over_width.value - made.drawing.squeeze) <=
                             iris.height_over_width.margin);
  }
  fmt::print(
      "{:5} {:44} {:2} of {:2}  {:2} hold  worst {:.2f}  {} false  {}{}{}  sq {:.3f} ± {:.3f}  "
      "{}\n",
      seed, made.words(), here.hits, here.of, inside, worst, wrong,
      iris.known ? fmt::format("{}", iris.blades) : "-", iris.sure() ? "!" : "?",
      iris.known && iris.sure() && iris.blades != true_blades ? " WRONG" : "",
      iris.height_over_width.value, iris.height_over_width.margin, shape);
  std::fflush(stdout);
}

void table(const char* what, const std::map<std::string, Share>& by) {
  fmt::print("{:<12}", what);
  for (const auto& [kind, share] : by) fmt::print("  {} {}", kind, share.words());
  fmt::print("\n");
}

}  // namespace

int main(int argc, char** argv) {
  const int plates = argc > 1 ? std::atoi(argv[1]) : 32;
  const int first = argc > 2 ? std::atoi(argv[2]) : 1;
  const std::string folder =
      argc > 3 ? argv[3] : (std::filesystem::temp_directory_path() / "jolly_iris_grid").string();
  Sums s;
  try {
    for (int i = 0; i < plates; ++i) one(static_cast<std::uint32_t>(first + i), folder, s);
  } catch (const std::exception& e) {
    std::cerr << "grid: " << e.what() << '\n';
    return 1;
  }
  fmt::print("\n{} plates, {:.2f} s each; found {}, {} false\n", s.plates,
             s.seconds / std::max(1, s.plates), s.found.words(), s.false_discs);
  fmt::print("\nfound, by squeeze and blades\n{:>6}", "");
  for (const int b : plates::grid_blades)
    fmt::print("{:>16}", b == 0 ? "round" : std::to_string(b));
  fmt::print("\n");
  for (const double q : plates::grid_squeezes) {
    fmt::print("{:6.2f}", q);
    for (const int b : plates::grid_blades) fmt::print("  {:>14}", s.cells[{q, b}].words());
    fmt::print("\n");
  }
  fmt::print("\nmargins that hold\n");
  table("diameter", s.diameter);
  table("  by edges", s.by_edges);
  table("rotation", s.rotation);
  table("curvature", s.curvature);
  table("squeeze", s.squeeze);
  fmt::print("\ndiameters within 1 % + 0.2 px, clipped twice at most: {}\n", s.near.words());
  fmt::print("blades right {}, wrong while sure {}; told in easy plates {}\n", s.blades_right,
             s.blades_wrong_and_sure, s.told.words());
  return 0;
}
