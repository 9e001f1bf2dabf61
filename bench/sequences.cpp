// Cameras over frames, read out of plates that an independent renderer made: how far off the focus
// is, whether its margins hold, whether the kind of move is told and right, when it happened, and
// whether discs were taken for each other.
//
//   sequences [COUNT] [FIRST SEED] [details] [unknown]
//
// unknown: no lamp's distance is, and the notes have the move eight frames early: how the focus
// changes is judged.
#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <map>
#include <string>
#include <vector>

#include "../tests/plates/sequenced.hpp"
#include "asked_plates.hpp"
#include "jolly_iris/jolly_iris.hpp"

using namespace jolly_iris;

namespace {

double median(std::vector<double> v) {
  if (v.empty()) return 0.0;
  std::sort(v.begin(), v.end());
  return v[v.size() / 2];
}

// When the truth first came so far on its way.
double crossing(const plates::MadeSequence& s, double share) {
  const double end = s.dioptres(s.count + 400.0);
  for (double f = 0.0; f < s.count; f += 0.01) {
    if ((s.dioptres(f) - s.from_dpt) / (end - s.from_dpt) >= share) return s.first + f;
  }
  return s.first + s.count;
}

struct Sums {
  int sequences = 0;
  int told = 0;
  int untold = 0;  // not even a change of focus
  int right = 0;
  int moves = 0;
  int in_time = 0;
  std::size_t tracks = 0;
  std::size_t mixed = 0;
  std::vector<double> off{};      // of each sequence, the median, 1/m
  std::vector<double> allowed{};  // of each sequence, 0.005 dpt + 1 %
  std::vector<double> held{};     // share of a sequence's frames within the margin
  int zooms = 0;
  int zooms_told = 0;
  int exposures = 0;
  int exposures_told = 0;
  int false_moves = 0;  // of focal length, stop or exposure, where there is none
};

MoveKind kind_of(plates::FocusWay way) {
  if (way == plates::FocusWay::overshoot) return MoveKind::overshoot;
  return way == plates::FocusWay::hunt ? MoveKind::hunt : MoveKind::pull;
}

// Takes the scene out of a shot's notes; the focus is keyed, early.
void forget_lamps(const plates::MadeSequence& s, const std::string& shot) {
  std::ifstream in(shot);
  std::string text{std::istreambuf_iterator<char>(in), {}};
  for (const char* section : {"[scene]", "[focus]"}) {
    const auto at = text.find(section);
    if (at == std::string::npos) continue;
    const auto end = text.find("\n[", at);
    text.erase(at, end == std::string::npos ? std::string::npos : end + 1 - at);
  }
  for (const double f : {s.begins - 8.0, s.begins + s.lasts - 8.0}) {
    const double dioptres = f > s.begins - 8.0 ? s.dioptres(s.count + 400.0) : s.from_dpt;
    text +=
        fmt::format("\n[[pull]]\nframe = {:.0f}\nat = \"{:.4f} m\"\n", s.first + f, 1.0 / dioptres);
  }
  std::ofstream(shot) << text;
}

void judge(const plates::MadeSequence& made, const CameraSequence& s, bool details, Sums& sums) {
  const bool relative = s.camera.relative;
  const FollowedValue* told_focus =
      s.camera.value(relative ? Parameter::focus_change : Parameter::focus);
  if (told_focus == nullptr) {
    ++sums.sequences;
    ++sums.untold;
    if (details) fmt::print("{:>6} untold: {}\n", made.base.seed, s.camera.untold);
    return;
  }
  const FollowedValue& focus = *told_focus;
  std::vector<double> off;
  double held = 0.0;
  double first_dpt = 0.0;
  for (const FrameValue& v : focus.at) {
    if (!relative || !v.value) continue;
    first_dpt = made.dioptres(v.frame - made.first);
    break;
  }
  for (const FrameValue& v : focus.at) {
    const double true_dpt = made.dioptres(v.frame - made.first) - first_dpt;
    off.push_back(std::abs(v.curve - true_dpt));
    held += off.back() <= v.margin ? 1.0 : 0.0;
  }
  ++sums.sequences;
  sums.off.push_back(median(off));
  sums.allowed.push_back(0.005 + 0.01 * made.from_dpt);
  sums.held.push_back(held / static_cast<double>(focus.at.size()));
  const auto& moves = focus.moves.moves;
  bool told = true;
  bool right = false;
  if (made.way == plates::FocusWay::hold) {
    right = moves.empty();
  } else {
    told = moves.size() != 1 || moves.front().kind != MoveKind::untold;
    right = moves.size() == 1 && moves.front().kind == kind_of(made.way);
  }
  sums.told += told ? 1 : 0;
  sums.right += told && right ? 1 : 0;
  if (made.way == plates::FocusWay::pull && moves.size() == 1) {
    ++sums.moves;
    sums.in_time += std::abs(moves.front().tenth - crossing(made, 0.1)) <= 2.0 &&
                            std::abs(moves.front().nine_tenths - crossing(made, 0.9)) <= 2.0
                        ? 1
                        : 0;
  }
  for (const auto& lamps : s.lamps) {
    sums.tracks += lamps.empty() ? 0U : 1U;
    sums.mixed += lamps.size() > 1 ? 1U : 0U;
  }
  const auto count = [&](Parameter of, bool there, int& all, int& found) {
    const FollowedValue* v = s.camera.value(of);
    const bool seen = v != nullptr && !v->moves.moves.empty();
    all += there ? 1 : 0;
    found += there && seen ? 1 : 0;
    sums.false_moves += !there && seen ? 1 : 0;
  };
  count(Parameter::focal, made.zoom != 1.0, sums.zooms, sums.zooms_told);
  count(Parameter::exposure, made.brighter != 0.0, sums.exposures, sums.exposures_told);
  int none = 0;
  count(Parameter::stop, false, none, none);
  if (!details) return;
  fmt::print("{:>6} {:<9} {} {:>2} lamps seen {:>2} off {:.4f} dpt ({:.4f}) held {:.2f} scatter",
             made.base.seed, plates::name_of(made.way), made.jpeg ? "jpeg" : "half",
             made.lamps.size(), s.camera.seen, sums.off.back(), sums.allowed.back(),
             sums.held.back());
  for (const Move& m : moves) {
    fmt::print(" [{}{} {:.2f} {:.0f}-{:.0f}, past {:.2f}{}]", to_string(m.likeliest),
               m.kind == MoveKind::untold ? "?" : "", m.sure, m.begins, m.ends, m.past,
               m.eased ? " eased" : "");
  }
  for (const Parameter of :
       {Parameter::stop, Parameter::focal, Parameter::exposure, Parameter::white}) {
    const FollowedValue* v = s.camera.value(of);
    if (v == nullptr) continue;
    for (const Move& m : v->moves.moves) {
      fmt::print(" {}: {:.3f} to {:.3f} at {:.0f}-{:.0f}", to_string(of), m.from, m.to, m.begins,
                 m.ends);
    }
  }
  fmt::print(" | thr {:.4f} residual {:.2f} px{}{}\n", focus.moves.threshold, s.camera.residual_px,
             s.camera.notes_disagree ? " notes disagree" : "",
             told ? right ? "" : " WRONG" : " untold");
}

}  // namespace

