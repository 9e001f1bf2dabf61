// A shot in somebody's hand: values are turned, taken back, kept as tries, flipped between, and
// written into the shot file at last. The file is read anew with every change, so that what is
// shown is what the file and the hand say together.
//
//   LiveShot shot({.file = "hero.shot.toml"});
//   shot.change({{"take.stop", "f/1.4"}});
//   shot.keep("wide open");
//   shot.write("dreamy");   // [variant.dreamy]
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// One value turned.
struct LiveChange {
  std::string key{};
  std::optional<std::string> text{};  ///< as --set takes it; none: as the file has it
};

/// A value in the hand.
struct LiveValue {
  std::string key{};
  std::string text{};
  std::string in_file{};  ///< as the file writes it; empty: it does not have the key
};

/// A state that was kept.
struct LiveTry {
  std::string name{};
  std::vector<LiveValue> values{};
  std::optional<double> frame{};
};

/// The file says something else of a key than when the hand took it.
struct LiveConflict {
  std::string key{};
  std::string in_hand{};
  std::string in_file{};  ///< as it writes it now; empty: the key is gone
};

/// What writing did.
struct LiveWritten {
  std::string file{};
  std::string variant{};            ///< empty: the file's own values
  std::vector<std::string> keys{};  ///< that were set
};

/// Not for several threads at once.
class LiveShot {
 public:
  /// What `request` overrides is in the hand from the beginning.
  /// @throws as open_shot
  explicit LiveShot(ShotRequest request);

  const LoadedShot& loaded() const { return loaded_; }
  /// With nothing in the hand.
  const LoadedShot& as_in_file() const { return in_file_; }
  /// Everything that the shot was read from.
  const std::vector<std::string>& files() const { return files_; }
  /// Rises whenever `loaded` may be another.
  std::uint64_t version() const { return version_; }
  const std::vector<LiveValue>& values() const { return now_.values; }
  std::optional<double> frame() const { return now_.frame; }

  /// Changes several values at once, or none where that cannot be.
  /// @param touch changes of one drag have one name and are taken back together; empty: one by
  /// itself
  /// @throws as open_shot; then nothing has changed
  void change(const std::vector<LiveChange>& changes, const std::string& touch = {});
  /// Answers at another frame; no change that is taken back.
  /// @throws as open_shot
  void go_to_frame(std::optional<double> frame);
  /// All as the file has it.
  void reset();

  bool can_undo() const { return at_ > 0; }
  bool can_redo() const { return at_ + 1 < history_.size(); }
  /// @throws as open_shot, where the file does not take those values any more
  void undo();
  void redo();

  /// Keeps the state. @param name empty: a number. @return which try it is
  /// @throws UsageError for a name that there is already, or the most tries there may be
  std::size_t keep(std::string name);
  const std::vector<LiveTry>& tries() const { return tries_; }
  /// Takes a try into the hand, as a change. @throws UsageError for none such; as open_shot
  void take(std::size_t which);
  void drop(std::size_t which);

  /// Reads the files again where one of them was saved meanwhile.
  /// @return whether anything was
  /// @throws as open_shot for a file that is half saved or wrong; the shot stays as it was, and the
  ///         next call tries again
  bool look_again();
  const std::vector<LiveConflict>& conflicts() const { return conflicts_; }
  /// Of a key in conflict: the hand's value stays, or the file's is taken.
  void settle(const std::string& key, bool keep_hand);

  /// Writes what is in the hand into the shot file, changing only the lines of those values.
  /// @param variant its name; empty: the file's own values (or those of the variant that is open)
  /// @param which a try instead of the hand
  /// @throws UsageError for a name that cannot be one, or a focus that would have to replace a
  /// pull;
  ///         FileError where the file cannot be written or changed since it was read (look again);
  ///         as open_shot for values that it would not take then. The file stays as it was
  LiveWritten write(const std::string& variant = {}, std::optional<std::size_t> which = {});

 private:
  struct State {
    std::vector<LiveValue> values{};
    std::optional<double> frame{};
  };
  ShotRequest request_for(const State& state) const;
  void open(State state);
  void open_file();
  void enter(State state, const std::string& touch);
  State changed(State state, const std::vector<LiveChange>& changes) const;
  std::string in_file(const std::string& key) const;

  ShotRequest base_;       // without values
  std::string variant_{};  // that is open
  std::string text_{};     // of the shot file
  LoadedShot loaded_{};
  LoadedShot in_file_{};
  std::vector<std::string> files_{};
  std::vector<std::string> stamps_{};
  State now_{};
  std::vector<State> history_{};
  std::size_t at_ = 0;
  std::string touch_{};
  std::vector<LiveTry> tries_{};
  std::vector<LiveConflict> conflicts_{};
  std::uint64_t version_ = 0;
};

}  // namespace jolly_iris
