#include "camera_track.hpp"

#include <fmt/format.h>

#include "csv_table.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

const std::vector<std::string> known_columns{"frame", "x",  "y",  "z",  "pan", "tilt",
                                             "roll",  "qx", "qy", "qz", "qw",  "focal_mm"};

void check_columns(const CsvTable& table, int line) {
  table.require_known(known_columns, "a camera track", line);
  const bool angles = table.index("pan") && table.index("tilt") && table.index("roll");
  const bool quaternion =
      table.index("qx") && table.index("qy") && table.index("qz") && table.index("qw");
  const bool place =
      table.index("frame") && table.index("x") && table.index("y") && table.index("z");
  if (!place || angles == quaternion) {
    table.refuse(line,
                 "a camera track needs the columns frame, x, y, z, and either pan, tilt, roll or "
                 "qx, qy, qz, qw; focal_mm may follow");
  }
}

TrackRow row_of(const CsvTable& table, const std::vector<std::string>& cells, int line) {
  const auto get = [&](const char* name) { return table.number(cells, name, line); };
  TrackRow row;
  row.frame = get("frame");
  row.place = {get("x"), get("y"), get("z")};
  if (table.index("pan")) {
    row.pan_tilt_roll = {get("pan"), get("tilt"), get("roll")};
  } else {
    row.rotation = {get("qx"), get("qy"), get("qz"), get("qw")};
    const auto& q = *row.rotation;
    if (!(q[0] * q[0] + q[1] * q[1] + q[2] * q[2] + q[3] * q[3] > 1e-12)) {
      table.refuse(line, "the rotation is all zeros, which turns nowhere; none is 0, 0, 0, 1");
    }
  }
  if (table.index("focal_mm")) {
    row.focal = Length::from_mm(get("focal_mm"));
    if (!(row.focal->mm() > 0.0)) {
      table.refuse(line,
                   fmt::format("the focal length of {:g} mm is not above zero", row.focal->mm()));
    }
  }
  return row;
}

}  // namespace

std::vector<TrackRow> read_track(const std::string& file) {
  std::vector<TrackRow> rows;
  read_csv(file, check_columns,
           [&](const CsvTable& table, const std::vector<std::string>& cells, int line) {
             rows.push_back(row_of(table, cells, line));
             if (rows.size() < 2) return;
             const double before = rows[rows.size() - 2].frame;
             if (rows.back().frame > before) return;
             table.refuse(line, fmt::format("frame {:g} does not come after frame {:g}",
                                            rows.back().frame, before));
           });
  if (rows.empty()) throw FileError(file + ": has no row of a camera track");
  return rows;
}

}  // namespace jolly_iris