int main(int argc, char** argv) {
  const AskedPlates asked = asked_plates(argc, argv);
  const bool unknown = argc > 1 && std::string(argv[argc - 1]) == "unknown";
  Sums sums;
  for (int i = 0; i < asked.count; ++i) {
    const auto seed = static_cast<std::uint32_t>(asked.first + i);
    const plates::MadeSequence made = plates::made_sequence(seed);
    const std::string folder =
        std::filesystem::temp_directory_path() / fmt::format("sequence_{}", seed);
    const std::string shot = plates::write_sequence_notes(made, folder);
    for (int f = 0; f < made.count; ++f) plates::write_frame(made, f, folder);
    CameraSequenceRequest request;
    request.shot.file = shot;
    request.run.frames.asked = true;
    if (unknown) forget_lamps(made, shot);
    std::vector<std::string> files;
    try {
      judge(made, match_frames(request, files), asked.details, sums);
    } catch (const Error& e) {
      fmt::print("{:>6} {}\n", seed, e.what());
      ++sums.sequences;
    }
    std::filesystem::remove_all(folder);
    std::fflush(stdout);
  }
  const auto within = std::count_if(sums.off.begin(), sums.off.end(), [&](const double& o) {
    return o <= sums.allowed[static_cast<std::size_t>(&o - sums.off.data())];
  });
  double held = 0.0;
  for (const double h : sums.held) held += h / static_cast<double>(sums.held.size());
  fmt::print(
      "{} sequences ({} untold): focus off by {:.4f} dpt in the middle one, {} within 0.005 dpt + "
      "1 %\n"
      "frames within their margin: {:.1f} % (a sequence counted once)\n"
      "kind of move told in {}, right in {} of these\n"
      "a pull's tenth and nine tenths within 2 frames: {} of {}\n"
      "tracks that mix lamps: {} of {}\n"
      "zooms told: {} of {}; exposures {} of {}; told where there is none: {}\n",
      sums.sequences, sums.untold, median(sums.off), within, 100.0 * held, sums.told, sums.right,
      sums.in_time, sums.moves, sums.mixed, sums.tracks, sums.zooms_told, sums.zooms,
      sums.exposures_told, sums.exposures, sums.false_moves);
}
