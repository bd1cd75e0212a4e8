#include "core/model/record_parts.h"
#include <algorithm>

namespace noonward {

const char* paperKey(Paper p) {
  switch (p) {
  case Paper::A4:
    return "a4";
  case Paper::A3:
    return "a3";
  case Paper::Letter:
    return "letter";
  }
  return "";
}
const char* paperName(Paper p) {
  switch (p) {
  case Paper::A4:
    return "A4";
  case Paper::A3:
    return "A3";
  case Paper::Letter:
    return "Letter";
  }
  return "";
}
std::optional<Paper> paperFromKey(std::string_view key) {
  for (const Paper p : allPapers)
    if (key == paperKey(p)) return p;
  return {};
}

std::vector<RecordPart> recordParts(const Project& p) {
  std::vector<RecordPart> out;
  const auto part = [&](RecordPartKind kind, std::string of) {
    RecordPart x;
    x.kind = kind;
    x.of = std::move(of);
    out.push_back(std::move(x));
  };
  if (p.record.parts.empty()) {
    for (const Judgement& j : p.judgements) part(RecordPartKind::Verdict, j.id.text());
    for (const Study& s : p.studies) part(RecordPartKind::Study, s.id.text());
    for (const MeasuredSeries& s : p.measured) part(RecordPartKind::Measured, s.id.text());
    return out;
  }
  const auto in = [&](const auto& list, const std::string& id) {
    return std::any_of(list.begin(), list.end(), [&](const auto& x) { return x.id.text() == id; });
  };
  for (const RecordPart& x : p.record.parts)
    if (x.kind == RecordPartKind::Text || x.kind == RecordPartKind::Shadows ||
        (x.kind == RecordPartKind::Study && in(p.studies, x.of)) ||
        (x.kind == RecordPartKind::Verdict && in(p.judgements, x.of)) ||
        (x.kind == RecordPartKind::View && in(p.views, x.of)) ||
        (x.kind == RecordPartKind::Measured && in(p.measured, x.of)) ||
        (x.kind == RecordPartKind::Sweep && in(p.sweeps, x.of)) ||
        (x.kind == RecordPartKind::Beside && p.beside.size() > 1))
      out.push_back(x);
  return out;
}

std::string partName(const Project& p, const RecordPart& part) {
  const auto named = [&](const auto& list, const auto& name) -> std::string {
    for (const auto& x : list)
      if (x.id.text() == part.of) return name(x);
    return part.of;
  };
  switch (part.kind) {
  case RecordPartKind::Study:
    return named(p.studies, [](const Study& s) { return s.name; });
  case RecordPartKind::Verdict:
    return named(p.judgements, [](const Judgement& j) { return j.yardstick; });
  case RecordPartKind::View:
    return named(p.views, [](const SavedView& v) { return v.name; });
  case RecordPartKind::Measured:
    return named(p.measured, [](const MeasuredSeries& s) { return s.name; });
  case RecordPartKind::Sweep:
    return named(p.sweeps, [](const Sweep& s) { return s.name; });
  case RecordPartKind::Beside:
    return "Designs beside each other";
  case RecordPartKind::Shadows:
    return "Shadow plan " + dayText({p.site.year, part.shadows.month, part.shadows.day});
  case RecordPartKind::Text:
    return part.title.empty() ? "Text" : part.title;
  }
  return {};
}

} // namespace noonward
