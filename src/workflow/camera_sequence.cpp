#include "jolly_iris/workflow/camera_sequence.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "sequence_findings.hpp"

namespace jolly_iris {

namespace {

// What the discs of a track were paired with most often, if that is most of them.
std::map<const PlateDisc*, std::string> names_by_track(
    const DiscSequence& discs, const std::map<const PlateDisc*, std::string>& paired,
    std::size_t& mixed) {
  std::map<const PlateDisc*, std::string> out = paired;
  for (const DiscTrack& track : discs.tracks) {
    std::map<std::string, std::size_t> votes;
    std::size_t all = 0;
    for (const TrackPoint& p : track.seen) {
      const auto found = paired.find(&discs.frames[p.frame].discs[p.disc]);
      if (found == paired.end()) continue;
      ++votes[found->second];
      ++all;
    }
    if (votes.empty()) continue;
    const auto most =
        std::max_element(votes.begin(), votes.end(),
                         [](const auto& a, const auto& b) { return a.second < b.second; });
    if (3 * most->second < 2 * all) continue;
    for (const TrackPoint& p : track.seen) {
      const PlateDisc* disc = &discs.frames[p.frame].discs[p.disc];
      const auto found = out.find(disc);
      if (found == out.end() || found->second == most->first) continue;
      out.erase(found);  // another lamp's place, for a moment: what it tells is not known
      ++mixed;
    }
  }
  return out;
}

// Where no lamp's distance is known: lamps by their tracks, which tell how the focus changes.
void add_unplaced(CameraSequence& sequence) {
  const auto placed = [](const Observation& o) {
    return (o.kind == Observation::Kind::disc || o.kind == Observation::Kind::edge) && o.at;
  };
  for (const NotedFrame& f : sequence.frames) {
    if (std::any_of(f.seen.begin(), f.seen.end(), placed)) return;
  }
  const DiscSequence& discs = sequence.discs;
  for (const DiscTrack& track : discs.tracks) {
    for (const TrackPoint& p : track.seen) {
      const PlateDisc& d = discs.frames[p.frame].discs[p.disc];
      if (d.outlier) continue;
      NotedFrame& f = sequence.frames[p.frame];
      // Px of the delivered picture, whatever size the plate's file has.
      const double to_plate = static_cast<double>(discs.sizes[p.frame].height) /
                              sequence.loaded.answer.camera.pixels.height;
      Observation o;
      o.name = fmt::format("track {}", track.number);
      o.value = d.height_px.value / to_plate;
      o.sigma = 0.5 * d.height_px.margin / to_plate;
      f.unplaced.push_back(o);
      if (!d.clipped) f.lights.push_back({o.name, d.light, Length::infinity()});
    }
  }
}

}  // namespace

CameraSequence open_sequence(const CameraSequenceRequest& request,
                             std::vector<std::string>& files) {
  CameraSequence out;
  ShotRequest shot = request.shot;
  shot.as_noted = true;
  out.loaded = open_shot(shot, files);
  (void)sequence_of_plate(out.loaded, "to match");
  return out;
}

void solve_sequence(CameraSequence& sequence, const CameraSequenceRequest& request,
                    std::vector<std::string>& files) {
  const LoadedShot& loaded = sequence.loaded;
  if (request.measured.empty()) {
    sequence.discs = measure_disc_frames(loaded, request.discs, request.run, files,
                                         request.execution.part(0.0, 0.85));
  } else {
    sequence.discs = read_disc_frames(request.measured, files);
  }
  const DiscSequence& discs = sequence.discs;
  sequence.notes = discs.notes;
  if (!loaded.now.lens.glass.empty()) {
    sequence.notes.push_back(
        "frames are held against a thin lens's discs, not those of " + loaded.now.lens.name +
        ": wide open its own are a few per cent larger or smaller, which no margin has in it");
  }
  // Each disc by its place in its frame; then all of a track are one lamp.
  std::map<const PlateDisc*, std::string> paired;
  std::vector<PlateObservations> seen(discs.frames.size());
  for (std::size_t i = 0; i < discs.frames.size(); ++i) {
    request.execution.check();
    const LoadedShot now = posed_at_frame(loaded, discs.frames[i].frame);
    seen[i] = observe_discs(now, discs.sizes[i], discs.frames[i].discs);
    NotedFrame f;
    f.frame = discs.frames[i].frame;
    f.estimate = estimate_of(now);
    sequence.frames.push_back(std::move(f));
    for (const PairedDisc& p : seen[i].paired) {
      paired[&discs.frames[i].discs[p.disc]] = p.lamp;
    }
  }
  const auto names = names_by_track(discs, paired, sequence.mixed);
  for (std::size_t i = 0; i < discs.frames.size(); ++i) {
    const auto kept = [&](const std::string& lamp) {
      for (const PairedDisc& p : seen[i].paired) {
        if (p.lamp == lamp) return names.count(&discs.frames[i].discs[p.disc]) > 0;
      }
      return true;
    };
    for (Observation& o : seen[i].all) {
      if (o.kind != Observation::Kind::disc || kept(o.name)) {
        sequence.frames[i].seen.push_back(std::move(o));
      }
    }
    for (LampLight& l : seen[i].lights) {
      if (kept(l.name)) sequence.frames[i].lights.push_back(std::move(l));
    }
  }
  for (const DiscTrack& track : discs.tracks) {
    std::vector<std::string> lamps;
    for (const TrackPoint& p : track.seen) {
      const auto found = paired.find(&discs.frames[p.frame].discs[p.disc]);
      if (found == paired.end()) continue;
      if (std::find(lamps.begin(), lamps.end(), found->second) == lamps.end()) {
        lamps.push_back(found->second);
      }
    }
    sequence.lamps.push_back(std::move(lamps));
  }
  add_unplaced(sequence);
  sequence.camera =
      follow_camera(sequence.frames, {request.doubts, request.execution.part(0.85, 1.0)});
  sequence.findings = findings_of(sequence);
}

CameraSequence match_frames(const CameraSequenceRequest& request, std::vector<std::string>& files) {
  CameraSequence out = open_sequence(request, files);
  solve_sequence(out, request, files);
  return out;
}

}  // namespace jolly_iris
