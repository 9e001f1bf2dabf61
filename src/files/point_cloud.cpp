#include "jolly_iris/files/point_cloud.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <bit>
#include <charconv>
#include <cmath>
#include <cstdint>
#include <cstring>
#include <numbers>
#include <optional>
#include <vector>

#include "disk/disk.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/transfer.hpp"

namespace jolly_iris {

namespace {

// ---- the header ---------------------------------------------------------------------------------

enum class Number { int8, uint8, int16, uint16, int32, uint32, float32, float64 };

std::optional<Number> number_named(std::string_view word) {
  constexpr std::array<std::pair<std::string_view, Number>, 16> names{
      {{"char", Number::int8},
       {"int8", Number::int8},
       {"uchar", Number::uint8},
       {"uint8", Number::uint8},
       {"short", Number::int16},
       {"int16", Number::int16},
       {"ushort", Number::uint16},
       {"uint16", Number::uint16},
       {"int", Number::int32},
       {"int32", Number::int32},
       {"uint", Number::uint32},
       {"uint32", Number::uint32},
       {"float", Number::float32},
       {"float32", Number::float32},
       {"double", Number::float64},
       {"float64", Number::float64}}};
  for (const auto& [name, number] : names) {
    if (name == word) return number;
  }
  return std::nullopt;
}

std::size_t bytes_of(Number n) {
  switch (n) {
    case Number::int8:
    case Number::uint8:
      return 1;
    case Number::int16:
    case Number::uint16:
      return 2;
    case Number::float64:
      return 8;
    default:
      return 4;
  }
}

// A whole number's colour is encoded for viewing; this is its largest value. 0: fractions, linear.
double white_of(Number n) {
  switch (n) {
    case Number::uint8:
      return 255.0;
    case Number::uint16:
      return 65535.0;
    default:
      return 0.0;
  }
}

struct Property {
  std::string name{};
  Number number = Number::float32;
  std::optional<Number> count{};  // of a list: what its length is written as
};

struct Element {
  std::string name{};
  std::uint64_t count = 0;
  std::vector<Property> properties{};
};

enum class Form { text, little, big };

struct Header {
  Form form = Form::text;
  std::vector<Element> elements{};
};

// What is left of a file, with the place for messages.
struct Rest {
  std::string_view bytes;
  const std::string& file;
  int line = 0;

