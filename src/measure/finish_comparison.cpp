#include "jolly_iris/measure/finish_comparison.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "corner_difference.hpp"
#include "grain_bands.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/exposure.hpp"

namespace jolly_iris {

namespace {

constexpr std::array channel_names{"red", "green", "blue"};

double grain_at(const GrainInPlate& g, std::size_t c, double level) {
  const double black = g.black[c].value * g.black[c].value;
  const double grey = g.grey[c].value * g.grey[c].value;
  return std::sqrt(std::max(1e-16, black + (grey - black) * level / grey_value));
}

double share_of(const Measured& m) { return m.margin / std::max(1e-12, std::abs(m.value)); }

class FinishPair {
 public:
  explicit FinishPair(FinishComparison& of) : of_(of) {}

  void halo() {
    const auto& p = of_.plate.halo.halo;
    const auto& c = of_.cg.halo.halo;
    if (p && c) {
      for (std::size_t k = 0; k < 3; ++k) {
        add(FinishPart::halo, fmt::format("halo's share of {}", channel_names[k]), "%",
            times(p->fraction[k], 100.0), times(c->fraction[k], 100.0));
      }
      add(FinishPart::halo, "halo's reach", "px", p->reach_px, c->reach_px);
      add(FinishPart::halo, "halo's power", "", p->power, c->power);
      return;
    }
    const auto words = [](const HaloInPlate& h) {
      return fmt::format("{:.2g} % of the light, reaching {:.2g} px", 100.0 * h.fraction[1].value,
                         h.reach_px.value);
    };
    const auto below = [](const std::optional<Rgb>& most, const HaloInPlate& h) {
      return most && (*most)[1] < h.fraction[1].value - h.fraction[1].margin;
    };
    if (p && below(of_.cg.halo.at_most, *p)) missing(FinishPart::halo, false, words(*p));
    if (c && below(of_.plate.halo.at_most, *c)) missing(FinishPart::halo, true, words(*c));
  }

  void rays() {
    const auto& p = of_.plate.rays;
    const auto& c = of_.cg.rays;
    if (p.spikes && c.spikes) {
      add(FinishPart::spikes, "rays of spikes", "", {double(p.spikes->rays), 0.2},
          {double(c.spikes->rays), 0.2});
      if (p.spikes->rays == c.spikes->rays) {
        const double off = std::remainder(c.spikes->first_deg.value - p.spikes->first_deg.value,
                                          360.0 / p.spikes->rays);
        add(FinishPart::spikes, "direction of spikes", "deg", p.spikes->first_deg,
            {p.spikes->first_deg.value + off, c.spikes->first_deg.margin});
      }
    } else if (p.spikes && c.rays.empty() && !c.lamps.empty()) {
      missing(FinishPart::spikes, false, fmt::format("{} rays", p.spikes->rays));
    } else if (c.spikes && p.rays.empty() && !p.lamps.empty()) {
      missing(FinishPart::spikes, true, fmt::format("{} rays", c.spikes->rays));
    }
    if (p.streak && c.streak) {
      const double off =
          std::remainder(c.streak->direction_deg.value - p.streak->direction_deg.value, 180.0);
      add(FinishPart::streak, "direction of the streak", "deg", p.streak->direction_deg,
          {p.streak->direction_deg.value + off, c.streak->direction_deg.margin});
      for (std::size_t k = 0; k < 3; ++k) {
        const Measured& a = p.streak->fraction[k];
        const Measured& b = c.streak->fraction[k];
        if (!(a.margin > 0.0) || !(b.margin > 0.0)) continue;
        add(FinishPart::streak, fmt::format("streak's share of {}", channel_names[k]), "%",
            times(a, 100.0), times(b, 100.0));
      }
    } else if (p.streak && !c.streak && !c.lamps.empty()) {
      missing(FinishPart::streak, false, streak_words(*p.streak));
    } else if (c.streak && !p.streak && !p.lamps.empty()) {
      missing(FinishPart::streak, true, streak_words(*c.streak));
    }
  }

  void smear() {
    const auto& p = of_.plate.smear;
    const auto& c = of_.cg.smear;
    if (p.smear && c.smear) {
      add(FinishPart::smear, "length of the smear", "px", p.smear->length_px, c.smear->length_px);
      const double off =
          std::remainder(c.smear->direction_deg.value - p.smear->direction_deg.value, 180.0);
      add(FinishPart::smear, "direction of the smear", "deg", p.smear->direction_deg,
          {p.smear->direction_deg.value + off, c.smear->direction_deg.margin});
      return;
    }
    const auto words = [](const SmearWay& w) {
      return fmt::format("{:.1f} px at {:.0f} deg", w.length_px.value, w.direction_deg.value);
    };
    const auto shorter = [](const std::optional<double>& most, const SmearWay& w) {
      return most && *most < w.length_px.value - w.length_px.margin;
    };
    if (p.smear && shorter(c.at_most_px, *p.smear))
      missing(FinishPart::smear, false, words(*p.smear));
    if (c.smear && shorter(p.at_most_px, *c.smear))
      missing(FinishPart::smear, true, words(*c.smear));
  }

