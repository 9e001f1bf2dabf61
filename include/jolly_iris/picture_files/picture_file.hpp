// Pictures in and out of files: EXR (with a depth channel Z), PNG, JPEG, TIFF.
//
// The library that knows the formats takes 0.4 s to load, so it is loaded when the first picture is
// touched, not before.
#pragma once

#include <filesystem>
#include <map>
#include <optional>
#include <string>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/colour_config.hpp"
#include "jolly_iris/optics/plate_facts.hpp"
#include "jolly_iris/optics/shot.hpp"
#include "jolly_iris/picture/picture.hpp"
#include "jolly_iris/picture/warp.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// How a picture is read, where that is not as usual for its kind.
struct PictureRead {
  std::optional<Transfer> transfer{};  ///< how its numbers stand for light; none: linear for EXR,
                                       ///< else sRGB
  Curve curve{};                       ///< for Transfer::table
  std::string layer{};                 ///< whose colour is meant; empty: the one without a name
  bool as_it_is = false;               ///< what is no number stays so (mend_numbers.hpp)
  Margin beyond{};       ///< px beyond the display window that come, too (Frame::margin), each side
  ManagedSpace space{};  ///< for Transfer::managed
};

/// Reads a picture into linear light. Channels R, G, B, A (or Y) make the colour, Z the depth in
/// axial metres; a missing alpha is 1. Straight alpha (PNG, TIFF) comes out premultiplied. Of an
/// EXR's layers ("beauty.R", or parts with names) the only one with colour is taken where none has
/// plain names, and its notes say so; depth may also be depth.Z, depth.V or a part of its own.
/// What is no number in it is mended as mend_numbers does, and the notes say so.
/// @throws FileError for a file that is missing, cut off, empty (0 × 0), deep or of an unknown
///         kind; UsageError where several layers could be meant, or none is called so; PictureError
///         where too much of it is no number
Frame read_picture(const std::filesystem::path& path, const PictureRead& how);
/// Reads a picture whose numbers are no light, as they are: depths (infinity is the sky), diameters
/// of discs. @throws as read_picture
Frame read_values(const std::filesystem::path& path);
/// The same of one layer: "motion" has "motion.x" and "motion.y", or .u and .v, or .R and .G; they
/// come as red and green. @throws as read_picture
Frame read_values(const std::filesystem::path& path, const std::string& layer);
/// Reads all of a picture that this program made, to see whether it is whole. @throws as
/// read_picture
void require_whole_picture(const std::filesystem::path& path);
Frame read_picture(const std::filesystem::path& path,
                   std::optional<Transfer> transfer = std::nullopt, const Curve& curve = {});

/// How far a picture's data window reaches beyond its display window on both sides: what it has of
/// a margin. Nothing for other files than EXR. @throws as read_picture
Margin picture_margin(const std::filesystem::path& path);

/// A shot's plate, decoded as the shot says. @throws as read_picture
Frame read_plate(const PlateEntry& plate);

/// Whether a picture could be written under this name, to ask before long work.
/// @throws UsageError for an ending of no known kind, FileError for a folder that is not there
void check_picture_name(const std::filesystem::path& path);
/// The same for write_position_map.
void check_position_map_name(const std::filesystem::path& path);

/// Whether the rest of the file that a frame was read from goes along when it is written as an EXR:
/// it is of the same size.
bool passes_rest(const Frame& frame);
/// Which channels go along so, as a sentence; empty where none do.
std::string rest_note(const Frame& frame);

/// Writes a frame by the name's ending (its margin goes into an EXR's data window, and is cut off
/// for others): .exr (linear; half floats, but floats where a value would not fit; depth as float
/// Z), or for looking at: .png, .jpg (8 bits), .tif (16 bits), which are encoded as sRGB, clipped
/// to 0 … 1 and shown over black, without alpha.
/// An EXR also gets what its frame's `rest` has.
/// @param attributes text to keep in the file, where the format can
/// @throws UsageError for another ending, FileError if it cannot be written, PictureError for a
///         pixel that is no number (a depth may be infinite); then there is no file
void write_picture(const std::filesystem::path& path, const Frame& frame,
                   const std::map<std::string, std::string>& attributes = {});

/// A layer of an EXR: its channels are "name.R", "name.G", "name.B".
struct NamedPicture {
  std::string name{};
  Picture picture{};
};

/// Writes a frame as an EXR with more layers beside its own R, G, B, A: float, so that they add up.
/// @throws as write_picture; UsageError for another ending, or layers of another size
void write_layers(const std::filesystem::path& path, const Frame& frame,
                  const std::vector<NamedPicture>& layers,
                  const std::map<std::string, std::string>& attributes = {});

/// The bytes of such a file, e.g. to put it into another one.
/// @param ending ".png", ".jpg", …
/// @param quality of a JPEG, 1 … 100
/// @throws UsageError for another ending
std::string picture_bytes(const std::string& ending, const Frame& frame, int quality = 95);

/// Writes a position map as an EXR of two float channels, R and G: which place of the source each
/// pixel shows, as shares of its width from the left and of its height from the *bottom*. Pixels
/// that show nothing have −1.
/// @throws UsageError for another ending than .exr, FileError if it cannot be written
void write_position_map(const std::filesystem::path& path, const PositionMap& map);

/// Writes attributes into the header of an EXR that is there already; pixels, channels and all
/// other attributes stay as they are.
/// @throws UsageError for another format, FileError as read_picture and write_picture
void stamp_picture(const std::filesystem::path& path,
                   const std::map<std::string, std::string>& attributes);

/// The texts of a picture's header by their names ("ImageDescription", "jolly_iris:focal_mm" …).
/// @throws FileError as read_picture
std::map<std::string, std::string> read_header(const std::filesystem::path& path);

/// Pictures in turns, over and over, as a GIF: encoded as sRGB in 256 colours each.
/// @throws UsageError for another ending, fewer than two pictures, or pictures of several sizes;
///         FileError if it cannot be written; then there is no file
void write_moving_picture(const std::filesystem::path& path, const std::vector<Picture>& pictures,
                          double seconds_each = 0.6);

/// What a picture's header says of how it was taken (Exif, EXR standard attributes).
/// @throws FileError as read_picture; OpticsError for a panorama or a stereo pair (out of scope)
PlateFacts read_plate_facts(const std::filesystem::path& path);

}  // namespace jolly_iris
