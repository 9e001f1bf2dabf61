#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <ostream>

#include "jolly_iris/disk.hpp"
#include "jolly_iris/errors.hpp"
#include "jolly_iris/labelled_sheet.hpp"
#include "jolly_iris/likeness.hpp"
#include "jolly_iris/picture_file.hpp"
#include "jolly_iris/region_light.hpp"
#include "jolly_iris/sharpness.hpp"
#include "jolly_iris/warp.hpp"
#include "likeness_text.hpp"
#include "output.hpp"
#include "text.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

namespace {

using Json = nlohmann::ordered_json;

std::string file_name(const std::string& path) {
  return std::filesystem::path(path).filename().string();
}

Picture beside(const Picture& a, const Picture& b) {
  constexpr int gap = 4;
  Picture out({a.width() + gap + b.width(), a.height()}, {0, 0, 0, 1});
  for (int y = 0; y < a.height(); ++y) {
    for (int x = 0; x < a.width(); ++x) out.at(x, y) = a.at(x, y);
    for (int x = 0; x < b.width(); ++x) out.at(a.width() + gap + x, y) = b.at(x, y);
  }
  return out;
}

Picture parted(const Picture& a, const Picture& b, double at) {
  Picture out = a;
  const int line = static_cast<int>(std::lround(at * a.width()));
  for (int y = 0; y < a.height(); ++y) {
    for (int x = line; x < a.width(); ++x) out.at(x, y) = b.at(x, y);
    if (line > 0 && line < a.width()) out.at(line, y) = {1, 1, 1, 1};
  }
  return out;
}

// Around mid-grey: what is brighter in CG is brighter.
Picture apart(const Picture& a, const Picture& b, double times) {
  constexpr float grey = 0.18F;
  Picture out(a.size());
  for (std::size_t i = 0; i < a.pixels().size(); ++i) {
    for (std::size_t c = 0; c < 3; ++c) {
      out.pixels()[i][c] = grey + static_cast<float>(times) * (b.pixels()[i][c] - a.pixels()[i][c]);
    }
    out.pixels()[i][3] = 1.0F;
  }
  return out;
}

struct Tried {
  std::string file{};
  std::string values{};  ///< what made it; empty: nobody knows
  Frame frame{};
};

Tried read_try(const std::string& file, const CompareOptions& o, std::vector<std::string>& files) {
  files.push_back(file);
  Tried t{file, "", read_coded(file, o.coding, files)};
  t.values = read_description(file);
  if (!t.values.starts_with(values_mark)) {
    t.values.clear();
  } else {
    t.values.erase(0, std::string_view(values_mark).size());
  }
  if (o.box) t.frame = crop(t.frame, *o.box);
  return t;
}

struct Reference {
  std::string name{};
  Picture picture{};
  LikenessSettings settings{};
};

Reference reference_of(const CompareOptions& o, const LoadedShot& loaded, const Tried* first,
                       std::vector<std::string>& files) {
  Reference out;
  out.settings.least_px = o.least_px;
  out.settings.primaries = loaded.now.primaries;
  if (first != nullptr) {
    out.name = file_name(first->file);
    out.picture = first->frame.colour;
    return out;
  }
  const auto& plate = loaded.now.plate;
  if (!plate || plate->file.empty()) {
    throw UsageError(loaded.shot.file +
                     ": names no plate to compare with; write [plate] file = \"plate.exr\", or "
                     "compare tries with each other: --no-plate");
  }
  files.push_back(plate->file);
  out.name = file_name(plate->file);
  out.picture = read_plate(*plate).colour;
  if (o.box) {
    out.picture = crop({out.picture, {}}, *o.box).colour;
    return out;  // marks are places of the whole plate
  }
  const double to_plate = static_cast<double>(out.picture.width()) / loaded.now.body.pixels.width;
  for (const DrawnBox& b : plate->marks.boxes) {
    out.settings.regions.push_back(
        box_in_picture(b.box, loaded.now.body.pixels, out.picture.size()));
  }
  out.settings.hints.lamps = plate->marks.lamps;
  for (DrawnLamp& lamp : out.settings.hints.lamps) {
    for (double& v : lamp.at) v *= to_plate;
    if (lamp.diameter) *lamp.diameter *= to_plate;
  }
  return out;
}

// What CG has no depth for, the scene's camera cannot say either: edges stay without distance.
void write_pictures_of(const CompareOptions& o, const Alike& both,
                       std::vector<std::string>& written) {
  const auto write = [&](const std::string& name, const Picture& picture) {
    if (name.empty()) return;
    write_picture(name, {picture, {}});
    written.push_back(name);
  };
  write(o.side, beside(both.plate, both.cg));
  write(o.split, parted(both.plate, both.cg, o.split_at));
  write(o.difference, apart(both.plate, both.cg, o.times));
  if (!o.blink.empty()) {
    write_moving_picture(o.blink, {both.plate, both.cg});
    written.push_back(o.blink);
  }
}

void draw_sheet(const CompareOptions& o, const Reference& reference, bool with_reference,
                const std::vector<Tried>& tries, const std::vector<Likeness>& likes) {
  LabelledSheet sheet;
  std::vector<SheetCell> cells;
  if (with_reference) cells.push_back({reference.picture, 0.0, {reference.name, ""}});
  std::size_t k = 0;
  for (const Tried& t : tries) {
    std::string words = t.values;
    if (k < likes.size()) {
      const Likeness& l = likes[k];
      std::string off = fmt::format("{:.1f} dB", l.psnr_db);
      if (l.larger.margin > 0.0) off += fmt::format(", discs {:+.1f} %", 100.0 * l.larger.value);
      words = words.empty() ? off : words + " · " + off;
    }
    cells.push_back({t.frame.colour, 0.0, {file_name(t.file), words}});
    ++k;
  }
  const std::size_t n = cells.size();
  const auto across = static_cast<std::size_t>(std::ceil(std::sqrt(static_cast<double>(n))));
  const std::size_t down = (n + across - 1) / across;
  const SheetRoom room = room_of_cell(down, across, false);
  for (SheetCell& c : cells) {
    c.picture = shrunk(c.picture, std::max(16, static_cast<int>(room.width)));
  }
  cells.resize(across * down);
  sheet.title = fmt::format("{} tries", tries.size());
  sheet.subtitle = with_reference ? "against " + reference.name : "";
  sheet.foot =
      "Each with what made it, as its file says; dB and discs are against " + reference.name + ".";
  sheet.columns.assign(across, "");
  for (std::size_t row = 0; row < down; ++row) {
    sheet.cells.emplace_back(cells.begin() + static_cast<std::ptrdiff_t>(row * across),
                             cells.begin() + static_cast<std::ptrdiff_t>((row + 1) * across));
  }
  write_whole_file(o.sheet, is_svg(o.sheet) ? labelled_svg(sheet) : labelled_png(sheet));
}

void check_names(const CompareOptions& o) {
  for (const std::string* name : {&o.side, &o.split, &o.difference}) {
    if (!name->empty()) check_picture_name(*name);
  }
  if (!o.sheet.empty()) (void)is_svg(o.sheet);
  if (!o.blink.empty() && std::filesystem::path(o.blink).extension() != ".gif") {
    throw UsageError(o.blink + ": a moving picture's name ends in .gif; this one does not");
  }
  const bool of_two =
      !o.side.empty() || !o.split.empty() || !o.difference.empty() || !o.blink.empty();
  if (of_two && o.pictures.size() > (o.no_plate ? 2U : 1U)) {
    throw UsageError(
        "--side, --split, --difference and --blink show one picture against the plate; of several "
        "tries draw a --sheet");
  }
  if (o.no_plate && o.pictures.size() < 2) {
    throw UsageError("--no-plate: give two pictures or more, which are compared with the first");
  }
}

}  // namespace