  [[noreturn]] void fail(const std::string& what) const {
    throw FileError(line > 0 ? fmt::format("{}:{}: {}", file, line, what)
                             : fmt::format("{}: {}", file, what));
  }
  bool empty() const { return bytes.empty(); }
  std::string_view next_line() {
    ++line;
    const std::size_t end = bytes.find('\n');
    std::string_view text = bytes.substr(0, end);
    bytes.remove_prefix(end == std::string_view::npos ? bytes.size() : end + 1);
    if (text.ends_with('\r')) text.remove_suffix(1);
    return text;
  }
};

std::string_view take_word(std::string_view& text) {
  const std::size_t first = std::min(text.find_first_not_of(" \t"), text.size());
  text.remove_prefix(first);
  const std::size_t end = std::min(text.find_first_of(" \t"), text.size());
  const std::string_view word = text.substr(0, end);
  text.remove_prefix(end);
  return word;
}

// Bytes of a broken file end up in messages; those that a terminal would act upon do not.
std::string shown(std::string_view word) {
  std::string out;
  for (const char c : word.substr(0, 40)) {
    out += static_cast<unsigned char>(c) >= 0x20 && static_cast<unsigned char>(c) < 0x7f ? c : '?';
  }
  return out;
}

Form read_form(const Rest& in, std::string_view text) {
  const std::string_view word = take_word(text);
  const std::string_view version = take_word(text);
  const bool first = version == "1.0";
  if (first && word == "ascii") return Form::text;
  if (first && word == "binary_little_endian") return Form::little;
  if (!first || word != "binary_big_endian") {
    in.fail(
        fmt::format("format '{} {}' is not known; PLY 1.0 has ascii, binary_little_endian and "
                    "binary_big_endian",
                    shown(word), shown(version)));
  }
  return Form::big;
}

Element read_element(const Rest& in, std::string_view text) {
  Element e;
  e.name = take_word(text);
  const std::string_view count = take_word(text);
  const auto [end, error] = std::from_chars(count.data(), count.data() + count.size(), e.count);
  if (e.name.empty() || error != std::errc{} || end != count.data() + count.size()) {
    in.fail(fmt::format("'element {} {}' should be a name and a count, e.g. element vertex 1200",
                        shown(e.name), shown(count)));
  }
  return e;
}

Property read_property(const Rest& in, std::string_view text) {
  const auto number = [&](std::string_view word) {
    const auto n = number_named(word);
    if (!n) in.fail(fmt::format("'{}' is no kind of number that PLY has", shown(word)));
    return *n;
  };
  Property p;
  std::string_view word = take_word(text);
  if (word == "list") {
    p.count = number(take_word(text));
    if (*p.count == Number::float32 || *p.count == Number::float64) {
      in.fail("the length of a list is a whole number, not a fraction");
    }
    word = take_word(text);
  }
  p.number = number(word);
  p.name = take_word(text);
  if (p.name.empty()) in.fail("this property has no name");
  return p;
}

Header read_header(Rest& in) {
  if (in.next_line() != "ply") {
    in.line = 0;
    in.fail("does not begin with 'ply', so it is no PLY file");
  }
  Header header;
  bool formed = false;
  while (!in.empty()) {
    std::string_view text = in.next_line();
    const std::string_view word = take_word(text);
    if (word == "end_header") {
      if (!formed) in.fail("the header ends without a format line");
      return header;
    }
    if (word == "format") {
      header.form = read_form(in, text);
      formed = true;
    } else if (word == "element") {
      header.elements.push_back(read_element(in, text));
    } else if (word == "property") {
      if (header.elements.empty()) in.fail("a property before any element");
      header.elements.back().properties.push_back(read_property(in, text));
    } else if (word != "comment" && word != "obj_info" && !word.empty()) {
      in.fail(fmt::format("'{}' is no word of a PLY header", shown(word)));
    }
  }
  in.fail("the file ends within its header: no end_header");
}

// ---- what a vertex's numbers mean ---------------------------------------------------------------

constexpr std::array<std::string_view, 9> meanings{"x",  "y",   "z",     "nx",  "ny",
                                                   "nz", "red", "green", "blue"};

struct Layout {
  std::array<int, 9> meaning_at{-1, -1, -1, -1, -1, -1, -1, -1, -1};  // which property
  std::array<double, 3> white{};  // of each of its colours: files mix their kinds
  bool has_normal() const { return meaning_at[3] >= 0 && meaning_at[4] >= 0 && meaning_at[5] >= 0; }
  bool has_colour() const { return meaning_at[6] >= 0 && meaning_at[7] >= 0 && meaning_at[8] >= 0; }
};

Layout layout_of(const Element& vertex, const Rest& in) {
  Layout layout;
  for (std::size_t i = 0; i < vertex.properties.size(); ++i) {
    const Property& p = vertex.properties[i];
    for (std::size_t m = 0; m < meanings.size(); ++m) {
      if (p.name != meanings[m] || p.count) continue;
      layout.meaning_at[m] = static_cast<int>(i);
      if (m >= 6) layout.white[m - 6] = white_of(p.number);
    }
  }
  if (layout.meaning_at[0] < 0 || layout.meaning_at[1] < 0 || layout.meaning_at[2] < 0) {
    in.fail("its vertices have no x, y and z");
  }
  return layout;
}

void add_vertex(Primitive& out, const Layout& layout, const std::vector<double>& row,
                std::uint64_t index, const Rest& in) {
  std::array<float, 9> v{};
  for (std::size_t m = 0; m < meanings.size(); ++m) {
    if (layout.meaning_at[m] < 0) continue;
    const double value = row[static_cast<std::size_t>(layout.meaning_at[m])];
    v[m] = static_cast<float>(value);
    if (!std::isfinite(v[m])) {
      in.fail(fmt::format("vertex {} has {} = {:g}, which is no place", index, meanings[m], value));
    }
  }
  out.positions.emplace_back(v[0], v[1], v[2]);
  if (layout.has_normal()) {
    const Vec3 n(v[3], v[4], v[5]);  // whose square need not fit a float
    const double length = n.length();
    const Vec3 unit = length > 0.0 ? n / length : Vec3::unit_y();
    out.normals.emplace_back(static_cast<float>(unit.x), static_cast<float>(unit.y),
                             static_cast<float>(unit.z));
  }
  if (!layout.has_colour()) return;
  Vec3f colour(v[6], v[7], v[8]);
  for (std::size_t k = 0; k < 3; ++k) {
    float& c = colour[k];
    if (c < 0.0F) in.fail(fmt::format("vertex {} has a negative colour, {:g}", index, c));
    if (layout.white[k] > 0.0) {
      c = decode(c / static_cast<float>(layout.white[k]), Transfer::srgb);
    }
  }
  out.colours.push_back(colour);
}

// ---- the two ways of writing numbers ------------------------------------------------------------

void read_text_row(Rest& in, const Element& element, std::vector<double>& row) {
  if (in.empty()) in.fail(fmt::format("the file ends before its last {}", shown(element.name)));
  std::string_view text = in.next_line();
  const auto number = [&]() {
    const std::string_view word = take_word(text);
    double value = 0.0;
    const auto [end, error] = std::from_chars(word.data(), word.data() + word.size(), value);
    if (word.empty() || error != std::errc{} || end != word.data() + word.size()) {
      in.fail(word.empty() ? std::string("this row ends too early")
                           : fmt::format("'{}' is no number", shown(word)));
    }
    return value;
  };
  for (std::size_t i = 0; i < element.properties.size(); ++i) {
    row[i] = number();
    if (!element.properties[i].count) continue;
    // The row's length bounds it: a count that is too large ends the words first.
    for (double left = row[i]; left >= 1.0; left -= 1.0) number();
  }
}

template <class T>
double read_as(const char* bytes, bool swap) {
  std::array<char, sizeof(T)> b{};
  std::memcpy(b.data(), bytes, sizeof(T));
  if (swap) std::reverse(b.begin(), b.end());
  return static_cast<double>(std::bit_cast<T>(b));
}

double read_binary(const char* bytes, Number n, bool swap) {
  switch (n) {
    case Number::int8:
      return read_as<std::int8_t>(bytes, swap);
    case Number::uint8:
      return read_as<std::uint8_t>(bytes, swap);
    case Number::int16:
      return read_as<std::int16_t>(bytes, swap);
    case Number::uint16:
      return read_as<std::uint16_t>(bytes, swap);
    case Number::int32:
      return read_as<std::int32_t>(bytes, swap);
    case Number::uint32:
      return read_as<std::uint32_t>(bytes, swap);
    case Number::float32:
      return read_as<float>(bytes, swap);
    case Number::float64:
      break;
  }
  return read_as<double>(bytes, swap);
}

void read_binary_row(Rest& in, const Element& element, std::uint64_t index, bool swap,
                     std::vector<double>& row) {
  const auto number = [&](Number n) {
    const std::size_t size = bytes_of(n);
    if (in.bytes.size() < size) {
      in.fail(
          fmt::format("is cut off within {} {} of {}", shown(element.name), index, element.count));
    }
    const double value = read_binary(in.bytes.data(), n, swap);
    in.bytes.remove_prefix(size);
    return value;
  };
  for (std::size_t i = 0; i < element.properties.size(); ++i) {
    const Property& p = element.properties[i];
    row[i] = number(p.count.value_or(p.number));
    if (!p.count) continue;
    const double bytes = std::max(row[i], 0.0) * static_cast<double>(bytes_of(p.number));
    if (bytes > static_cast<double>(in.bytes.size())) {
      in.fail(
          fmt::format("is cut off within {} {} of {}", shown(element.name), index, element.count));
    }
    in.bytes.remove_prefix(static_cast<std::size_t>(bytes));
  }
}

// How many bytes a row of this element takes at least: tells counts that cannot be.
std::uint64_t min_bytes(const Element& element, Form form) {
  if (form == Form::text) return std::max<std::uint64_t>(1, 2 * element.properties.size());
  std::uint64_t sum = 0;
  for (const Property& p : element.properties) sum += bytes_of(p.count.value_or(p.number));
  return sum;
}

}  // namespace

Primitive points_of_ply(std::string_view bytes, const std::string& file) {
  Rest in{bytes, file};
  const Header header = read_header(in);
  if (header.form != Form::text) in.line = 0;
  const bool swap = (header.form == Form::big) != (std::endian::native == std::endian::big);
  for (const Element& element : header.elements) {
    const bool vertex = element.name == "vertex";
    const std::uint64_t min = min_bytes(element, header.form);
    if (element.count > 0 && min > 0 && element.count > (in.bytes.size() + 1) / min) {
      in.fail(fmt::format("should hold {} of {}, but is too short for them: cut off", element.count,
                          shown(element.name)));
    }
    const Layout layout = vertex ? layout_of(element, in) : Layout{};
    Primitive out;
    out.kind = Primitive::Kind::points;
    std::vector<double> row(element.properties.size());
    // What comes before the vertices is read past, what comes behind them is not looked at.
    for (std::uint64_t i = 0; i < element.count && !element.properties.empty(); ++i) {
      if (header.form == Form::text) {
        read_text_row(in, element, row);
      } else {
        read_binary_row(in, element, i, swap, row);
      }
      if (vertex) add_vertex(out, layout, row, i, in);
    }
    if (!vertex) continue;
    if (out.positions.empty()) in.fail("holds no points");
    return out;
  }
  in.line = 0;
  in.fail("has no element vertex, so there are no points in it");
}

void add_points(Scene& scene, const std::filesystem::path& path, const PointPlacing& placing) {
  Primitive points = points_of_ply(read_whole_file(path), path.string());
  Material material;
  material.name = path.stem().string();
  material.point_diameter_m = placing.diameter_m;
  points.material = scene.materials.size();
  scene.materials.push_back(material);
  Mesh mesh;
  mesh.name = material.name;
  for (const Vec3f& p : points.positions) mesh.bounds.extend(Vec3(p));
  mesh.primitives.push_back(std::move(points));
  Node node;
  node.name = material.name;
  node.mesh = scene.meshes.size();
  node.scale = Vec3::all(placing.metres);
  if (placing.z_is_up) {
    node.rotation = Quaternion::about(Vec3::unit_x(), -0.5 * std::numbers::pi);
  }
  scene.meshes.push_back(std::move(mesh));
  scene.nodes.push_back(std::move(node));
  scene.files.push_back(path.string());
}

}  // namespace jolly_iris
