// CG that is given a plate's measured finish, against that plate: whether what is told of both
// differs by more than its margins, and how grain's power differs by fineness. The plates are drawn
// in closed form; CG is the same scene without the part, through our own finish.
//
//   finish_likeness [COUNT] [FIRST SEED] [details]
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "../tests/plates/cornered.hpp"
#include "../tests/plates/grained.hpp"
#include "../tests/plates/haloed.hpp"
#include "../tests/plates/likeness.hpp"
#include "../tests/plates/rayed.hpp"
#include "../tests/plates/smeared.hpp"
#include "asked_plates.hpp"
#include "jolly_iris/jolly_iris.hpp"

namespace {

using namespace jolly_iris;

struct MadePair {
  Picture plate;
  Picture clean;
};

MadePair pair_of(FinishPart part, std::uint32_t seed) {
  switch (part) {
    case FinishPart::halo: {
      plates::HaloedPlate p = plates::haloed_plate(seed, false);
      return {std::move(p.picture), std::move(p.clean)};
    }
    case FinishPart::streak: {
      plates::RayedPlate p = plates::rayed_plate(seed, false, 1);
      return {std::move(p.picture), std::move(p.clean)};
    }
    case FinishPart::smear: {
      plates::SmearedPlate p = plates::smeared_plate(seed, false);
      return {std::move(p.picture), std::move(p.clean)};
    }
    case FinishPart::corners: {
      plates::CorneredPlate p = plates::cornered_plate(seed, false, false);
      return {std::move(p.picture), std::move(p.clean)};
    }
    default: {
      plates::GrainedPlate p = plates::grained_plate(seed, false);
      return {std::move(p.picture), std::move(p.clean)};
    }
  }
}

}  // namespace

int main(int argc, char** argv) {
  const auto [count, first, details] = asked_plates(argc, argv);
  for (const FinishPart part : {FinishPart::grain, FinishPart::corners, FinishPart::smear,
                                FinishPart::streak, FinishPart::halo}) {
    int looked_at = 0;
    int within = 0;
    int banded = 0;
    int within_a_decibel = 0;
    for (int i = 0; i < count; ++i) {
      const auto seed = static_cast<std::uint32_t>(first + i);
      const MadePair made = pair_of(part, seed);
      const FinishInPlate found = finish_in(made.plate, {});
      if (!plates::is_told(found, part)) continue;
      const Picture cg = plates::finished_like(made.clean, found);
      const plates::Likeness like = plates::likeness(compare_finishes(made.plate, cg, {}, {}));
      ++looked_at;
      within += like.free > 0 && like.chi2 <= like.limit && like.missing == 0;
      banded += like.most_db >= 0.0;
      within_a_decibel += like.most_db >= 0.0 && like.most_db <= 1.0;
      if (details) {
        fmt::print("{:4} {} χ² {:.1f} of {} (99 %: {:.1f}), {} missing, {:.2f} dB{}\n", seed,
                   to_string(part), like.chi2, like.free, like.limit, like.missing, like.most_db,
                   like.worst);
      }
    }
    fmt::print(
        "{}: {} plates of {} tell it: {} within their margins (χ² at 99 %), grain {}/{} within 1 "
        "dB\n",
        to_string(part), looked_at, count, within, within_a_decibel, banded);
  }
}
