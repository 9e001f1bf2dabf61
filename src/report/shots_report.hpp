// All cameras of a show, for people, programs and spreadsheets.
#pragma once

#include <string>

#include "disk/json.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/shot_list.hpp"
#include "jolly_iris/workflow/shot_list_edit.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

/// A table as wide as its cells; what differs from the master's has a * behind it, what nobody said
/// a ?. @param all also the columns that are long (remarks, frames)
std::string shots_text(const ShotList& list, bool all);
Json shots_json(const ShotList& list);
/// Every column, behind those that name the row (row_columns).
std::string shots_csv(const ShotList& list);

/// What a table that was changed would do, or did. @param dry it would
std::string shot_list_edit_text(const ShotListEdit& edit, bool dry);
Json shot_list_edit_json(const ShotListEdit& edit, bool dry);

}  // namespace report
}  // namespace jolly_iris
