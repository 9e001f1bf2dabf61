// Halo, spikes and streak of a large picture against the Fourier transforms they consist of, alone;
// grain and smear against defocus. A smear has no one worst case: all of the frame goes (a pan),
// and a thing as large as half the frame passes before what stands.
#include <fmt/format.h>

#include <array>
#include <chrono>
#include <complex>
#include <cstdlib>
#include <kissfft/kissfft.hh>
#include <vector>

#include "jolly_iris/jolly_iris.hpp"

namespace {

template <class Work>
double seconds_of(const Work& work) {
  const auto begin = std::chrono::steady_clock::now();
  work();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
}

}  // namespace

int main(int argc, char** argv) {
  using namespace jolly_iris;
  if (argc != 2) {
    fmt::print(stderr, "usage: finish_speed SHOT\n");
    return 2;
  }
  std::vector<std::string> files;
  const VirtualCamera camera = open_shot({.file = argv[1]}, files).answer.camera;
  const PixelSize size{3840, 2160};
  Picture picture(size, {0.1F, 0.1F, 0.1F, 1.0F});
  for (int i = 0; i < 200; ++i)
    picture.at(i * 19, (i * 37) % 2160) = {500.0F, 400.0F, 300.0F, 1.0F};
  Finish finish;
  finish.halo = Halo{{0.04, 0.04, 0.04}, {BlurSize::Kind::percent, 0.4}, 3.0};
  finish.spikes = Spikes{};
  finish.streak = Streak{0.02, {}, {BlurSize::Kind::percent, 3.0}, 2.0, {0.3, 0.6, 1.0}};
  const double whole = seconds_of([&] { (void)after_lens(picture, camera, finish); });
  // Five shapes and three colours there, three colours back, at twice the size.
  const PixelSize padded{7680, 4320};
  const kissfft<double> row(static_cast<std::size_t>(padded.width / 2), false);
  const kissfft<double> column(static_cast<std::size_t>(padded.height), false);
  std::vector<std::complex<double>> in(8192), out(8192);
  for (std::size_t i = 0; i < in.size(); ++i) in[i] = {0.3 * static_cast<double>(i % 7), 0.1};
  constexpr int times = 40;
  const double one_row = seconds_of([&] {
                           for (int i = 0; i < times; ++i) row.transform(in.data(), out.data());
                         }) /
                         times;
  const double one_column = seconds_of([&] {
                              for (int i = 0; i < times; ++i)
                                column.transform(in.data(), out.data());
                            }) /
                            times;
  const double transform = padded.height / 2 * one_row + (padded.width / 2 + 1) * one_column;
  constexpr int cores = 2;
  const double alone = 11.0 * transform / cores;
  fmt::print("halo, spikes and streak {:.1f} s, their transforms alone {:.1f} s: {:.2f}\n", whole,
             alone, whole / alone);
  Finish grain;
  grain.grain =
      Grain{{0.001, 0.001, 0.001}, {0.006, 0.006, 0.006}, {BlurSize::Kind::percent, 0.03}};
  Picture ungrained = picture;
  const double grained = seconds_of([&] { (void)after_lens(std::move(ungrained), camera, grain); });
  Frame frame{picture, {}, {}};
  DefocusSettings settings;
  settings.coc_px.assign(picture.pixels().size(), 40.0F);
  const double blurred = seconds_of([&] { (void)defocus(frame, camera, settings); });
  fmt::print("grain {:.2f} s, a defocus of 40 px discs {:.2f} s: {:.2f}\n", grained, blurred,
             grained / blurred);
  settings.coc_px.assign(picture.pixels().size(), 60.0F);
  const double discs = seconds_of([&] { (void)defocus(frame, camera, settings); });
  MotionVectors pan{
      size, std::vector<std::array<float, 2>>(picture.pixels().size(), {118.0F, 22.0F}), {}};
  const ShutterSpan span = shutter_span(0.5, ShutterPlace::centred);
  frame.depth.assign(picture.pixels().size(), 10.0F);
  const double panned = seconds_of([&] { (void)smeared(frame, pan, span); });
  MotionVectors passing = pan;
  for (int y = 0; y < size.height; ++y) {
    for (int x = 0; x < size.width; ++x) {
      const auto i = static_cast<std::size_t>(y) * static_cast<std::size_t>(size.width) +
                     static_cast<std::size_t>(x);
      const bool thing = std::abs(2 * x - size.width) < 2 * size.width / 3 &&
                         std::abs(2 * y - size.height) < 3 * size.height / 4;
      if (thing) frame.depth[i] = 2.0F;
      if (!thing) passing.px_a_frame[i] = {0.0F, 0.0F};
    }
  }
  const double passed = seconds_of([&] { (void)smeared(frame, passing, span); });
  fmt::print(
      "smear of 60 px, panned {:.2f} s, passing {:.2f} s, a defocus of 60 px discs {:.2f} s: "
      "{:.2f} and {:.2f}\n",
      panned, passed, discs, panned / discs, passed / discs);
}
