// How quick measuring and matching are: a plate of 3840 x 2160 with 200 discs of 40 px in the
// middle, one match with 60 observations, and all mistakes with their pairs.
//
//   match_speed [RUNS]
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdlib>
#include <functional>
#include <iostream>
#include <random>

#include "jolly_iris/jolly_iris.hpp"

namespace {

using namespace jolly_iris;

double seconds(const std::function<void()>& work) {
  const auto start = std::chrono::steady_clock::now();
  work();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

VirtualCamera camera() {
  const Iris iris{.blades = 7, .rotation = 11_deg, .blade_radius = BladeRadius::multiple(1.5)};
  const Body body{.gate = {25.9_mm, 14.56875_mm}, .pixels = {3840, 2160}};
  return resolve(body, {.focal = 53_mm, .iris = iris}, {.stop = f_number(2.8)}, 2_m);
}

// Lamps apart from each other on a ground of soft patches with grain, as half floats or clipped.
Picture plate(bool clipped) {
  const VirtualCamera c = camera();
  Frame frame{Picture(c.pixels, {0, 0, 0, 1}), {}};
  std::mt19937 random(7);
  std::uniform_real_distribution<double> even(0.0, 1.0);
  std::normal_distribution<double> psf_sigma(0.0, 1.0);
  for (int y = 0; y < c.pixels.height; ++y) {
    for (int x = 0; x < c.pixels.width; ++x) {
      const double v = 0.05 + 0.03 * std::sin(x / 190.0) * std::cos(y / 130.0) +
                       0.01 * std::sin(x / 23.0 + y / 31.0);
      frame.colour.at(x, y) = {static_cast<float>(v), static_cast<float>(0.9 * v),
                               static_cast<float>(0.8 * v), 1.0F};
    }
  }
  frame.depth.assign(frame.colour.pixels().size(), 12.0F);
  struct Lamp {
    int x, y;
  };
  std::vector<Lamp> lamps;
  while (lamps.size() < 200) {
    const Lamp l{static_cast<int>(60 + even(random) * (c.pixels.width - 120)),
                 static_cast<int>(60 + even(random) * (c.pixels.height - 120))};
    const bool near = std::any_of(lamps.begin(), lamps.end(), [&](const Lamp& o) {
      return std::hypot(o.x - l.x, o.y - l.y) < 90.0;
    });
    if (!near) lamps.push_back(l);
  }
  for (const Lamp& l : lamps) {
    // Discs of 25 to 60 px.
    const double wanted = 25.0 * std::pow(60.0 / 25.0, even(random));
    double z = 2.2;
    while (std::abs(to_pixels(circle_of_confusion(c, Length::from_m(z)), c)) < wanted) z *= 1.005;
    const double light = 0.6 * std::numbers::pi / 4.0 * wanted * wanted * (clipped ? 3.0 : 1.0);
    frame.colour.at(l.x, l.y) = {static_cast<float>(light), static_cast<float>(0.9 * light),
                                 static_cast<float>(0.7 * light), 1.0F};
    frame.depth[static_cast<std::size_t>(l.y) * static_cast<std::size_t>(c.pixels.width) +
                static_cast<std::size_t>(l.x)] = static_cast<float>(z);
  }
  Picture out = defocus(frame, c);
  for (Rgba& p : out.pixels()) {
    for (std::size_t k = 0; k < 3; ++k) {
      const double v =
          static_cast<double>(p[k]) * (1.0 + 0.02 * psf_sigma(random)) + 0.001 * psf_sigma(random);
      p[k] = static_cast<float>(std::max(0.0, v));
      if (clipped) {  // 8 bits
        const float code = std::round(255.0F * encode(std::min(p[k], 1.0F), Transfer::srgb));
        p[k] = decode(code / 255.0F, Transfer::srgb);
      }
    }
  }
  return out;
}

CameraEstimate notes() {
  return {{.gate = {25.9_mm, 14.56875_mm}, .pixels = {1920, 1080}},
          {.focal = 44.5_mm},
          {.stop = f_number(2.0)},
          2.35_m};
}

std::vector<Observation> sixty() {
  CameraEstimate true_notes = notes();
  true_notes.lens.focal = 53_mm;
  true_notes.lens.adapter = 0.84;
  std::mt19937 random(3);
  std::normal_distribution<double> psf_sigma(0.0, 1.0);
  std::vector<Observation> all;
  for (int i = 0; i < 58; ++i) {
    Observation o;
    o.name = fmt::format("lamp {}", i);
    o.at = Length::from_m(3.0 + 0.6 * i);
    o.value = std::abs(predicted(o, true_notes));
    o.sigma = 0.01 * o.value + 0.1;
    o.value += o.sigma * psf_sigma(random);
    all.push_back(o);
  }
  Observation view;
  view.kind = Observation::Kind::view;
  view.value = predicted(view, true_notes);
  view.sigma = 0.002 * view.value;
  all.push_back(view);
  Observation oval;
  oval.kind = Observation::Kind::oval;
  oval.value = 1.0;
  oval.sigma = 0.005;
  all.push_back(oval);
  return all;
}

}  // namespace

int main(int argc, char** argv) {
  const int runs = argc > 1 ? std::atoi(argv[1]) : 3;
  try {
    for (const bool clipped : {false, true}) {
      const Picture p = plate(clipped);
      double min = 1e9;
      FoundDiscs found;
      for (int i = 0; i < runs; ++i) {
        min = std::min(min, seconds([&] { found = discs_in_plate(p); }));
      }
      std::vector<double> sizes;
      for (const PlateDisc& d : found.discs) sizes.push_back(d.height_px.value);
      std::sort(sizes.begin(), sizes.end());
      fmt::print("3840 x 2160, {}: {} discs of {:.1f} px in the middle, {} in {:.2f} s\n",
                 clipped ? "8 bits, clipped" : "floats", found.discs.size(),
                 sizes.empty() ? 0.0 : sizes[sizes.size() / 2],
                 found.iris.sure() ? fmt::format("{} blades", found.iris.blades) : "no sure iris",
                 min);
    }
    const std::vector<Observation> seen = sixty();
    double one = 1e9;
    double all = 1e9;
    HypothesisRanking why;
    for (int i = 0; i < runs + 2; ++i) {
      one = std::min(one, seconds([&] { (void)match(notes(), seen); }));
      all = std::min(all, seconds([&] { why = rank_hypotheses(notes(), seen); }));
    }
    fmt::print("one match of 60 observations in {:.1f} ms\n", 1e3 * one);
    fmt::print("all mistakes and pairs in {:.2f} s; first: {}\n", all,
               why.ranked.empty() ? "none" : why.ranked.front().mistakes.front());
  } catch (const std::exception& e) {
    std::cerr << "match_speed: " << e.what() << '\n';
    return 1;
  }
  return 0;
}
