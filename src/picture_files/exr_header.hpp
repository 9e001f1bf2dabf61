// What an EXR's header asks for, told before a library takes memory for it: its table of places and
// its buffers follow the header's numbers, whatever the file holds.
#pragma once

#include <cstddef>
#include <string>
#include <string_view>

namespace jolly_iris::picture_files {

/// Why a header cannot be true of a file of so many bytes, as "its header tells of …", or cannot be
/// followed; empty where all is well. Layout as in the OpenEXR file format's description
/// (openexr.com, "OpenEXR File Layout").
/// @param head the file's first bytes, all of the header among them
std::string incredible_exr(std::string_view head, std::size_t file_bytes);

}  // namespace jolly_iris::picture_files
