// On which side of the focus lamps are, out of how their discs grow beside each other.
#pragma once

#include "additive_focus.hpp"
#include "jolly_iris/optics/execution.hpp"

namespace jolly_iris::matching {

/// Gives each piece the side with which all go together best. All of it mirrored is as good.
/// @throws Cancelled
void find_sides(AdditiveFocus& model, const Execution& execution);

/// Whether everything after some frame could be mirrored as well: it is told by too few lamps there
/// which way the focus goes on.
/// @param least_change what differs by less does not matter, 1/m
bool may_turn_back(AdditiveFocus& model, double least_change);

}  // namespace jolly_iris::matching
