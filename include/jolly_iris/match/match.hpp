// From notes and what a plate shows to the camera that took it, with a margin for each number; and
// where notes and plate disagree, which mistake is the likeliest.
//
//   const MatchResult m = match(notes, observations);
//   m.parameters[i].value, .margin, .moved      // moved: from the note, in its own deviations
//   for (const auto& h : rank_hypotheses(notes, observations).ranked) use(h.mistakes, h.result);
//
// Every note is believed within a margin of its own (priors()); the plate pulls it from there. A
// mistake is a change to the notes that people are known to make: an adapter left out of the stop,
// feet read as metres. Each is tried, alone, in pairs and by threes, and they are ranked by how
// well they then explain the plate *for how much they assume* (Laplace's approximation of the
// evidence; e.g. MacKay, Information Theory, ch. 28).
//
// Several plates of one camera are matched together: match(std::vector<NotedPlate>{…}).
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera_estimate.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/optics/observation.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

enum class Parameter {
  focal,        ///< marked focal length
  gate,         ///< recorded gate, both sides
  stop,         ///< the f- or T-number
  focus,        ///< focus distance
  squeeze,      ///< where anything tells it
  scale,        ///< of the scene
  distance,     ///< how much farther back the camera stood than in the scene; only if asked for
  exposure,     ///< light that stop, shutter, ISO and ND do not account for; where a card tells it
  white,        ///< what the camera was told the light is; likewise
  focus_change  ///< of frames whose lamps nobody knows: dioptres against the first (follow_camera)
};

/// "focal length", "gate", "stop", "focus", "squeeze", "scene scale", "camera distance",
/// "exposure", "white", "focus change".
std::string_view to_string(Parameter parameter);

/// A value of it as it is written: "58.03 mm", "2.000", "2.350 m", "1.000 x".
std::string value_text(Parameter parameter, double value);

/// How far off a note of this kind usually is: one deviation, as a share; of the camera's distance
/// as a share of the focus distance (of 5 m where that is infinite), of the exposure in stops.
double usual_deviation(Parameter parameter);

struct FittedParameter {
  Parameter parameter = Parameter::focal;
  /// mm, mm (gate width), number, m, ratio, ratio, m, stops, K; focus may be infinite
  double noted = 0.0;   ///< as the notes have it
  double mended = 0.0;  ///< with the mistake mended that is taken for the likeliest; else as noted
  double value = 0.0;
  double margin = 0.0;      ///< two deviations
  double moved = 0.0;       ///< from the (mended) note, in the note's deviations
  bool determined = false;  ///< whether the plate says it, and not just the note
};

struct ObservationFit {
  Observation seen{};
  double noted = 0.0;     ///< what the notes alone predict
  double fitted = 0.0;    ///< what the result does
  double residual = 0.0;  ///< (fitted − seen) in deviations
};

struct MatchResult {
  std::vector<FittedParameter> parameters{};
  std::vector<ObservationFit> observations{};
  CameraEstimate estimate{};  ///< with the values that were found
  double cost = 0.0;          ///< half of χ², notes included; of plates matched together: of all
  double evidence = 0.0;      ///< logarithm; likewise
};

/// How far a note is believed, where that is not as usual.
struct PriorOverride {
  Parameter of = Parameter::focal;
  std::optional<double> deviation{};  ///< as usual_deviation counts, > 0; none: not at all
};

struct MatchSettings {
  std::vector<PriorOverride> doubts{};
  /// What plates that are matched together have in common: by how much their notes of it are off.
  std::vector<Parameter> shared{Parameter::focal, Parameter::gate, Parameter::squeeze};
  Execution execution{};
};

/// @throws UsageError for no observations, values and deviations that are not above zero, or a
///         doubt that is not; OpticsError as resolve does for notes that make no camera, and as
///         predicted
MatchResult match(const CameraEstimate& estimate, const std::vector<Observation>& seen,
                  const MatchSettings& settings = {});

/// One of several plates that the same camera took.
struct NotedPlate {
  CameraEstimate estimate{};
  std::vector<Observation> seen{};
};

/// Several plates of one camera: what is shared is one unknown for all of them, so that one plate
/// tells what another cannot. One result for each.
/// @throws as match; UsageError for no plates
std::vector<MatchResult> match(const std::vector<NotedPlate>& plates,
                               const MatchSettings& settings = {});

/// The observations with the usual error of where lamps stand (Observation::placed_px) replaced by
/// what a fit shows of it: the largest that its discs do not speak against (at 84 % of χ²), at most
/// four times as much as usual. Of fewer than four discs they are as they were.
std::vector<NotedPlate> placed_as_seen(const std::vector<NotedPlate>& plates,
                                       const std::vector<MatchResult>& fitted);

/// A mistake, or two, or one of several that look alike in this plate.
struct RankedHypothesis {
  std::vector<std::string> mistakes{};  ///< in words; of a group: one for each that fits alike
  double against_notes = 0.0;  ///< how much better than the notes alone, logarithm of the odds
  double residual_px = 0.0;    ///< root mean square of what is left over of discs and lengths, px
  int observations = 0;        ///< within two deviations
  MatchResult result{};        ///< of the first mistake; of several plates: the first plate's
  std::vector<MatchResult> others{};  ///< of the other plates
  std::string tell_apart{};           ///< of a group: what would tell which
};

struct HypothesisRanking {
  double noted_residual_px = 0.0;          ///< what the notes alone leave over
  bool notes_agree = false;                ///< nothing needs explaining
  bool none = false;                       ///< nothing explains it
  std::vector<RankedHypothesis> ranked{};  ///< the likeliest first; at most five
  std::vector<MatchResult> plain{};        ///< of the notes as they are, one a plate
};

/// Mistakes that were made in all of these plates' notes alike.
/// @param settings what notes are believed, of the notes alone as of each hypothesis
/// @throws as match
HypothesisRanking rank_hypotheses(const std::vector<NotedPlate>& plates,
                                  const MatchSettings& settings = {});
HypothesisRanking rank_hypotheses(const CameraEstimate& estimate,
                                  const std::vector<Observation>& seen);

/// A disc of the plate and a lamp of the scene, before anybody says which is which.
struct DetectedDisc {
  std::array<double, 2> at{};  ///< px from the picture's middle, x right, y down
  double height_px = 0.0;
  double sigma = 0.0;
  bool clipped = false;
};
struct ExpectedLamp {
  std::string name{};
  std::array<double, 2> at{};  ///< where the noted camera shows it, likewise
  Length z{};
  Length own{};  ///< its diameter; 0: a point, or not known
};

/// Which disc is which lamp, and by how much the plate is larger than the noted camera shows it.
/// Lamps whose names differ in their number alone are one group.
struct LampPairs {
  std::vector<Observation> discs{};   ///< of those that are paired
  std::vector<std::size_t> which{};   ///< of each of these: the disc, by number
  std::optional<Observation> view{};  ///< if at least four are
  /// Height over width of what would be round, where they lie stretched to the side.
  std::optional<Observation> stretch{};
  std::vector<std::size_t> left{};  ///< discs that no lamp explains, by number
};
/// @param focal_px pinhole focal length of the noted camera, px of height
LampPairs pair_lamps(const std::vector<DetectedDisc>& discs, const std::vector<ExpectedLamp>& lamps,
                     double focal_px, double picture_width);

}  // namespace jolly_iris
