#include "jolly_iris/files/dialect_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <limits>

#include "disk/disk.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "shot_reader.hpp"
#include "shot_sections.hpp"
#include "toml_tree.hpp"

namespace jolly_iris {

namespace {

using Field = DialectField;
using Quantity = Field::Quantity;
using Unit = Field::Unit;

// What a field is, in words, and what goes with each.
struct Word {
  const char* message;
  Quantity quantity;
  bool flag;          // diameter, radial or inverse
  bool along;         // takes `along`, whatever its unit
  const char* units;  // which units fit: l length, s share (with `along`), a angle, p pixels
};
constexpr std::array words{
    Word{"focal length", Quantity::focal_length, false, false, "lsp"},
    Word{"field of view", Quantity::field_of_view, false, true, "a"},
    Word{"gate", Quantity::gate, false, true, "l"},
    Word{"f-number", Quantity::f_number, false, false, ""},
    Word{"aperture radius", Quantity::aperture, false, false, "lsp"},
    Word{"aperture diameter", Quantity::aperture, true, false, "lsp"},
    Word{"focus", Quantity::focus, false, false, "l"},
    Word{"radial focus", Quantity::focus, true, false, "l"},
    Word{"squeeze", Quantity::squeeze, false, false, ""},
    Word{"squeeze inverse", Quantity::squeeze, true, false, ""},
    Word{"blades", Quantity::blades, false, false, ""},
    Word{"blade rotation", Quantity::rotation, false, false, "a"},
    Word{"shift right", Quantity::shift_across, false, false, "lsp"},
    Word{"shift up", Quantity::shift_up, false, false, "lsp"},
    Word{"pixel aspect", Quantity::pixel_aspect, false, false, ""},
};

const std::vector<std::pair<std::string, Unit>> units{
    {"mm", Unit::mm},         {"cm", Unit::cm},       {"m", Unit::m},
    {"in", Unit::inch},       {"units", Unit::scene}, {"tenths of a unit", Unit::tenths},
    {"px", Unit::pixels},     {"deg", Unit::degrees}, {"rad", Unit::radians},
    {"share", Unit::fraction}};

char kind_of(Unit unit) {
  switch (unit) {
    case Unit::degrees:
    case Unit::radians:
      return 'a';
    case Unit::fraction:
      return 's';
    case Unit::pixels:
      return 'p';
    default:
      return 'l';
  }
}

const std::vector<std::pair<std::string, Field::Along>> sides{{"width", Field::Along::width},
                                                              {"height", Field::Along::height},
                                                              {"diagonal", Field::Along::diagonal}};

void read_sense(ShotReader& in, const std::string& base, Field& field) {
  if (const auto v = in.choice<bool>(base + ".zero", {{"top", false}, {"right", true}})) {
    field.zero_right = *v;
  }
  if (const auto v =
          in.choice<bool>(base + ".turns", {{"counter-clockwise", false}, {"clockwise", true}})) {
    field.clockwise = *v;
  }
  for (const char* key : {".zero", ".turns"}) {
    if (in.has(base + key) && field.quantity != Quantity::rotation) {
      in.mistake(base + key, "belongs to is = \"blade rotation\"");
    }
  }
}

void read_unit(ShotReader& in, const std::string& base, const Word& word, Field& field) {
  const std::string fits = word.units;
  const auto unit = in.choice<Unit>(base + ".unit", units);
  if (fits.empty()) {
    if (unit) in.mistake(base + ".unit", fmt::format("a {} has no unit", word.message));
    return;
  }
  if (!in.has(base + ".unit")) {
    field.unit = fits[0] == 'a' ? Unit::degrees : Unit::mm;
    return;
  }
  if (!unit) return;
  field.unit = *unit;
  if (fits.find(kind_of(*unit)) == std::string::npos) {
    in.mistake(base + ".unit", fmt::format("does not fit a {}", word.message));
  }
}

Field read_field(ShotReader& in, const std::string& base) {
  Field field;
  in.require(base + ".label", "label = \"Focal length\"");
  in.require(base + ".is", "is = \"focal length\"");
  if (const auto v = in.text(base + ".label")) field.label = *v;
  std::vector<std::pair<std::string, const Word*>> choices;
  for (const Word& w : words) choices.emplace_back(w.message, &w);
  const auto word = in.choice<const Word*>(base + ".is", choices);
  const auto along = in.choice<Field::Along>(base + ".along", sides);
  if (along) field.along = *along;
  if (!word) {
    for (const char* key : {".unit", ".zero", ".turns"}) in.know(base + key);
    return field;
  }
  const Word& w = **word;
  field.quantity = w.quantity;
  field.diameter = w.flag && w.quantity == Quantity::aperture;
  field.radial = w.flag && w.quantity == Quantity::focus;
  field.inverse = w.flag && w.quantity == Quantity::squeeze;
  read_unit(in, base, w, field);
  if (along && !w.along && field.unit != Unit::fraction) {
    in.mistake(base + ".along", fmt::format("a {} has no side", w.message));
  }
  read_sense(in, base, field);
  return field;
}

[[noreturn]] void give_up(const ShotReader& in, const std::string& file) {
  auto mistakes = in.mistakes();
  for (FileMistake& m : mistakes) {
    if (m.place.empty()) m.place = file;
  }
  throw ShotFileError(std::move(mistakes));
}

}  // namespace

Dialect read_dialect(const std::filesystem::path& path) {
  const std::string file = path.string();
  ShotReader in(parse_toml(read_whole_file(path), file), "a dialect");
  Dialect dialect;
  in.require("name", "name = \"radius in metres\"");
  if (const auto v = in.text("name")) dialect.name = *v;
  if (const auto v = in.text("says")) dialect.says = *v;
  const std::function<std::string(const Length&)> positive = [](const Length& l) {
    return l.mm() > 0.0 ? "" : "is not above zero";
  };
  dialect.fixed_gate = in.quantity<Length>("fixed_gate", parse_length, positive);
  if (const auto v = in.choice<Field::Along>("fixed_along", sides)) dialect.fixed_along = *v;
  for (std::size_t i = 0; in.has_section(fmt::format("field[{}].", i)); ++i) {
    const std::string base = fmt::format("field[{}]", i);
    const Field field = read_field(in, base);
    for (const Field& other : dialect.fields) {
      if (other.label == field.label && !field.label.empty()) {
        in.mistake(base + ".label", fmt::format("'{}' is the label of two fields", field.label));
      }
    }
    dialect.fields.push_back(field);
  }
  if (dialect.fields.empty()) in.require("field", "[[field]] with a label and what it is");
  in.check_parameter();
  if (!in.good()) give_up(in, file);
  return dialect;
}

std::filesystem::path find_dialect(const std::filesystem::path& named,
                                   const std::filesystem::path& shipped) {
  if (std::filesystem::exists(named)) return named;
  constexpr std::string_view ending = ".dialect.toml";
  std::vector<std::string> names;
  if (std::filesystem::is_directory(shipped)) {
    for (const auto& entry : std::filesystem::directory_iterator(shipped)) {
      const std::string file = entry.path().filename().string();
      if (file.ends_with(ending)) names.push_back(file.substr(0, file.size() - ending.size()));
    }
  }
  std::sort(names.begin(), names.end());
  // By its short name, or by its file's.
  std::string name = named.filename().string();
  if (name.ends_with(ending)) name.erase(name.size() - ending.size());
  if (std::find(names.begin(), names.end(), name) != names.end()) {
    return shipped / (name + std::string(ending));
  }
  throw FileError(
      fmt::format("{}: there is no such dialect file, and none of that name comes with "
                  "the tool ({})",
                  named.string(),
                  names.empty() ? "none was found" : fmt::format("{}", fmt::join(names, ", "))));
}

TypedCamera read_typed(const std::filesystem::path& path, const std::filesystem::path& shipped) {
  TypedCamera camera;
  camera.file = path.string();
  ShotReader in(parse_toml(read_whole_file(path), camera.file), "numbers typed in a dialect");
  in.require("dialect", "dialect = \"radius-in-metres.dialect.toml\"");
  const auto dialect = in.text("dialect");
  if (dialect) {
    camera.dialect = read_dialect(find_dialect(beside(camera.file, *dialect), shipped));
  }
  constexpr std::string_view prefix = "typed.";
  std::vector<std::string> keys;
  for (const auto& [key, value] : in.tree()) {
    if (key.starts_with(prefix)) keys.push_back(key);
  }
  for (const std::string& key : keys) {
    const auto text = in.written(key);
    if (!text) continue;
    if (*text == "infinity" || *text == "inf") {
      camera.values[key.substr(prefix.size())] = std::numeric_limits<double>::infinity();
    } else if (const auto v = in.number(key, -1e12, 1e12, "a number, or \"infinity\"")) {
      camera.values[key.substr(prefix.size())] = *v;
    }
  }
  if (keys.empty()) in.require("typed", "[typed] and below it \"Focal length\" = 42.2");
  in.check_parameter();
  if (!in.good()) give_up(in, camera.file);
  return camera;
}

}  // namespace jolly_iris
