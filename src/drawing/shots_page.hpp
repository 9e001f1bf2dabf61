// All cameras of a show as one HTML page: to sort, to search, to see what differs.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/drawing/labelled_sheet.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/shot_list.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// @param pictures as shot_pictures has them
std::string shots_page(const ShotList& list, const std::vector<SheetCell>& pictures);

}  // namespace jolly_iris
