// Values as somebody types them to be tried, written into the text of a shot file: what has to give
// way to them goes out.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/files/shot_edit.hpp"

namespace jolly_iris {

struct ShotValue {
  std::string key{};
  std::string text{};  ///< as --set takes it; of a pull's frame "none": that key goes out
};

/// "focus." of "focus.on", "pull.1024." of "pull.1024.on"; nothing for what is no way to focus.
std::string focus_section(const std::string& key);
/// Whether a key is one of the focus over frames: "pull.1024.on".
bool is_pull(const std::string& key);

/// @throws UsageError for a name that no variant can have
void require_variant_name(const std::string& name);

/// The edits that set values: other ways to focus, the same value over frames and the reason of a
/// guess give way.
/// @param text of the file, @param file its name
/// @param variant into which; empty: the file's own values
/// @throws UsageError for a focus that would have to replace a pull; as written_value
std::vector<ShotEdit> edits_for(const std::string& text, const std::string& file,
                                const std::string& variant, const std::vector<ShotValue>& values);

}  // namespace jolly_iris
