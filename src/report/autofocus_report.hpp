// An autofocus's moves, as text and JSON.
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/autofocus_keys.hpp"
#include "report/solve_report.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

Solved say(const AutofocusKeys& keys, const std::string& on);

}  // namespace report
}  // namespace jolly_iris
