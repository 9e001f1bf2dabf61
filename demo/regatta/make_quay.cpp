// Makes the quay's plate: traced with a camera and a lens that the shot file does not tell truly
// (it looks a degree higher, is rolled a little, and its lens bends lines), and the edges that were
// drawn on it, as a hand of 0.3 px draws them.
//
//   make_quay FOLDER [edges]      the edges alone: reads FOLDER/quay.shot.toml, writes
//   FOLDER/quay.plate.exr, prints TOML
#include <fmt/format.h>

#include <algorithm>
#include <jolly_iris/jolly_iris.hpp>
#include <map>
#include <random>

namespace {

using namespace jolly_iris;
using Point = Vec3;

constexpr Distortion bent{.k = {0.047, -0.008, 0.0}};

struct Edge {
  std::string name;
  Runs runs;
  Point from, to;
  int points;
};

// The corners of the house fronts: where two triangles of a front have the same x and z.
void add_corners(const Scene& scene, const char* node_name, std::vector<Edge>& edges) {
  for (const Node& node : scene.nodes) {
    if (node.name != node_name) continue;
    std::map<double, std::pair<double, double>> at;  // x → lowest and highest y
    for (const Vec3f& v : scene.meshes[*node.mesh].primitives[0].positions) {
      const Point p = node.world * Vec3(v);
      if (std::abs(p.z + 47.2) > 1e-3) continue;
      const auto [found, fresh] = at.try_emplace(p.x, p.y, p.y);
      found->second = {std::min(found->second.first, p.y), std::max(found->second.second, p.y)};
    }
    for (const auto& [x, y] : at) {
      if (y.second - y.first < 3.0) continue;
      edges.push_back({"", Runs::vertical, {x, 1.25, -47.2}, {x, y.second - 0.1, -47.2}, 7});
    }
  }
}

}  // namespace

int main(int argc, char** argv) {
  if (argc < 2) return 2;
  const std::string folder = argv[1];
  LoadedShot loaded = load_shot(folder + "/quay.shot.toml");
  Shot shot = loaded.now;
  shot.track->rows[0].pan_tilt_roll = {24.0, 14.0, 0.8};
  shot.lens.distortion = bent;
  const Answer truth = answer(shot, &*loaded.scene);
  const DistortionMap map(truth.camera);
  if (argc == 2) {
    VirtualCamera wider = truth.camera;
    const Margin m = map.margin();
    wider.pixels = {wider.pixels.width + 2 * m.beside, wider.pixels.height + 2 * m.above};
    wider.picture.width = wider.picture.width * wider.pixels.width / truth.camera.pixels.width;
    wider.picture.height = wider.picture.height * wider.pixels.height / truth.camera.pixels.height;
    TraceSettings settings;
    settings.samples = 96;
    write_picture(folder + "/quay.plate.exr",
                  redistorted(trace(*loaded.scene, wider, truth.place, settings), map));
  }

  std::vector<Edge> edges{
      {"wall, upper edge", Runs::level, {-16.0, 1.1, -46.0}, {9.0, 1.1, -46.0}, 16},
      {"wall, foot", Runs::level, {-16.0, 0.0, -46.0}, {2.0, 0.0, -46.0}, 12}};
  for (const double y : {2.6, 4.1, 5.6}) {  // windows stand in rows
    edges.push_back({fmt::format("window tops {}", y < 3.0   ? 1
                                                   : y < 5.0 ? 2
                                                             : 3),
                     Runs::level,
                     {-16.0, y, -47.18},
                     {9.0, y, -47.18},
                     14});
  }
  add_corners(*loaded.scene, "houses", edges);
  add_corners(*loaded.scene, "houses between", edges);
  std::mt19937 random(7);
  std::normal_distribution<double> hand(0.0, 0.3);
  const Pose to_camera = truth.place.inverse();
  int house = 0;
  for (const Edge& e : edges) {
    std::vector<std::array<double, 2>> points;
    for (int i = 0; i < e.points; ++i) {
      const Point p = to_camera * Point(e.from + (e.to - e.from) * (i / (e.points - 1.0)));
      if (p.z > -1.0) continue;
      const auto px = map.distorted(pixel_of_direction(truth.camera, {p.x, p.y, p.z}));
      if (!px || (*px)[0] < 6 || (*px)[0] > 1914 || (*px)[1] < 6 || (*px)[1] > 1074) continue;
      points.push_back({(*px)[0] + hand(random), (*px)[1] + hand(random)});
    }
    if (points.size() < 5) continue;
    const std::string name = e.name.empty() ? fmt::format("house corner {}", ++house) : e.name;
    fmt::print("\n[[plate.line]]\nname   = \"{}\"\nruns   = \"{}\"\npoints = [", name,
               to_string(e.runs));
    for (std::size_t i = 0; i < points.size(); ++i) {
      fmt::print("{}[{:.1f}, {:.1f}]",
                 i == 0       ? ""
                 : i % 4 == 0 ? ",\n          "
                              : ", ",
                 points[i][0], points[i][1]);
    }
    fmt::print("]\n");
  }
}
