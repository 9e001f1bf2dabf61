// Makes the demo's scanned tree: a willow at the canal as coloured points. Everything is invented.
//
//   make_willow FOLDER      writes willow.ply (centimetres, +Y up, colours as sRGB)
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <filesystem>
#include <numbers>
#include <string>

#include "dice.hpp"
#include "disk/disk.hpp"
#include "maker.hpp"

namespace {

constexpr double pi = std::numbers::pi;
constexpr int strands = 420;
constexpr int leaves = 90;  // of a strand

class Cloud {
 public:
  void add(double x, double y, double z, double red, double green, double blue) {
    for (const double v : {x, y, z}) {
      const auto f = static_cast<float>(v);
      std::array<char, sizeof f> bytes{};
      std::memcpy(bytes.data(), &f, sizeof f);
      body_.append(bytes.data(), bytes.size());
    }
    for (const double v : {red, green, blue}) {
      body_ += static_cast<char>(static_cast<std::uint8_t>(std::clamp(v, 0.0, 255.0)));
    }
    ++count_;
  }
  std::string ply() const {
    return fmt::format(
               "ply\nformat binary_little_endian 1.0\ncomment a willow at the regatta, in "
               "centimetres\nelement vertex {}\nproperty float x\nproperty float y\nproperty float "
               "z\nproperty uchar red\nproperty uchar green\nproperty uchar blue\nend_header\n",
               count_) +
           body_;
  }

 private:
  std::string body_;
  int count_ = 0;
};

Cloud willow() {
  Dice<double> dice(11);
  Cloud cloud;
  const double x0 = 110.0;  // where it stands
  const double z0 = -720.0;
  for (int i = 0; i < 5000; ++i) {  // the trunk
    const double y = dice.roll(0.0, 260.0);
    const double around = dice.roll(0.0, 2.0 * pi);
    const double r = 14.0 - 0.03 * y + 1.5 * std::sin(7.0 * around);
    const double light = dice.roll(0.7, 1.1) * (0.75 + 0.25 * std::cos(around));
    cloud.add(x0 + r * std::cos(around) + 12.0 * std::sin(y / 130.0), y, z0 + r * std::sin(around),
              92.0 * light, 74.0 * light, 60.0 * light);
  }
  for (int i = 0; i < strands; ++i) {
    const double around = dice.roll(0.0, 2.0 * pi);
    const double out = 150.0 * std::sqrt(dice.roll(0.02, 1.0));
    const double top = 285.0 - 0.4 * out + dice.roll(-20.0, 20.0);
    const double fall = dice.roll(0.45, 0.95) * top;
    const double sway = dice.roll(-14.0, 14.0);
    const double lit = dice.roll(0.7, 1.15);
    for (int k = 0; k < leaves; ++k) {
      const double down = dice.roll(0.0, 1.0);
      const double spread = 2.0 + 3.0 * down;
      const double light = lit * dice.roll(0.75, 1.2) * (1.05 - 0.35 * down);
      cloud.add(x0 + (out + sway * down) * std::cos(around) + dice.roll(-spread, spread),
                top - fall * down,
                z0 + (out + sway * down) * std::sin(around) + dice.roll(-spread, spread),
                128.0 * light, 142.0 * light, 62.0 * light);
    }
  }
  return cloud;
}

}  // namespace

int main(int argc, char** argv) {
  return made_into_folder("make_willow", argc, argv, [](const std::filesystem::path& folder) {
    jolly_iris::write_whole_file(folder / "willow.ply", willow().ply());
  });
}
