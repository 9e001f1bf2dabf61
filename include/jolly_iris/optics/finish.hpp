// What light does after the opening, as a shot wants it: each part is off unless it is there.
//
//   Finish finish;
//   finish.halo = Halo{.fraction = {0.04, 0.04, 0.04}, .reach = {BlurSize::Kind::pixels, 6.0}};
//   finish.grain = Grain{.black = {0.001, 0.001, 0.001}, .grey = {0.008, 0.008, 0.008}};
//   const FinishedPicture out = finished(picture, camera, finish);   // picture/finish.hpp
//
// The parts always come in this order: lifted highlights and smear before the blur; behind it halo,
// spikes and streak together; darker corners; exposure and white; cast; grain.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/blur_size.hpp"
#include "jolly_iris/optics/primaries.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// What lies above `from` is brought up, smoothly and with its ratios of red, green and blue, so
/// that the picture's brightest reaches `to`. Stops are from mid-grey (0.18), of the largest
/// channel.
struct HighlightLift {
  double from_stops = 0.0;
  double to_stops = 0.0;  ///< above from_stops
  /// What counts as the brightest; none: the picture's own, which over frames is another each time.
  std::optional<double> peak_stops{};
  /// The colour of what is brightest and white (all channels within a hundredth of each other).
  std::optional<Rgb> lamp_colour{};
  friend bool operator==(const HighlightLift&, const HighlightLift&) = default;
};

/// When the shutter is open, told from the frame's own moment.
enum class ShutterPlace { centred, from_frame, to_frame };

/// How motion vectors in a picture are meant: there is no common way, so all of it is said.
struct VectorMeaning {
  enum class Way {
    to_next,    ///< where a pixel's content goes until the next frame
    from_last,  ///< how it came since the last frame
    to_last     ///< back to where it was at the last frame
  };
  Way way = Way::to_next;
  bool up = false;            ///< the second number counts upward
  bool of_the_width = false;  ///< numbers are shares of the picture's width and height, not px
  friend bool operator==(const VectorMeaning&, const VectorMeaning&) = default;
};

/// What moves while the shutter is open is drawn out along its way, evenly in time.
struct Smear {
  enum class From {
    scene,   ///< the shot's scene says how its nodes and the camera move
    camera,  ///< only the camera moves; where things are is the picture's depth
    vectors  ///< a renderer's motion vectors
  };
  From from = From::scene;
  ShutterPlace shutter = ShutterPlace::centred;
  double times = 1.0;            ///< 1: as long as the take's shutter is open; > 0
  std::string file{};            ///< of the vectors; empty: they are in the picture itself
  std::string layer = "motion";  ///< whose first two channels are the vectors
  VectorMeaning meaning{};
  friend bool operator==(const Smear&, const Smear&) = default;
};

/// Soft light around everything bright, from glass, coatings and dirt: a share of the light is
/// spread by (1 + (r/reach)²)^(−power/2).
struct Halo {
  Rgb fraction{};      ///< of red, green and blue, 0 … 1
  BlurSize reach{};    ///< the radius in which it is about even, > 0
  double power = 3.0;  ///< how quickly it falls farther out, > 2
  friend bool operator==(const Halo&, const Halo&) = default;
};

/// Rays by diffraction at the edges of the opening.
struct Spikes {
  double times = 1.0;  ///< 1: as much light as physics says; more is a wish
  friend bool operator==(const Spikes&, const Spikes&) = default;
};

/// A line through everything bright, from cylindrical glass or a filter of fine grooves: a share of
/// the light is spread along it by (1 + (r/reach)²)^(−power/2).
struct Streak {
  double fraction = 0.0;      ///< 0 … 1, of the channel that `colour` has most of
  Angle direction{};          ///< counter-clockwise from level
  BlurSize reach{};           ///< > 0
  double power = 2.0;         ///< > 1
  Rgb colour{1.0, 1.0, 1.0};  ///< ≥ 0, not all 0
  friend bool operator==(const Streak&, const Streak&) = default;
};

/// Darker corners, turned by hand: stops × (r / corner)^power are lost.
struct Corners {
  double stops = 0.0;  ///< at the picture's corner; below zero they are brighter
  double power = 2.0;  ///< > 0; 2 is as cos⁴ has it, more leaves the middle alone for longer
  friend bool operator==(const Corners&, const Corners&) = default;
};

/// A colour over all, as another white would give it.
struct Cast {
  double mired = 0.0;  ///< > 0 warmer
  double tint = 0.0;   ///< Duv, > 0 greener
  friend bool operator==(const Cast&, const Cast&) = default;
};

/// Grain as a sensor has it: its variance in linear light is a + b × light in each channel.
struct Grain {
  Rgb black{};         ///< standard deviation where there is no light, ≥ 0, linear light
  Rgb grey{};          ///< the same at mid-grey (0.18), at least as much
  BlurSize size{};     ///< standard deviation of the Gaussian that it is softened by; 0: each pixel
                       ///< by itself
  double alike = 0.0;  ///< correlation between channels, 0 … 1
  std::uint32_t seed = 1;
  friend bool operator==(const Grain&, const Grain&) = default;
};

struct Finish {
  std::optional<HighlightLift> lift{};
  std::optional<Smear> smear{};
  std::optional<Halo> halo{};
  std::optional<Spikes> spikes{};
  std::optional<Streak> streak{};
  std::optional<Corners> corners{};
  std::optional<Cast> cast{};
  std::optional<Grain> grain{};

  bool any() const { return before_lens() || scatters() || corners || cast || grain; }
  bool before_lens() const { return lift || smear; }
  bool scatters() const { return halo || spikes || streak; }
  friend bool operator==(const Finish&, const Finish&) = default;
};

}  // namespace jolly_iris
