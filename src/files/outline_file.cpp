#include "jolly_iris/files/outline_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <numbers>
#include <optional>
#include <pugixml.hpp>

#include "disk/disk.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

using std::numbers::pi;
constexpr int curve_pieces = 48;  // of one curve of a path
constexpr double largest = 1e9;   // a coordinate beyond is a slip
constexpr std::size_t max_points = 200000;

[[noreturn]] void refuse(std::string_view name, const std::string& what) {
  throw FileError(fmt::format("{}: {}", name, what));
}

bool space(char c) { return c == ' ' || c == '\t' || c == '\n' || c == '\r'; }

// Numbers of a path or a list of points, parted by blanks, commas or their own signs.
class Numbers {
 public:
  Numbers(std::string_view text, std::string_view name) : text_(text), name_(name) {}

  bool done() {
    skip();
    return at_ >= text_.size();
  }
  // A letter that is a command, if one comes next.
  std::optional<char> command() {
    skip();
    if (at_ >= text_.size()) return std::nullopt;
    const char c = text_[at_];
    if (!((c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z'))) return std::nullopt;
    ++at_;
    return c;
  }
  double number() {
    skip();
    std::size_t from = at_;
    if (from < text_.size() && text_[from] == '+') ++from;
    double value = 0.0;
    const auto [end, error] =
        std::from_chars(text_.data() + from, text_.data() + text_.size(), value);
    if (error != std::errc{} || !(std::abs(value) <= largest)) {
      refuse(name_,
             fmt::format("'{}' stands where the outline needs a number", text_.substr(at_, 12)));
    }
    at_ = static_cast<std::size_t>(end - text_.data());
    return value;
  }
  // An arc's flags may stand without anything between them.
  bool flag() {
    skip();
    if (at_ < text_.size() && (text_[at_] == '0' || text_[at_] == '1')) return text_[at_++] == '1';
    refuse(name_, "an arc's flag is neither 0 nor 1");
  }

 private:
  void skip() {
    while (at_ < text_.size() && (space(text_[at_]) || text_[at_] == ',')) ++at_;
  }
  std::string_view text_;
  std::string_view name_;
  std::size_t at_ = 0;
};

// A path's commands as one line of points, up to its first end.
class PathReader {
 public:
  PathReader(std::string_view d, std::string_view name) : in_(d, name), name_(name) {}

  std::vector<Point2> read() {
    char command = 0;
    while (!in_.done()) {
      if (const auto next = in_.command()) {
        command = *next;
      } else if (command == 0) {
        refuse(name_, "the path does not begin with a command; write e.g. M 0 0");
      } else if (command == 'M' || command == 'm') {
        command = command == 'M' ? 'L' : 'l';  // further pairs of a move are lines
      }
      if (points_.empty() && command != 'M' && command != 'm') {
        refuse(name_, "the path does not begin with a move (M)");
      }
      if (command == 'Z' || command == 'z') break;
      if (points_.size() > 1 && (command == 'M' || command == 'm')) break;  // a second shape
      step(command);
      if (points_.size() > max_points) refuse(name_, "the path has too many pieces");
    }
    return std::move(points_);
  }

 private:
  Point2 pair(bool relative) {
    const double x = in_.number();
    const double y = in_.number();
    return relative ? Point2{now_.x + x, now_.y + y} : Point2{x, y};
  }
  void line(Point2 to) {
    points_.push_back(to);
    now_ = to;
  }
  void cubic(Point2 a, Point2 b, Point2 to) {
    const Point2 from = now_;
    for (int i = 1; i <= curve_pieces; ++i) {
      const double t = static_cast<double>(i) / curve_pieces;
      const double u = 1.0 - t;
      const auto mix = [&](double p, double q, double r, double s) {
        return u * u * u * p + 3.0 * u * u * t * q + 3.0 * u * t * t * r + t * t * t * s;
      };
      points_.push_back({mix(from.x, a.x, b.x, to.x), mix(from.y, a.y, b.y, to.y)});
    }
    handle_ = b;
    now_ = to;
  }
  void quadratic(Point2 a, Point2 to) {
    const Point2 from = now_;
    cubic({from.x + 2.0 / 3.0 * (a.x - from.x), from.y + 2.0 / 3.0 * (a.y - from.y)},
          {to.x + 2.0 / 3.0 * (a.x - to.x), to.y + 2.0 / 3.0 * (a.y - to.y)}, to);
    handle_ = a;
  }
  Point2 mirrored(std::string_view after) const {
    return after.find(last_) == std::string_view::npos
               ? now_
               : Point2{2.0 * now_.x - handle_.x, 2.0 * now_.y - handle_.y};
  }
  // From end points to centre: SVG 1.1, appendix F.6.5.
  void arc(bool relative) {
    double rx = std::abs(in_.number());
    double ry = std::abs(in_.number());
    const double turn = in_.number() * pi / 180.0;
    const bool large = in_.flag();
    const bool sweep = in_.flag();
    const Point2 to = pair(relative);
    if (rx == 0.0 || ry == 0.0 || (to.x == now_.x && to.y == now_.y)) return line(to);
    const double c = std::cos(turn);
    const double s = std::sin(turn);
    const double hx = 0.5 * (now_.x - to.x);
    const double hy = 0.5 * (now_.y - to.y);
    const double x = c * hx + s * hy;
    const double y = -s * hx + c * hy;
    const double reach = x * x / (rx * rx) + y * y / (ry * ry);
    if (reach > 1.0) {
      rx *= std::sqrt(reach);
      ry *= std::sqrt(reach);
    }
    const double down = rx * rx * y * y + ry * ry * x * x;
    const double root =
        std::sqrt(std::max(0.0, (rx * rx * ry * ry - down) / std::max(down, 1e-300)));
    const double sign = large == sweep ? -1.0 : 1.0;
    const double mx = sign * root * rx * y / ry;
    const double my = -sign * root * ry * x / rx;
    const Point2 centre{c * mx - s * my + 0.5 * (now_.x + to.x),
                        s * mx + c * my + 0.5 * (now_.y + to.y)};
    const double from = std::atan2((y - my) / ry, (x - mx) / rx);
    double run = std::atan2((-y - my) / ry, (-x - mx) / rx) - from;
    if (sweep && run < 0.0) run += 2.0 * pi;
    if (!sweep && run > 0.0) run -= 2.0 * pi;
    for (int i = 1; i < curve_pieces; ++i) {
      const double a = from + run * i / curve_pieces;
      points_.push_back({centre.x + rx * std::cos(a) * c - ry * std::sin(a) * s,
                         centre.y + rx * std::cos(a) * s + ry * std::sin(a) * c});
    }
    line(to);
  }

  void step(char command) {
    const bool relative = command >= 'a';
    const char kind = relative ? static_cast<char>(command - 'a' + 'A') : command;
    switch (kind) {
      case 'M':
        points_.clear();
        line(pair(relative));
        break;
      case 'L':
        line(pair(relative));
        break;
      case 'H':
        line({in_.number() + (relative ? now_.x : 0.0), now_.y});
        break;
      case 'V':
        line({now_.x, in_.number() + (relative ? now_.y : 0.0)});
        break;
      case 'C': {
        const Point2 a = pair(relative);
        const Point2 b = pair(relative);
        cubic(a, b, pair(relative));
        break;
      }
      case 'S': {
        const Point2 a = mirrored("CS");
        const Point2 b = pair(relative);
        cubic(a, b, pair(relative));
        break;
      }
      case 'Q': {
        const Point2 a = pair(relative);
        quadratic(a, pair(relative));
        break;
      }
      case 'T': {
        const Point2 a = mirrored("QT");
        quadratic(a, pair(relative));
        break;
      }
      case 'A':
        arc(relative);
        break;
      default:
        refuse(name_, fmt::format("a path has no command '{}'", command));
    }
    last_ = kind;
  }

  Numbers in_;
  std::string_view name_;
  std::vector<Point2> points_{};
  Point2 now_{};
  Point2 handle_{};  // of the last curve
  char last_ = 0;
};

std::vector<Point2> ellipse(double cx, double cy, double rx, double ry) {
  std::vector<Point2> points;
  constexpr int n = 4 * curve_pieces;
  for (int i = 0; i < n; ++i) {
    points.push_back({cx + rx * std::cos(2.0 * pi * i / n), cy + ry * std::sin(2.0 * pi * i / n)});
  }
  return points;
}

// @param shape an element as the drawing program wrote it, perhaps with a prefix: "svg:path"
std::vector<Point2> points_of(const pugi::xml_node& shape, std::string_view name) {
  const std::string_view whole = shape.name();
  const std::string_view kind = whole.substr(whole.find(':') + 1);
  const auto number = [&](const char* key) {
    const pugi::xml_attribute found = shape.attribute(key);
    return found.empty() ? 0.0 : Numbers(found.value(), name).number();
  };
  if (kind == "path") return PathReader(shape.attribute("d").value(), name).read();
  if (kind == "polygon") {
    std::vector<Point2> points;
    Numbers in(shape.attribute("points").value(), name);
    while (!in.done() && points.size() < max_points) {
      const double x = in.number();
      points.push_back({x, in.number()});
    }
    return points;
  }
  if (kind == "circle") return ellipse(number("cx"), number("cy"), number("r"), number("r"));
  if (kind == "ellipse") return ellipse(number("cx"), number("cy"), number("rx"), number("ry"));
  if (kind == "rect") {
    const double x = number("x");
    const double y = number("y");
    const double w = number("width");
    const double h = number("height");
    return {{x, y}, {x + w, y}, {x + w, y + h}, {x, y + h}};
  }
  return {};
}

// The first shape of a drawing, in the order of the file.
class FirstShape : public pugi::xml_tree_walker {
 public:
  explicit FirstShape(std::string_view name) : name_(name) {}
  bool for_each(pugi::xml_node& node) override {
    points = points_of(node, name_);
    return points.empty();
  }
  std::vector<Point2> points{};

 private:
  std::string_view name_;
};

}  // namespace

std::vector<Point2> parse_outline(std::string_view svg, std::string_view name) {
  pugi::xml_document drawing;
  const pugi::xml_parse_result parsed = drawing.load_buffer(svg.data(), svg.size());
  if (!parsed) {
    refuse(name, fmt::format("cannot be read as an SVG: {} at byte {}; it takes one as drawing "
                             "programs write it",
                             parsed.description(), parsed.offset));
  }
  FirstShape first(name);
  drawing.traverse(first);
  if (first.points.empty()) {
    refuse(name,
           "holds no shape for an opening; it takes an SVG with a <path d=\"M …\">, a <polygon>, "
           "<circle>, <ellipse> or <rect>");
  }
  if (first.points.size() < 3) refuse(name, "its first shape has fewer than three corners");
  for (Point2& p : first.points) p.y = -p.y;
  return std::move(first.points);
}

std::vector<Point2> read_outline(const std::filesystem::path& path) {
  return parse_outline(read_whole_file(path), path.string());
}

}  // namespace jolly_iris
