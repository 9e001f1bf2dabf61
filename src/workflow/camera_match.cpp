#include "jolly_iris/workflow/camera_match.hpp"

#include <algorithm>

#include "jolly_iris/picture_files/picture_file.hpp"

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

}  // namespace

CameraMatch open_match(const CameraMatchRequest& request, std::vector<std::string>& files) {
  CameraMatch match;
  for (ShotRequest shot : request.shots) {
    shot.as_noted = true;
    MatchedPlate plate;
    plate.shot_file = shot.file;
    plate.loaded = open_shot(shot, files);
    plate.facts = read_plate_facts(plate_file(plate.loaded, "to match"));
    plate.metadata = check_metadata(plate.facts, plate.loaded.now);
    match.plates.push_back(std::move(plate));
  }
  return match;
}

void solve_match(CameraMatch& match, const CameraMatchRequest& request,
                 std::vector<std::string>& files) {
  std::vector<NotedPlate> noted;
  for (MatchedPlate& plate : match.plates) {
    DiscSearch search = request.discs;
    const auto n = static_cast<double>(match.plates.size());
    const auto i = static_cast<double>(noted.size());
    search.execution = request.execution.part(0.6 * i / n, 0.6 * (i + 1.0) / n);
    plate.seen = observe_plate(plate.loaded, plate.facts, search, files);
    require_observed(plate.loaded, plate.seen);
    noted.push_back({estimate_of(plate.loaded), plate.seen.all});
    match.observations += plate.seen.all.size();
  }
  const MatchSettings settings{request.doubts, shared_by(match.plates),
                               request.execution.part(0.6, 1.0)};
  match.ranking = rank_hypotheses(noted, settings);
  match.corrected = !match.ranking.notes_agree && !match.ranking.none && request.doubts.empty();
  for (std::size_t i = 0; i < match.plates.size(); ++i) {
    MatchedPlate& plate = match.plates[i];
    plate.plain = match.ranking.plain[i];
    plate.best = plate.plain;
    if (!match.corrected) continue;
    const RankedHypothesis& first = match.ranking.ranked.front();
    plate.best = i == 0 ? first.result : first.others[i - 1];
  }
}

CameraMatch match_camera(const CameraMatchRequest& request, std::vector<std::string>& files) {
  CameraMatch match = open_match(request, files);
  solve_match(match, request, files);
  return match;
}

}  // namespace jolly_iris
