// What an EXR has beside the colour and the depth that were read of it: other channels and header
// entries, which go along into pictures that are made of it.
#pragma once

#include <OpenImageIO/imageio.h>

#include <string>
#include <vector>

#include "channels.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace jolly_iris::picture_files {

/// Channels that nobody read, by the names they will have ("PART.NAME" for those of another part),
/// and whether the header says something that is not about how the file is kept. Parts that are
/// deep or of another display window stay behind.
FileRest rest_of(const std::string& path, const std::vector<OIIO::ImageSpec>& parts,
                 const ChosenChannels& chosen);

/// An EXR's bytes again, with that rest: channels in their own types, bit for bit, empty where the
/// source's data window does not reach; header entries where the EXR says nothing by that name.
/// @throws FileError where the source cannot be read any more
std::string with_rest(const std::string& path, const std::string& bytes, const FileRest& rest);

}  // namespace jolly_iris::picture_files
