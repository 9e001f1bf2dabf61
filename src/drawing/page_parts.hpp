// A page put together from its own files and its data: one HTML file that needs no network.
#pragma once

#include <string>

#include "disk/json.hpp"

namespace jolly_iris::drawing {

/// @param name of the page's files: "page" takes page.html, page.css and page.js
/// @param title of the window
/// @param data what its script reads
std::string assembled(const std::string& name, const std::string& title, const Json& data);

}  // namespace jolly_iris::drawing
