// Whether files were saved meanwhile, by what the file system says of them.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Time and size as a text, to be compared: another one after each save; empty: it is not there.
std::string file_stamp(const std::string& file);
std::vector<std::string> file_stamps(const std::vector<std::string>& files);

}  // namespace jolly_iris
