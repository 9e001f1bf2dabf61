#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <set>

#include "error_hypotheses.hpp"
#include "fit.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "match/constants.hpp"
#include "residuals.hpp"

namespace jolly_iris {

using namespace matching;

namespace {

struct FittedHypothesis {
  std::vector<const ErrorHypothesis*> made{};
  std::vector<NotedPlate> plates{};  // with the mistakes mended in all of them
  std::vector<PriorOverride> doubts{};
  double log_prior = 0.0;
  double rough = 0.0;  // half χ² without a fit
  std::vector<MatchResult> results{};
  double at_most = std::numeric_limits<double>::infinity();  // its score
  double score() const { return std::min(results.front().evidence + log_prior, at_most); }
};

// Where something that sums up many discs or places is far off: that is no stray one.
bool contradicted(const std::vector<MatchResult>& results) {
  for (const MatchResult& m : results) {
    for (const ObservationFit& o : m.observations) {
      const bool sums_up =
          o.seen.kind == Observation::Kind::oval || o.seen.kind == Observation::Kind::view;
      if (sums_up && std::abs(o.residual) > ranking::contradicts) return true;
    }
  }
  return false;
}

// Whether what is left over of all that was seen is no more than its noise: χ² of residuals, what
// is far off counted as three deviations, within three of its own.
bool explains_to_noise(const FittedHypothesis& t) {
  if (contradicted(t.results)) return false;
  // A note that has to go farther than true ones do is one that nothing mended.
  const auto is_given_up = [&](Parameter which) {
    return std::any_of(t.made.begin(), t.made.end(),
                       [&](const ErrorHypothesis* m) { return m->instead == which; });
  };
  for (const MatchResult& m : t.results) {
    for (const FittedParameter& u : m.parameters) {
      if (std::abs(u.moved) > ranking::too_far && !is_given_up(u.parameter)) return false;
    }
  }
  double sum = 0.0;
  double count = 0.0;
  for (const MatchResult& m : t.results) {
    for (const ObservationFit& o : m.observations) {
      const double r = std::min(std::abs(o.residual), fitting::robust_from);
      sum += r * r;
      count += 1.0;
    }
  }
  return sum <= count + 3.0 * std::sqrt(2.0 * count);
}

// What something contradicts that sums up many discs or places is behind all that nothing does.
void put_contradicted_behind(std::vector<FittedHypothesis>& all) {
  double best = -std::numeric_limits<double>::infinity();
  for (const FittedHypothesis& t : all) {
    if (!contradicted(t.results)) best = std::max(best, t.score());
  }
  if (!std::isfinite(best)) return;
  for (FittedHypothesis& t : all) {
    if (contradicted(t.results)) t.at_most = std::min(t.at_most, best - ranking::as_likely - 0.1);
  }
}

// More mistakes never outrank fewer that explain all there is to explain.
void put_contrived_behind(std::vector<FittedHypothesis>& all) {
  for (const std::size_t count : {std::size_t{1}, std::size_t{2}}) {
    double best = -std::numeric_limits<double>::infinity();
    for (const FittedHypothesis& t : all) {
      if (t.made.size() == count && explains_to_noise(t)) best = std::max(best, t.score());
    }
    if (!std::isfinite(best)) continue;
    for (FittedHypothesis& t : all) {
      if (t.made.size() > count) t.at_most = std::min(t.at_most, best - ranking::as_likely - 0.1);
    }
  }
}

double rough_cost(const NotedPlate& plate) {
  const VirtualCamera camera = camera_of(plate.estimate);
  double sum = 0.0;
  for (const Observation& o : plate.seen) {
    const double residual =
        (predicted(o, plate.estimate, camera) + typical_own_fraction * o.own_px - o.value) /
        std::hypot(std::max(o.sigma, 0.02 * o.value), own_fraction_deviation * o.own_px);
    sum += std::log1p(residual * residual / 9.0);
  }
  return sum;
}

// The same notes with one of them so many times as large.
NotedPlate with_times(NotedPlate plate, Parameter which, double times) {
  CameraEstimate& e = plate.estimate;
  if (which == Parameter::stop) e.take.stop.value *= times;
  if (which == Parameter::focal) e.lens.focal = e.lens.focal * times;
  if (which == Parameter::focus) e.focus = e.focus * times;
  return plate;
}

// Where a note is given up, the nearest that any value of it comes.
double rough_cost(const std::vector<NotedPlate>& plates, const std::vector<PriorOverride>& free) {
  const auto cost = [&](const auto& changed) {
    double sum = 0.0;
    for (const NotedPlate& p : plates) sum += rough_cost(changed(p));
    return sum;
  };
  double best = cost([](const NotedPlate& p) { return p; });
  for (const PriorOverride& f : free) {
    for (double octaves = -2.0; octaves <= 2.0; octaves += 0.1) {
      try {
        best = std::min(best, cost([&](const NotedPlate& p) {
                          return with_times(p, f.of, std::exp2(octaves));
                        }));
      } catch (const Error&) {
        continue;  // no camera has that
      }
    }
  }
  return best;
}

std::optional<FittedHypothesis> tried(const std::vector<NotedPlate>& plates,
                                      const std::vector<const ErrorHypothesis*>& mistakes) {
  FittedHypothesis t;
  t.made = mistakes;
  t.plates = plates;
  try {
    for (const ErrorHypothesis* m : mistakes) {
      for (NotedPlate& p : t.plates) p.estimate = m->apply(p.estimate);
      t.log_prior += m->log_prior;
      for (const Parameter u : m->free) t.doubts.push_back({u, std::nullopt});
    }
    t.rough = rough_cost(t.plates, t.doubts);
  } catch (const Error&) {
    return std::nullopt;  // such notes would make no camera
  }
  return t;
}

// Those of many that come nearest without a fit.
void keep_nearest(std::vector<FittedHypothesis>& all) {
  std::sort(all.begin(), all.end(), [](const FittedHypothesis& a, const FittedHypothesis& b) {
    return a.rough - a.log_prior < b.rough - b.log_prior;
  });
  all.resize(std::min(all.size(), ranking::pairs_fitted));
}

std::vector<FittedHypothesis> pairs_of(const std::vector<NotedPlate>& plates,
                                       const std::vector<ErrorHypothesis>& mistakes) {
  std::vector<FittedHypothesis> out;
  for (std::size_t i = 0; i < mistakes.size(); ++i) {
    for (std::size_t k = i + 1; k < mistakes.size(); ++k) {
      if (mistakes[i].family == mistakes[k].family) continue;
      if (auto t = tried(plates, {&mistakes[i], &mistakes[k]})) out.push_back(std::move(*t));
    }
  }
  keep_nearest(out);
  return out;
}

// The best pairs with one mistake more.
std::vector<FittedHypothesis> triples_of(const std::vector<NotedPlate>& plates,
                                         const std::vector<ErrorHypothesis>& mistakes,
                                         const std::vector<FittedHypothesis>& fitted) {
  std::vector<const FittedHypothesis*> pairs;
  for (const FittedHypothesis& t : fitted) {
    if (t.made.size() == 2) pairs.push_back(&t);
  }
  std::sort(pairs.begin(), pairs.end(), [](const FittedHypothesis* a, const FittedHypothesis* b) {
    return a->score() > b->score();
  });
  pairs.resize(std::min(pairs.size(), ranking::pairs_added_to));
  std::set<std::set<const ErrorHypothesis*>> seen;
  std::vector<FittedHypothesis> out;
  for (const FittedHypothesis* pair : pairs) {
    for (const ErrorHypothesis& m : mistakes) {
      const bool same_family =
          std::any_of(pair->made.begin(), pair->made.end(),
                      [&](const ErrorHypothesis* p) { return p->family == m.family; });
      if (same_family || !seen.insert({pair->made[0], pair->made[1], &m}).second) continue;
      if (auto t = tried(plates, {pair->made[0], pair->made[1], &m})) out.push_back(std::move(*t));
    }
  }
  keep_nearest(out);
  return out;
}

// Fits them, those that cannot become the best given up early. What no camera has is left out.
class Trials {
 public:
  explicit Trials(const MatchSettings& settings) : settings_(settings) {}

