#include "picture/decode_straight.hpp"

#include "jolly_iris/optics/transfer.hpp"
#include "parallel.hpp"

namespace jolly_iris {

void decode_straight(Picture& picture, Transfer transfer, const Curve& curve) {
  const bool table = transfer == Transfer::table;
  parallel_for(0, picture.height(), [&](int y) {
    for (int x = 0; x < picture.width(); ++x) {
      Rgba& p = picture.at(x, y);
      for (std::size_t c = 0; c < 3; ++c) {
        p[c] = (table ? decode(p[c], curve) : decode(p[c], transfer)) * p[3];
      }
    }
  });
}

}  // namespace jolly_iris
