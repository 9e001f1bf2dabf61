// A plate's finish in words and as JSON.
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/finish_measurement.hpp"
#include "report/solve_report.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

Solved say(const FinishMeasurement& found);

}  // namespace report
}  // namespace jolly_iris
