#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/measure/finish_comparison.hpp"
#include "measure/constants.hpp"

namespace jolly_iris {

namespace {

namespace just_seen = measuring::just_seen;

// From here on it is seen when pictures are looked at in turns: of a finish's own numbers.
constexpr double grain_times = 0.1;  // of its strength
constexpr double halo_times = 0.15;  // of its share
constexpr double smear_px = 1.0;
constexpr double corner_stops = 0.1;
constexpr double turned_deg = 2.0;
// What one has and the other has not is seen like so many just visible steps.
constexpr double missing_weight = 4.0;

const char* keys_of(FinishPart part) {
  switch (part) {
    case FinishPart::halo:
      return "finish.halo";
    case FinishPart::spikes:
      return "finish.spikes";
    case FinishPart::streak:
      return "finish.streak";
    case FinishPart::smear:
      return "finish.smear";
    case FinishPart::corners:
      return "finish.corners";
    case FinishPart::grain:
      return "finish.grain";
  }
  return "";
}

class FinishMoves {
 public:
  FinishMoves(const FinishComparison& like, const Shot& shot) : like_(like), finish_(shot.finish) {}

  std::vector<Suggestion> all() {
    for (const FinishMissing& m : like_.missing) missing(m);
    together(FinishPart::grain, "grain", grain_times);
    together(FinishPart::halo, "halo", halo_times);
    for (const FinishDifference& d : like_.numbers) one(d);
    std::stable_sort(out_.begin(), out_.end(),
                     [](const Suggestion& a, const Suggestion& b) { return a.weight > b.weight; });
    return std::move(out_);
  }

 private:
  void missing(const FinishMissing& m) {
    const std::string part = to_string(m.part);
    const std::string message =
        m.in_cg ? fmt::format("CG has {} ({}), and the plate has none that is seen: leave it out",
                              part, m.words)
                : fmt::format(
                      "the plate has {} ({}), and CG has none that is seen: `measure SHOT "
                      "--finish` gives the lines for it",
                      part, m.words);
    out_.push_back({keys_of(m.part), "", "", message, missing_weight});
  }

  // The numbers of a part that are shares alike, as one: how many times as strong CG has it.
  void together(FinishPart part, const char* name, double seen) {
    double sum = 0.0;
    double weight = 0.0;
    for (const FinishDifference& d : like_.numbers) {
      if (d.part != part || d.unit != "%" || !(d.plate > 0.0) || !(d.cg > 0.0)) continue;
      const double sigma = 0.5 * d.off.margin / d.plate;
      sum += std::log(d.cg / d.plate) / (sigma * sigma);
      weight += 1.0 / (sigma * sigma);
    }
    if (!(weight > 0.0)) return;
    const double off = sum / weight;
    // Three channels share what is unsure of each: no surer together than one is.
    const double margin = 2.0 * std::sqrt(3.0 / weight);
    if (std::abs(off) <= std::max(margin, seen)) return;
    const double by = std::exp(-off);
    Suggestion s{keys_of(part), "", "",
                 fmt::format("CG's {} is {:.2f} times the plate's (± {:.2f})", name, std::exp(off),
                             margin * std::exp(off)),
                 std::abs(off) / seen};
    if (part == FinishPart::grain && finish_.grain) {
      const Rgb& g = finish_.grain->grey;
      s.key = "finish.grain.grey";
      s.now = fmt::format("[{:.3g}, {:.3g}, {:.3g}]", g[0], g[1], g[2]);
      s.to = fmt::format("[{:.3g}, {:.3g}, {:.3g}]", by * g[0], by * g[1], by * g[2]);
      s.message += "; black by as much";
    }
    if (part == FinishPart::halo && finish_.halo) {
      const Rgb& f = finish_.halo->fraction;
      const double most = std::max({f[0], f[1], f[2]});
      s.key = "finish.halo.share";
      s.now = fmt::format("{:.3g} %", 100.0 * most);
      s.to = fmt::format("{:.3g} %", 100.0 * by * most);
    }
    out_.push_back(std::move(s));
  }

  void one(const FinishDifference& d) {
    const auto beyond = [&](double seen) {
      return std::abs(d.off.value) > std::max(d.off.margin, seen);
    };
    const std::string both =
        fmt::format("{}: CG {:.3g}, the plate {:.3g} {}", d.name, d.cg, d.plate, d.unit);
    if (d.part == FinishPart::corners && beyond(corner_stops)) {
      const double now = finish_.corners ? finish_.corners->stops : 0.0;
      out_.push_back({"finish.corners", fmt::format("{:.2f} stops", now),
                      fmt::format("{:.2f} stops", now - d.off.value),
                      fmt::format("CG's corners are {:.2f} stops {} than the plate's (± {:.2f})",
                                  std::abs(d.off.value), d.off.value > 0.0 ? "darker" : "brighter",
                                  d.off.margin),
                      std::abs(d.off.value) / corner_stops});
    } else if (d.part == FinishPart::smear && d.unit == "px" && beyond(smear_px)) {
      out_.push_back({"finish.smear.times", "", "",
                      fmt::format("{}: the shutter, or how fast it moves, by {:.2f}", both,
                                  d.plate / std::max(1e-9, d.cg)),
                      std::abs(d.off.value) / smear_px});
    } else if ((d.part == FinishPart::streak || d.part == FinishPart::spikes) && d.unit == "deg" &&
               beyond(turned_deg)) {
      out_.push_back(
          {d.part == FinishPart::streak ? "finish.streak.direction" : "lens.iris.rotation", "", "",
           both, std::abs(d.off.value) / turned_deg});
    } else if (d.part == FinishPart::spikes && d.name == "rays of spikes" && beyond(0.5)) {
      out_.push_back({"lens.iris.blades", "", "", both, missing_weight});
    }
  }

  const FinishComparison& like_;
  const Finish& finish_;
  std::vector<Suggestion> out_{};
};

}  // namespace

std::vector<Suggestion> finish_suggestions(const FinishComparison& like, const CgMade& made) {
  return FinishMoves(like, made.shot).all();
}

}  // namespace jolly_iris
