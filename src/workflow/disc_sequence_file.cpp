// Discs that other tasks measured, back from what they said.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include "disk/disk.hpp"
#include "disk/json.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/workflow/disc_sequence.hpp"

namespace jolly_iris {

namespace {

struct ReadFrame {
  FrameDiscs discs{};
  PixelSize size{};
  std::string file{};
};

[[noreturn]] void not_measured(const std::string& file, const std::string& what) {
  throw FileError(fmt::format(
      "{}: {}; a file of measured discs is what measure --frames --json says", file, what));
}

// Looks up what has to be there.
class DiscReader {
 public:
  DiscReader(const Json& of, const std::string& file, std::string where)
      : of_(of), file_(file), where_(std::move(where)) {}

  const Json& at(const char* name) const {
    const Json* found = of_.find(name);
    if (found == nullptr) not_measured(file_, fmt::format("{} has no \"{}\"", where_, name));
    return *found;
  }
  double number(const Json& of, const char* name) const {
    const std::optional<double> v = of.number();
    if (!v || !std::isfinite(*v)) {
      not_measured(file_, fmt::format("{}: \"{}\" is no number", where_, name));
    }
    return *v;
  }
  double number(const char* name) const { return number(at(name), name); }
  template <std::size_t n>
  std::array<double, n> numbers(const char* name) const {
    const Json::Array& all = at(name).entries();
    if (all.size() != n) {
      not_measured(file_, fmt::format("{}: \"{}\" has not {} numbers", where_, name, n));
    }
    std::array<double, n> out{};
    for (std::size_t i = 0; i < n; ++i) out[i] = number(all[i], name);
    return out;
  }
  Measured measured(const char* name) const {
    const DiscReader inner(at(name), file_, where_);
    return {inner.number("value"), inner.number("margin")};
  }
  bool truth(const char* name) const {
    const std::optional<bool> v = at(name).truth();
    if (!v) not_measured(file_, fmt::format("{}: \"{}\" is neither true nor false", where_, name));
    return *v;
  }

 private:
  const Json& of_;
  const std::string& file_;
  std::string where_;
};

PlateDisc disc_from(const Json& json, const std::string& file, const std::string& where) {
  const DiscReader in(json, file, where);
  PlateDisc d;
  d.at = in.numbers<2>("at_px");
  d.height_px = in.measured("height_px");
  d.width_px = in.measured("width_px");
  d.light = in.numbers<3>("light");
  d.clipped = in.truth("clipped");
  d.outlier = in.truth("outlier");
  d.side_known = in.truth("side_known");
  const std::string* facing = in.at("facing").text();
  for (const Facing f : {Facing::unknown, Facing::upright, Facing::turned}) {
    if (facing != nullptr && *facing == to_string(f)) d.facing = f;
  }
  if (const Json* name = json.find("name"); name != nullptr && name->text() != nullptr) {
    d.name = *name->text();
  }
  if (!(d.height_px.value > 0.0) || !(d.height_px.margin > 0.0)) {
    not_measured(file, fmt::format("{}: a disc's height and margin are above zero", where));
  }
  return d;
}

void read_one(const std::string& file, std::vector<std::string>& files,
              std::vector<ReadFrame>& into) {
  files.push_back(file);
  const Json json = json_from(read_whole_file(file), file);
  const Json* frames = json.find("frames");
  if (frames == nullptr) not_measured(file, "it has no list \"frames\"");
  for (const Json& f : frames->entries()) {
    const DiscReader in(f, file, fmt::format("entry {} of \"frames\"", into.size() + 1));
    ReadFrame one;
    one.file = file;
    one.discs.frame = in.number("frame");
    const std::array<double, 2> size = in.numbers<2>("plate_px");
    if (!(std::min(size[0], size[1]) >= 1.0) || !(std::max(size[0], size[1]) <= 1e6)) {
      not_measured(file, fmt::format("frame {:g}: no plate is {:g} x {:g} px", one.discs.frame,
                                     size[0], size[1]));
    }
    one.size = {static_cast<int>(size[0]), static_cast<int>(size[1])};
    for (const Json& d : in.at("seen").entries()) {
      one.discs.discs.push_back(disc_from(d, file, fmt::format("frame {:g}", one.discs.frame)));
    }
    into.push_back(std::move(one));
  }
}

}  // namespace

DiscSequence read_disc_frames(const std::vector<std::string>& names,
                              std::vector<std::string>& files) {
  std::vector<ReadFrame> all;
  for (const std::string& name : names) read_one(name, files, all);
  std::stable_sort(all.begin(), all.end(), [](const ReadFrame& a, const ReadFrame& b) {
    return a.discs.frame < b.discs.frame;
  });
  DiscSequence out;
  for (std::size_t i = 0; i < all.size(); ++i) {
    if (i > 0 && all[i].discs.frame == all[i - 1].discs.frame) {
      throw UsageError(fmt::format("frame {:g} is in {} and in {}; which of them counts?",
                                   all[i].discs.frame, all[i - 1].file, all[i].file));
    }
    out.empty += all[i].discs.discs.empty() ? 1U : 0U;
    out.sizes.push_back(all[i].size);
    out.frames.push_back(std::move(all[i].discs));
  }
  out.tracks = follow_discs(out.frames);
  return out;
}

}  // namespace jolly_iris
