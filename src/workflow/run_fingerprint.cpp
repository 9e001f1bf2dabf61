#include "workflow/run_fingerprint.hpp"

#include <fmt/format.h>

#include <array>
#include <filesystem>
#include <fstream>
#include <string_view>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/version.hpp"
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

std::string text_version(const std::string& text) {
  Fingerprint f;
  f.add(text);
  return f.text();
}

std::string FileHashes::of(const std::string& file) {
  {
    const std::scoped_lock lock(mutex_);
    if (const auto found = known_.find(file); found != known_.end()) return found->second;
  }
  Fingerprint f;
  f.add_file(file);
  const std::scoped_lock lock(mutex_);
  return known_.emplace(file, f.text()).first->second;
}

std::string fingerprint_of(const LoadedShot& now, const std::vector<std::string>& inputs,
                           const std::string& settings, double frame, FileHashes& hashes) {
  Fingerprint f;
  f.add(JOLLY_IRIS_VERSION);
  std::vector<std::string> files = now.shot.files;
  if (now.scene) files.insert(files.end(), now.scene->files.begin(), now.scene->files.end());
  if (now.scene && now.shot.scene) files.push_back(now.shot.scene->points);
  const Iris& iris = now.shot.lens.iris;
  for (const std::string* file : {&iris.outline_file, &iris.picture_file}) {
    if (!file->empty()) files.push_back(*file);
  }
  files.insert(files.end(), inputs.begin(), inputs.end());
  for (const std::string& file : files) f.add(file.empty() ? "none" : hashes.of(file));
  for (const auto& [name, value] : camera_header(now)) f.add(fmt::format("{}={}", name, value));
  const Pose& place = now.answer.place;
  for (const Vec3& v : {place.linear.columns[0], place.linear.columns[1], place.linear.columns[2],
                        place.translation}) {
    f.add(fmt::format("{:.17g} {:.17g} {:.17g}", v.x, v.y, v.z));
  }
  f.add(fmt::format("frame {:.17g}", frame));
  f.add(settings);
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
