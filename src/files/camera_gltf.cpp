// A camera in its place, for any reader of glTF.
#include <cstdint>

#include "disk/base64.hpp"
#include "files/answer_json.hpp"
#include "jolly_iris/files/handoff.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

// The camera's way over frames as an animation: times, places and turns one behind the other.
void add_motion(Json& gltf, const std::vector<Answer>& frames, double fps) {
  std::string bytes;
  const auto put = [&](double v) {
    const auto f = static_cast<float>(v);
    bytes.append(reinterpret_cast<const char*>(&f), sizeof f);
  };
  const double first = frames.front().frame.value_or(0.0);
  const auto seconds = [&](const Answer& a) { return (a.frame.value_or(0.0) - first) / fps; };
  for (const Answer& a : frames) put(seconds(a));
  for (const Answer& a : frames) {
    for (std::size_t i = 0; i < 3; ++i) put(a.place.translation[i]);
  }
  Quaternion before;
  for (const Answer& a : frames) {
    Quaternion turn = Quaternion::from(a.place.linear);
    if (turn.dot(before) < 0.0) turn = -turn;  // the short way
    for (const double number : {turn.x, turn.y, turn.z, turn.w}) put(number);
    before = turn;
  }
  const std::size_t n = frames.size();
  const auto view = [&](std::size_t offset, std::size_t length) {
    return Json{{"buffer", 0}, {"byteOffset", offset}, {"byteLength", length}};
  };
  const auto accessor = [&](int index, const char* type) {
    return Json{{"bufferView", index}, {"componentType", 5126}, {"count", n}, {"type", type}};
  };
  Json times = accessor(0, "SCALAR");
  times["min"] = {0.0};
  times["max"] = {static_cast<double>(static_cast<float>(seconds(frames.back())))};
  gltf["animations"] =
      Json::array({{{"name", "camera move"},
                    {"samplers",
                     {{{"input", 0}, {"output", 1}, {"interpolation", "LINEAR"}},
                      {{"input", 0}, {"output", 2}, {"interpolation", "LINEAR"}}}},
                    {"channels",
                     {{{"sampler", 0}, {"target", {{"node", 0}, {"path", "translation"}}}},
                      {{"sampler", 1}, {"target", {{"node", 0}, {"path", "rotation"}}}}}}}});
  gltf["accessors"] = Json::array({times, accessor(1, "VEC3"), accessor(2, "VEC4")});
  gltf["bufferViews"] = Json::array({view(0, 4 * n), view(4 * n, 12 * n), view(16 * n, 16 * n)});
  gltf["buffers"] = Json::array(
      {{{"byteLength", bytes.size()}, {"uri", data_uri("application/octet-stream", bytes)}}});
}

}  // namespace

std::string camera_gltf(const std::vector<Answer>& frames, const std::string& name,
                        std::optional<double> fps) {
  if (frames.empty()) throw UsageError("a camera without a single frame cannot be written");
  const Answer& answer = frames.front();
  const VirtualCamera& c = answer.camera;
  // It frames the picture, which need not be quite the gate's shape.
  const double aspect = c.picture.width / c.picture.height;
  const double yfov = c.vertical_picture_view().radians();
  Json extras = camera_json(answer);
  extras["lens_focal_mm"] = c.lens_focal.mm();
  extras["lens_f_number"] = c.lens_f_number;
  const Quaternion turn = Quaternion::from(answer.place.linear);
  const Vec3 at = answer.place.translation;
  Json gltf{
      {"asset", {{"version", "2.0"}, {"generator", "Jolly Iris"}}},
      {"scene", 0},
      {"scenes", Json::array({{{"nodes", {0}}}})},
      {"nodes", Json::array({{{"name", name},
                              {"camera", 0},
                              {"translation", {at.x, at.y, at.z}},
                              {"rotation", {turn.x, turn.y, turn.z, turn.w}}}})},
      {"cameras",
       Json::array({{{"name", name},
                     {"type", "perspective"},
                     {"perspective", {{"yfov", yfov}, {"aspectRatio", aspect}, {"znear", 0.01}}},
                     {"extras", extras}}})}};
  if (frames.size() > 1) add_motion(gltf, frames, fps.value_or(24.0));
  return gltf.dump(2) + "\n";
}

}  // namespace jolly_iris