  void grain() {
    const auto& p = of_.plate.grain.grain;
    const auto& c = of_.cg.grain.grain;
    const auto words = [](const GrainInPlate& g) {
      return fmt::format("{:.2g} % of white at {:.2g}", 100.0 * g.at_level[1].value, g.level[1]);
    };
    if (p && c) {
      for (std::size_t k = 0; k < 3; ++k) {
        const double level = p->level[k];
        const double a = grain_at(*p, k, level);
        const double b = grain_at(*c, k, level);
        add(FinishPart::grain, fmt::format("grain of {} at {:.2g}", channel_names[k], level), "%",
            {100.0 * a, 100.0 * a * share_of(p->at_level[k])},
            {100.0 * b, 100.0 * b * share_of(c->at_level[k])});
      }
      add(FinishPart::grain, "size of grain", "px", p->size_px, c->size_px);
      add(FinishPart::grain, "channels' grain alike", "", p->alike, c->alike);
      return;
    }
    const auto less = [](const GrainFinding& f, const GrainInPlate& g) {
      return f.at_most && (*f.at_most)[1] < g.at_level[1].value - g.at_level[1].margin;
    };
    if (p && less(of_.cg.grain, *p)) missing(FinishPart::grain, false, words(*p));
    if (c && less(of_.plate.grain, *c)) missing(FinishPart::grain, true, words(*c));
  }

  void corners(const std::optional<Measured>& off) {
    if (!off) return;
    const double plate = of_.plate.corners.stops ? of_.plate.corners.stops->value : 0.0;
    FinishDifference d{FinishPart::corners, "corners", "stops", plate, plate + off->value, *off};
    of_.numbers.push_back(std::move(d));
  }

 private:
  static Measured times(const Measured& m, double by) { return {by * m.value, by * m.margin}; }
  static std::string streak_words(const PlateStreak& s) {
    return fmt::format("a line at {:.0f} deg", s.direction_deg.value);
  }
  void add(FinishPart part, std::string name, std::string unit, const Measured& plate,
           const Measured& cg) {
    of_.numbers.push_back({part,
                           std::move(name),
                           std::move(unit),
                           plate.value,
                           cg.value,
                           {cg.value - plate.value, std::hypot(plate.margin, cg.margin)}});
  }
  void missing(FinishPart part, bool in_cg, std::string words) {
    of_.missing.push_back({part, in_cg, std::move(words)});
  }

  FinishComparison& of_;
};

}  // namespace

const char* to_string(FinishPart part) {
  switch (part) {
    case FinishPart::halo:
      return "halo";
    case FinishPart::spikes:
      return "spikes";
    case FinishPart::streak:
      return "streak";
    case FinishPart::smear:
      return "smear";
    case FinishPart::corners:
      return "corners";
    case FinishPart::grain:
      return "grain";
  }
  return "";
}

FinishComparison compare_finishes(const Picture& plate, const Picture& cg,
                                  const FileMarks& plate_marks, const FileMarks& cg_marks,
                                  const Execution& execution) {
  if (plate.width() != cg.width() || plate.height() != cg.height()) {
    throw UsageError(fmt::format(
        "finishes of pictures of {} x {} and {} x {} px: they are compared at one size, since "
        "resizing changes grain",
        plate.width(), plate.height(), cg.width(), cg.height()));
  }
  FinishComparison out;
  // Through a codec no halo is told, and looking for it takes the longest.
  const bool uncoded = !plate_marks.coded && !cg_marks.coded;
  out.plate = finish_in(plate, plate_marks, {}, execution.part(0.0, 0.5), uncoded);
  // A plate that says nothing of its halo, not even that it is none, is nothing to compare with.
  const bool halo = uncoded && (out.plate.halo.halo || out.plate.halo.at_most);
  out.cg = finish_in(cg, cg_marks, {}, execution.part(0.5, 1.0), halo);
  FinishPair pair(out);
  pair.halo();
  pair.rays();
  pair.smear();
  const auto clip = [](const FileMarks& m) { return m.clips_at > 0.0 ? m.clips_at : 1e30; };
  pair.corners(measuring::corner_difference(plate, cg, clip(plate_marks), clip(cg_marks)));
  pair.grain();
  if (out.plate.grain.grain && out.cg.grain.grain) {
    out.grain_bands = measuring::grain_bands(plate, cg, out.plate.grain.grain->places);
  }
  for (const FinishDifference& d : out.numbers) {
    if (d.off.margin > 0.0) out.chi2 += std::pow(2.0 * d.off.value / d.off.margin, 2.0);
  }
  return out;
}

}  // namespace jolly_iris
