#include "jolly_iris/files/frame_table.hpp"
#include "csv_table.hpp"
#include "files/answer_json.hpp"

#include <fmt/format.h>

#include <array>
#include <cmath>
#include <iterator>
#include <unordered_map>

namespace jolly_iris {

namespace {

// What a frame has of its own, beside its subjects.
struct Column {
  const char* name;
  double (*value)(const Answer&);
};
constexpr std::array columns{
    Column{"frame", [](const Answer& a) { return a.frame.value_or(0.0); }},
    Column{"focus_m", [](const Answer& a) { return a.camera.focus.m(); }},
    Column{"focus_units", [](const Answer& a) { return a.camera.focus / a.unit; }},
    Column{"mark_m", [](const Answer& a) { return a.mark ? a.mark->m() : std::nan(""); }},
    Column{"near_m", [](const Answer& a) { return a.sharp.near.m(); }},
    Column{"far_m", [](const Answer& a) { return a.sharp.far.m(); }},
    Column{"focal_mm", [](const Answer& a) { return a.camera.focal.mm(); }},
    Column{"f_number", [](const Answer& a) { return a.camera.f_number; }},
    Column{"aperture_radius_mm", [](const Answer& a) { return a.camera.aperture_radius.mm(); }},
    Column{"squeeze", [](const Answer& a) { return a.camera.squeeze; }},
    Column{"ev100", [](const Answer& a) { return a.ev100.value_or(std::nan("")); }},
};

void put(fmt::memory_buffer& out, double value) {
  if (!std::isnan(value)) fmt::format_to(std::back_inserter(out), "{:.9g}", value);
}

}  // namespace

std::string frames_csv(const std::vector<Answer>& frames) {
  std::vector<std::string> names;
  std::unordered_map<std::string, std::size_t> index;
  bool coded = false;
  for (const Answer& a : frames) {
    for (const SubjectBlur& s : a.subjects) {
      if (index.try_emplace(s.name, names.size()).second) names.push_back(s.name);
      coded = coded || s.depth_code;
    }
  }
  fmt::memory_buffer out;
  const auto text = [&](const std::string& t) { out.append(t.data(), t.data() + t.size()); };
  for (const Column& c : columns) text(fmt::format("{}{}", &c == &columns[0] ? "" : ",", c.name));
  for (const std::string& name : names) {
    text(fmt::format(",{},{}", csv_cell(name + " axial_m"), csv_cell(name + " coc_px")));
    if (coded) text(fmt::format(",{}", csv_cell(name + " depth_code")));
  }
  text("\n");
  std::vector<const SubjectBlur*> here(names.size());
  for (const Answer& a : frames) {
    for (const Column& c : columns) {
      if (&c != &columns[0]) out.push_back(',');
      put(out, c.value(a));
    }
    std::fill(here.begin(), here.end(), nullptr);
    for (const SubjectBlur& s : a.subjects) here[index[s.name]] = &s;
    for (const SubjectBlur* s : here) {
      out.push_back(',');
      if (s != nullptr) put(out, s->axial.m());
      out.push_back(',');
      if (s != nullptr) put(out, s->coc_px);
      if (coded) out.push_back(',');
      if (coded && s != nullptr) put(out, s->depth_code.value_or(std::nan("")));
    }
    out.push_back('\n');
  }
  return fmt::to_string(out);
}

Json frames_tree(const std::vector<Answer>& frames) {
  Json rows = Json::array();
  for (const Answer& a : frames) {
    Json row;
    for (const Column& c : columns) row[c.name] = finite_json(c.value(a));
    Json& subjects = row["subjects"] = Json::object();
    for (const SubjectBlur& s : a.subjects) {
      Json subject{{"axial_m", finite_json(s.axial.m())},
                   {"front_m", finite_json(s.front.m())},
                   {"back_m", finite_json(s.back.m())},
                   {"coc_px", s.coc_px},
                   {"sharp", s.sharp},
                   {"in_picture", s.in_picture}};
      if (s.depth_code) subject["depth_code"] = finite_json(*s.depth_code);
      subjects.add(s.name, std::move(subject));
    }
    rows.push_back(std::move(row));
  }
  Json all;
  all["frames"] = std::move(rows);
  return all;
}

std::string frames_json(const std::vector<Answer>& frames) {
  return frames_tree(frames).dump(1) + "\n";
}

}  // namespace jolly_iris
