#pragma once
// Measurements: each is a named function that returns lines with a value, a unit and a target.

#include "core/model/project.h"
#include <filesystem>
#include <functional>
#include <string>
#include <vector>

namespace noonward::cli {

struct Measured {
  std::string name;
  double value = 0;
  std::string unit;
  double target = 0;
  bool higherIsBetter = false;
};

/// A town of boxes: about `triangles` triangles on a square kilometre, seeded.
Project benchTown(std::size_t triangles);
/// A made-up tower as IFC4, of about so many bytes: walls with openings, windows, slabs.
void writeIfc(const std::filesystem::path& file, std::size_t bytes);
double memoryPeakMb(); ///< of this process
void resetMemoryPeak();
double seconds(const std::function<void()>& work);
double median(std::vector<double> values);

std::vector<Measured> daylight();
std::vector<Measured> daylightLibrary();
std::vector<Measured> daylightGrowth();
std::vector<Measured> daylightBrute();
std::vector<Measured> daylightYear();
std::vector<Measured> shadeSpeed();
std::vector<Measured> accessSpeed();
std::vector<Measured> quarterSpeed();
std::vector<Measured> glareSpeed();
std::vector<Measured> energySpeed();
std::vector<Measured> stationSpeed();
std::vector<Measured> sweepSpeed();

} // namespace noonward::cli
