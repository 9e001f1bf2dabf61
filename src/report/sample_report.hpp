// How many rays a render needs, in words and as JSON.
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/sample_plan.hpp"
#include "report/solve_report.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

Solved say(const SamplePlan& plan);

}  // namespace report
}  // namespace jolly_iris
