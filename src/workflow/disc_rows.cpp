#include "jolly_iris/workflow/disc_rows.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/workflow/load.hpp"
#include "optics/value_text.hpp"

namespace jolly_iris {

namespace {

std::vector<DiscRow> usual_rows(const VirtualCamera& c) {
  const double focus = 1.0 / c.focus.m();
  std::vector<DiscRow> rows;
  if (focus <= 0.0) {  // focused at infinity: everything is in front
    for (const double z : {1.0, 3.0, 10.0}) rows.push_back({"in front", Length::from_m(z)});
    rows.push_back({"in focus", Length::infinity()});
    return rows;
  }
  rows.push_back({"in front", Length::from_m(1.0 / (2.0 * focus))});
  rows.push_back({"in front", Length::from_m(1.0 / (1.5 * focus))});
  rows.push_back({"in focus", c.focus});
  rows.push_back({"behind", Length::from_m(2.0 / focus)});
  rows.push_back({"behind", Length::infinity()});
  return rows;
}

}  // namespace

std::vector<DiscRow> disc_rows(const LoadedShot& loaded, const std::vector<std::string>& at) {
  if (at.empty()) return usual_rows(loaded.answer.camera);
  std::vector<DiscRow> rows;
  for (const std::string& text : at) {
    const Length z = distance_named(loaded, text);
    if (!(z.mm() > 0.0)) throw UsageError(text + " is not in front of the camera");
    const auto& subjects = loaded.answer.subjects;
    const bool named = std::any_of(subjects.begin(), subjects.end(),
                                   [&](const SubjectBlur& s) { return s.name == text; });
    rows.push_back({named ? text : metres_text(z), z});
  }
  return rows;
}

DiscRow disc_row(const LoadedShot& loaded, const std::vector<std::string>& at) {
  if (at.empty()) return {"infinity", Length::infinity()};
  return disc_rows(loaded, at).front();
}

double largest_disc(const VirtualCamera& camera, const std::vector<DiscRow>& rows,
                    const GlassCamera* glass) {
  double largest = 1.0;
  for (const DiscRow& row : rows) {
    for (const DiscColumn& column : disc_columns) {
      const BokehDisc d = bokeh_disc(camera, column.place, row.z, 1.0, glass);
      largest = std::max({largest, d.width_px, d.height_px});
    }
  }
  return largest;
}

}  // namespace jolly_iris
