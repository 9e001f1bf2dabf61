#include "slots.hpp"

#include <algorithm>
#include <cmath>
#include <initializer_list>
#include <optional>

#include "jolly_iris/white.hpp"

namespace jolly_iris::matching {

namespace {

constexpr double disbelieved = 40.0;        // times the usual deviation
constexpr double infinity_dioptres = 0.02;  // deviation of a focus noted at infinity

bool contains(const std::vector<Unknown>& all, Unknown u) {
  return std::find(all.begin(), all.end(), u) != all.end();
}

// Which unknowns these observations have anything to do with, or somebody asks for.
std::vector<Unknown> unknowns_for(const std::vector<Observation>& seen,
                                  const MatchSettings& settings) {
  using Kind = Observation::Kind;
  const auto any = [&](std::initializer_list<Kind> kinds) {
    return std::any_of(seen.begin(), seen.end(), [&](const Observation& o) {
      return std::find(kinds.begin(), kinds.end(), o.kind) != kinds.end();
    });
  };
  std::vector<Unknown> out{Unknown::focal, Unknown::gate, Unknown::stop, Unknown::focus,
                           Unknown::scale};
  if (any({Kind::oval, Kind::circle})) out.push_back(Unknown::squeeze);
  if (any({Kind::grey})) out.push_back(Unknown::exposure);
  if (any({Kind::tinge})) out.push_back(Unknown::white);
  for (const Doubt& d : settings.doubts) {
    if (d.of == Unknown::distance && !contains(out, d.of)) out.push_back(d.of);
  }
  return out;
}

double trust_in(Unknown u, const MatchSettings& settings) {
  double trust = 1.0;
  for (const Doubt& d : settings.doubts) {
    if (d.of == u) trust = d.deviation ? *d.deviation / usual_deviation(u) : disbelieved;
  }
  return trust;
}

// What the usual deviation of the camera's distance is a share of.
Length reach_of(const Notes& n) { return n.focus.is_finite() ? n.focus : 5_m; }

}  // namespace

void move(Notes& notes, Unknown unknown, double x) {
  const double by = usual_deviation(unknown) * x;
  const double times = std::exp(by);
  switch (unknown) {
    case Unknown::focal:
      notes.lens.focal = notes.lens.focal * times;
      break;
    case Unknown::gate:
      notes.body.gate = {notes.body.gate.width * times, notes.body.gate.height * times};
      break;
    case Unknown::stop:
      notes.take.stop.value *= times;
      break;
    case Unknown::focus:
      if (notes.focus.is_infinite()) {
        const double power = infinity_dioptres * x;
        if (power > 1e-9) notes.focus = Length::from_m(1.0 / power);
      } else {
        notes.focus = notes.focus * times;
      }
      break;
    case Unknown::squeeze:
      notes.lens.squeeze = std::max(1.0, notes.lens.squeeze * times);
      break;
    case Unknown::scale:
      notes.scene_scale *= times;
      break;
    case Unknown::distance:
      notes.farther = notes.farther + reach_of(notes) * by;
      break;
    case Unknown::exposure:
      notes.brighter += by;
      break;
    case Unknown::white:
      notes.take.white->temperature = Temperature::from_kelvin(
          std::clamp(notes.take.white->temperature.kelvin() * times, warmest_white_K, coolest_white_K));
      break;
  }
}

double value_of(const Notes& n, Unknown u) {
  switch (u) {
    case Unknown::focal:
      return n.lens.focal.mm();
    case Unknown::gate:
      return recorded_gate(n.body).width.mm();
    case Unknown::stop:
      return n.take.stop.value;
    case Unknown::focus:
      return n.focus.m();
    case Unknown::squeeze:
      return n.lens.squeeze;
    case Unknown::scale:
      return n.scene_scale;
    case Unknown::distance:
      return n.farther.m();
    case Unknown::exposure:
      return n.brighter;
    case Unknown::white:
      break;
  }
  return n.take.white->temperature.kelvin();
}

double unit_of(const Notes& noted, const Notes& found, Unknown u) {
  if (u == Unknown::distance) return reach_of(noted).m();
  return u == Unknown::exposure ? 1.0 : value_of(found, u);
}

Slots::Slots(const std::vector<NotedPlate>& plates, const MatchSettings& settings) {
  for (const NotedPlate& plate : plates) {
    std::vector<Slot> own;
    for (const Unknown u : unknowns_for(plate.seen, settings)) {
      std::optional<std::size_t> at;
      if (contains(settings.shared, u)) {
        const auto known = std::find(of_.begin(), of_.end(), u);
        if (known != of_.end()) at = static_cast<std::size_t>(known - of_.begin());
      }
      if (!at) {
        at = of_.size();
        of_.push_back(u);
        trust_.push_back(trust_in(u, settings));
      }
      own.push_back({u, *at});
    }
    of_plates_.push_back(std::move(own));
  }
}

Notes Slots::moved(const Notes& notes, std::size_t plate, const double* x) const {
  Notes out = notes;
  // The camera's distance counts in that of the focus as it was noted.
  for (const Slot& s : of_plates_[plate]) {
    if (s.of == Unknown::distance) move(out, s.of, x[s.at]);
  }
  for (const Slot& s : of_plates_[plate]) {
    if (s.of != Unknown::distance) move(out, s.of, x[s.at]);
  }
  return out;
}

}  // namespace jolly_iris::matching
