#pragma once
// What is laid over a picture of rooms: panes, lines of equal value, names with figures. A label gives way to those
// before it.

#include "picture/cells.h"

namespace noonward {

/// `painted` may be null: names alone, or with `figures`, a text for each room. `area` is the picture within the
/// painter; k the size.
void paintRoomLabels(QPainter& painter, QRectF area, const Camera& camera, const Project& project,
                     const SensorField* painted, const FieldScale& scale, const Theme& theme, double k = 1,
                     std::vector<QRectF>* taken = nullptr, std::optional<double> storey = {},
                     const std::vector<std::string>* figures = nullptr);
/// The figure at every sensor that has room for it: those that would touch another give way, in a fixed order.
void paintSensorValues(QPainter& painter, QRectF area, const Camera& camera, const SensorField& painted,
                       const FieldScale& scale, const Theme& theme, double k, std::vector<QRectF>& taken);
/// The boxes of the rooms of one storey, cut at 1.3 m: what a picture of them must hold.
std::vector<Box3> roomBoxes(const Project& project, std::optional<double> storey = {});
/// A copy in which the grids of rooms on other storeys have no cells.
SensorField ofStorey(const SensorField& painted, const Project& project, std::optional<double> storey);

} // namespace noonward
