#include "disk/base64.hpp"

#include <cstddef>

namespace jolly_iris {

std::string base64(std::string_view bytes) {
  constexpr std::string_view letters =
      "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/";
  std::string text;
  text.reserve(4 * (bytes.size() + 2) / 3);
  for (std::size_t i = 0; i < bytes.size(); i += 3) {
    unsigned int three = 0;
    for (std::size_t k = 0; k < 3; ++k) {
      const auto byte = i + k < bytes.size() ? static_cast<unsigned char>(bytes[i + k]) : 0U;
      three = three << 8U | byte;
    }
    for (std::size_t k = 0; k < 4; ++k) {
      text += i + k > bytes.size() ? '=' : letters[three >> (18U - 6U * k) & 63U];
    }
  }
  return text;
}

std::string data_uri(std::string_view kind, std::string_view bytes) {
  return "data:" + std::string(kind) + ";base64," + base64(bytes);
}

}  // namespace jolly_iris
