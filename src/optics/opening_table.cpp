// The tables that points are sampled from.
#include <cmath>

#include "free_outline.hpp"
#include "jolly_iris/optics/opening.hpp"

namespace jolly_iris {

namespace {

// A sector's area from its first corner to t, twice, without the hole.
struct Sweep {
  const Opening::Edge& edge;
  double hole;

  double area(double t) const {
    double a = edge.swept(t);
    if (hole > 0.0) {
      const Point2 p = edge.at(t);
      const double angle =
          std::atan2(edge.from.x * p.y - edge.from.y * p.x, edge.from.x * p.x + edge.from.y * p.y);
      a -= hole * hole * angle;
    }
    return a;
  }
  Point2 change(double t) const {  // of the edge's point with t
    if (edge.radius == 0.0) return {edge.to.x - edge.from.x, edge.to.y - edge.from.y};
    const double turn = edge.to_angle - edge.from_angle;
    const double a = edge.from_angle + t * turn;
    return {-edge.radius * turn * std::sin(a), edge.radius * turn * std::cos(a)};
  }
  double area_change(double t) const {
    const Point2 p = edge.at(t);
    const Point2 d = change(t);
    const double w = p.x * d.y - p.y * d.x;
    return hole > 0.0 ? w * (1.0 - hole * hole / (p.x * p.x + p.y * p.y)) : w;
  }
  // Newton's steps, kept between the ends that are known.
  double t_of(double wanted) const {
    double low = 0.0;
    double high = 1.0;
    double t = 0.5;
    for (int i = 0; i < 60; ++i) {
      const double miss = area(t) - wanted;
      (miss > 0.0 ? high : low) = t;
      double next = t - miss / area_change(t);
      if (!(next > low && next < high)) next = 0.5 * (low + high);
      if (std::abs(next - t) < 1e-15) break;
      t = next;
    }
    return t;
  }
};

void add_sector(const Opening::Edge& edge, double hole, OpeningTable& table) {
  const Sweep sweep{edge, hole};
  const double total = sweep.area(1.0);
  constexpr int k = OpeningTable::intervals;
  for (int i = 0; i <= k; ++i) {
    const double t = i == 0 ? 0.0 : i == k ? 1.0 : sweep.t_of(total * i / k);
    const Point2 p = edge.at(t);
    const Point2 d = sweep.change(t);
    const double per_interval = total / k / sweep.area_change(t);
    table.nodes.push_back({p.x, p.y, d.x * per_interval, d.y * per_interval});
  }
  table.start.push_back(table.start.back() + total);
}

}  // namespace

void Opening::fill_table() {
  table_.hole = hole_;
  if (is_round()) return;
  table_.start = {0.0};
  if (free_.empty()) {
    table_.kind = OpeningTable::Kind::sectors;
    table_.equal = equal_blades_;
    for (const Edge& e : edges_) add_sector(e, hole_, table_);
  } else {
    table_.kind = OpeningTable::Kind::triangles;
    for (const auto& t : triangles_of(free_)) {
      for (const Point2& p : t) table_.nodes.push_back({p.x, p.y, 0.0, 0.0});
      table_.start.push_back(table_.start.back() + signed_area_twice({t[0], t[1], t[2]}));
    }
  }
  const double total = table_.start.back();
  for (double& s : table_.start) s /= total;
  table_.start.back() = 1.0;
  int piece = 0;
  for (int i = 0; i < OpeningTable::guides; ++i) {
    const double u = static_cast<double>(i) / OpeningTable::guides;
    while (table_.start[static_cast<std::size_t>(piece) + 1] <= u) ++piece;
    table_.guide.push_back(piece);
  }
}

}  // namespace jolly_iris
