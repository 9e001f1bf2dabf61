#include "focus_sides.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>

#include "optics/seeded.hpp"

namespace jolly_iris::matching {

namespace {

// Another way of signs is as good if it costs no more than that besides (odds of 20 : 1).
constexpr double as_likely = 6.0;
constexpr int starts = 12;

double median_of_all(std::vector<double> v) {
  const auto middle = v.begin() + static_cast<std::ptrdiff_t>(v.size() / 2);
  std::nth_element(v.begin(), middle, v.end());
  return *middle;
}

// Too many to ask what each sign does to all of it.
bool is_large(const AdditiveFocus& model) {
  return model.pieces().size() > 40 || model.focus().size() > 500;
}

// Turns signs of pieces that go better with the rest the other way round, which stays as it is
// meanwhile: of many pieces one has little to say in that.
void turn_against_the_rest(AdditiveFocus& model) {
  for (int sweep = 0; sweep < 20; ++sweep) {
    model.solve(1);
    bool any = false;
    for (std::size_t p = 0; p < model.pieces().size(); ++p) {
      Piece& piece = model.pieces()[p];
      const auto off_as = [&](double sign) {
        std::vector<double> lamps;
        for (const TrackReading& r : piece.readings) {
          lamps.push_back(model.focus()[r.frame] - sign * r.value);
        }
        const double lamp = median_of_all(lamps);
        double sum = 0.0;
        for (std::size_t k = 0; k < lamps.size(); ++k) {
          const double off = (lamps[k] - lamp) / piece.readings[k].sigma;
          sum += wild * off * off / (wild + off * off);
        }
        return sum;
      };
      if (off_as(-piece.sign) >= off_as(piece.sign)) continue;
      piece.sign = -piece.sign;
      any = true;
    }
    if (!any) return;
  }
}

// Turns every sign that makes it go together better, until none does.
double settle_signs(AdditiveFocus& model) {
  if (is_large(model)) {
    turn_against_the_rest(model);
    return model.solve(6);
  }
  double cost = model.solve(3);
  for (bool better = true; better;) {
    better = false;
    for (Piece& p : model.pieces()) {
      p.sign = -p.sign;
      const double turned = model.solve(3);
      if (turned < cost - 1e-9) {
        cost = turned;
        better = true;
      } else {
        p.sign = -p.sign;
      }
    }
  }
  model.solve(6);
  return cost;
}

std::vector<double> signs_of(const AdditiveFocus& model) {
  std::vector<double> out;
  for (const Piece& p : model.pieces()) out.push_back(p.sign);
  return out;
}

void set_signs(AdditiveFocus& model, const std::vector<double>& signs) {
  for (std::size_t i = 0; i < signs.size(); ++i) model.pieces()[i].sign = signs[i];
}

// Signs by how pieces grow, from the longest on: each as most of what it grows beside.
void signs_by_growth(AdditiveFocus& model) {
  std::vector<Piece>& all = model.pieces();
  std::vector<std::size_t> order(all.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
    return all[a].readings.size() > all[b].readings.size();
  });
  const auto grow_alike = [](const Piece& a, const Piece& b) {
    std::map<std::size_t, double> of_b;
    for (const TrackReading& r : b.readings) of_b[r.frame] = r.value;
    double sa = 0.0;
    double sb = 0.0;
    double sab = 0.0;
    double n = 0.0;
    for (const TrackReading& r : a.readings) {
      const auto found = of_b.find(r.frame);
      if (found == of_b.end()) continue;
      sa += r.value;
      sb += found->second;
      sab += r.value * found->second;
      n += 1.0;
    }
    return n > 0.0 ? sab - sa * sb / n : 0.0;
  };
  for (std::size_t k = 1; k < order.size(); ++k) {
    double vote = 0.0;
    for (std::size_t before = 0; before < k; ++before) {
      vote += all[order[before]].sign * grow_alike(all[order[k]], all[order[before]]);
    }
    all[order[k]].sign = vote < 0.0 ? -1.0 : 1.0;
  }
}

}  // namespace

void find_sides(AdditiveFocus& model, const Execution& execution) {
  Seeded random(1);
  signs_by_growth(model);
  double least = settle_signs(model);
  std::vector<double> best = signs_of(model);
  // Many pieces hold each other; a few have many ways, which are soon looked at.
  const int tries = is_large(model) ? 0 : starts;
  for (int i = 0; i < tries; ++i) {
    execution.check();
    for (Piece& p : model.pieces()) p.sign = random.next() < 0.5 ? 1.0 : -1.0;
    const double cost = settle_signs(model);
    if (cost >= least - 1e-9) continue;
    least = cost;
    best = signs_of(model);
  }
  set_signs(model, best);
  model.solve(6);
}

bool may_turn_back(AdditiveFocus& model, double least_change) {
  const double cost = model.solve(3);
  const std::vector<double> signs = signs_of(model);
  const std::vector<double> focus = model.focus();
  std::vector<std::size_t> ends;
  for (const Piece& p : model.pieces()) ends.push_back(p.readings.back().frame);
  std::sort(ends.begin(), ends.end());
  ends.erase(std::unique(ends.begin(), ends.end()), ends.end());
  constexpr std::size_t most_looked_at = 24;
  const std::size_t step = is_large(model) ? ends.size() / most_looked_at + 1 : 1;
  bool open = false;
  for (std::size_t k = 0; k < ends.size(); k += step) {
    const std::size_t end = ends[k];
    bool any = false;
    bool rest = false;
    for (Piece& p : model.pieces()) {
      const std::size_t middle = p.readings[p.readings.size() / 2].frame;
      if (middle > end) p.sign = -p.sign;
      (middle > end ? any : rest) = true;
    }
    if (any && rest && model.solve(3) < cost + as_likely) {
      // It matters where that makes another curve, or the mirrored one, of it.
      double apart = 0.0;
      double mirrored = 0.0;
      for (std::size_t f = 0; f < focus.size(); ++f) {
        if (!model.told(f)) continue;
        apart = std::max(
            apart, std::abs(model.focus()[f] - model.focus().front() - focus[f] + focus.front()));
        mirrored = std::max(mirrored, std::abs(model.focus()[f] - model.focus().front() + focus[f] -
                                               focus.front()));
      }
      open = open || std::min(apart, mirrored) > least_change;
    }
    set_signs(model, signs);
  }
  model.solve(6);
  return open;
}

}  // namespace jolly_iris::matching
