// How deep a text is nested, told before a reader that recurses walks it: a file of a few kilobytes
// of brackets would end the program.
#pragma once

#include <cstddef>
#include <string_view>

namespace jolly_iris {

/// More than people and programs write.
inline constexpr std::size_t deepest_nesting = 64;

/// The most lists and objects of JSON text that stand within each other.
std::size_t json_depth(std::string_view json);

/// The most parts that a key of TOML text has, "lens.iris.blades" being of three.
std::size_t toml_key_parts(std::string_view toml);

}  // namespace jolly_iris
