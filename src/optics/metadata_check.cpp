#include "jolly_iris/optics/metadata_check.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/optics/body.hpp"
#include "optics/enum_name.hpp"

namespace jolly_iris {

namespace {

using Row = MetadataFinding;
using Verdict = MetadataFinding::Verdict;

bool near(double a, double b, double fraction, double min = 0.0) {
  return std::abs(a - b) <= std::max(fraction * std::max(std::abs(a), std::abs(b)), min);
}

class Rows {
 public:
  void add(const char* what, const std::string& file, const std::string& noted, bool same,
           const std::string& entry, const std::string& message = {}) {
    Row row{Verdict::same, what, file, noted, entry, {}};
    if (noted.empty()) {
      row.verdict = Verdict::proposed;
    } else if (!same) {
      row.verdict = Verdict::conflict;
      row.message = message;
    }
    rows_.push_back(std::move(row));
  }

  std::vector<Row> take() { return std::move(rows_); }

 private:
  std::vector<Row> rows_{};
};

void add_lens(const PlateFacts& f, const Shot& n, Rows& rows) {
  const double focal = n.lens.focal.mm();
  if (f.focal) {
    const double file = f.focal->mm();
    std::string message;
    const double ratio = focal / file;
    if (near(focal * n.lens.adapter, file, 0.01, 0.6)) {
      message = "the file has the adapter in it: electronics between lens and body told it";
    } else if (ratio > 0.6 && ratio < 0.9) {
      message =
          fmt::format("a reducer of {:.2f} in the noted one, or a zoom that was moved", ratio);
    } else if (ratio > 1.2 && ratio < 2.1) {
      message = fmt::format(
          "an extender of {:.2f} in the noted one, or its equivalent on 36 x 24 mm", ratio);
    } else {
      message = "another lens, or a zoom that was moved";
    }
    rows.add("focal length", fmt::format("{:g} mm", file), fmt::format("{:g} mm", focal),
             near(focal, file, 0.01, 0.6), fmt::format("lens.focal = \"{:g} mm\"", file), message);
  }
  if (f.f_number) {
    const double stop = n.take.stop.value;
    const bool t = n.take.stop.kind == Stop::Kind::t;
    std::string message =
        fmt::format("{:.1f} stops apart", 2.0 * std::abs(std::log2(stop / *f.f_number)));
    if (n.lens.adapter != 1.0 && near(stop * n.lens.adapter, *f.f_number, 0.04)) {
      message = "the file has the adapter in it";
    }
    rows.add("stop", fmt::format("f/{:g}", *f.f_number),
             fmt::format("{}{:g}", t ? "T" : "f/", stop), near(stop, *f.f_number, t ? 0.15 : 0.04),
             fmt::format("take.stop = \"f/{:g}\"", *f.f_number), message);
  }
  if (f.distance) {
    const bool far = f.distance->is_infinite();
    const std::string file = far ? "infinity" : fmt::format("{:g} m", f.distance->m());
    std::string noted;
    bool same = true;
    if (n.take.mark) {
      noted = n.take.mark->is_infinite() ? "infinity" : fmt::format("{:g} m", n.take.mark->m());
      same = n.take.mark->is_infinite() == far &&
             (far || near(n.take.mark->m(), f.distance->m(), 0.1));
    }
    rows.add("focus distance", file, noted, same, fmt::format("take.mark = \"{}\"", file),
             "focused anew between, or the distance was of another thing");
  }
  if (f.lens && !n.lens.name.empty()) {
    rows.add("lens", *f.lens, n.lens.name, true, "");  // names are written in many ways
  }
}

void add_light(const PlateFacts& f, const Shot& n, Rows& rows) {
  if (f.iso) {
    rows.add("iso", fmt::format("{:g}", *f.iso), n.take.iso ? fmt::format("{:g}", *n.take.iso) : "",
             n.take.iso && near(*n.take.iso, *f.iso, 0.03), fmt::format("take.iso = {:g}", *f.iso),
             n.take.iso
                 ? fmt::format("{:.1f} stops apart", std::abs(std::log2(*n.take.iso / *f.iso)))
                 : "");
  }
  if (f.exposure_time) {
    const double file = f.exposure_time->seconds();
    const auto text = [](double s) {
      return s < 0.5 ? fmt::format("1/{:.4g} s", 1.0 / s) : fmt::format("{:g} s", s);
    };
    std::string noted;
    double seconds = 0.0;
    if (n.take.shutter && n.take.shutter->time) {
      seconds = n.take.shutter->time->seconds();
      noted = text(seconds);
    } else if (n.take.shutter && n.take.shutter->angle && n.take.fps) {
      seconds = n.take.shutter->angle->degrees() / 360.0 / *n.take.fps;
      noted = fmt::format("{:g} deg at {:g}/s: {}", n.take.shutter->angle->degrees(), *n.take.fps,
                          text(seconds));
    }
    rows.add("exposure time", text(file), noted, seconds > 0.0 && near(seconds, file, 0.03),
             fmt::format("take.shutter = \"{}\"", text(file)),
             seconds > 0.0 ? fmt::format("{:.1f} stops apart", std::abs(std::log2(seconds / file)))
                           : "");
  }
  if (f.fps) {
    rows.add("frames a second", fmt::format("{:g}", *f.fps),
             n.take.fps ? fmt::format("{:g}", *n.take.fps) : "",
             n.take.fps && near(*n.take.fps, *f.fps, 2e-3), fmt::format("take.fps = {:g}", *f.fps));
  }
}

void add_picture(const PlateFacts& f, const Shot& n, Rows& rows) {
  if (f.pixels.width > 0 && f.pixels.height > 0) {
    const PixelSize& p = n.body.pixels;
    const auto text = [](PixelSize s) { return fmt::format("{} x {}", s.width, s.height); };
    const double file = static_cast<double>(f.pixels.width) / f.pixels.height;
    const double noted = static_cast<double>(p.width) / p.height;
    // A plate that was made smaller is no conflict; one of another shape is.
    const bool whole = f.pixels == p;
    rows.add("pixels", text(f.pixels), text(p), whole || near(file, noted, 0.005), "",
             near(file * n.lens.squeeze, noted, 0.01) || near(file, noted * n.lens.squeeze, 0.01)
                 ? "the file is still squeezed, or the notes count squeezed pixels"
                 : "another shape: cut, or recorded in another mode than noted");
  }
  if (f.pixel_aspect) {
    rows.add("pixel aspect", fmt::format("{:g}", *f.pixel_aspect),
             fmt::format("{:g}", n.body.pixel_aspect),
             near(*f.pixel_aspect, n.body.pixel_aspect, 0.01),
             fmt::format("body.pixel_aspect = {:g}", *f.pixel_aspect),
             "the file says its pixels are not square");
  }
  if (const auto gate = gate_from_equivalent(f)) {
    // Electronics round both focal lengths: a few per cent are nothing.
    const Extent noted = recorded_gate(n.body);
    const double a = std::hypot(gate->width.mm(), gate->height.mm());
    const double b = std::hypot(noted.width.mm(), noted.height.mm());
    rows.add("gate's diagonal", fmt::format("{:.1f} mm (from the 35 mm equivalent)", a),
             fmt::format("{:.1f} mm", b), near(a, b, 0.06), "",
             fmt::format("{:.2f} x: a record window, or another body", b / a));
  }
}

}  // namespace

std::string_view to_string(MetadataFinding::Verdict verdict) {
  return name_of<MetadataFinding::Verdict::conflict>(verdict, {"same", "proposed", "conflict"});
}

std::vector<MetadataFinding> check_metadata(const PlateFacts& facts, const Shot& notes) {
  Rows rows;
  add_lens(facts, notes, rows);
  add_light(facts, notes, rows);
  add_picture(facts, notes, rows);
  return rows.take();
}

}  // namespace jolly_iris
