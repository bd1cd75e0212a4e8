#pragma once
// Chapters of a record on pages: one function a kind of part. Figures are in the units preferred; claims and tables
// beside the pages are in SI.

#include "picture/fisheye_page.h"
#include "picture/flow.h"
#include "picture/record_pictures.h"

namespace noonward {

/// What every chapter needs.
struct ChapterPage {
  Flow& w;
  const RecordFacts& facts;
  const RecordPictures& pictures;
  const Theme& theme;
  QColor of(Outcome3 outcome) const;
};

/// What the worst seat of a year of glare sees, as the record shows it.
FisheyePage worstSeatPage(const Project& project, const GlareChapter& chapter);
void composeYear(const ChapterPage& page, const YearChapter& chapter);
void composeField(const ChapterPage& page, const FieldChapter& chapter);
void composeVerdict(const ChapterPage& page, const VerdictChapter& chapter);
void composeShadows(const ChapterPage& page, const ShadowChapter& chapter);
void composeMeasured(const ChapterPage& page, const MeasuredChapter& chapter);
void composeSweep(const ChapterPage& page, const SweepChapter& chapter);
void composeBeside(const ChapterPage& page, const BesideChapter& chapter);
/// Pictures of a study or saved view, as many on a page as fit.
void composeMaps(const ChapterPage& page, const std::string& id);
void composeRemarks(const ChapterPage& page);
void composeChanges(const ChapterPage& page, const RecordChanges& changes);

} // namespace noonward
