// Discs kept from one picture to the next, for as long as the opening keeps its shape.
//
// A disc in steps of CoC does not know how that CoC came about: after a turn of the focus ring, and
// of most irises after a change of the stop, the same discs are wanted again.
#pragma once

#include <cstddef>
#include <list>
#include <unordered_map>
#include <vector>

#include "disc.hpp"

namespace jolly_iris::blur {

/// Not for several threads at once.
class DiscStore {
 public:
  /// From now on, discs are those of this maker's opening and pixels. Those of a few openings
  /// before are kept: somebody flips between two.
  void begin(const DiscMaker& maker);
  /// The disc of a step, seen from where nothing cuts it; null if there is none.
  const Disc* find(int step) const;
  void keep(int step, const Disc& disc);

  std::size_t made() const { return made_; }
  std::size_t reused() const { return reused_; }
  void count(std::size_t made, std::size_t reused) {
    made_ += made;
    reused_ += reused;
  }

 private:
  // What a disc that nothing cuts depends on besides its step.
  struct Shape {
    std::vector<Contour> outline{};
    std::vector<std::array<float, 3>> light{};
    double spherical = 0.0;
    double coma = 0.0;
    double aspect = 1.0;
    double pixel_width = 0.0;
    double pixel_height = 0.0;
    bool operator==(const Shape& other) const;
  };
  static Shape shape_of(const DiscMaker& maker);

  struct Kept {
    Shape shape{};
    std::unordered_map<int, Disc> discs{};
    std::size_t bytes = 0;
  };
  std::list<Kept> kept_{};  // the one in use in front
  std::size_t made_ = 0;
  std::size_t reused_ = 0;
};

}  // namespace jolly_iris::blur
