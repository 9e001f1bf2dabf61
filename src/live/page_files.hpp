// The page's own files, from src/live/page/.
#pragma once

#include <map>
#include <string_view>

namespace jolly_iris::live {

/// By name, without a folder: "live.html".
using PageFiles = std::map<std::string_view, std::string_view>;

const PageFiles& page_files();

}  // namespace jolly_iris::live
