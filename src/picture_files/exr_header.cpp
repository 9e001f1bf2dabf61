#include "exr_header.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cstdint>
#include <cstring>
#include <optional>

namespace jolly_iris::picture_files {

namespace {

class Bytes {
 public:
  explicit Bytes(std::string_view bytes) : bytes_(bytes) {}

  bool end() const { return at_ >= bytes_.size(); }

  std::optional<std::int32_t> number() {
    if (bytes_.size() - std::min(at_, bytes_.size()) < 4) return std::nullopt;
    std::int32_t v = 0;
    std::memcpy(&v, bytes_.data() + at_, sizeof v);  // little-endian, as the machines we run on
    at_ += 4;
    return v;
  }

  std::optional<std::string_view> name() {
    const std::size_t stop = bytes_.find('\0', at_);
    if (at_ >= bytes_.size() || stop == std::string_view::npos) return std::nullopt;
    const std::string_view out = bytes_.substr(at_, stop - at_);
    at_ = stop + 1;
    return out;
  }

  std::optional<std::string_view> next(std::int32_t size) {
    if (size < 0 || bytes_.size() - std::min(at_, bytes_.size()) < static_cast<std::size_t>(size)) {
      return std::nullopt;
    }
    const std::string_view out = bytes_.substr(at_, static_cast<std::size_t>(size));
    at_ += static_cast<std::size_t>(size);
    return out;
  }

