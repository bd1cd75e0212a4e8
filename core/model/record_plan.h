#pragma once
// What goes into the record, in the user's order, and what a reviewer said about it with the answers: part of the
// project, so that it is undone, saved and handed in with it.

#include <array>
#include <string>
#include <vector>

namespace noonward {

/// Sweep: what many designs came to. Beside: designs laid beside each other.
enum class RecordPartKind { Study, Verdict, Shadows, View, Text, Measured, Sweep, Beside };

/// Outlines of shadow on a day, in the middle of steps by the site's clock.
struct ShadowDay {
  int month = 3, day = 21;
  double fromMinute = 9 * 60, toMinute = 16 * 60, stepMinutes = 60;
  bool operator==(const ShadowDay&) const = default;
};

struct RecordPart {
  RecordPartKind kind = RecordPartKind::Text;
  std::string of;    ///< id of the study, the judgement, the saved view, the measured series or the sweep; else empty
  std::string title; ///< of a text
  std::string text;  ///< a paragraph of the user's own: stands before what the part shows
  ShadowDay shadows;
  bool operator==(const RecordPart&) const = default;
};

/// What a reviewer said, and what was answered.
struct Remark {
  std::string by, text, answer;
  bool operator==(const Remark&) const = default;
};

enum class Paper { A4, A3, Letter };
inline constexpr std::array<Paper, 3> allPapers{Paper::A4, Paper::A3, Paper::Letter};

struct RecordPlan {
  std::vector<RecordPart> parts; ///< empty: everything the project has (recordParts)
  std::vector<Remark> remarks;
  Paper paper = Paper::A4;
  bool operator==(const RecordPlan&) const = default;
};

} // namespace noonward
