// Who is how sharp in a plan, by name: of thousands, too.
#pragma once

#include <string>
#include <string_view>
#include <unordered_map>

#include "jolly_iris/drawing/plan.hpp"

namespace jolly_iris::drawing {

class PlanBlurs {
 public:
  explicit PlanBlurs(const Plan& plan) {
    for (const SubjectBlur& s : plan.answer.subjects) by_name_.emplace(s.name, &s);
  }
  /// None for who is not there.
  const SubjectBlur* of(const std::string& name) const {
    const auto found = by_name_.find(name);
    return found == by_name_.end() ? nullptr : found->second;
  }

 private:
  std::unordered_map<std::string_view, const SubjectBlur*> by_name_{};
};

}  // namespace jolly_iris::drawing
