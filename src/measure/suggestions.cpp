#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "jolly_iris/measure/edge_blur.hpp"
#include "jolly_iris/measure/image_comparison.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "measure/constants.hpp"
#include "optics/quantile.hpp"

namespace jolly_iris {

namespace {

namespace just_seen = measuring::just_seen;

std::string stop_text(const Stop& stop) {
  return fmt::format("{}{:.3g}", stop.kind == Stop::Kind::f ? "f/" : "T", stop.value);
}

class Moves {
 public:
  Moves(const ImageComparison& like, const CgMade& made)
      : like_(like), shot_(made.shot), told_(made.told) {}

  std::vector<Suggestion> all(bool with_grain) {
    // Neither detail nor discs nor light in both: whatever differs, nothing tells by what.
    const bool tells = like_.view_likeness || !like_.discs.empty() || !like_.light.regions.empty();
    if (!like_.same_view || !tells) return {};
    sizes();
    light();
    iris();
    colours();
    edges();
    if (with_grain) grain();
    std::stable_sort(out_.begin(), out_.end(),
                     [](const Suggestion& a, const Suggestion& b) { return a.weight > b.weight; });
    return std::move(out_);
  }

 private:
  static bool beyond(const Measured& m, double seen) {
    return m.margin > 0.0 && std::abs(m.value) > std::max(m.margin, seen);
  }

  void sizes() {
    const Measured& l = like_.larger;
    if (beyond(l, just_seen::size)) {
      // A disc is the focal length times the opening: its diameter goes with 1 / stop.
      Stop to = shot_.take.stop;
      to.value *= 1.0 + l.value;
      double before = 0.0;
      double after = 0.0;
      for (const DiscPair& p : like_.discs) {
        before += std::pow(p.cg.height_px.value - p.plate.height_px.value, 2);
        after += std::pow(p.cg.height_px.value / (1.0 + l.value) - p.plate.height_px.value, 2);
      }
      const auto n = static_cast<double>(like_.discs.size());
      // A stop that brings the discs no nearer to the plate's is no advice.
      if (after < just_seen::gain * just_seen::gain * before) {
        out_.push_back(
            {"take.stop", stop_text(shot_.take.stop), stop_text(to),
             fmt::format("CG's {} discs are {:.1f} % too {} (± {:.1f} %): they come from "
                         "{:.2f} to {:.2f} px of the plate's. CG was made at {}{}. The exposure "
                         "stays what it is if ISO or ND takes it up",
                         like_.discs.size(), 100.0 * std::abs(l.value),
                         l.value > 0.0 ? "large" : "small", 100.0 * l.margin, std::sqrt(before / n),
                         std::sqrt(after / n), stop_text(shot_.take.stop), known_by()),
             std::abs(l.value) / just_seen::size});
      }
    }
    const Measured& h = like_.higher;
    if (beyond(h, just_seen::size)) {
      const double squeeze = shot_.lens.squeeze * std::exp(-h.value);
      const std::string off = fmt::format(
          "CG's discs are {:.1f} % {} against their width than the plate's (± {:.1f} %)",
          100.0 * std::abs(std::expm1(h.value)), h.value > 0.0 ? "higher" : "lower",
          100.0 * h.margin);
      if (squeeze < 1.0) {
        out_.push_back({"", "", "",
                        off + ", and no squeeze makes them so: is one of the pictures still "
                              "squeezed, or stretched?",
                        std::abs(h.value) / just_seen::size});
      } else {
        out_.push_back({"lens.squeeze", fmt::format("{:.4g}", shot_.lens.squeeze),
                        fmt::format("{:.3g}", squeeze), off, std::abs(h.value) / just_seen::size});
      }
    }
  }

  void light() {
    const PlateMatch& m = like_.light;
    if (m.contradict) {
      std::string by;
      for (const RegionLeft& r : m.regions) {
        if (by.size() > 80) {
          by += ", …";
          break;
        }
        by += fmt::format("{}{} {:+.1f}", by.empty() ? "" : ", ", r.name, r.alone_stops);
      }
      out_.push_back(
          {"", "", "",
           fmt::format("the regions contradict each other about the light ({} stops): no "
                       "one change brings CG to the plate; look at its lights",
                       by),
           10.0});
      return;
    }
    if (std::abs(m.stops) > just_seen::stops) {
      out_.push_back({"", "", "",
                      fmt::format("{} CG by {:.2f} stops, all of it",
                                  m.stops > 0.0 ? "brighten" : "darken", std::abs(m.stops)),
                      std::abs(m.stops) / just_seen::stops, Suggestion::In::exposure, m.stops});
    }
    const double red = std::log2(m.gains[0]);
    const double blue = std::log2(m.gains[2]);
    if (std::max(std::abs(red), std::abs(blue)) > just_seen::white) {
      out_.push_back({"", "", "",
                      fmt::format("the plate is {}: CG's red times {:.3f} and blue times {:.3f}",
                                  red - blue > 0.0 ? "warmer" : "cooler", m.gains[0], m.gains[2]),
                      std::max(std::abs(red), std::abs(blue)) / just_seen::white,
                      Suggestion::In::white});
    }
  }

