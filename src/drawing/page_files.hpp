// The page's own files, from src/drawing/page/.
#pragma once

#include <map>
#include <string_view>

namespace jolly_iris::drawing {

/// By name, without a folder: "page.html", with @TITLE@, @STYLE@, @DATA@ and @SCRIPT@.
using PageFiles = std::map<std::string_view, std::string_view>;

const PageFiles& page_files();

}  // namespace jolly_iris::drawing
