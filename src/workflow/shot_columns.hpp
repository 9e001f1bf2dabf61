// The columns of a list of shots, and what stands in them for one shot.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/workflow/shot_list.hpp"

namespace jolly_iris {

/// Those asked for, by key; none: the usual ones.
std::vector<ShotColumn> shot_columns(const std::vector<std::string>& keys);

/// Whether a key of shot files is among the usual ones.
bool is_usual_key(const std::string& key);

ShotCell cell_of(const LoadedShot& loaded, const ShotColumn& column);

/// The number in a text, to sort and compare by: lengths in mm, "f/2.8", "1/50", "172.8 deg".
std::optional<double> number_in(const std::string& text);

}  // namespace jolly_iris
