#pragma once
// The hours of the eyes of one room: what each sees in an hour as sums of things seen (glare_sight.h), sixteen hours at
// a time, and DGP of every line of sight. What glare_year.h sums up.

#include "core/studies/glare_sight.h"
#include "core/studies/light_study.h"
#include "core/studies/year_space.h"
#include <array>
#include <deque>
#include <map>

namespace noonward {

/// What a year of glare is made from besides scene and eyes.
struct GlareInput {
  YearInput base;           ///< with a grid in each room that has eyes, for its blinds
  std::vector<int> spaceOf; ///< of each room of the project, in `base`; −1 none
  std::vector<GlareEye> eyes;
};

class RoomGlare {
public:
  static constexpr std::size_t skip = 16; ///< of the hours with light, for the uncertainty
  static constexpr std::uint16_t noCause = 0xffff;
  /// One line of sight in one hour.
  struct Seat {
    double dgp = 0, ev = 0; ///< ev: lx at the eye
    /// GlareCause · groups + window group (of the model) of the source that weighs most.
    std::uint16_t cause = noCause;
  };

  RoomGlare(const LightInput& in, const GlareSphere& sphere, std::span<const GlareEye> eyes, int room, Threads threads);
  /// `lit`: hours asked for, along HourlySky::hours. False where it was stopped.
  bool prepare(const std::vector<std::uint32_t>& lit, AimShelf& aims, KeptCoefficients& keptBase, RunControl& control);
  /// All lines of sight in every hour of `hours` (along HourlySky::hours): by all paths, or by those of one independent
  /// batch, for which hours are multiples of `skip`. `put` is called by several threads, for one hour by one.
  using Put = std::function<void(std::size_t sensor, std::size_t k, const Seat&)>;
  bool run(const std::vector<std::uint32_t>& hours, std::optional<std::size_t> batch, RunControl& control,
           const Put& put) const;
  const std::vector<std::uint32_t>& groups() const { return own_ ? own_->groups() : none_; } ///< whose blinds it works
  bool closed(std::size_t hour, std::size_t k) const { return own_->closed(hour, k); }
  double closedHours(std::size_t k) const { return own_ ? double(own_->closedHours(k)) : 0; }

private:
  static constexpr std::size_t lanes = 16; ///< hours at a time: a line of memory
  using Rows = Eigen::Matrix<float, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>;
  /// By space: wide places × hours, each place's hours together.
  using PlacesLight = std::vector<Rows>;
  struct Source {
    Vec3 sum, way; ///< of directions; their mean, unit
    float light = 0, brightest = 0;
    int spots = 0;
    std::uint32_t slot = 0;
  };
  /// Figures of so many hours, computed together.
  struct alignas(64) Lanes {
    Eigen::Array<float, int(lanes), 1> of = Eigen::Array<float, int(lanes), 1>::Zero();
  };
  struct Scratch {
    std::vector<Lanes> value, luminance, left, fabric;
    std::array<std::vector<std::uint32_t>, lanes> bright; ///< directions that are sources
    std::vector<Source> sources;
  };
  bool light(AimShelf& aims, RunControl& control);
  void takeBlinds(YearSpace& space, int room) const;
  void sumPlaces(std::size_t space); ///< what the wide places get, blinds as they stand
  bool sunlight(RunControl& control);
  bool closeForGlare(AimShelf& aims, KeptCoefficients& keptBase, RunControl& control);
  void values(const std::array<std::uint32_t, lanes>& h, const PlacesLight& light, std::size_t every, Scratch& s) const;
  void gather(std::size_t eye, std::size_t lane, Scratch& s) const;
  Seat seat(const Scratch& s, Vec3 forward, double ev, double beam, Vec3 sun, std::uint32_t sunGroup) const;
  const YearInput& base() const { return g_.base; }

  const LightInput& in_;
  const GlareInput& g_;
  const GlareSphere& sphere_;
  std::span<const GlareEye> eyes_;
  int room_;
  Threads threads_;
  std::vector<std::uint32_t> lit_;
  GlareSight sight_;
  std::optional<YearSpace> own_;     ///< the room's grid, for its blinds
  std::vector<int> ownOf_;           ///< by window group of the model: its index in own_->groups(); −1 none
  std::vector<std::size_t> byGlare_; ///< groups of own_ that close by glare
  YearInput wideIn_, beamIn_;
  KeptCoefficients wideKept_, beamKept_;
  std::deque<YearSpace> wide_, beam_;
  PlacesLight whole_;
  std::array<PlacesLight, KeptCoefficients::batches> batch_;
  std::vector<BeamShare> sun_; ///< eye-major: of the sun's disc, by hour
  /// cos · sr of every direction for the lines of sight of an eye: one matrix for eyes that look alike.
  std::vector<std::shared_ptr<const Eigen::MatrixXf>> facing_;
  const std::vector<std::uint32_t> none_;
};

} // namespace noonward
