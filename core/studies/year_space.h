#pragma once
// The hours of one space: its illuminance from daylight coefficients, its beam traced for every sunlit hour, its blinds
// worked group by group. What year_study sums up, and what a question about single hours reads.

#include "core/studies/coefficients.h"
#include "core/studies/hourly_sky.h"
#include "core/studies/year_study.h"

namespace noonward {

class YearSpace {
public:
  YearSpace(const YearInput& input, std::size_t space, Threads threads);
  const std::vector<std::uint32_t>& groups() const { return groups_; } ///< window groups of the simplified model
  std::size_t sensors() const { return n_; }
  std::size_t hours() const { return hours_; } ///< with light, along HourlySky::hours

  /// Traces rays until `rounds` (1, 2) are in `kept`; false where it was stopped. What is known is not traced again.
  bool trace(KeptCoefficients& kept, int rounds, AimShelf& aims, RunControl& control);
  /// The beam by sensor and hour, from `kept` where it knows it. False where it was stopped.
  bool takeBeam(KeptCoefficients& kept, RunControl& control);
  /// By hour with light the hour whose sun stands for it; `notAsked` in hours not wanted.
  using SunOfHour = std::vector<std::uint32_t>;
  static constexpr std::uint32_t notAsked = 0xffffffff;
  /// Suns of one time of day on following days together, while none stands further than 0.25° (half a disc) from the
  /// one in the middle.
  static SunOfHour sunsTogether(const HourlySky& sky, const std::vector<std::uint32_t>& wanted);
  /// The beam in those hours alone, as good as that sun is the hour's own; eight at a time are asked first whether
  /// there is any, which sees grazing rays a little differently.
  bool takeBeam(KeptCoefficients& kept, RunControl& control, const SunOfHour& suns);
  void workBlinds(KeptCoefficients& kept);
  /// How bright the closed shade fabric of each group is from inside, hour by hour; after workBlinds. False where it
  /// was stopped.
  bool lightBehind(KeptCoefficients& kept, AimShelf& aims, RunControl& control);
  /// W/m² just behind a group's glass, by its visible transmittance, hour by hour, blinds open; `pane`: of the group
  /// (paneCoefficients).
  std::vector<float> energyBehind(std::size_t group, const PaneLight& pane) const;
  /// Standard error of its sum over the year, Wh/m²: of the sky's part, which is told by paths.
  double energyError(const PaneLight& pane) const;
  /// Instead of working blinds: those of the same windows on another grid; none closed.
  void takeBlinds(const YearSpace& other);
  void leaveOpen();
  void close(std::size_t hour, std::size_t group) { closed_[hour * groups_.size() + group] = 1; }
  /// cd/m² of a group's closed fabric seen from inside; 0 where it is open.
  float fabric(std::size_t group, std::size_t hour) const {
    return closed(hour, group) && !behind_[group].empty() ? behind_[group][hour] : 0;
  }
  /// lx, sensors × every `every`-th hour, from all batches of the first `rounds` rounds or from batch `batch` of them.
  /// `withBeam` false: without what falls there straight from the sun.
  Eigen::MatrixXf illuminance(KeptCoefficients& kept, int rounds, std::size_t every,
                              std::optional<std::size_t> batch = {}, bool withBeam = true) const;
  /// lx of beam at a sensor, blinds open, and the part (index in groups(); groups().size(): no named one) it comes
  /// through.
  float beam(std::size_t sensor, std::size_t hour) const {
    return (*share_)[sensor * hours_ + hour] * in_.sky->beam[hour] * kept_;
  }
  /// Of a sensor its share of the beam.
  const float* shares(std::size_t sensor) const { return share_->data() + sensor * hours_; }
  std::size_t through(std::size_t sensor, std::size_t hour) const { return (*through_)[sensor * hours_ + hour]; }
  const std::vector<std::uint8_t>& closedHoursOfGroups() const { return closed_; } ///< hours × groups
  const std::vector<std::vector<float>>& fabrics() const { return behind_; }       ///< by group; cd/m²
  bool closed(std::size_t hour, std::size_t group) const { return closed_[hour * groups_.size() + group]; }
  std::vector<std::size_t> beamHours() const;       ///< of the schedule by sensor, as ASE counts them
  std::size_t closedHours(std::size_t group) const; ///< of the schedule

private:
  struct Weighted {
    const SpaceCoefficients* coefficients;
    float weight; ///< they add up to 1
  };
  std::vector<Weighted> weighted(const KeptCoefficients& kept, int rounds, std::optional<std::size_t> batch) const;
  using Parts = std::vector<Eigen::MatrixXf>;
  /// By part; empty where nothing comes by a part.
  std::shared_ptr<const Parts> open(KeptCoefficients& kept, int rounds, std::size_t every,
                                    std::optional<std::size_t> batch, const std::vector<Weighted>& of) const;
  Parts openLight(const std::vector<Weighted>& of, std::size_t every) const;
  bool reflectOnFabric(KeptCoefficients& kept, AimShelf& aims, RunControl& control);
  bool takeBeam(KeptCoefficients& kept, RunControl& control, const SunOfHour* suns);
  /// Suns that stand for hours and do not reach there.
  std::vector<bool> shaded(const Sensor& sensor, const SunOfHour& suns) const;
  std::array<int, 2> paths() const; ///< a sensor, of one batch, by round
  /// Beam at the panes of a group for each 1 facing the sun, the mean over them, glass counted or not.
  double beamOnPanes(std::size_t k, std::size_t hour, bool throughGlass) const;
  std::vector<float> behindPanes(std::size_t k, const PaneLight& pane) const;
  const YearInput& in_;
  std::size_t space_;
  const SensorGridFacts& g_;
  Threads threads_;
  std::size_t hours_, n_;
  float kept_ = 1; ///< what frames and dirt leave, as settings say
  std::vector<std::uint32_t> groups_;
  const std::vector<float>* share_ = nullptr;
  const std::vector<std::uint8_t>* through_ = nullptr;
  const SpaceKept* lit_ = nullptr;
  std::vector<std::uint8_t> closed_;
  std::vector<std::vector<float>>
      behind_; ///< cd/m² of closed shade fabric seen from inside, by group; empty where it never closes
};

} // namespace noonward
