// What most numbers of a camera are: above zero.
#pragma once

namespace jolly_iris {

/// @param what "the ISO", for the message; @param key of the shot file
/// @throws OpticsError where a value is not finite and above zero
void require_above_zero(double value, const char* what, const char* key);

}  // namespace jolly_iris
