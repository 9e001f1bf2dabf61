// Pictures as the bytes of a file. Part of the module that links OpenImageIO, see backend.hpp,
// which says what each makes.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "jolly_iris/picture_files/picture_file.hpp"

namespace jolly_iris::picture_files {

std::string encode(const std::string& path, const Frame& frame,
                   const std::map<std::string, std::string>& attributes, int quality);
std::string encode_layers(const std::string& path, const Frame& frame,
                          const std::vector<NamedPicture>& layers,
                          const std::map<std::string, std::string>& attributes);
std::string encode_map(const std::string& path, PixelSize size, const std::vector<float>& pairs);
std::string moving(const std::vector<Picture>& pictures, double seconds_each);

/// What the library said, without its line's end.
std::string trimmed(std::string text);

}  // namespace jolly_iris::picture_files
