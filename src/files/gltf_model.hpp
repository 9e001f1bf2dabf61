// TinyGLTF accepts much that is broken; this wraps its model with checks that name the element.
#pragma once

#include <tiny_gltf.h>

#include <cstdint>
#include <string>
#include <vector>
#include "jolly_iris/optics/geometry.hpp"

namespace jolly_iris::gltf {

/// A loaded model whose every index, buffer range and node link is known to be good.
struct CheckedModel {
  std::string file;
  tinygltf::Model model;
  std::vector<int> order;            ///< nodes of the scene, parents before children
  std::vector<int> parents;          ///< by node, −1 for roots and nodes outside the scene
  mutable std::size_t elements = 0;  ///< read so far, of accessors
};

/// Loads and checks. @throws FileError
CheckedModel load_checked(const std::string& file);

/// Accessor contents as vectors of three floats (normalised integers become 0 … 1).
/// @throws FileError for another type
std::vector<Vec3f> read_vectors(const CheckedModel& m, int accessor);

/// Accessor contents as rows of one, three or four numbers (the rest is 0); normalised integers
/// become −1 … 1. @throws FileError for another type, and for what is no number
std::vector<std::array<double, 4>> read_numbers(const CheckedModel& m, int accessor,
                                                int components);

/// Accessor contents as indices. @throws FileError for another type
std::vector<std::uint32_t> read_indices(const CheckedModel& m, int accessor);

}  // namespace jolly_iris::gltf
