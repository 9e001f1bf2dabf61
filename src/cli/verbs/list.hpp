// All verbs, in the order of the help: one line each.
#pragma once

#include <vector>

#include "cli/verbs/verb.hpp"

#define JOLLY_IRIS_VERBS(VERB) \
  VERB(start)                  \
  VERB(report)                 \
  VERB(solve)                  \
  VERB(trace)                  \
  VERB(defocus)                \
  VERB(finish)                 \
  VERB(bokeh)                  \
  VERB(samples)                \
  VERB(expose)                 \
  VERB(plan)                   \
  VERB(page)                   \
  VERB(live)                   \
  VERB(measure)                \
  VERB(match)                  \
  VERB(compare)                \
  VERB(undistort)              \
  VERB(redistort)              \
  VERB(desqueeze)              \
  VERB(squeeze)                \
  VERB(shots)                  \
  VERB(carry)                  \
  VERB(glass)                  \
  VERB(flare)                  \
  VERB(handoff)

namespace jolly_iris::cli::verbs {

#define JOLLY_IRIS_DECLARE(name) extern const VerbEntry name;
JOLLY_IRIS_VERBS(JOLLY_IRIS_DECLARE)
#undef JOLLY_IRIS_DECLARE

}  // namespace jolly_iris::cli::verbs

namespace jolly_iris::cli {

inline std::vector<const VerbEntry*> all_verbs() {
#define JOLLY_IRIS_LIST(name) &verbs::name,
  return {JOLLY_IRIS_VERBS(JOLLY_IRIS_LIST)};
#undef JOLLY_IRIS_LIST
}

}  // namespace jolly_iris::cli
