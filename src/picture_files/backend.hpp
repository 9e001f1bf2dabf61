// What the module that links OpenImageIO offers to the library that loads it on first use.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "jolly_iris/optics/plate_facts.hpp"
#include "jolly_iris/picture/picture.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"

namespace jolly_iris::picture_files {

struct Backend {
  const char* version;  ///< JOLLY_IRIS_VERSION of who built it
  Frame (*read)(const std::string& path, const PictureRead& how);
  /// The file's bytes.
  std::string (*encode)(const std::string& path, const Frame& frame,
                        const std::map<std::string, std::string>& attributes, int quality);
  /// The bytes of an EXR with more layers of colour beside the frame's, by their names.
  std::string (*encode_layers)(const std::string& path, const Frame& frame,
                               const std::vector<NamedPicture>& layers,
                               const std::map<std::string, std::string>& attributes);
  /// The bytes of an EXR of float channels R and G.
  std::string (*encode_map)(const std::string& path, PixelSize size,
                            const std::vector<float>& pairs);
  /// An EXR's bytes with what else the source of its frame had.
  std::string (*with_rest)(const std::string& path, const std::string& bytes, const FileRest& rest);
  /// The bytes of an EXR with more in its header.
  std::string (*stamped)(const std::string& path,
                         const std::map<std::string, std::string>& attributes);
  Margin (*margin)(const std::string& path);
  PlateFacts (*facts)(const std::string& path);
  /// Its header's texts by their names.
  std::map<std::string, std::string> (*header)(const std::string& path);
  /// The bytes of a GIF that shows the pictures in turns.
  std::string (*moving)(const std::vector<Picture>& pictures, double seconds_each);
};

/// Name of the module's only entry, which returns a Backend.
inline constexpr const char* entry_name = "jolly_iris_picture_backend";

}  // namespace jolly_iris::picture_files
