#include "lens_glass.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/files/glass_file.hpp"
#include "jolly_iris/glass/coating.hpp"
#include "jolly_iris/glass/focus_travel.hpp"
#include "jolly_iris/glass/glass_distortion.hpp"
#include "jolly_iris/glass/glass_facts.hpp"
#include "jolly_iris/glass/paraxial.hpp"
#include "shot_sections.hpp"

namespace jolly_iris {

namespace {

constexpr const char* glass_key = "lens.glass";
// How far a focal length may be from the glass's and still be what its barrel says, as a share.
constexpr double as_engraved = 0.03;

void fill(ShotReader& in, const Prescription& p, Lens& lens) {
  const TracedGlass glass(p);
  const ParaxialFacts facts = paraxial_facts(glass);
  if (!(facts.focal.mm() > 0.0)) {
    return in.mistake(glass_key,
                      fmt::format("'{}' spreads light (its focal length is {:.4g} mm), so it is "
                                  "no lens of a camera",
                                  lens.glass, facts.focal.mm()));
  }
  if (lens.focal.mm() > 0.0 && std::abs(lens.focal / facts.focal - 1.0) > as_engraved) {
    in.mistake("lens.focal", fmt::format("{:.4g} mm is not what its glass has: {:.2f} mm; leave it "
                                         "out, or name another glass",
                                         lens.focal.mm(), facts.focal.mm()));
  }
  lens.focal = facts.focal;
  if (lens.name.empty()) lens.name = p.name;
  if (!lens.pupil && facts.entrance_pupil.is_finite()) lens.pupil = -facts.entrance_pupil;
  if (!lens.widest) lens.widest = f_number(facts.f_number);
  if (!lens.transmission) lens.transmission = axis_transmission(p)[1];
  const Length nearest = nearest_focus(p);
  if (!lens.close_focus) lens.close_focus = nearest;
  std::vector<GlassMark> marks = marks_of(p);
  std::reverse(marks.begin(), marks.end());
  const bool breathes = lens.breathing.empty();
  const bool squeezes = !p.is_round() && !in.has("lens.squeeze") && lens.squeezes.empty();
  for (const GlassMark& mark : marks) {
    if (breathes) lens.breathing.push_back({mark.distance, mark.focal_scene, {}});
    if (squeezes) lens.squeezes.push_back({mark.distance, mark.squeeze});
  }
  if (squeezes) {
    const double nominal = facts.focal / paraxial_facts(glass, Meridian::across).focal;
    // As lenses are called: 2, 1.8, 1.33.
    lens.squeeze = std::round(100.0 * nominal) / 100.0;
  }
  if (!in.has_section("lens.iris.")) lens.iris = p.iris;
  if (!in.has_section("lens.distortion.")) {
    lens.distortion = distortion_of(p, lens.squeeze).distortion;
  }
}

}  // namespace

void read_lens_glass(ShotReader& in, const std::string& file, Lens& lens) {
  const auto name = in.text(glass_key);
  if (!name) return;
  lens.glass = beside(file_of(in.tree().at(glass_key), file), *name);
  try {
    fill(in, read_glass(lens.glass), lens);
  } catch (const ShotFileError& e) {
    for (const FileMistake& m : e.mistakes()) in.mistake_at(m.place, m.key, m.message);
  } catch (const FileError& e) {
    in.mistake(glass_key, e.what());
  } catch (const OpticsError& e) {
    in.mistake(glass_key, e.what());
  }
}

}  // namespace jolly_iris
