#include "start_sources.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <filesystem>
#include <limits>

#include "jolly_iris/files/load.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/picture_origin.hpp"

namespace jolly_iris {

namespace {

std::string lower_case_ending(const std::string& file) {
  std::string e = std::filesystem::path(file).extension().string();
  std::transform(e.begin(), e.end(), e.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return e;
}

// Whether a picture is one of depths, or has them beside its colour.
bool has_depth(const std::string& file) {
  if (lower_case_ending(file) != ".exr") return false;
  return read_values(file).has_depth();
}

void take_once(std::string& place, const std::string& file, const char* what) {
  if (!place.empty()) {
    throw UsageError(fmt::format("{} and {} are both {}; give one", place, file, what));
  }
  place = file;
}

void read_plate_into(StartSources& out, const std::string& plate) {
  out.facts = read_plate_facts(plate);
  out.mark = out.facts.distance;
  // No simple lens focuses nearer (design: d >= 4 f).
  if (out.mark && out.facts.focal && out.mark->mm() < 4.0 * out.facts.focal->mm()) {
    out.facts.doubts.push_back(
        fmt::format("that {:g} mm was focused at {:.4g} m", out.facts.focal->mm(), out.mark->m()));
    out.mark.reset();
  }
  for (const std::string& doubt : out.facts.doubts) {
    out.notes.push_back("the picture says " + doubt + ", which is not believed");
  }
}

// Metres are seldom all below one.
void warn_of_depth(StartSources& out, const std::string& file) {
  float least = std::numeric_limits<float>::infinity();
  float most = 0.0F;
  const auto see = [&](float v) {
    if (!std::isfinite(v)) return;
    least = std::min(least, v);
    most = std::max(most, v);
  };
  if (out.depth->has_depth()) {
    for (const float v : out.depth->depth) see(v);
  } else {
    for (const Rgba& p : out.depth->colour.pixels()) see(p[0]);
  }
  if (least < 0.0F || most > 1.0F || !(most > 0.0F)) return;
  out.notes.push_back(
      fmt::format("{}: all of it is from {:.3g} to {:.3g}: it may be normalised or 1/z rather than "
                  "metres; say so in [depth], with near and far",
                  file, least, most));
}

void read_scene_into(StartSources& out, const StartRequest& request,
                     std::vector<std::string>& files) {
  out.scene = read_scene(request.scene);
  files.insert(files.end(), out.scene->files.begin(), out.scene->files.end());
  for (const Node& node : out.scene->nodes) {
    if (!node.camera) continue;
    const SceneCamera& camera = out.scene->cameras[*node.camera];
    out.cameras.push_back(camera.name.empty() ? node.name : camera.name);
  }
  if (out.cameras.empty()) {
    throw UsageError(request.scene +
                     ": has no camera; place one in it, since a shot begins with where it was "
                     "taken from");
  }
  if (request.camera.empty() && out.cameras.size() > 1) {
    out.camera = out.cameras.front();
    if (out.camera.empty()) {
      throw UsageError(fmt::format(
          "{}: has {} cameras without names; name the one that took the picture, and give it: "
          "--camera NAME",
          request.scene, out.cameras.size()));
    }
    std::string all;
    for (const std::string& name : out.cameras) all += (all.empty() ? "" : ", ") + name;
    out.guesses.push_back({"scene.camera", out.camera,
                           fmt::format("The first of the scene's cameras: {}", all),
                           "which of them took it"});
  } else {
    out.camera = request.camera;
  }
  const std::size_t node =
      camera_node(*out.scene, out.camera.empty() ? std::nullopt : std::optional(out.camera));
  out.seen = out.scene->cameras[*out.scene->nodes[node].camera];
}

}  // namespace

StartRequest start_request(const std::vector<std::string>& what, std::vector<std::string>& files) {
  StartRequest request;
  for (const std::string& file : what) {
    const std::string ending = lower_case_ending(file);
    files.push_back(file);
    if (ending == ".gltf" || ending == ".glb" || ending == ".usda") {
      take_once(request.scene, file, "scenes");
    } else if (ending == ".usd" || ending == ".usdc" || ending == ".usdz" || ending == ".obj") {
      throw UsageError(file + ": is no scene of a kind that is read: .gltf, .glb or .usda");
    } else if (has_depth(file)) {
      take_once(request.depth, file, "pictures with depth");
    } else {
      take_once(request.plate, file, "plates");
    }
  }
  return request;
}

StartSources read_start_sources(const StartRequest& request, std::vector<std::string>& files) {
  StartSources out;
  if (!request.plate.empty()) {
    files.push_back(request.plate);
    read_plate_into(out, request.plate);
  }
  if (!request.depth.empty()) {
    files.push_back(request.depth);
    out.depth = read_values(request.depth);
    out.ours = read_origin(request.depth).axial_depth;
    if (!out.ours) warn_of_depth(out, request.depth);
  }
  if (!request.scene.empty()) read_scene_into(out, request, files);
  return out;
}

}  // namespace jolly_iris
