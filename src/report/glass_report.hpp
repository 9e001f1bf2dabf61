// What a glass is, as text and as JSON.
#pragma once

#include <string>
#include <vector>

#include "disk/json.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/glass/glass_fit.hpp"
#include "jolly_iris/workflow/glass_look.hpp"
#include "jolly_iris/workflow/glass_twin.hpp"
#include "jolly_iris/workflow/nearest_look.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

std::string glass_text(const GlassLook& look);
Json glass_json(const GlassLook& look);

/// Several beside each other, a column each: what they are, over the focus, at half of the way to
/// the corner and there.
std::string glass_comparison_text(const std::vector<GlassLook>& looks);

/// The plain camera that frames alike, and what a renderer that traces surfaces has to know.
std::string twin_text(const GlassLook& look, const GlassTwin& twin);
/// One document: lengths in metres, from the entrance pupil towards the film.
Json twin_json(const GlassLook& look, const GlassTwin& twin);

/// The ordinary lens that is nearest, and how near. Never said without that.
std::string nearest_text(const NearestLook& nearest);
Json nearest_json(const NearestLook& nearest);

/// The compact form as one line of JSON, whose members are called as glass_sampler.hpp's, with what
/// it was fitted at and its error.
std::string fit_table(const GlassLook& look, const GlassFit& fit);
/// "order 7, rms 0.81 um, worst 5.3 um …".
std::string fit_text(const GlassFit& fit);
Json fit_json(const GlassFit& fit);

}  // namespace report
}  // namespace jolly_iris
