// A shot as somebody asks for it, with every picture that it names: what all other work begins
// with.
//
//   std::vector<std::string> files;                     // what was read: what a program watches
//   const LoadedShot loaded = open_shot({.file = "hero.shot.toml"}, files);
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/files/load.hpp"
#include "jolly_iris/optics/transfer.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Which shot, and what is tried in it.
struct ShotRequest {
  std::string file{};
  std::vector<Override> overrides{};  ///< values tried, in the order in which they are laid over
  bool as_noted = false;              ///< what was solved from the plate is left out
  std::optional<double> frame{};      ///< at which to answer; none: the usual one
};

/// How load_shot reads a shot so that depth pictures and pictures of irises are read too.
LoadSettings shot_settings();

/// The shot, its scene and its answer, where also depth pictures and pictures of irises are read.
/// @param files gains every file that was read, also when this throws half-way
/// @throws as load_shot; FileError and PictureError for pictures
LoadedShot open_shot(const ShotRequest& request, std::vector<std::string>& files);

/// How a picture file's numbers stand for light, where it is not as usual for its kind.
struct Decoding {
  std::optional<Transfer> transfer{};
  std::string curve_file{};  ///< for Transfer::table
  std::string layer{};       ///< whose colour is meant, of files with several
  Margin beyond{};           ///< of an EXR's data window, px beyond the frame that come, too
  std::string space{};       ///< for Transfer::managed: its name in the config of the shot
};

/// As one line, to tell two apart; its table's contents are not in it.
std::string settings_text(const Decoding& decoding);

/// A picture, decoded so. `files` gains it, and the file of the table or the config where there is
/// one. @param colour by which config, for Transfer::managed
Frame read_decoded(const std::string& file, const Decoding& decoding, const ColourConfig& colour,
                   std::vector<std::string>& files);

/// A picture as this shot means it: the plate as the plate is decoded, unless asked otherwise. Its
/// notes also say what speaks against it being a picture of this shot.
/// @param margin that it may have beyond the frame, px
Frame read_for_shot(const std::string& file, const Decoding& decoding, const LoadedShot& loaded,
                    std::vector<std::string>& files, const Margin& margin = {});

/// Whether a file is the shot's plate.
bool is_plate(const std::string& file, const LoadedShot& loaded);

/// The plate's file. @param why ends the sentence "names no plate …", e.g. "to match"
/// @param otherwise what else would help, behind that sentence
/// @throws UsageError where the shot names none
const std::string& plate_file(const LoadedShot& loaded, const std::string& why,
                              const std::string& otherwise = {});

/// How far away a subject is, or what a distance says: "boat", "2.4 m", "infinity".
/// @throws UsageError for neither, with what there is
Length distance_named(const LoadedShot& loaded, const std::string& text);

/// Whether a subject's distance comes from the CG scene; else somebody measured it on the set.
bool is_in_scene(const LoadedShot& loaded, const std::string& subject);

}  // namespace jolly_iris
