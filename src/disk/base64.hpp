// Bytes as text that fits into JSON, HTML and glTF.
#pragma once

#include <string>
#include <string_view>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// RFC 4648, section 4, with its filling.
std::string base64(std::string_view bytes);

/// The same as a data URI: "data:image/png;base64,…" (RFC 2397).
std::string data_uri(std::string_view kind, std::string_view bytes);

}  // namespace jolly_iris
