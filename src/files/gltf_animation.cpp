#include "gltf_animation.hpp"

#include <fmt/format.h>

#include <cmath>
#include <set>
#include <string>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris::gltf {

namespace {

struct Source {
  const CheckedModel& m;
  const tinygltf::Animation& animation;
  std::string what;  // "animation 0 ('sail') channel 2"

  [[noreturn]] void refuse(const std::string& why) const {
    throw FileError(fmt::format("{}: {} {}", m.file, what, why));
  }
  std::size_t within(int index, std::size_t size, const char* target) const {
    if (index < 0 || static_cast<std::size_t>(index) >= size) {
      refuse(fmt::format("points at {} {}, but there are {}", target, index, size));
    }
    return static_cast<std::size_t>(index);
  }
};

std::vector<double> times_of(const Source& from, int accessor) {
  const auto numbers = read_numbers(from.m, accessor, 1);
  std::vector<double> times;
  for (const auto& v : numbers) {
    if (!times.empty() && !(v[0] > times.back())) {
      from.refuse(fmt::format("has the time {:g} s behind {:g} s; times rise", v[0], times.back()));
    }
    times.push_back(v[0]);
  }
  if (times.empty()) from.refuse("has no times");
  return times;
}

Channel::Step step_of(const Source& from, const std::string& word) {
  if (word.empty() || word == "LINEAR") return Channel::Step::linear;
  if (word == "STEP") return Channel::Step::hold;
  if (word != "CUBICSPLINE") {
    from.refuse(
        fmt::format("has the interpolation '{}'; glTF knows STEP, LINEAR and CUBICSPLINE", word));
  }
  return Channel::Step::cubic;
}

Channel read_channel(const Source& from, const tinygltf::AnimationChannel& channel,
                     std::size_t node) {
  const auto& samplers = from.animation.samplers;
  const auto& sampler = samplers[from.within(channel.sampler, samplers.size(), "sampler")];
  const std::size_t accessors = from.m.model.accessors.size();
  from.within(sampler.input, accessors, "accessor");
  from.within(sampler.output, accessors, "accessor");
  Channel out;
  out.node = node;
  out.path = channel.target_path == "translation" ? Channel::Path::translation
             : channel.target_path == "rotation"  ? Channel::Path::rotation
                                                  : Channel::Path::scale;
  out.step = step_of(from, sampler.interpolation);
  out.times = times_of(from, sampler.input);
  out.values = read_numbers(from.m, sampler.output, out.path == Channel::Path::rotation ? 4 : 3);
  const std::size_t wanted = out.times.size() * (out.step == Channel::Step::cubic ? 3 : 1);
  if (out.values.size() != wanted) {
    from.refuse(fmt::format("has {} times but {} values; it needs {}", out.times.size(),
                            out.values.size(), wanted));
  }
  return out;
}

}  // namespace

std::vector<Channel> read_channels(const CheckedModel& m,
                                   const std::vector<std::optional<std::size_t>>& place) {
  std::vector<Channel> channels;
  std::set<std::pair<int, std::string>> moved;
  for (std::size_t i = 0; i < m.model.animations.size(); ++i) {
    const tinygltf::Animation& animation = m.model.animations[i];
    for (std::size_t k = 0; k < animation.channels.size(); ++k) {
      const tinygltf::AnimationChannel& channel = animation.channels[k];
      const Source from{m, animation,
                        fmt::format("animation {} ('{}') channel {}", i, animation.name, k)};
      if (channel.target_node < 0 || channel.target_path == "weights") continue;
      const std::size_t node = from.within(channel.target_node, m.model.nodes.size(), "node");
      if (channel.target_path != "translation" && channel.target_path != "rotation" &&
          channel.target_path != "scale") {
        from.refuse(fmt::format("moves '{}', which glTF does not know", channel.target_path));
      }
      if (!m.model.nodes[node].matrix.empty()) {
        from.refuse(
            fmt::format("moves node '{}', which has a matrix; glTF wants translation, "
                        "rotation and scale there",
                        m.model.nodes[node].name));
      }
      if (!moved.insert({channel.target_node, channel.target_path}).second) {
        from.refuse(fmt::format("moves the {} of node '{}' a second time; export one animation",
                                channel.target_path, m.model.nodes[node].name));
      }
      if (place[node]) channels.push_back(read_channel(from, channel, *place[node]));
    }
  }
  return channels;
}

}  // namespace jolly_iris::gltf
