#include "core/model/settings/study_fields.h"
#include "core/base/words.h"
#include <fmt/format.h>
#include <map>

namespace noonward {

namespace {
template <class S> Fields<Study> liftedAll(S Study::*part) {
  Fields<Study> out;
  for (const Field<S>& f : fieldsOf<S>()) out.push_back(lifted(f, part));
  return out;
}
const Fields<Study>& fieldsOf(SettingsOf whose) {
  static const std::map<SettingsOf, Fields<Study>> described{{SettingsOf::SunHours, liftedAll(&Study::sunHours)},
                                                             {SettingsOf::Light, liftedAll(&Study::light)},
                                                             {SettingsOf::Year, liftedAll(&Study::year)}};
  return described.at(whose);
}

/// What a study that says nothing goes by, as in a file.
std::string defaultText(const Field<Study>& f, StudyKind kind) {
  Study fresh;
  fresh.kind = kind;
  Json j;
  f.write(j, fresh);
  return j.is_object() && j.contains(f.key) ? j[f.key].dump() : "none";
}
} // namespace

const Fields<Study>& studyFields(StudyKind kind) {
  return fieldsOf(factsOf(kind).settings);
}

bool usesField(StudyKind kind, std::string_view key) {
  std::string_view uses = factsOf(kind).uses;
  if (uses == "*") return true;
  while (!uses.empty()) {
    const auto blank = uses.find(' ');
    if (uses.substr(0, blank) == key) return true;
    if (blank == uses.npos) return false;
    uses.remove_prefix(blank + 1);
  }
  return false;
}

void readStudyFields(JsonObject& o, Study& s) {
  for (const Field<Study>& f : studyFields(s.kind)) f.readFrom(o, s);
}

void writeStudyFields(Json& j, const Study& s) {
  for (const Field<Study>& f : studyFields(s.kind))
    if (!f.kept || f.kept(s)) f.write(j, s);
}

void hashStudyFields(Hasher& h, const Study& s) {
  for (const Field<Study>& f : studyFields(s.kind))
    if (f.asked && usesField(s.kind, f.key) && f.isIn(s)) f.addTo(h, s);
}

Outcome settleDates(Study& s, int year) {
  for (Date& d : s.sunHours.dates) {
    if (d.year != 0) continue;
    d.year = year;
    if (d.day > daysInMonth(year, d.month))
      return fail(fmt::format("There is no {} in {}.", dayText(d), year), "dates");
  }
  return {};
}

Outcome setStudyField(Study& study, std::string_view text, int year) {
  const auto sign = text.find('=');
  if (sign == text.npos) return fail("KEY=VALUE is expected.", std::string(text));
  const std::string key(text.substr(0, sign));
  std::vector<std::string> known;
  for (const Field<Study>& f : studyFields(study.kind)) {
    if (!usesField(study.kind, f.key)) continue;
    known.push_back(f.key);
    if (f.key != key && (f.former.empty() || f.former != key)) continue;
    const std::string_view value = text.substr(sign + 1);
    Study changed = study;
    if (Outcome o = setField(f, changed, valueFromText(value)); !o) {
      // A word that happens to read as a number, and the other way round.
      Study again = study;
      if (!setField(f, again, std::string(value)))
        return fail(fmt::format("{} Expected: {}.", o.error().message, f.expected), key);
      changed = std::move(again);
    }
    if (Outcome o = settleDates(changed, year); !o) return o;
    study = std::move(changed);
    return {};
  }
  const std::string meant = meantWord(key, known);
  return fail(fmt::format("A study of {} has no such setting{}.", studyName(study.kind),
                          meant.empty() ? "; it has " + listedWithOr(known) : fmt::format(": \"{}\" is meant?", meant)),
              key);
}

std::vector<SettingText> settingTexts(const Study& s, const DisplayUnits& units) {
  Study fresh;
  fresh.kind = s.kind;
  std::vector<SettingText> out;
  for (const Field<Study>& f : studyFields(s.kind)) {
    if (!usesField(s.kind, f.key) || !f.isIn(s)) continue;
    for (const FieldRow<Study>& row : f.rows)
      out.push_back({f.key, row.name, shownText(row, s, units), row.text(s) == row.text(fresh)});
  }
  return out;
}

std::string fieldsAsMarkdown() {
  std::string out;
  const std::pair<SettingsOf, const char*> all[] = {
      {SettingsOf::SunHours, "sun hours"}, {SettingsOf::Light, "light under one sky"}, {SettingsOf::Year, "a year"}};
  for (const auto& [whose, words] : all) {
    StudyKind like = StudyKind::SunHours;
    for (const StudyKindFacts& k : studyKinds)
      if (k.settings == whose) {
        like = k.kind;
        break;
      }
    std::string kinds;
    for (const StudyKindFacts& k : studyKinds)
      if (k.settings == whose) kinds += fmt::format("{}`{}`", kinds.empty() ? "" : ", ", k.key);
    out += fmt::format("\nSettings of {} ({}):\n\n| key | expected | where absent | what it is |\n|---|---|---|---|\n",
                       words, kinds);
    for (const Field<Study>& f : fieldsOf(whose)) {
      std::string of;
      for (const StudyKindFacts& k : studyKinds)
        if (k.settings == whose && std::string_view(k.uses) != "*" && usesField(k.kind, f.key))
          of += fmt::format("{}`{}`", of.empty() ? "" : ", ", k.key);
      std::string name = f.rows.empty() ? "" : f.rows.front().name;
      for (std::size_t i = 1; i < f.rows.size(); ++i) name += ", " + f.rows[i].name;
      const std::string what = name.empty() ? f.help : f.help.empty() ? name : name + ": " + f.help;
      out += fmt::format("| `{}` | {} | {} | {}{} |\n", f.key, f.expected, defaultText(f, like), what,
                         of.empty() ? "" : (what.empty() || what.ends_with('.') ? " For " : ". For ") + of);
    }
  }
  return out;
}

std::string fieldsAsText(StudyKind kind) {
  std::string out;
  for (const Field<Study>& f : studyFields(kind))
    if (usesField(kind, f.key))
      out += fmt::format("{:<22} {} ({}){}{}\n", f.key, f.expected, defaultText(f, kind), f.help.empty() ? "" : "  ",
                         f.help);
  return out;
}

} // namespace noonward
