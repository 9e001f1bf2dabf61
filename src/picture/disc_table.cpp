#include "disc_table.hpp"

#include <algorithm>
#include <atomic>

#include "parallel.hpp"

namespace jolly_iris::blur {

GateMap gate_map(const VirtualCamera& camera, PixelSize size, const Margin& margin) {
  GateMap map;
  map.pixel_width = camera.picture.width.m() / (size.width - 2 * margin.beside);
  map.pixel_height = map.pixel_width * (camera.pixel_pitch() / camera.pixel_pitch_x());
  map.axis_x = 0.5 * size.width - camera.shift_right.m() / map.pixel_width;
  map.axis_y = 0.5 * size.height + camera.shift_up.m() / map.pixel_height;
  return map;
}

namespace {
// Places across a frame that traced discs are made for: they differ little from one to the next.
constexpr int traced_columns = 15;
}  // namespace

DiscTable::DiscTable(const DiscMaker& maker, const GateMap& map, PixelSize size,
                     const std::vector<std::int16_t>& step, std::size_t colour, DiscStore* store) {
  if (store != nullptr) store->begin(maker);
  columns_ = (size.width + cell_px - 1) / cell_px;
  const int rows = (size.height + cell_px - 1) / cell_px;
  const auto [low, high] = std::minmax_element(step.begin(), step.end());
  first_ = *low;
  steps_ = *high - first_ + 1;
  const double px = maker.pixel_height();
  // Cells along a side that share a place.
  const int group = maker.traced() ? std::max(1, size.width / (traced_columns * cell_px)) : 1;
  const auto middle = [&](int column, int row, int s) {
    const auto at = [&](int cell, int of) {
      const int first = cell / group * group;
      return std::min((first + 0.5 * group) * cell_px, static_cast<double>(of));
    };
    DiscPlace place = map.place(at(column, size.width), at(row, size.height), coc_of_step(s) * px);
    place.colour = colour;
    return place;
  };
  cell_.assign(static_cast<std::size_t>(columns_) * static_cast<std::size_t>(rows), 0);
  std::vector<std::size_t> cut{0};  // which cell each number stands for
  if (maker.depends_on_place()) {
    for (int row = 0; row < rows; ++row) {
      for (int column = 0; column < columns_; ++column) {
        const bool own = maker.pupil().lens().coma != 0.0 || maker.cut(middle(column, row, *low)) ||
                         maker.cut(middle(column, row, *high));
        if (!own) continue;
        if (column % group != 0 || row % group != 0) {
          cell_[at(column, row)] = cell_[at(column / group * group, row / group * group)];
          continue;
        }
        cell_[at(column, row)] = static_cast<int>(cut.size());
        cut.push_back(at(column, row));
      }
    }
  }
  std::vector<std::atomic<char>> wanted(cut.size() * static_cast<std::size_t>(steps_));
  parallel_for(0, size.height, [&](int y) {
    const auto row = static_cast<std::size_t>(y) * static_cast<std::size_t>(size.width);
    for (int x = 0; x < size.width; ++x) {
      const int s = step[row + static_cast<std::size_t>(x)];
      auto& mark = wanted[slot(static_cast<std::size_t>(cell_of(x, y)), s)];
      if (mark.load(std::memory_order_relaxed) == 0) mark.store(1, std::memory_order_relaxed);
    }
  });
  index_.assign(wanted.size(), -1);
  std::vector<std::size_t> layout;
  const auto steps = static_cast<std::size_t>(steps_);
  for (std::size_t i = 0; i < wanted.size(); ++i) {
    if (wanted[i].load() == 0) continue;
    // The second of two steps has the first one's disc.
    const bool second = maker.traced() && i % steps % 2 == 1;
    const std::size_t made = second ? i - 1 : i;
    if (index_[made] < 0) {
      index_[made] = static_cast<int>(layout.size());
      layout.push_back(made);
    }
    index_[i] = index_[made];
  }
  discs_.resize(layout.size());
  std::vector<char> kept(layout.size(), 0);
  parallel_for(std::size_t{0}, layout.size(), [&](std::size_t i) {
    const std::size_t number = layout[i] / static_cast<std::size_t>(steps_);
    const int s = first_ + static_cast<int>(layout[i] % static_cast<std::size_t>(steps_));
    const auto cell = static_cast<int>(cut[number]);
    DiscPlace place = middle(cell % columns_, cell / columns_, s);
    if (number == 0) {
      place.right = place.up = 0.0;
      const Disc* known = store != nullptr && !maker.cut(place) ? store->find(s) : nullptr;
      if (known != nullptr) {
        discs_[i] = *known;
        kept[i] = 1;
        return;
      }
    }
    discs_[i] = maker.make(place);
  });
  if (store != nullptr) {
    for (std::size_t i = 0; i < layout.size(); ++i) {
      const bool uncut = layout[i] < static_cast<std::size_t>(steps_);
      const int s = first_ + static_cast<int>(layout[i] % static_cast<std::size_t>(steps_));
      if (!uncut || kept[i] != 0) continue;
      if (!maker.cut({0.0, 0.0, coc_of_step(s) * px, colour})) store->keep(s, discs_[i]);
    }
    const auto reused = static_cast<std::size_t>(std::count(kept.begin(), kept.end(), 1));
    store->count(layout.size() - reused, reused);
  }
  for (const Disc& d : discs_) reach_ = std::max(reach_, d.reach());
}

}  // namespace jolly_iris::blur
