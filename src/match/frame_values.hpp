// Focus, stop and focal length of each frame of a plate, and what all frames have in common.
#pragma once

#include <vector>

#include "jolly_iris/match/camera_frames.hpp"

namespace jolly_iris::matching {

/// What single frames tell of one value, and its curve.
struct Followed {
  std::vector<CurvePoint> points{};    ///< one deviation: what differs from frame to frame
  std::vector<double> common_sigma{};  ///< of each point: what is off in all frames alike
  ValueCurve curve{};
  Moves moves{};
};

/// Whether it is blur of something at a known distance.
bool tells_focus(const Observation& o);

class FrameFitter {
 public:
  /// Both live longer than this.
  FrameFitter(const std::vector<NotedFrame>& frames, const CameraFramesSettings& settings);

  /// @throws as follow_camera
  CameraFrames run();

 private:
  NotedPlate at_walk(std::size_t frame) const;
  double largest_px(std::size_t frame) const;
  std::vector<std::size_t> told_by() const;
  void begin_at_zoom();
  void fit_common();
  void believe_common();
  double common_share(std::size_t frame, Parameter of) const;
  bool fit_frame(std::size_t frame, bool own_free, const NotedPlate& plate, MatchResult& out) const;
  double common_dioptres(std::size_t frame, const MatchResult& alone) const;
  void follow_own();
  void follow_focus();
  Followed smoothed(Parameter of, std::vector<CurvePoint> points, std::vector<double> common_sigma,
                    double least) const;
  FollowedValue value_of_followed(Parameter of, const Followed& f) const;

  const std::vector<NotedFrame>& frames_;
  const CameraFramesSettings& settings_;
  std::vector<double> numbers_{};
  std::vector<CameraEstimate> estimates_{};  // as far as they are known by now
  std::vector<std::size_t> telling_{};       // frames that show anything
  std::vector<double> walk_{};               // dioptres
  bool zoomed_ = false;
  bool restopped_ = false;
  double placed_ = 1.0;  // how well lamps are placed, against the usual
  Followed focus_{};
  Followed stop_{};
  Followed focal_{};
  CameraFrames out_{};
};

}  // namespace jolly_iris::matching
