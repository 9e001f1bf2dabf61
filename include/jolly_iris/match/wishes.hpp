// Several wishes at once: the focus, stop, lens, stand and places that fulfil them best, and which
// of them had to give way.
//
//   WishProblem p{.body = body, .lens = lens, .take = take, .focus = 2.35_m};
//   p.subjects = {{"buoy", 4.2_m}, {"footbridge", 18.5_m}};
//   p.wishes = {{Wish::Kind::blur, 0, 3.0}, {Wish::Kind::blur_at_least, 1, 20.0}};
//   p.free = {.stop = true, .focus = true};
//   const WishAnswer best = fulfil(p);
//
// What is minimised is the sum of squares of how far each wish is missed, against its size: a blur
// of 3 px and one of 20 px count alike. Limits are kept in any case. Where several answers are as
// good, the one that is nearest to what is there now is taken.
#pragma once

#include <cstddef>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/blur_override.hpp"
#include "jolly_iris/optics/body.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/lens.hpp"
#include "jolly_iris/optics/seen_blur.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "jolly_iris/optics/take.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct Wish {
  enum class Kind {
    sharp,          ///< blurred by no more than the criterion
    blur,           ///< by so many px
    blur_at_least,  ///< by so many px or more
    blur_at_most,   ///< by so many px or less
    same_size       ///< as large in the picture as it is now
  };
  Kind kind = Kind::sharp;
  std::size_t subject = 0;
  double px = 0.0;  ///< of the picture's height, > 0; of the three blurs
};

struct WishSubject {
  std::string name{};
  Length axial{};  ///< now; may be infinite, but cannot move then
  GatePlace at{};  ///< where the picture shows it now
};

/// What may change.
struct WishFreedom {
  bool stop = false;
  bool focus = false;
  bool focal = false;
  bool camera = false;  ///< along its view: all subjects get farther or nearer alike
  std::vector<std::size_t> subjects{};  ///< these move along the view
};

struct WishProblem {
  Body body{};
  Lens lens{};
  Take take{};
  BlurOverride blur_override{};
  Criterion criterion{};
  Length focus{};  ///< now
  std::vector<WishSubject> subjects{};
  std::vector<Wish> wishes{};
  WishFreedom free{};
  std::optional<double> widest{};    ///< marked number of the stop; none: the lens's widest
  std::optional<double> smallest{};  ///< likewise; none: f/64
};

/// What became of one wish.
struct WishReached {
  double px = 0.0;      ///< blur of its subject, without sign; a size wish: size against now
  double missed = 0.0;  ///< px by which it is missed, 0: it is met; a size wish: its share
  bool met = false;
};

struct WishAnswer {
  Stop stop{};
  Length focus{};
  Length focal{};                     ///< marked
  Length back{};                      ///< the camera stands so much farther back
  std::vector<Length> subjects{};     ///< where they are then, axial, from where the camera is then
  std::vector<WishReached> wishes{};  ///< one each
  VirtualCamera camera{};
  bool at_widest = false;  ///< the stop is at its limit
  bool at_smallest = false;
  bool all_met() const;
};

/// @throws UsageError for no wish, nothing that may change, a subject that is infinite and shall
/// move
/// @throws OpticsError where no camera of the lens can be resolved at all
WishAnswer fulfil(const WishProblem& problem);

}  // namespace jolly_iris
