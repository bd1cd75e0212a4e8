#pragma once
// What one year of energy leaves for the next: light behind panes and on sensors, hours of blinds.

#include "core/studies/year_study.h"
#include <Eigen/Core>
#include <array>
#include <cstdint>
#include <vector>

namespace noonward {

/// What a run of energy learnt of sun and daylight, for the next that differs in heat alone: glass's g and U,
/// constructions, uses. Of the last question; used by one run at a time.
struct EnergyKept {
  struct Gains {                            ///< of a space
    std::vector<std::uint32_t> groups;      ///< window groups of the model
    std::vector<std::vector<float>> behind; ///< by group, W/m² just behind its glass, blinds open; hours with light
    std::vector<std::vector<std::uint8_t>> closed; ///< by group and hour with light: are its blinds?
    std::vector<double> behindError;               ///< by group, Wh/m² of the year
    std::array<Eigen::MatrixXf, 4> luxOf;          ///< of every eighth hour, by one independent batch of paths each
    Eigen::MatrixXf lux;                           ///< sensors × hours with light; empty where no daylight was asked
    bool whole = false;
  };
  Digest key;          ///< of the year behind it
  bool before = false; ///< without the proposal
  std::vector<Gains> spaces;
  std::shared_ptr<const YearInput> base;     ///< of the last question: its sky and scene serve while they are its
  std::shared_ptr<const LightScene> checked; ///< the scene that was checked, and what was found
  Findings checks;
  std::shared_ptr<KeptCoefficients> rays; ///< of all spaces, where they fit into memory: other blinds trace nothing
  static constexpr std::size_t mostRayBytes = 384u << 20;
};

} // namespace noonward
