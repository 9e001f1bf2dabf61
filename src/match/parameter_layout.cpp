#include "parameter_layout.hpp"

#include <algorithm>
#include <cmath>
#include <initializer_list>
#include <optional>

#include "jolly_iris/optics/white.hpp"
#include "match/constants.hpp"

namespace jolly_iris::matching {

namespace {

bool contains(const std::vector<Parameter>& all, Parameter u) {
  return std::find(all.begin(), all.end(), u) != all.end();
}

// Which unknowns these observations have anything to do with, or somebody asks for.
std::vector<Parameter> parameters_for(const std::vector<Observation>& seen,
                                      const MatchSettings& settings) {
  using Kind = Observation::Kind;
  const auto any = [&](std::initializer_list<Kind> kinds) {
    return std::any_of(seen.begin(), seen.end(), [&](const Observation& o) {
      return std::find(kinds.begin(), kinds.end(), o.kind) != kinds.end();
    });
  };
  std::vector<Parameter> out{Parameter::focal, Parameter::gate, Parameter::stop, Parameter::focus,
                             Parameter::scale};
  if (any({Kind::oval, Kind::circle})) out.push_back(Parameter::squeeze);
  if (any({Kind::grey})) out.push_back(Parameter::exposure);
  if (any({Kind::tinge})) out.push_back(Parameter::white);
  for (const PriorOverride& d : settings.doubts) {
    if (d.of == Parameter::distance && !contains(out, d.of)) out.push_back(d.of);
  }
  return out;
}

double prior_sigma_of(Parameter u, const MatchSettings& settings) {
  double prior_sigma = 1.0;
  for (const PriorOverride& d : settings.doubts) {
    if (d.of == u)
      prior_sigma = d.deviation ? *d.deviation / usual_deviation(u) : fitting::disbelieved;
  }
  return prior_sigma;
}

// What the usual deviation of the camera's distance is a share of.
Length reach_of(const CameraEstimate& n) { return n.focus.is_finite() ? n.focus : 5_m; }

}  // namespace

void move(CameraEstimate& estimate, Parameter parameter, double x) {
  const double by = usual_deviation(parameter) * x;
  const double times = std::exp(by);
  switch (parameter) {
    case Parameter::focal:
      estimate.lens.focal = estimate.lens.focal * times;
      break;
    case Parameter::gate:
      estimate.body.gate = {estimate.body.gate.width * times, estimate.body.gate.height * times};
      break;
    case Parameter::stop:
      estimate.take.stop.value *= times;
      break;
    case Parameter::focus:
      if (estimate.focus.is_infinite()) {
        const double power = fitting::infinity_dioptres * x;
        if (power > 1e-9) estimate.focus = Length::from_m(1.0 / power);
      } else {
        estimate.focus = estimate.focus * times;
      }
      break;
    case Parameter::squeeze:
      // The engraved squeeze is what the plate was desqueezed by; what varies is the one at this
      // mark.
      if (estimate.lens.squeeze > 1.0) {
        estimate.lens.squeeze_now =
            std::max(1.0, squeeze_at_focus(estimate.lens, focus_of(estimate)) * times);
      } else {
        estimate.lens.squeeze = std::max(1.0, estimate.lens.squeeze * times);
      }
      break;
    case Parameter::scale:
      estimate.scene_scale *= times;
      break;
    case Parameter::distance:
      estimate.farther = estimate.farther + reach_of(estimate) * by;
      break;
    case Parameter::exposure:
      estimate.brighter += by;
      break;
    case Parameter::white:
      estimate.take.white->temperature = Temperature::from_kelvin(std::clamp(
          estimate.take.white->temperature.kelvin() * times, warmest_white_K, coolest_white_K));
      break;
    case Parameter::focus_change:
      break;  // of frames alone, no part of one camera
  }
}

double value_of(const CameraEstimate& n, Parameter u) {
  switch (u) {
    case Parameter::focal:
      return n.lens.focal.mm();
    case Parameter::gate:
      return recorded_gate(n.body).width.mm();
    case Parameter::stop:
      return n.take.stop.value;
    case Parameter::focus:
      return focus_of(n).m();
    case Parameter::squeeze:
      return squeeze_at_focus(n.lens, focus_of(n));
    case Parameter::scale:
      return n.scene_scale;
    case Parameter::distance:
      return n.farther.m();
    case Parameter::exposure:
      return n.brighter;
    case Parameter::focus_change:
      return 0.0;
    case Parameter::white:
      break;
  }
  return n.take.white->temperature.kelvin();
}

double unit_of(const CameraEstimate& noted, const CameraEstimate& found, Parameter u) {
  if (u == Parameter::distance) return reach_of(noted).m();
  return u == Parameter::exposure ? 1.0 : value_of(found, u);
}

ParameterLayout::ParameterLayout(const std::vector<NotedPlate>& plates,
                                 const MatchSettings& settings) {
  for (const NotedPlate& plate : plates) {
    std::vector<ParameterSlot> own;
    for (const Parameter u : parameters_for(plate.seen, settings)) {
      std::optional<std::size_t> at;
      if (contains(settings.shared, u)) {
        const auto known = std::find(of_.begin(), of_.end(), u);
        if (known != of_.end()) at = static_cast<std::size_t>(known - of_.begin());
      }
      if (!at) {
        at = of_.size();
        of_.push_back(u);
        prior_sigma_.push_back(prior_sigma_of(u, settings));
      }
      own.push_back({u, *at});
    }
    of_plates_.push_back(std::move(own));
  }
}

CameraEstimate ParameterLayout::moved(const CameraEstimate& estimate, std::size_t plate,
                                      const double* x) const {
  CameraEstimate out = estimate;
  // The camera's distance counts in that of the focus as it was noted.
  for (const ParameterSlot& s : of_plates_[plate]) {
    if (s.of == Parameter::distance) move(out, s.of, x[s.at]);
  }
  for (const ParameterSlot& s : of_plates_[plate]) {
    if (s.of != Parameter::distance) move(out, s.of, x[s.at]);
  }
  return out;
}

}  // namespace jolly_iris::matching
