#include "report/disc_sequence_report.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::report {

namespace {

const PlateDisc& disc_at(const DiscSequence& s, const TrackPoint& p) {
  return s.frames[p.frame].discs[p.disc];
}

// As read_disc_frames reads it.
Json seen_disc_json(const PlateDisc& d) {
  Json out{{"at_px", Json::array({d.at[0], d.at[1]})},
           {"height_px", json_of(d.height_px)},
           {"width_px", json_of(d.width_px)},
           {"light", Json::array({d.light[0], d.light[1], d.light[2]})},
           {"clipped", d.clipped},
           {"outlier", d.outlier},
           {"facing", to_string(d.facing)},
           {"side_known", d.side_known}};
  if (!d.name.empty()) out["name"] = d.name;
  return out;
}

constexpr std::size_t most_tracks_shown = 40;  // of the table; JSON and CSV have all

}  // namespace

std::string disc_sequence_text(const DiscSequence& s) {
  std::size_t followed = 0;
  std::size_t all = 0;
  for (const DiscTrack& t : s.tracks) followed += t.seen.size();
  for (const FrameDiscs& f : s.frames) all += f.discs.size();
  std::string out = fmt::format("{} frames", s.frames.size());
  if (!s.frames.empty()) {
    out += fmt::format(", {:g} to {:g}", s.frames.front().frame, s.frames.back().frame);
  }
  out += fmt::format(": {} discs, {} of them in {} tracks", all, followed, s.tracks.size());
  if (s.empty > 0) out += fmt::format("; {} frames have none", s.empty);
  out += "\n";
  if (s.tracks.empty()) return out;
  out += fmt::format("\n{:>5}  {:>14} {:>6}  {:>22}  {:>15}  {:>11}\n", "track", "frames", "seen",
                     "height px", "from", "to");
  for (std::size_t i = 0; i < std::min(s.tracks.size(), most_tracks_shown); ++i) {
    const DiscTrack& t = s.tracks[i];
    const PlateDisc& a = disc_at(s, t.seen.front());
    const PlateDisc& b = disc_at(s, t.seen.back());
    double least = a.height_px.value;
    double most = least;
    for (const TrackPoint& p : t.seen) {
      least = std::min(least, disc_at(s, p).height_px.value);
      most = std::max(most, disc_at(s, p).height_px.value);
    }
    out += fmt::format("{:>5}  {:>14} {:>6}  {:>22}  {:>15}  {:>11}\n", t.number,
                       fmt::format("{:g} to {:g}", s.frames[t.seen.front().frame].frame,
                                   s.frames[t.seen.back().frame].frame),
                       t.seen.size(),
                       fmt::format("{:.1f} to {:.1f}{}", a.height_px.value, b.height_px.value,
                                   least < std::min(a.height_px.value, b.height_px.value) - 1.0
                                       ? fmt::format(", least {:.1f}", least)
                                   : most > std::max(a.height_px.value, b.height_px.value) + 1.0
                                       ? fmt::format(", most {:.1f}", most)
                                       : ""),
                       fmt::format("{:.0f}, {:.0f}", a.at[0], a.at[1]),
                       fmt::format("{:.0f}, {:.0f}", b.at[0], b.at[1]));
  }
  if (s.tracks.size() > most_tracks_shown) {
    out += fmt::format("  … and {} more; --json and --csv have all\n",
                       s.tracks.size() - most_tracks_shown);
  }
  return out;
}

Json disc_sequence_json(const DiscSequence& s) {
  Json tracks = Json::array();
  for (const DiscTrack& t : s.tracks) {
    Json points = Json::array();
    for (const TrackPoint& p : t.seen) {
      const PlateDisc& d = disc_at(s, p);
      points.push_back({{"frame", s.frames[p.frame].frame},
                        {"at_px", Json::array({d.at[0], d.at[1]})},
                        {"height_px", json_of(d.height_px)},
                        {"width_px", json_of(d.width_px)},
                        {"light", Json::array({d.light[0], d.light[1], d.light[2]})},
                        {"clipped", d.clipped}});
    }
    Json one{{"track", t.number}};
    one["points"] = std::move(points);
    tracks.push_back(std::move(one));
  }
  Json frames = Json::array();
  for (std::size_t i = 0; i < s.frames.size(); ++i) {
    const FrameDiscs& f = s.frames[i];
    Json seen = Json::array();
    for (const PlateDisc& d : f.discs) seen.push_back(seen_disc_json(d));
    Json one{{"frame", f.frame},
             {"plate_px", Json::array({s.sizes[i].width, s.sizes[i].height})},
             {"discs", f.discs.size()}};
    one["seen"] = std::move(seen);
    frames.push_back(std::move(one));
  }
  Json out = Json::object();
  out["frames"] = std::move(frames);
  out["tracks"] = std::move(tracks);
  return out;
}

std::string disc_sequence_csv(const DiscSequence& s) {
  std::string out =
      "frame,track,x_px,y_px,height_px,height_margin_px,width_px,light_r,light_g,light_b\n";
  for (const DiscTrack& t : s.tracks) {
    for (const TrackPoint& p : t.seen) {
      const PlateDisc& d = disc_at(s, p);
      out += fmt::format("{:g},{},{:.3f},{:.3f},{:.4f},{:.4f},{:.4f},{:.6g},{:.6g},{:.6g}\n",
                         s.frames[p.frame].frame, t.number, d.at[0], d.at[1], d.height_px.value,
                         d.height_px.margin, d.width_px.value, d.light[0], d.light[1], d.light[2]);
    }
  }
  return out;
}

}  // namespace jolly_iris::report
