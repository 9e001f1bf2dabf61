#include "report/shots_report.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "files/csv_table.hpp"
#include "report/text.hpp"

namespace jolly_iris::report {

namespace {

// Too long for a line of a screen; CSV, JSON and the page have them.
bool is_long(const std::string& key) {
  return key == "remarks" || key == "finish" || key == "frames" || key == "focus.on" ||
         key == "lens.focal" || key == "gate_mm" || key == "take.nd" || key == "take.white" ||
         key == "take.mark" || key == "take.shutter";
}

std::string cell_text(const ShotCell& cell) {
  if (cell.text.empty()) return "-";
  return cell.source == Origin::Source::guessed ? cell.text + '?' : cell.text;
}

// Behind the cell, so that numbers stay below each other.
std::string mark_of(const ShotRow& row, std::size_t c) { return row.cells[c].differs ? "*" : " "; }

bool is_number_column(const ShotList& list, std::size_t c) {
  return std::any_of(list.rows.begin(), list.rows.end(), [&](const ShotRow& r) {
    return !r.cells.empty() && r.cells[c].number && !list.columns[c].written;
  });
}

}  // namespace

std::string shots_text(const ShotList& list, bool all) {
  std::vector<std::size_t> shown;
  for (std::size_t c = 0; c < list.columns.size(); ++c) {
    if (all || !is_long(list.columns[c].key)) shown.push_back(c);
  }
  std::vector<std::size_t> widths;
  std::size_t name_width = 4;
  for (const ShotRow& row : list.rows) name_width = std::max(name_width, width_of(row.name));
  for (const std::size_t c : shown) {
    std::size_t width = width_of(list.columns[c].head);
    for (const ShotRow& row : list.rows) {
      if (!row.cells.empty()) width = std::max(width, width_of(cell_text(row.cells[c])));
    }
    widths.push_back(width);
  }
  const auto line = [&](const std::string& name, const auto& text_of, const auto& mark) {
    std::string out = padded(name, name_width);
    for (std::size_t i = 0; i < shown.size(); ++i) {
      const std::string text = text_of(shown[i]);
      const std::string gap(widths[i] - std::min(widths[i], width_of(text)), ' ');
      const bool right = is_number_column(list, shown[i]);
      out += "  ";
      if (right) out += gap;
      out += text;
      out += mark(shown[i]);
      if (!right) out += gap;
    }
    out.erase(out.find_last_not_of(' ') + 1);
    return out + "\n";
  };
  std::string out = line(
      "shot", [&](std::size_t c) { return list.columns[c].head; },
      [](std::size_t) { return std::string(" "); });
  std::size_t unread = 0;
  for (const ShotRow& row : list.rows) {
    if (row.cells.empty()) {
      ++unread;
      continue;
    }
    out += line(
        row.name, [&](std::size_t c) { return cell_text(row.cells[c]); },
        [&](std::size_t c) { return mark_of(row, c); });
  }
  for (const ShotRow& row : list.rows) {
    if (row.cells.empty()) out += wrapped(row.problem, padded(row.name, name_width) + "  ", "    ");
  }
  out += fmt::format("\n{}", counted(list.rows.size(), "shot"));
  if (unread > 0) out += fmt::format(", {} of them cannot be read", unread);
  if (list.rows.size() > 1 && !list.master.empty()) {
    out += fmt::format("; * differs from {}", list.master);
  }
  return out + "\n";
}

Json shots_json(const ShotList& list) {
  Json rows = Json::array();
  for (const ShotRow& row : list.rows) {
    Json one{
        {"name", row.name}, {"file", row.file}, {"variant", row.variant}, {"version", row.version}};
    if (!row.camera.empty()) one["camera"] = row.camera;
    if (!row.problem.empty()) one["problem"] = row.problem;
    Json values = Json::object();
    Json sources = Json::object();
    Json differs = Json::array();
    for (std::size_t c = 0; c < row.cells.size(); ++c) {
      const ShotCell& cell = row.cells[c];
      const std::string& key = list.columns[c].key;
      const bool plain = !list.columns[c].written && cell.number;
      values.add(key, plain ? Json(*cell.number) : cell.text.empty() ? Json() : Json(cell.text));
      if (cell.source) sources.add(key, std::string(to_string(*cell.source)));
      if (cell.differs) differs.push_back(key);
    }
    one["values"] = std::move(values);
    one["sources"] = std::move(sources);
    one["differs"] = std::move(differs);
    rows.push_back(std::move(one));
  }
  Json out = Json::object();
  out["master"] = list.master.empty() ? Json() : Json(list.master);
  out["shots"] = std::move(rows);
  return out;
}

std::string shots_csv(const ShotList& list) {
  std::string out;
  for (const char* name : row_columns) out += (out.empty() ? "" : ",") + std::string(name);
  for (const ShotColumn& column : list.columns) out += "," + csv_cell(column.key);
  out += "\n";
  for (const ShotRow& row : list.rows) {
    out += csv_cell(row.name) + "," + csv_cell(row.file) + "," + csv_cell(row.variant) + "," +
           row.version;
    for (std::size_t c = 0; c < list.columns.size(); ++c) {
      out += "," + (row.cells.empty() ? std::string() : csv_cell(row.cells[c].text));
    }
    out += "\n";
  }
  return out;
}

std::string shot_list_edit_text(const ShotListEdit& edit, bool dry) {
  if (edit.changes.empty()) return edit.table + ": says what the shots say already\n";
  std::size_t name = 4;
  std::size_t key = 3;
  for (const ShotListChange& c : edit.changes) {
    name = std::max(name, width_of(c.name));
    key = std::max(key, width_of(c.key));
  }
  std::string out;
  for (const ShotListChange& c : edit.changes) {
    out += fmt::format("{}  {}  {} -> {}{}\n", padded(c.name, name), padded(c.key, key),
                       c.before.empty() ? "(nothing)" : c.before, c.after,
                       c.note.empty() ? "" : "  (" + c.note + ")");
  }
  return out + fmt::format("\n{} in {} {}\n", counted(edit.changes.size(), "value"),
                           counted(edit.files.size(), "file"),
                           dry ? "would change; nothing is written" : "changed");
}

Json shot_list_edit_json(const ShotListEdit& edit, bool dry) {
  Json changes = Json::array();
  for (const ShotListChange& c : edit.changes) {
    changes.push_back({{"shot", c.name},
                       {"key", c.key},
                       {"before", c.before},
                       {"after", c.after},
                       {"note", c.note}});
  }
  Json files = Json::array();
  for (const ShotFileEdit& f : edit.files) files.push_back(f.file);
  return {{"table", edit.table},
          {"changes", std::move(changes)},
          {dry ? "would_write" : "written", std::move(files)}};
}

}  // namespace jolly_iris::report
