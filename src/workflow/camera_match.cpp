#include "jolly_iris/workflow/camera_match.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "workflow/traced_discs.hpp"

namespace jolly_iris {

namespace {

// What plates of one camera have in common: of one scene, its scale as well.
std::vector<Parameter> shared_by(const std::vector<MatchedPlate>& plates) {
  std::vector<Parameter> shared = MatchSettings{}.shared;
  const auto scene_of = [](const MatchedPlate& p) {
    return p.loaded.now.scene ? p.loaded.now.scene->file : std::string();
  };
  const bool one_scene = std::all_of(plates.begin(), plates.end(), [&](const MatchedPlate& p) {
    return !scene_of(p).empty() && scene_of(p) == scene_of(plates.front());
  });
  if (one_scene) shared.push_back(Parameter::scale);
  return shared;
}

// A glass's discs depend on the camera that is looked for: they are drawn with what was found, and
// fitted again. How often at most, and from which difference of their sizes on.
constexpr int most_turns = 4;
constexpr double as_before = 0.02;

std::vector<NotedPlate> noted_plates(const CameraMatch& match) {
  std::vector<NotedPlate> noted;
  for (const MatchedPlate& p : match.plates) noted.push_back({estimate_of(p.loaded), p.seen.all});
  return noted;
}

void take_result(CameraMatch& match, bool corrects) {
  match.corrected = !match.ranking.notes_agree && !match.ranking.none && corrects;
  for (std::size_t i = 0; i < match.plates.size(); ++i) {
    MatchedPlate& plate = match.plates[i];
    plate.plain = match.ranking.plain[i];
    plate.best = plate.plain;
    if (!match.corrected) continue;
    const RankedHypothesis& first = match.ranking.ranked.front();
    plate.best = i == 0 ? first.result : first.others[i - 1];
  }
}

// Whether discs of the one camera are larger or smaller than those of the other.
bool differs(const std::vector<Observation>& seen, const CameraEstimate& a,
             const CameraEstimate& b) {
  const VirtualCamera one = camera_of(a);
  const VirtualCamera other = camera_of(b);
  return std::any_of(seen.begin(), seen.end(), [&](const Observation& o) {
    return o.kind == Observation::Kind::disc && o.at &&
           std::abs(predicted(o, a, one) - predicted(o, b, other)) > as_before * o.value;
  });
}

std::size_t lamps_in(const MatchedPlate& plate) {
  return static_cast<std::size_t>(std::count_if(
      plate.seen.all.begin(), plate.seen.all.end(),
      [](const Observation& o) { return o.kind == Observation::Kind::disc && o.at.has_value(); }));
}

// Whether of the discs, drawn as the glass makes them, more than a third are none to the finder,
// which saw all of them in the plate.
bool is_untold(const MatchedPlate& plate) {
  return plate.traced && 3 * plate.untold.size() > lamps_in(plate);
}

// Cameras that go with the plate where the stop, or else the focus, is not believed at all.
std::vector<CameraEstimate> freed(const std::vector<NotedPlate>& noted, MatchSettings settings,
                                  std::size_t plate) {
  std::vector<CameraEstimate> out;
  for (const Parameter free : {Parameter::stop, Parameter::focus}) {
    settings.doubts = {{free, {}}};
    out.push_back(match(noted, settings)[plate].estimate);
  }
  return out;
}

// Draws each plate's discs with the camera that it is thought to be.
// @param fitted whether there is a result yet
// @param drawn with which they were drawn last; none: not yet
// @return whether any was drawn anew
bool trace_plates(CameraMatch& match, const CameraMatchRequest& request,
                  const MatchSettings& settings, bool fitted,
                  std::vector<std::optional<CameraEstimate>>& drawn) {
  bool any = false;
  for (std::size_t i = 0; i < match.plates.size(); ++i) {
    MatchedPlate& plate = match.plates[i];
    if (plate.loaded.now.lens.glass.empty()) continue;
    std::vector<CameraEstimate> at{estimate_of(plate.loaded)};
    if (fitted) {
      // With what the likeliest mistake makes of the notes no ray may be traced: then as without
      // it. Where hardly any disc is drawn as it is seen, the notes lead to nowhere.
      at = {plate.best.estimate, plate.plain.estimate};
      if (is_untold(plate)) {
        const std::vector<CameraEstimate> more = freed(noted_plates(match), settings, i);
        at.insert(at.begin(), more.begin(), more.end());
      }
    }
    for (const CameraEstimate& one : at) {
      if (drawn[i] && !differs(plate.seen.all, *drawn[i], one)) {
        if (is_untold(plate)) continue;
        break;
      }
      DiscSearch search = request.discs;
      search.execution = request.execution.part(0.6, 0.6);
      auto traced = trace_discs(plate.loaded, one, search, plate.seen);
      if (!traced) continue;
      plate.traced = true;
      plate.untold = std::move(*traced);
      drawn[i] = one;
      any = true;
      if (!is_untold(plate)) break;
    }
  }
  return any;
}

// What was found in the plate is then no such lens's.
void require_told(const MatchedPlate& plate) {
  if (!is_untold(plate)) return;
  const CameraEstimate& at = plate.best.estimate;
  throw OpticsError(
      fmt::format("through the glass of {} at f/{:.3g}, focused at {:.4g} m, {} of {} discs would "
                  "look otherwise "
                  "than those in {}: cannot tell the camera from them. Is it that lens, that "
                  "scene? Without its "
                  "glass ([lens] focal in place of glass) they are matched as a thin lens's",
                  plate.loaded.now.lens.name, marked_f_number(at.lens, at.take.stop),
                  focus_of(at).m(), plate.untold.size(), lamps_in(plate), plate.seen.plate));
}

}  // namespace

CameraMatch open_match(const CameraMatchRequest& request, std::vector<std::string>& files) {
  CameraMatch match;
  for (ShotRequest shot : request.shots) {
    shot.as_noted = true;
    MatchedPlate plate;
    plate.shot_file = shot.file;
    plate.loaded = open_shot(shot, files);
    plate.facts = read_plate_facts(plate_file(plate.loaded, "to match"));
    // What a shot file said is no witness of what was done on the day.
    if (plate.facts.from_a_shot) {
      PlateFacts nothing;
      nothing.pixels = plate.facts.pixels;
      nothing.from_a_shot = true;
      plate.facts = std::move(nothing);
    }
    plate.metadata = check_metadata(plate.facts, plate.loaded.now);
    match.plates.push_back(std::move(plate));
  }
  return match;
}

void solve_match(CameraMatch& match, const CameraMatchRequest& request,
                 std::vector<std::string>& files) {
  for (std::size_t i = 0; i < match.plates.size(); ++i) {
    MatchedPlate& plate = match.plates[i];
    DiscSearch search = request.discs;
    const auto n = static_cast<double>(match.plates.size());
    const auto at = static_cast<double>(i);
    search.execution = request.execution.part(0.6 * at / n, 0.6 * (at + 1.0) / n);
    plate.seen = observe_plate(plate.loaded, plate.facts, search, files);
    require_observed(plate.loaded, plate.seen);
  }
  const MatchSettings settings{request.doubts, shared_by(match.plates),
                               request.execution.part(0.6, 1.0)};
  std::vector<std::optional<CameraEstimate>> drawn(match.plates.size());
  (void)trace_plates(match, request, settings, false, drawn);
  for (int turn = 1; turn <= most_turns; ++turn) {
    const std::vector<NotedPlate> noted = noted_plates(match);
    match.observations = 0;
    for (const NotedPlate& n : noted) match.observations += n.seen.size();
    match.ranking = rank_hypotheses(noted, settings);
    take_result(match, request.doubts.empty());
    if (turn == most_turns) break;
    if (!trace_plates(match, request, settings, true, drawn)) break;
  }
  for (const MatchedPlate& plate : match.plates) require_told(plate);
}

CameraMatch match_camera(const CameraMatchRequest& request, std::vector<std::string>& files) {
  CameraMatch match = open_match(request, files);
  solve_match(match, request, files);
  return match;
}

}  // namespace jolly_iris
