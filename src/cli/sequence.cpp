#include "sequence.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/errors.hpp"
#include "jolly_iris/frames.hpp"
#include "jolly_iris/over.hpp"

namespace jolly_iris::cli {

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

LoadedShot at_frame(const LoadedShot& loaded, double frame) {
  LoadedShot at{loaded.shot, loaded.now, std::nullopt, loaded.answer};
  if (!loaded.answer.frame) return at;
  std::optional<Scene> scene = loaded.scene;
  at.now = shot_at(loaded.shot, frame);
  at.answer = answer_at(loaded.shot, scene ? &*scene : nullptr, frame);
  return at;
}

}  // namespace jolly_iris::cli
