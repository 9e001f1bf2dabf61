#include "picture/decode_straight.hpp"

#include <array>
#include <cmath>

#include "jolly_iris/optics/transfer.hpp"
#include "parallel.hpp"

namespace jolly_iris {

namespace {

// One number to light. Most pictures that are encoded have 8 bits, and so 256 numbers: those are
// looked up, to the same value, all others worked out.
class Decoder {
 public:
  Decoder(Transfer transfer, const Curve& curve) : transfer_(transfer), curve_(curve) {
    for (std::size_t i = 0; i < light_.size(); ++i) light_[i] = worked_out(number(i));
  }

  float operator()(float encoded) const {
    const float at = encoded * last + 0.5F;
    if (!(at >= 0.5F && at < last + 1.0F)) return worked_out(encoded);
    const auto i = static_cast<std::size_t>(at);
    return number(i) == encoded ? light_[i] : worked_out(encoded);
  }

 private:
  static constexpr float last = 255.0F;

  // As 8 bits become floats: times 1 / 255 and over 255 differ in the last bit, so some are worked
  // out although they were 8 bits.
  static float number(std::size_t i) { return static_cast<float>(i) * (1.0F / last); }

  float worked_out(float encoded) const {
    return transfer_ == Transfer::table ? decode(encoded, curve_) : decode(encoded, transfer_);
  }

  Transfer transfer_;
  const Curve& curve_;
  std::array<float, 256> light_{};
};

}  // namespace

void decode_straight(Picture& picture, Transfer transfer, const Curve& curve) {
  const Decoder light(transfer, curve);
  parallel_for(0, picture.height(), [&](int y) {
    for (int x = 0; x < picture.width(); ++x) {
      Rgba& p = picture.at(x, y);
      for (std::size_t c = 0; c < 3; ++c) p[c] = light(p[c]) * p[3];
    }
  });
}

}  // namespace jolly_iris
