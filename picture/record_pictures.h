#pragma once
// The pictures of a record, made once for page and files: the model, maps of every study and state, saved views.

#include "core/runs/record/record.h"
#include "picture/picture_export.h"
#include <map>

namespace noonward {

/// Text of the core as text of pages.
inline QString q(const std::string& text) {
  return QString::fromStdString(text);
}

struct RecordMap {
  std::string name; ///< of its files
  QString caption;
  FurnishedPicture picture;
};
struct RecordPictures {
  FurnishedPicture model;
  std::map<std::string, std::vector<RecordMap>> of; ///< by the id of the study or saved view
};
Expected<RecordPictures> recordPictures(const RecordFacts& facts, RunControl& control, const Theme& theme);

} // namespace noonward
