// What many results say in the same way: measured values, tried values, files that were written.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "disk/json.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/measure/lines.hpp"
#include "jolly_iris/optics/shot.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

/// {"value": …, "margin": …}.
Json json_of(const Measured& measured);
/// A number, or null for one that is infinite.
Json finite(double v);
/// A length in metres; null for an infinite one.
Json metres_json(Length l);

/// "tried, not in the file: take.stop = f/4" and a line's end for what was tried, and before it
/// what was solved from the plate; or nothing.
std::string tried_line(const Shot& shot);

/// {"written": […], numbers …, "tried": {…}}.
Json written_json(const std::vector<std::string>& names,
                  const std::map<std::string, double>& numbers, const Shot* shot);

}  // namespace report
}  // namespace jolly_iris