  void iris() {
    const PlateIris& p = like_.plate_discs.iris;
    const PlateIris& c = like_.cg_discs.iris;
    if (!p.sure() || !c.sure()) return;
    const auto message = [](int n) { return n == 0 ? std::string("round") : fmt::format("{}", n); };
    if (p.blades != c.blades) {
      out_.push_back({"lens.iris.blades", message(c.blades), message(p.blades),
                      "the plate's discs have so many edges", 20.0});
      return;
    }
    if (p.blades == 0) return;
    const double turned = like_.turned_deg.value;
    if (beyond(like_.turned_deg, just_seen::turn_deg)) {
      const double to = shot_.lens.iris.rotation.degrees() - turned;
      out_.push_back(
          {"lens.iris.rotation", fmt::format("{:.1f} deg", shot_.lens.iris.rotation.degrees()),
           fmt::format("{:.1f} deg", to),
           fmt::format("the blades are turned by {:.1f} deg against the plate's", turned),
           std::abs(turned) / just_seen::turn_deg});
    }
    const double bend = c.curvature.value - p.curvature.value;
    // What is seen of it is how far an edge's middle moves.
    double largest = 0.0;
    for (const DiscPair& d : like_.discs) largest = std::max(largest, d.plate.height_px.value);
    const double moves =
        std::abs(bend) * 0.5 * largest * (1.0 - std::cos(std::numbers::pi / p.blades));
    if (moves > just_seen::outline &&
        std::abs(bend) > std::max(std::hypot(p.curvature.margin, c.curvature.margin), 0.1)) {
      out_.push_back({"lens.iris.blade_radius", "",
                      std::abs(p.curvature.value) <= p.curvature.margin
                          ? std::string("straight")
                          : fmt::format("{:.2f} x", 1.0 / p.curvature.value),
                      "the plate's edges are bent otherwise", std::abs(bend) / 0.1});
    }
  }

  void colours() {
    if (beyond(like_.edge_falloff_stops, just_seen::rim)) {
      out_.push_back({"lens.iris.rim", "", "",
                      fmt::format("CG's rims are {:.1f} stops {} than the plate's; set the rim (or "
                                  "spherical aberration, where it swaps in front of the focus)",
                                  std::abs(like_.edge_falloff_stops.value),
                                  like_.edge_falloff_stops.value > 0.0 ? "brighter" : "darker"),
                      std::abs(like_.edge_falloff_stops.value) / just_seen::rim});
    }
    const auto fringe = [&](const char* name, const Measured& m) {
      if (!beyond(m, just_seen::px)) return;
      out_.push_back({"lens.faults.focus_red", "", "",
                      fmt::format("CG's {} is {:.1f} px {} than the plate's at the discs' edges",
                                  name, std::abs(m.value), m.value > 0.0 ? "wider" : "narrower"),
                      std::abs(m.value) / just_seen::px});
    };
    fringe("red", like_.red_px);
    fringe("blue", like_.blue_px);
  }

  // The sharpest edges tell what a camera softens that a renderer does not; edges that the plate
  // has blurred and CG has not tell of no camera.
  void edges() {
    constexpr double sharp = 1.0;    // px: what a renderer's filter leaves
    constexpr double blurred = 2.0;  // px: more than sensors, codecs and scaling soften
    std::vector<double> softer;
    std::vector<double> sharper;
    std::size_t not_blurred = 0;
    for (const EdgePair& e : like_.edges) {
      if (e.cg_px >= sharp) continue;
      softer.push_back(without_floor(e.plate_px, e.cg_px));
      sharper.push_back(e.cg_px - e.plate_px);
      not_blurred += e.plate_px > blurred ? 1U : 0U;
    }
    if (softer.size() < 8) return;
    if (2 * not_blurred > softer.size()) {
      out_.push_back(
          {"", "", "",
           fmt::format("CG is sharp at {} of {} edges that the plate has blurred: it has "
                       "not been through this lens yet (defocus does that)",
                       not_blurred, like_.edges.size()),
           blurred / just_seen::px});
      return;
    }
    const double soften = upper_median(softer);
    const double off = upper_median(sharper);
    // Seen is the difference of widths; what makes up for it adds to them by its square.
    if (-off >= just_seen::px) {
      out_.push_back({"", "", "",
                      fmt::format("soften CG by {:.2f} px: where it is sharp, the plate is not "
                                  "(the sensor's filter, the codec, or scaling)",
                                  soften),
                      soften / just_seen::px});
    } else if (off >= just_seen::px) {
      out_.push_back({"", "", "",
                      fmt::format("the plate's sharp edges are {:.2f} px sharper than CG's: is the "
                                  "focus where CG has it?",
                                  off),
                      off / just_seen::px});
    }
  }

  void grain() {
    const double more = std::sqrt(
        std::max(0.0, like_.plate_grain * like_.plate_grain - like_.cg_grain * like_.cg_grain));
    if (like_.plate_grain > like_.cg_grain && more > just_seen::grain) {
      out_.push_back({"", "", "",
                      fmt::format("add grain of {:.1f} % of the light (the plate has {:.1f} %, CG "
                                  "{:.1f} %)",
                                  100.0 * more, 100.0 * like_.plate_grain, 100.0 * like_.cg_grain),
                      0.5 * more / just_seen::grain});
    } else if (like_.cg_grain > like_.plate_grain + 2.0 * just_seen::grain) {
      out_.push_back({"", "", "",
                      fmt::format("CG is noisier than the plate ({:.1f} against {:.1f} %): more "
                                  "samples",
                                  100.0 * like_.cg_grain, 100.0 * like_.plate_grain),
                      0.5 * (like_.cg_grain - like_.plate_grain) / just_seen::grain});
    }
  }

  std::string known_by() const {
    return told_ ? " by its own header"
                 : " if it was made as the shot is now; its file does not say so";
  }

  const ImageComparison& like_;
  const Shot& shot_;
  bool told_;
  std::vector<Suggestion> out_{};
};

}  // namespace

std::vector<Suggestion> suggestions(const ImageComparison& like, const CgMade& made, bool grain) {
  return Moves(like, made).all(grain);
}

}  // namespace jolly_iris
