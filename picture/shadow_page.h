#pragma once
// A shadow plan on paper: the ground from above with what was in shadow and what the proposal adds, by moment and by
// how long, beside the table of areas. PDF, SVG, PNG.

#include "core/studies/shadow_plan.h"
#include "picture/camera.h"
#include "picture/theme.h"
#include <QPainter>
#include <QRectF>
#include <filesystem>

namespace noonward {

struct ShadowPage {
  const Project* project = nullptr;
  const ShadowPlan* plan = nullptr;
  std::string title; ///< "Ropewalk Quay · shadow plan 21 Mar"
};
/// The plan alone in a frame: buildings, areas, shadows; north, scale and legend within it.
void paintShadowOutlines(QPainter& painter, QRectF frame, const ShadowPage& page, const Theme& theme);
/// A3 lying, in points of 1/96 inch.
void paintShadowPage(QPainter& painter, const ShadowPage& page, const Theme& theme);
/// By the ending: .pdf, .svg, .png. Errors: another ending, a file that can't be written.
Outcome writeShadowPage(const ShadowPage& page, const std::filesystem::path& file);

} // namespace noonward
