#include <fmt/format.h>

#include <algorithm>

#include "jolly_iris/optics/quantity.hpp"
#include "shot_sections.hpp"

namespace jolly_iris {

namespace {

class MarkReader {
 public:
  MarkReader(ShotReader& in, PixelSize pixels) : in_(in), pixels_(pixels) {}

  std::string base(const char* kind, std::size_t i) const {
    return fmt::format("plate.{}[{}]", kind, i);
  }
  bool has(const char* kind, std::size_t i) const { return in_.has_section(base(kind, i) + "."); }

  std::string name(const std::string& base) {
    return in_.text(base + ".name").value_or(std::string{});
  }

  std::vector<std::array<double, 2>> points(const std::string& base, std::size_t min) {
    const std::string key = base + ".points";
    if (!in_.has(key)) {
      missing(base, fmt::format("points = [[x, y], [x, y]{}]", min > 2 ? ", [x, y]" : ""));
      return {};
    }
    auto found = in_.pixels(key, min);
    if (!found) return {};
    for (std::size_t i = 0; i < found->size(); ++i) {
      if (!within(key, (*found)[i])) return {};
      for (std::size_t j = 0; j < i; ++j) {
        if ((*found)[i] != (*found)[j]) continue;
        in_.mistake(key, fmt::format("has the place [{:g}, {:g}] twice; points of one edge are "
                                     "apart from each other",
                                     (*found)[i][0], (*found)[i][1]));
        return {};
      }
    }
    return *found;
  }

  std::optional<std::array<double, 2>> at(const std::string& base) {
    const std::string key = base + ".at";
    if (!in_.has(key)) missing(base, "at = [x, y]");
    auto place = in_.pixel(key);
    if (place && !within(key, *place)) place.reset();
    return place;
  }

  std::optional<std::array<double, 4>> box(const std::string& base) {
    const std::string key = base + ".box";
    if (!in_.has(key)) missing(base, "box = [left, top, width, height]");
    const auto v = in_.numbers(key, 4, 4,
                               "a box; write [left, top, width, height] in pixels, e.g. [840, 500, "
                               "60, 40]");
    if (!v) return std::nullopt;
    const std::array<double, 4> box{(*v)[0], (*v)[1], (*v)[2], (*v)[3]};
    if (!(box[2] > 0.0 && box[3] > 0.0)) {
      in_.mistake(key, fmt::format("is {:g} x {:g} pixels; a box has a width and a height above "
                                   "zero",
                                   box[2], box[3]));
      return std::nullopt;
    }
    const bool inside =
        within(key, {box[0], box[1]}) && within(key, {box[0] + box[2], box[1] + box[3]});
    return inside ? std::optional(box) : std::nullopt;
  }

 private:
  void missing(const std::string& base, const std::string& example) {
    const auto first = in_.tree().lower_bound(base + ".");
    in_.mistake(first->first, "this mark has no place; write " + example);
  }

  bool within(const std::string& key, const std::array<double, 2>& p) {
    if (pixels_.width < 1 || pixels_.height < 1) return true;  // told elsewhere
    if (p[0] >= 0.0 && p[1] >= 0.0 && p[0] <= pixels_.width && p[1] <= pixels_.height) return true;
    in_.mistake(key, fmt::format("[{:g}, {:g}] is outside the picture of {} x {} px", p[0], p[1],
                                 pixels_.width, pixels_.height));
    return false;
  }

  ShotReader& in_;
  PixelSize pixels_;
};

void read_boxes(ShotReader& in, MarkReader& marks, DrawnBox::Kind kind, PlateMarks& all) {
  const char* word = kind == DrawnBox::Kind::grey ? "grey" : "box";
  in.know(fmt::format("plate.{}.box", word));
  in.know(fmt::format("plate.{}.name", word));
  for (std::size_t i = 0; marks.has(word, i); ++i) {
    const std::string base = marks.base(word, i);
    const std::string name = marks.name(base);
    DrawnBox drawn{kind, {}, name, {}, {}};
    if (kind == DrawnBox::Kind::grey) {
      drawn.luminance = in.quantity<double>(base + ".luminance", parse_luminance);
      drawn.light = in.quantity<White>(base + ".light", parse_white);
    }
    if (const auto box = marks.box(base)) {
      drawn.box = *box;
      all.boxes.push_back(drawn);
    }
  }
}

}  // namespace

PlateMarks read_marks(ShotReader& in, PixelSize pixels) {
  PlateMarks all;
  MarkReader marks(in, pixels);
  for (const char* key :
       {"plate.line.points", "plate.line.runs", "plate.line.name", "plate.circle.points",
        "plate.circle.name", "plate.lamp.at", "plate.lamp.diameter", "plate.lamp.name",
        "plate.grey.luminance", "plate.grey.light"}) {
    in.know(key);  // so that a misspelt one gets the right hint
  }
  for (std::size_t i = 0; marks.has("line", i); ++i) {
    const std::string base = marks.base("line", i);
    DrawnLine line;
    line.name = marks.name(base);
    if (const auto v = in.choice<Runs>(base + ".runs", {{"vertical", Runs::vertical},
                                                        {"level", Runs::level},
                                                        {"across", Runs::across},
                                                        {"anyhow", Runs::anyhow}})) {
      line.runs = *v;
    }
    line.points = marks.points(base, 2);
    if (!line.points.empty()) all.lines.push_back(line);
  }
  for (std::size_t i = 0; marks.has("circle", i); ++i) {
    const std::string base = marks.base("circle", i);
    const std::string name = marks.name(base);
    const auto points = marks.points(base, 3);
    if (!points.empty()) all.circles.push_back({points, name});
  }
  for (std::size_t i = 0; marks.has("lamp", i); ++i) {
    const std::string base = marks.base("lamp", i);
    const std::string name = marks.name(base);
    const auto diameter =
        in.number(base + ".diameter", 1e-3, 1e5, "a diameter in pixels above zero");
    if (const auto at = marks.at(base)) all.lamps.push_back({*at, diameter, name});
  }
  read_boxes(in, marks, DrawnBox::Kind::grey, all);
  read_boxes(in, marks, DrawnBox::Kind::box, all);
  return all;
}

}  // namespace jolly_iris
