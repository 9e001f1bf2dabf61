#include "jolly_iris/transfer.hpp"

#include <cmath>

namespace jolly_iris {

namespace {

float srgb_to_linear(float v) {
  return v <= 0.04045F ? v / 12.92F : std::pow((v + 0.055F) / 1.055F, 2.4F);
}

float linear_to_srgb(float v) {
  return v <= 0.0031308F ? v * 12.92F : 1.055F * std::pow(v, 1.0F / 2.4F) - 0.055F;
}

// The constants with enough digits that the two pieces meet.
constexpr float rec709_alpha = 1.09929682680944F;
constexpr float rec709_beta = 0.018053968510807F;

float rec709_to_linear(float v) {
  return v < 4.5F * rec709_beta ? v / 4.5F
                                : std::pow((v + rec709_alpha - 1.0F) / rec709_alpha, 1.0F / 0.45F);
}

float linear_to_rec709(float v) {
  return v < rec709_beta ? 4.5F * v : rec709_alpha * std::pow(v, 0.45F) - (rec709_alpha - 1.0F);
}

}  // namespace

float decode(float encoded, Transfer transfer) {
  const float v = std::abs(encoded);
  switch (transfer) {
    case Transfer::linear:
      return encoded;
    case Transfer::srgb:
      return std::copysign(srgb_to_linear(v), encoded);
    case Transfer::rec709:
      break;
  }
  return std::copysign(rec709_to_linear(v), encoded);
}

float encode(float linear, Transfer transfer) {
  const float v = std::abs(linear);
  switch (transfer) {
    case Transfer::linear:
      return linear;
    case Transfer::srgb:
      return std::copysign(linear_to_srgb(v), linear);
    case Transfer::rec709:
      break;
  }
  return std::copysign(linear_to_rec709(v), linear);
}

void decode_straight(Picture& picture, Transfer transfer) {
  for (Rgba& p : picture.pixels()) {
    for (std::size_t c = 0; c < 3; ++c) p[c] = decode(p[c], transfer) * p[3];
  }
}

}  // namespace jolly_iris
