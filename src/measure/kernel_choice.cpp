#include "kernel_choice.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

#include "edge_posterior.hpp"
#include "lamp_colour.hpp"
#include "measure/constants.hpp"
#include "picture/parallel.hpp"
#include "population.hpp"

namespace jolly_iris::measuring {

namespace {

// Lines of discs that are alone and seen whole; of these the sharpest, which show the kernel nearly
// bare, and the largest, which have many pixels.
std::vector<EdgeLine> that_tell(const std::vector<DiscItem>& items, const LumaModel& look) {
  std::vector<const FittedDisc*> all;
  for (const FittedDisc* f : lamps_among(items)) {
    if (f->line.samples.size() >= 16) all.push_back(f);
  }
  const auto by = [&](std::size_t from, const auto& less) {
    std::sort(all.begin() + static_cast<std::ptrdiff_t>(std::min(from, all.size())), all.end(),
              [&](const FittedDisc* a, const FittedDisc* b) { return less(*a) < less(*b); });
  };
  // The edges of small ones are bent more than their drawing is exact.
  const auto doubt = [](const FittedDisc& f) {
    const double bent = f.disc.height * std::min(f.disc.aspect, 1.0);
    return std::max(1.0, f.left_over) * (bent < kernels::well_above * f.disc.soft ? 10.0 : 1.0);
  };
  by(0, [&](const FittedDisc& f) { return doubt(f) * (f.cut[1] ? 1e3 : 1.0) * f.disc.soft; });
  by(kernels::max_discs / 2,
     [&](const FittedDisc& f) { return doubt(f) / std::sqrt(f.disc.height); });
  if (all.size() > kernels::max_discs) all.resize(kernels::max_discs);
  std::vector<EdgeLine> lines(all.size());
  parallel_for(std::size_t{0}, all.size(), [&](std::size_t i) {
    const EdgeLine& line = all[i]->line;
    lines[i] = all[i]->clipped() ? with_colour(line, lamp_colour(line, look)) : line;
  });
  return lines;
}

// The logarithm of how likely each is, against the likeliest.
void weigh(std::vector<LikelyKernel>& all, const std::vector<EdgeLine>& discs,
           const LumaModel& look, std::size_t sizes) {
  std::vector<std::vector<EdgeTry>> tries(discs.size() * all.size());
  parallel_for(std::size_t{0}, tries.size(), [&](std::size_t i) {
    tries[i] = edge_tries(discs[i / all.size()], look, *all[i % all.size()].edges, {}, sizes);
  });
  for (LikelyKernel& k : all) k.weight = 0.0;
  for (std::size_t d = 0; d < discs.size(); ++d) {
    const auto* of_disc = &tries[d * all.size()];
    double misfit = std::numeric_limits<double>::infinity();
    for (std::size_t k = 0; k < all.size(); ++k) {
      misfit = std::min(misfit, misfit_of(of_disc[k], discs[d].samples.size()));
    }
    for (std::size_t k = 0; k < all.size(); ++k) {
      all[k].weight += edge_posterior(of_disc[k], misfit).log_evidence;
    }
  }
  double best = -std::numeric_limits<double>::infinity();
  for (const LikelyKernel& k : all) best = std::max(best, k.weight);
  for (LikelyKernel& k : all) k.weight -= best;
}

void sort_by_weight(std::vector<LikelyKernel>& all) {
  std::sort(all.begin(), all.end(),
            [](const LikelyKernel& a, const LikelyKernel& b) { return a.weight > b.weight; });
}

// What misleads one disc of a file misleads all of them: many say little more than a few.
double shared_by(std::size_t discs) {
  return std::max(1.0, static_cast<double>(discs) / kernels::worth);
}

// Those that more discs could still make likely; for the time it takes, a count at most.
void keep_likely(std::vector<LikelyKernel>& all, std::size_t asked, std::size_t count) {
  sort_by_weight(all);
  if (all.size() > count) all.resize(count);
  std::erase_if(
      all, [&](const LikelyKernel& k) { return k.weight < -kernels::hopeless * shared_by(asked); });
}

// Nothing is sharper than the kernel: by the sharpest of the discs that are seen whole.
double widest_kernel(const std::vector<DiscItem>& items) {
  std::vector<double> soft;
  for (const FittedDisc* f : lamps_among(items)) {
    if (!f->clipped()) soft.push_back(f->disc.soft);
  }
  return soft.size() < 4 ? std::numeric_limits<double>::infinity()
                         : kernels::softer_than_sharpest * quantile(soft, 0.2);
}

EdgeKernel likeliest(const std::vector<LikelyKernel>& all) {
  return std::max_element(
             all.begin(), all.end(),
             [](const LikelyKernel& a, const LikelyKernel& b) { return a.weight < b.weight; })
      ->edges->kernel();
}

// Kernels that differ from one by a step, where they are not there yet.
void add_beside(const EdgeKernel& from, double step, std::vector<LikelyKernel>& all) {
  const auto add = [&](const EdgeKernel& kernel) {
    if (kernel.bell_px < 0.0 || kernel.sharpening < 0.0) return;
    const EdgeTable* table = &edge_table(kernel);
    const bool known = std::any_of(all.begin(), all.end(),
                                   [&](const LikelyKernel& k) { return k.edges == table; });
    if (!known) all.push_back({.edges = table, .weight = 0.0});
  };
  const double softer = step * std::max(1.0, from.bell_px);
  for (const double by : {-softer, softer}) add({from.squares, from.bell_px + by, from.sharpening});
  if (step < kernels::finer.front() || from.sharpening == 0.0) return;
  for (const double by : {-kernels::finer_sharpening, kernels::finer_sharpening}) {
    add({from.squares, from.bell_px, from.sharpening + by});
  }
}

// Those that are nearly alike are one, whose weights it has; the best few, with weights that sum to
// 1.
std::vector<LikelyKernel> told_apart(std::vector<LikelyKernel> all) {
  sort_by_weight(all);
  std::vector<LikelyKernel> out;
  double sum = 0.0;
  double doubts = 0.0;
  for (const LikelyKernel& k : all) {
    const EdgeKernel& kernel = k.edges->kernel();
    const auto same = std::find_if(out.begin(), out.end(), [&](const LikelyKernel& o) {
      const EdgeKernel& other = o.edges->kernel();
      const double apart = std::abs(kernel.bell_px - other.bell_px);
      return other.squares == kernel.squares && other.sharpening == kernel.sharpening &&
             apart < kernels::alike_px * std::max(1.0, other.bell_px);
    });
    const double doubt = std::exp(k.weight);
    const double weight = std::exp(kernels::worth_of_place / kernels::worth * k.weight);
    if (same != out.end()) {
      same->weight += weight;
      same->doubt += doubt;
    } else if (out.size() < kernels::max_likely) {
      out.push_back({k.edges, weight, doubt});
    } else {
      continue;
    }
    sum += weight;
    doubts += doubt;
  }
  for (LikelyKernel& k : out) {
    k.weight /= sum;
    k.doubt /= doubts;
  }
  return out;
}

}  // namespace

std::vector<LikelyKernel> likely_kernels(const std::vector<DiscItem>& items,
                                         const LumaModel& look) {
  const std::vector<EdgeLine> discs = that_tell(items, look);
  if (discs.empty()) return {};
  std::vector<LikelyKernel> all;
  const double widest = widest_kernel(items);
  const std::vector<EdgeKernel>& known = known_kernels();
  parallel_for(std::size_t{0}, known.size(), [&](std::size_t i) { edge_table(known[i]); });
  for (const EdgeKernel& k : known) {
    const EdgeTable& table = edge_table(k);
    if (all.empty() || table.sigma_px() < widest) all.push_back({.edges = &table, .weight = 0.0});
  }
  // Most are told apart by a few discs.
  const auto weigh_by = [&](std::size_t count, std::size_t sizes, std::size_t kept) {
    const std::vector<EdgeLine> asked(
        discs.begin(), discs.begin() + static_cast<std::ptrdiff_t>(std::min(discs.size(), count)));
    weigh(all, asked, look, sizes);
    keep_likely(all, asked.size(), kept);
  };
  weigh_by(kernels::first_discs, kernels::first_sizes, kernels::after_first);
  for (const double step : kernels::finer) {
    add_beside(likeliest(all), step, all);
    weigh_by(kernels::next_discs, kernels::next_sizes, kernels::after_next);
  }
  weigh(all, discs, look, 1);
  for (LikelyKernel& k : all) k.weight /= shared_by(discs.size());
  std::erase_if(all, [](const LikelyKernel& k) { return k.weight < -kernels::unlikely; });
  return told_apart(std::move(all));
}

}  // namespace jolly_iris::measuring
