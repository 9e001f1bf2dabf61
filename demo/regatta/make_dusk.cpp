// Makes the dusk's plate: the regatta seen by the hero's camera, with every light two stops
// brighter and 1,400 K warmer than CG has it (4200 K instead of 5600 K), but for the shore light,
// which stands at half. The shot file knows nothing of it.
//
//   make_dusk FOLDER [SAMPLES]      reads FOLDER/hero.shot.toml, writes FOLDER/dusk.exr
#include <cstdlib>
#include <jolly_iris/jolly_iris.hpp>

int main(int argc, char** argv) {
  using namespace jolly_iris;
  if (argc < 2) return 2;
  const std::string folder = argv[1];
  LoadedShot loaded = load_shot(folder + "/hero.shot.toml");
  Scene& scene = *loaded.scene;
  const Rgb was = white_rgb({5600_K}, Primaries::rec709);
  const Rgb is = white_rgb({4200_K}, Primaries::rec709);
  const Vec3f factor(static_cast<float>(4.0 * is[0] / was[0]), 4.0F,
                     static_cast<float>(4.0 * is[2] / was[2]));
  for (Material& m : scene.materials) m.emission = m.emission.times(factor);
  for (Light& l : scene.lights) l.intensity = l.intensity.times(factor);
  for (const Node& node : scene.nodes) {
    if (node.light && node.name == "shore light") scene.lights[*node.light].intensity *= 0.5F;
  }
  scene.sky = scene.sky.times(factor);
  scene.ground = scene.ground.times(factor);
  TraceSettings settings;
  settings.samples = argc > 2 ? std::atoi(argv[2]) : 256;
  settings.seed = 5;
  settings.size = PixelSize{1280, 720};
  write_picture(folder + "/dusk.exr",
                trace(scene, loaded.answer.camera, loaded.answer.place, settings));
}