void compare(const CompareOptions& o, const Streams& io, std::vector<std::string>& files) {
  check_names(o);
  const LoadedShot loaded = load(o.shot, files);
  std::vector<Tried> tries;
  for (const std::string& file : o.pictures) tries.push_back(read_try(file, o, files));
  const Reference reference = reference_of(o, loaded, o.no_plate ? &tries.front() : nullptr, files);
  if (o.no_plate) tries.erase(tries.begin());
  std::vector<Likeness> likes;
  for (const Tried& t : tries) {
    try {
      likes.push_back(likeness(reference.picture, t.frame, reference.settings));
    } catch (const Error& e) {
      throw UsageError(fmt::format("{}: {}", t.file, e.what()));
    }
  }
  std::vector<std::string> written;
  std::string text = tried_line(loaded.shot);
  Json json;
  if (likes.size() == 1) {
    const Alike both = of_one_size(reference.picture, tries.front().frame.colour);
    write_pictures_of(o, both, written);
    text += likeness_text(likes.front(), loaded, reference.name, file_name(tries.front().file),
                          tries.front().values);
    json = likeness_json(likes.front(), loaded);
  } else {
    text += tries_text(likes, reference.name);
    json["tries"] = Json::array();
    std::size_t wide = 8;
    for (const Tried& t : tries) wide = std::max(wide, width_of(file_name(t.file)));
    text += fmt::format("  {}{}\n", padded("picture", wide), tries_head());
    for (std::size_t i = 0; i < tries.size(); ++i) {
      text += fmt::format("  {}{}  {}\n", padded(file_name(tries[i].file), wide),
                          tries_row(likes[i]), tries[i].values);
      json["tries"].push_back(likeness_json(likes[i], loaded));
      json["tries"].back()["file"] = tries[i].file;
      json["tries"].back()["made_with"] = tries[i].values;
    }
  }
  if (!o.sheet.empty()) {
    draw_sheet(o, reference, true, tries, likes);
    written.push_back(o.sheet);
  }
  if (!written.empty()) text += '\n';
  for (const std::string& name : written) text += name + '\n';
  json["written"] = written;
  say(o.shot.form, io, json.dump(2) + "\n", text);
}

}  // namespace jolly_iris::cli
