#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "backend.hpp"
#include "fit.hpp"
#include "jolly_iris/errors.hpp"
#include "mistakes.hpp"

namespace jolly_iris::matching {

namespace {

constexpr std::size_t pairs_fitted = 40;  // of all pairs, those that come nearest without a fit
constexpr double as_likely = 3.0;         // logarithm of the odds within which nobody can choose
constexpr double alike = 0.5;             // deviations by which predictions of a group may differ
constexpr double clearly_better = 3.0;    // than the notes alone, to be told
constexpr std::size_t told = 5;
constexpr double hopeless = 25.0;  // so much dearer than the best, from where it began

struct Tried {
  std::vector<const Mistake*> made{};
  std::string said{};
  Notes notes{};
  std::vector<Unknown> free{};
  double log_prior = 0.0;
  double rough = 0.0;  // half χ² without a fit
  std::optional<MatchResult> result{};
  double score() const { return result->evidence + log_prior; }
};

double rough_cost(const Notes& notes, const std::vector<Observation>& seen) {
  const VirtualCamera camera = resolve(notes.body, notes.lens, notes.take, notes.focus);
  double sum = 0.0;
  for (const Observation& o : seen) {
    const double off =
        (predicted_by(notes, camera, o) + usual_own_share * o.own_px - o.value) /
        std::hypot(std::max(o.sigma, 0.02 * o.value), own_share_deviation * o.own_px);
    sum += std::log1p(off * off / 9.0);
  }
  return sum;
}

std::optional<Tried> tried(const Notes& notes, const std::vector<Observation>& seen,
                           const std::vector<const Mistake*>& mistakes) {
  Tried t{mistakes, {}, notes, {}, 0.0, 0.0, {}};
  try {
    for (const Mistake* m : mistakes) {
      t.said += (t.said.empty() ? "" : ", and ") + m->said;
      t.notes = m->mend(t.notes);
      t.log_prior += m->log_prior;
      t.free.insert(t.free.end(), m->free.begin(), m->free.end());
    }
    t.rough = rough_cost(t.notes, seen);
  } catch (const Error&) {
    return std::nullopt;  // such notes would make no camera
  }
  return t;
}

std::vector<Tried> all_tries(const Notes& notes, const std::vector<Observation>& seen,
                             const std::vector<Mistake>& mistakes) {
  std::vector<Tried> out;
  for (const Mistake& m : mistakes) {
    if (auto t = tried(notes, seen, {&m})) out.push_back(std::move(*t));
  }
  std::vector<Tried> pairs;
  for (std::size_t i = 0; i < mistakes.size(); ++i) {
    for (std::size_t k = i + 1; k < mistakes.size(); ++k) {
      if (mistakes[i].family == mistakes[k].family) continue;
      if (auto t = tried(notes, seen, {&mistakes[i], &mistakes[k]})) pairs.push_back(std::move(*t));
    }
  }
  std::sort(pairs.begin(), pairs.end(), [](const Tried& a, const Tried& b) {
    return a.rough - a.log_prior < b.rough - b.log_prior;
  });
  pairs.resize(std::min(pairs.size(), pairs_fitted));
  for (Tried& p : pairs) out.push_back(std::move(p));
  double best = std::numeric_limits<double>::infinity();
  for (Tried& t : out) {
    t.result = fit(t.notes, seen, {t.free}, best + hopeless);
    if (t.result) best = std::min(best, t.result->cost);
  }
  std::erase_if(out, [](const Tried& t) { return !t.result; });
  std::sort(out.begin(), out.end(),
            [](const Tried& a, const Tried& b) { return a.score() > b.score(); });
  return out;
}

// Whether the plate could tell one from the other.
bool look_alike(const MatchResult& a, const MatchResult& b) {
  double sum = 0.0;
  for (std::size_t i = 0; i < a.observations.size(); ++i) {
    const double apart = (a.observations[i].fitted - b.observations[i].fitted) /
                         deviation_of(a.observations[i].seen);
    sum += apart * apart;
  }
  return std::sqrt(sum / static_cast<double>(a.observations.size())) < alike;
}

// What would tell two explanations apart: where their cameras differ most.
std::string apart(const Notes& a, const Notes& b) {
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

bool adds_to(const Tried& more, const Tried& less) {
  return std::all_of(less.made.begin(), less.made.end(), [&](const Mistake* m) {
    return std::find(more.made.begin(), more.made.end(), m) != more.made.end();
  });
}

Explanation explained(const Tried& t, double notes_score) {
  Explanation e;
  e.mistakes = {t.said};
  e.against_notes = t.score() - notes_score;
  e.result = *t.result;
  e.off_px = off_px(*t.result, false);
  for (const ObservationFit& o : t.result->observations)
    e.observations += std::abs(o.off) <= 2.0 ? 1 : 0;
  return e;
}

}  // namespace

Explanations explanations(const Notes& notes, const std::vector<Observation>& seen) {
  Explanations out;
  const MatchResult plain = matching::match(notes, seen, {});
  out.noted_off_px = off_px(plain, true);
  // Notes agree where they explain all but the usual few.
  int off = 0;
  for (const ObservationFit& o : plain.observations) off += std::abs(o.off) > 3.0 ? 1 : 0;
  bool moved_far = false;
  for (const FoundUnknown& u : plain.unknowns) moved_far = moved_far || std::abs(u.moved) > 2.5;
  const bool explains = 5 * off <= static_cast<int>(seen.size());
  const std::vector<Mistake> mistakes = mistakes_for(notes);
  const std::vector<Tried> tries = all_tries(notes, seen, mistakes);
  out.notes_agree = explains && !moved_far &&
                    (tries.empty() || tries.front().score() < plain.evidence + clearly_better);
  std::vector<const Tried*> named;
  for (std::size_t i = 0; i < tries.size() && out.ranked.size() < told && !out.notes_agree; ++i) {
    const Tried& t = tries[i];
    if (t.score() < plain.evidence + clearly_better) break;
    // A likelier mistake with something added is no other explanation.
    if (std::any_of(named.begin(), named.end(), [&](const Tried* n) { return adds_to(t, *n); }))
      continue;
    named.push_back(&t);
    // One more of a group?
    bool grouped = false;
    for (Explanation& e : out.ranked) {
      if (t.score() - plain.evidence < e.against_notes - as_likely ||
          !look_alike(e.result, *t.result))
        continue;
      if (e.mistakes.size() < told) e.mistakes.push_back(t.said);
      if (e.tell_apart.empty()) e.tell_apart = apart(e.result.notes, t.result->notes);
      grouped = true;
      break;
    }
    if (!grouped) out.ranked.push_back(explained(t, plain.evidence));
  }
  const auto unexplained = [&](const Explanation& e) {
    return 2 * e.observations < static_cast<int>(seen.size());
  };
  out.none = !out.notes_agree && (out.ranked.empty() || unexplained(out.ranked.front()));
  return out;
}

}  // namespace jolly_iris::matching