  void fit_all(std::vector<FittedHypothesis>& all, double from, double to) {
    double done = 0.0;
    for (FittedHypothesis& t : all) {
      settings_.execution.tell(from + (to - from) * done++ / static_cast<double>(all.size()));
      std::vector<PriorOverride> doubts = settings_.doubts;
      doubts.insert(doubts.end(), t.doubts.begin(), t.doubts.end());
      t.results = fit(t.plates, {doubts, settings_.shared, {}}, best_ + ranking::hopeless);
      if (!t.results.empty()) best_ = std::min(best_, t.results.front().cost);
    }
    std::erase_if(all, [](const FittedHypothesis& t) { return t.results.empty(); });
  }

 private:
  const MatchSettings& settings_;
  double best_ = std::numeric_limits<double>::infinity();
};

std::vector<FittedHypothesis> all_tries(const std::vector<NotedPlate>& plates,
                                        const MatchSettings& settings,
                                        const std::vector<ErrorHypothesis>& mistakes) {
  std::vector<FittedHypothesis> out;
  for (const ErrorHypothesis& m : mistakes) {
    if (auto t = tried(plates, {&m})) out.push_back(std::move(*t));
  }
  for (FittedHypothesis& p : pairs_of(plates, mistakes)) out.push_back(std::move(p));
  Trials trials(settings);
  trials.fit_all(out, 0.0, 0.7);
  std::size_t seen = 0;
  for (const NotedPlate& p : plates) seen += p.seen.size();
  // Three mistakes in one report: only where fewer leave something, and enough was seen to tell.
  if (seen >= ranking::enough_for_three &&
      std::none_of(out.begin(), out.end(), explains_to_noise)) {
    std::vector<FittedHypothesis> triples = triples_of(plates, mistakes, out);
    trials.fit_all(triples, 0.7, 1.0);
    for (FittedHypothesis& t : triples) out.push_back(std::move(t));
  }
  put_contradicted_behind(out);
  put_contrived_behind(out);
  std::sort(out.begin(), out.end(), [](const FittedHypothesis& a, const FittedHypothesis& b) {
    return a.score() > b.score();
  });
  return out;
}

// Whether the plate could tell one from the other.
bool look_alike(const std::vector<MatchResult>& a, const std::vector<MatchResult>& b) {
  double sum = 0.0;
  std::size_t count = 0;
  for (std::size_t p = 0; p < a.size(); ++p) {
    for (std::size_t i = 0; i < a[p].observations.size(); ++i, ++count) {
      const ObservationFit& o = a[p].observations[i];
      const double apart = (o.fitted - b[p].observations[i].fitted) / deviation_of(o.seen);
      sum += apart * apart;
    }
  }
  return std::sqrt(sum / static_cast<double>(count)) < ranking::alike;
}

// What would tell two explanations apart: where their cameras differ most.
std::string apart(const CameraEstimate& a, const CameraEstimate& b) {
  const auto differs = [](double x, double y) { return std::abs(std::log(x / y)) > 0.03; };
  const double gate_a = recorded_gate(a.body).width.mm();
  const double gate_b = recorded_gate(b.body).width.mm();
  if (differs(gate_a, gate_b)) {
    return fmt::format("the body's record mode: {:.1f} or {:.1f} mm of its sensor's width", gate_a,
                       gate_b);
  }
  if (differs(a.lens.adapter, b.lens.adapter)) {
    return fmt::format("whether an adapter of {:g} or {:g} was behind the lens (1 is none)",
                       a.lens.adapter, b.lens.adapter);
  }
  if (differs(a.lens.focal.mm(), b.lens.focal.mm())) {
    return fmt::format("what is engraved on the lens: {:.0f} or {:.0f} mm", a.lens.focal.mm(),
                       b.lens.focal.mm());
  }
  if (differs(a.scene_scale, b.scene_scale)) {
    return "the true size of one thing in the scene, measured on the set";
  }
  if (differs(a.focus.m(), b.focus.m())) {
    return fmt::format("the distance of what is sharp: {:.2f} or {:.2f} m", a.focus.m(),
                       b.focus.m());
  }
  if (differs(a.take.stop.value, b.take.stop.value)) {
    return fmt::format("the exposure: the stops are {:.1f} apart",
                       2.0 * std::abs(std::log2(a.take.stop.value / b.take.stop.value)));
  }
  return {};
}

// Ways in which one mistake can have been made.
bool ways_of_one(const FittedHypothesis& a, const FittedHypothesis& b) {
  return a.made.size() == 1 && b.made.size() == 1 && a.made.front()->way_of >= 0 &&
         a.made.front()->way_of == b.made.front()->way_of;
}

bool adds_to(const FittedHypothesis& more, const FittedHypothesis& less) {
  return std::all_of(less.made.begin(), less.made.end(), [&](const ErrorHypothesis* m) {
    return std::find(more.made.begin(), more.made.end(), m) != more.made.end();
  });
}

// In words; where a note is plainly wrong, what the plate says instead.
std::string words_of(const FittedHypothesis& t) {
  std::string words;
  for (const ErrorHypothesis* m : t.made) {
    words += (words.empty() ? "" : ", and ") + m->message;
    if (!m->instead) continue;
    for (const FittedParameter& p : t.results.front().parameters) {
      if (p.parameter != *m->instead) continue;
      const Stop& stop = t.results.front().estimate.take.stop;
      const char* before = p.parameter != Parameter::stop ? ""
                           : stop.kind == Stop::Kind::f   ? "f/"
                                                          : "T";
      words += fmt::format(": noted {}{}, the plate says {}{} ± {}", before,
                           value_text(p.parameter, p.noted), before,
                           value_text(p.parameter, p.value), value_text(p.parameter, p.margin));
    }
  }
  return words;
}

// The column of what was noted says what the file says, whatever was mended.
void put_notes_back(std::vector<MatchResult>& results, const std::vector<MatchResult>& plain) {
  for (std::size_t i = 0; i < results.size(); ++i) {
    for (FittedParameter& p : results[i].parameters) {
      for (const FittedParameter& n : plain[i].parameters) {
        if (n.parameter == p.parameter) p.noted = n.noted;
      }
    }
  }
}

// Where lamps stand is known as well as the discs show it, once a camera explains them.
void refine(FittedHypothesis& t, const MatchSettings& settings) {
  std::vector<PriorOverride> doubts = settings.doubts;
  doubts.insert(doubts.end(), t.doubts.begin(), t.doubts.end());
  std::vector<MatchResult> again =
      fit(placed_as_seen(t.plates, t.results), {doubts, settings.shared, {}});
  if (again.empty()) return;
  for (std::size_t i = 0; i < again.size(); ++i) {
    again[i].cost = t.results[i].cost;
    again[i].evidence = t.results[i].evidence;  // what it was ranked by
  }
  t.results = std::move(again);
}

RankedHypothesis explained(const FittedHypothesis& t, double notes_score,
                           const std::vector<MatchResult>& plain) {
  RankedHypothesis e;
  e.mistakes = {words_of(t)};
  e.against_notes = t.score() - notes_score;
  e.result = t.results.front();
  e.others.assign(t.results.begin() + 1, t.results.end());
  std::vector<MatchResult> first{e.result};
  put_notes_back(first, plain);
  e.result = first.front();
  if (!e.others.empty()) {
    put_notes_back(e.others, std::vector<MatchResult>(plain.begin() + 1, plain.end()));
  }
  e.residual_px = residual_px(t.results, false);
  for (const MatchResult& r : t.results) {
    for (const ObservationFit& o : r.observations)
      e.observations += std::abs(o.residual) <= 2.0 ? 1 : 0;
  }
  return e;
}

}  // namespace

HypothesisRanking rank_hypotheses(const std::vector<NotedPlate>& plates,
                                  const MatchSettings& settings) {
  HypothesisRanking out;
  out.plain = match(plates, settings);
  const std::vector<MatchResult>& plain = out.plain;
  const double notes_score = plain.front().evidence;
  out.noted_residual_px = residual_px(plain, true);
  // Notes agree where they explain all but the usual few.
  int seen = 0;
  int outliers = 0;
  bool moved_far = contradicted(plain);
  for (const MatchResult& r : plain) {
    for (const ObservationFit& o : r.observations) {
      outliers += std::abs(o.residual) > 3.0 ? 1 : 0;
    }
    for (const FittedParameter& u : r.parameters)
      moved_far = moved_far || std::abs(u.moved) > ranking::too_far;
    seen += static_cast<int>(r.observations.size());
  }
  const std::vector<ErrorHypothesis> mistakes =
      error_hypotheses(plates.front().estimate, plates.front().seen);
  const std::vector<FittedHypothesis> tries = all_tries(plates, settings, mistakes);
  out.notes_agree =
      5 * outliers <= seen && !moved_far &&
      (tries.empty() || tries.front().score() < notes_score + ranking::clearly_better);
  std::vector<const FittedHypothesis*> named;
  std::vector<const FittedHypothesis*> firsts;  // of each that is ranked
  for (std::size_t i = 0;
       i < tries.size() && out.ranked.size() < ranking::max_ranked && !out.notes_agree; ++i) {
    const FittedHypothesis& t = tries[i];
    if (t.score() < notes_score + ranking::clearly_better) break;
    // A likelier mistake with something added is no other explanation.
    if (std::any_of(named.begin(), named.end(),
                    [&](const FittedHypothesis* n) { return adds_to(t, *n); }))
      continue;
    named.push_back(&t);
    // One more of a group?
    const auto first = std::find_if(firsts.begin(), firsts.end(), [&](const FittedHypothesis* f) {
      return t.score() >= f->score() - ranking::as_likely &&
             (ways_of_one(*f, t) || look_alike(f->results, t.results));
    });
    if (first == firsts.end()) {
      firsts.push_back(&t);
      FittedHypothesis refined = t;
      refine(refined, settings);
      out.ranked.push_back(explained(refined, notes_score, plain));
      continue;
    }
    RankedHypothesis& e = out.ranked[static_cast<std::size_t>(first - firsts.begin())];
    if (e.mistakes.size() < ranking::max_ranked) e.mistakes.push_back(words_of(t));
    if (e.tell_apart.empty()) e.tell_apart = apart(e.result.estimate, t.results.front().estimate);
  }
  if (out.notes_agree || !settings.doubts.empty()) {
    std::vector<MatchResult> again = fit(placed_as_seen(plates, plain), settings);
    if (!again.empty()) out.plain = std::move(again);
  }
  const auto unexplained = [&](const RankedHypothesis& e) {
    std::vector<MatchResult> all{e.result};
    all.insert(all.end(), e.others.begin(), e.others.end());
    return 2 * e.observations < seen || contradicted(all);
  };
  out.none = !out.notes_agree && (out.ranked.empty() || unexplained(out.ranked.front()));
  return out;
}

}  // namespace jolly_iris
