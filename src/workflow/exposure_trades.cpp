#include "jolly_iris/workflow/exposure_trades.hpp"

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/scene/motion_blur.hpp"
#include "optics/value_text.hpp"

namespace jolly_iris {

namespace {

TradeRow trade_row(const Lens& lens, const Take& was, const Take& now, Partner pays,
                   const std::string& change) {
  TradeRow row{change, {}, {}, pays};
  try {
    row.trade = hold_exposure(lens, was, now, pays);
  } catch (const OpticsError& e) {
    row.refused = e.what();
  }
  return row;
}

// One stop wider and one narrower, each paid by each of the others.
std::vector<TradeRow> usual_trades(const Shot& shot) {
  std::vector<TradeRow> rows;
  for (const double factor : {std::sqrt(0.5), std::sqrt(2.0)}) {
    Take now = shot.take;
    now.stop.value = nearest_f_number(now.stop.value * factor);
    // Then as far as it opens.
    if (!opens_to(shot.lens, now.stop)) now.stop = widest_as(shot.lens, now.stop.kind);
    // Where scales of stops end, or the lens is open already, nothing would change.
    const double changed = std::log2(now.stop.value / shot.take.stop.value) / std::log2(factor);
    if (changed < 0.09) continue;  // a tenth of a stop is the least that a lens is set by
    for (const Partner pays : {Partner::iso, Partner::shutter, Partner::nd}) {
      rows.push_back(trade_row(shot.lens, shot.take, now, pays, stop_text(now.stop)));
    }
  }
  return rows;
}

// px a second of the subject that was asked for.
std::optional<double> speed_of(const TakeRequest& request, const LoadedShot& loaded) {
  if (request.of.empty()) return std::nullopt;
  const Scene* scene = loaded.scene ? &*loaded.scene : nullptr;
  if (request.metres_per_second) {
    for (const SubjectBlur& s : loaded.answer.subjects) {
      if (s.name != request.of) continue;
      return speed_in_picture(loaded.answer.camera, *request.metres_per_second, s.axial);
    }
  }
  // It also says which names there are.
  const double frame = loaded.answer.frame.value_or(0.0);
  return speed_in_picture(loaded.shot, scene, request.of, frame);
}

// The take as the file has it, at the same frame.
Take untried(const ShotRequest& shot, const LoadedShot& loaded, std::vector<std::string>& files) {
  ShotRequest plain = shot;
  std::erase_if(plain.overrides, [](const Override& t) { return t.key.starts_with("take."); });
  if (plain.overrides.size() == shot.overrides.size()) {
    throw UsageError(
        "the exposure is held for a change of the take; say which, e.g. take.stop = f/1.8");
  }
  const LoadedShot was = open_shot(plain, files);
  const Take& take = was.now.take;
  const bool changes_ev = take.ev || loaded.now.take.ev;
  if (changes_ev) {
    throw UsageError(loaded.shot.where("take.ev") +
                     "a given ev holds by itself: stop, shutter and ISO change nothing of the "
                     "brightness, so nobody has to pay");
  }
  return take;
}

}  // namespace

TakeExposure take_exposure(const TakeRequest& request, const ShotRequest& shot,
                           const LoadedShot& loaded, std::vector<std::string>& files) {
  const Shot& now = loaded.now;
  TakeExposure out;
  out.of = request.of;
  if (request.gains) out.white_of_gains = white_of_gains(*request.gains, now.primaries);
  out.px_per_second = speed_of(request, loaded);
  const Exposure& exposure = loaded.answer.exposure;
  if (request.pay) {
    out.was = untried(shot, loaded, files);
    out.paid =
        TradeRow{"", hold_exposure(now.lens, out.was, now.take, *request.pay), {}, *request.pay};
  } else if (exposure.by_numbers && !exposure.ev_is_given) {
    out.usual = usual_trades(now);
  }
  return out;
}

}  // namespace jolly_iris
