// How values are written for people, wherever a sentence has one in it.
#pragma once

#include <string>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/exposure_hold.hpp"
#include "jolly_iris/optics/take.hpp"
#include "jolly_iris/optics/units.hpp"
#include "jolly_iris/optics/white.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// "2.350 m", "146.6 m", "infinity": for tables.
std::string metres_text(Length l);
/// "2.35 m", "infinity": four figures, for sentences.
std::string short_metres_text(Length l);
/// "1/48 s", "1.5 s".
std::string time_text(Duration time);
/// "f/2", "T2.1".
std::string stop_text(const Stop& stop);
/// "f/1.4", "84.7 deg", "1/102 s", "ISO 400", "ND 2 stops".
std::string partner_text(Partner partner, const Take& take);
/// "5600 K", "5600 K tint +0.004".
std::string white_text(const White& white);

}  // namespace jolly_iris
