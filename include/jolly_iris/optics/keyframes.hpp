// A shot over frames: which quantities can be keyed, and the shot as it is at one frame.
//
// Values go between keys in the space in which they feel even: stops, ISO and shutter times by
// factors, focus distances by dioptres, all else by the number itself.
#pragma once

#include <array>
#include <string>
#include <string_view>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/shot.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Keys that can change over frames, for messages: "take.stop", …, "subject.NAME.at".
std::vector<std::string> keyable_keys();

/// Reads one keyed value as it is written in a shot file ("f/2.8", "3 m").
/// @param base the shot it belongs to: a stop must stay an f-number or stay a T-number
/// @throws QuantityError for text that is no such quantity
/// @throws UsageError for a key that cannot change over frames
std::array<double, 3> parse_keyed(const Shot& base, const std::string& key, std::string_view text);

/// Whether this key takes three numbers (a place) instead of text.
bool is_keyed_place(const std::string& key);

/// The shot at one frame: keyed values set, pulls turned into a focus or a move between two. Before
/// the first key and after the last, those hold. Of a plate that is a sequence, its picture at that
/// frame, where it is a whole one.
Shot shot_at(const Shot& shot, double frame);

/// Whether anything of the shot itself changes over frames.
bool changes_over_frames(const Shot& shot);

}  // namespace jolly_iris
