#include "jolly_iris/optics/frame_name.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

bool is_sequence(const std::string& name) { return name.find('#') != std::string::npos; }

std::string numbered(const std::string& name, double frame) {
  const auto last = name.rfind('#');
  if (last == std::string::npos) return name;
  const auto before = name.find_last_not_of('#', last);
  const auto first = before == std::string::npos ? 0 : before + 1;
  if (frame != std::floor(frame)) {
    throw UsageError(fmt::format("frame {:g} is not whole, so no file has its number", frame));
  }
  return fmt::format("{}{:0{}}{}", name.substr(0, first), static_cast<long>(frame),
                     last - first + 1, name.substr(last + 1));
}

}  // namespace jolly_iris
