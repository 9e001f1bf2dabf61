// Which of a file's channels are the colour and which the depth, in files with layers and parts.
#pragma once

#include <string>
#include <vector>

namespace jolly_iris::picture_files {

/// One part of a file as its header lists it.
struct PartHeader {
  std::string name{};                   ///< empty: it has none
  std::vector<std::string> channels{};  ///< "R", "beauty.R", "depth.Z" …
  bool deep = false;
};

/// One channel: its part and its number in it; −1: there is none.
struct ChannelPlace {
  int part = 0;
  int index = -1;
  bool any() const { return index >= 0; }
};

struct ChosenChannels {
  ChannelPlace r{}, g{}, b{}, a{}, z{};
  std::vector<std::string> notes{};  ///< what was decided that nobody asked for, a sentence each
};

/// Colour: the layer that was asked for, else R, G, B (or Y) without a layer's name, else the only
/// layer that has them. Depth: Z, depth.Z or depth.V of that part, then of another part. A channel
/// belongs to the layer before its last dot; a part of several by its own name.
/// @param path of the file, for sentences
/// @throws UsageError where several layers could be meant, or none is called so, with what there
///         is; FileError for a file without colour and depth, and for a deep one
ChosenChannels choose_channels(const std::vector<PartHeader>& parts, const std::string& layer,
                               const std::string& path);

}  // namespace jolly_iris::picture_files