 private:
  std::string_view bytes_;
  std::size_t at_ = 0;
};

struct Part {
  double width = 0.0;
  double height = 0.0;
  double channels = 0.0;
  double lines = 1.0;  // of a chunk
  double tile_width = 0.0;
  double tile_height = 0.0;
  bool any = false;  // an attribute was there
};

// Lines of a chunk, by the number of the compression: none, RLE, ZIPS, ZIP, PIZ, PXR24, B44, B44A,
// DWAA, DWAB.
double lines_of(unsigned char compression) {
  constexpr std::array<double, 10> lines{1, 1, 1, 16, 32, 16, 32, 32, 32, 256};
  return compression < lines.size() ? lines[compression] : 1.0;
}

// None where the list is not as long as it says.
std::optional<double> count_channels(std::string_view list) {
  double count = 0.0;
  Bytes in(list);
  for (;;) {
    const auto name = in.name();
    if (!name) return std::nullopt;
    if (name->empty()) return in.end() ? std::optional(count) : std::nullopt;
    if (!in.next(16)) return std::nullopt;
    ++count;
  }
}

// Whether the attribute is what its name promises.
bool take(Part& part, std::string_view name, std::string_view value) {
  Bytes in(value);
  if (name == "dataWindow" || name == "displayWindow") {
    if (value.size() != 16) return false;
    const double x0 = *in.number();
    const double y0 = *in.number();
    const double x1 = *in.number();
    const double y1 = *in.number();
    if (name == "displayWindow") return true;
    part.width = x1 - x0 + 1.0;
    part.height = y1 - y0 + 1.0;
  } else if (name == "channels") {
    const auto count = count_channels(value);
    part.channels = count.value_or(0.0);
    return count.has_value();
  } else if (name == "compression") {
    if (value.size() != 1) return false;
    part.lines = lines_of(static_cast<unsigned char>(value[0]));
  } else if (name == "tiles") {
    if (value.size() != 9) return false;
    part.tile_width = static_cast<std::uint32_t>(*in.number());
    part.tile_height = static_cast<std::uint32_t>(*in.number());
  }
  return true;
}

// How long values of a type are; its reader takes as many bytes, whatever length the header tells,
// and would read on from there (OpenEXR's file layout, "predefined attribute types").
struct TypeBytes {
  std::string_view type;
  std::size_t bytes;
};
constexpr std::array fixed_types{TypeBytes{"box2i", 16},
                                 TypeBytes{"box2f", 16},
                                 TypeBytes{"chromaticities", 32},
                                 TypeBytes{"compression", 1},
                                 TypeBytes{"deepImageState", 1},
                                 TypeBytes{"double", 8},
                                 TypeBytes{"envmap", 1},
                                 TypeBytes{"float", 4},
                                 TypeBytes{"int", 4},
                                 TypeBytes{"keycode", 28},
                                 TypeBytes{"lineOrder", 1},
                                 TypeBytes{"m33f", 36},
                                 TypeBytes{"m33d", 72},
                                 TypeBytes{"m44f", 64},
                                 TypeBytes{"m44d", 128},
                                 TypeBytes{"rational", 8},
                                 TypeBytes{"tiledesc", 9},
                                 TypeBytes{"timecode", 8},
                                 TypeBytes{"v2i", 8},
                                 TypeBytes{"v2f", 8},
                                 TypeBytes{"v2d", 16},
                                 TypeBytes{"v3i", 12},
                                 TypeBytes{"v3f", 12},
                                 TypeBytes{"v3d", 24}};

// Whether a value is as long as its reader will find it.
bool has_its_length(std::string_view type, std::string_view value) {
  for (const TypeBytes& t : fixed_types) {
    if (t.type == type) return t.bytes == value.size();
  }
  Bytes in(value);
  if (type == "preview") {  // width and height, then four bytes a pixel
    const auto width = in.number();
    const auto height = in.number();
    return width && height && *width >= 0 && *height >= 0 &&
           8.0 + 4.0 * *width * *height == static_cast<double>(value.size());
  }
  if (type == "stringvector") {
    while (!in.end()) {
      const auto length = in.number();
      if (!length || !in.next(*length)) return false;
    }
  }
  return true;
}

std::string doubt(const Part& p, double bytes) {
  constexpr double longest = 1 << 20;        // px of a side
  constexpr double largest_chunk = 256e6;    // numbers of it
  constexpr double numbers_a_byte = 40'000;  // PIZ of one value makes some 10,000
  const bool tiled = p.tile_width > 0.0 && p.tile_height > 0.0;
  const double chunks =
      tiled ? (p.width / p.tile_width) * (p.height / p.tile_height) : p.height / p.lines;
  const double chunk = p.channels * (tiled ? p.tile_width * p.tile_height : p.width * p.lines);
  const bool good = p.width >= 1.0 && p.height >= 1.0 && p.width <= longest &&
                    p.height <= longest && chunk <= largest_chunk &&
                    8.0 * chunks <= bytes + 8.0 &&  // the table has a place for each
                    p.width * p.height * p.channels <= numbers_a_byte * bytes;
  if (good) return "";
  return fmt::format(
      "its header tells of {:.0f} x {:.0f} pixels in {:.0f} channels, which its {:.0f} "
      "bytes cannot hold",
      p.width, p.height, p.channels, bytes);
}

}  // namespace

std::string incredible_exr(std::string_view head, std::size_t file_bytes) {
  // The library reads on where we lose our way, by lengths that are no longer those of the header.
  const char* lost = "its header cannot be followed";
  Bytes in(head);
  const auto magic = in.number();
  const auto version = in.number();
  if (!magic || !version) return lost;
  constexpr std::int32_t several = 0x1000;  // version's flag: parts, each with a header
  const bool parts = (*version & several) != 0;
  Part part;
  for (bool first = true;; first = false) {
    const auto name = in.name();
    if (!name) return lost;
    if (name->empty()) {
      if (!part.any) return first ? lost : "";  // the end of the headers of several parts
      std::string why = doubt(part, static_cast<double>(file_bytes));
      if (!why.empty() || !parts) return why;
      part = {};
      continue;
    }
    const auto type = in.name();
    const auto size = type ? in.number() : std::nullopt;
    const auto value = size ? in.next(*size) : std::nullopt;
    if (!value || !has_its_length(*type, *value) || !take(part, *name, *value)) return lost;
    part.any = true;
  }
}

}  // namespace jolly_iris::picture_files
