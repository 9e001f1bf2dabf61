#include "workflow/run_fingerprint.hpp"

#include <fmt/format.h>

#include <array>
#include <filesystem>
#include <fstream>
#include <string_view>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/version.hpp"
#include "jolly_iris/workflow/finish_run.hpp"
#include "jolly_iris/workflow/picture_origin.hpp"
#include "jolly_iris/workflow/write_picture.hpp"

namespace jolly_iris {

void Fingerprint::add(const std::string& text) {
  const auto mix = [this](unsigned char byte) {
    hash_ ^= byte;
    hash_ *= 0x100000001b3ULL;
  };
  for (const char c : text) mix(static_cast<unsigned char>(c));
  mix(0);  // so that "a", "b" is not "ab"
}

void Fingerprint::add_file(const std::string& file) {
  std::ifstream in(file, std::ios::binary);
  if (!in) return add(file + " is not there");
  std::array<char, 1 << 16> part{};
  while (in.read(part.data(), part.size()), in.gcount() > 0) {
    add(std::string(part.data(), static_cast<std::size_t>(in.gcount())));
  }
  add("end of file");
}

std::string Fingerprint::text() const { return fmt::format("{:016x}", hash_); }

std::string fingerprint_of(const DefocusRequest& request, const LoadedShot& loaded) {
  Fingerprint f;
  f.add(JOLLY_IRIS_VERSION);
  for (const std::string& file : loaded.shot.files) f.add_file(file);
  for (const auto& [name, value] : camera_header(loaded)) f.add(fmt::format("{}={}", name, value));
  const auto optional = [](const auto& v) { return v ? fmt::format("{:.17g}", *v) : "none"; };
  f.add(fmt::format("{} {} {} {} {}", request.distance, optional(request.max_blur),
                    request.mend_depth, static_cast<int>(request.edge), request.margin.beside));
  f.add(fmt::format("{} {} {} {} {}", request.margin.above, request.vignetting, request.squeezed,
                    optional(request.clipped_at), optional(request.true_peak)));
  f.add(request.box ? fmt::format("{} {} {} {}", request.box->x, request.box->y, request.box->width,
                                  request.box->height)
                    : "whole");
  f.add(request.half ? "half" : "full");
  f.add(request.finish ? "finished, frame " + optional(request.frame) : "as blurred");
  if (request.finish) {
    for (const std::string& file : smear_inputs(loaded.now.finish)) {
      f.add_file(numbered(file, request.frame.value_or(0.0)));
    }
  }
  const Decoding& d = request.decoding;
  f.add(d.transfer ? std::string(to_string(*d.transfer)) : "usual");
  f.add(d.layer);
  if (!d.curve_file.empty()) f.add_file(d.curve_file);
  for (const std::string& hides : request.holdouts) f.add("hides " + hides);
  for (const std::string& name : request.pictures) f.add_file(name);
  for (const PictureCard& card : request.cards) {
    f.add("card at " + card.at);
    f.add_file(card.file);
  }
  for (const std::string* name : {&request.depth, &request.blur}) {
    f.add(*name);
    if (!name->empty()) f.add_file(*name);
  }
  return f.text();
}

std::map<std::string, std::string> header_of(const std::string& fingerprint) {
  return {{"jolly_iris:fingerprint", fingerprint},
          {"Software", fmt::format("{}{} [{}]", software_mark, JOLLY_IRIS_VERSION, fingerprint)}};
}

namespace {

// A PNG ends in a chunk of its own (PNG specification, 11.2.5). One that was cut off is not worth
// opening.
bool is_cut_png(const std::string& file) {
  constexpr std::string_view head("\x89PNG\r\n\x1a\n", 8);
  constexpr std::string_view end("\0\0\0\0IEND\xae\x42\x60\x82", 12);
  std::ifstream in(file, std::ios::binary);
  std::string begins(head.size(), '\0');
  if (!in.read(begins.data(), static_cast<std::streamsize>(begins.size())) || begins != head) {
    return false;
  }
  std::string ends(end.size(), '\0');
  in.seekg(-static_cast<std::streamoff>(end.size()), std::ios::end);
  return !in.read(ends.data(), static_cast<std::streamsize>(ends.size())) || ends != end;
}

}  // namespace

bool is_made(const std::string& picture, const std::string& fingerprint) {
  std::error_code none;
  if (std::filesystem::file_size(picture, none) == 0 || none) return false;
  if (is_cut_png(picture)) return false;
  try {
    if (read_origin(picture).fingerprint != fingerprint) return false;
    require_whole_picture(picture);  // a header may be all there is of it
    return true;
  } catch (const Error&) {
    return false;  // cut off, or no picture at all
  }
}

}  // namespace jolly_iris
