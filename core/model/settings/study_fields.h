#pragma once
// The fields that a study is asked by, whatever its kind: for files, commands, sheets and docs.

#include "core/model/project.h"
#include "core/model/settings/fields.h"

namespace noonward {

/// All fields of the settings that the kind goes by, in the order in which they are shown.
const Fields<Study>& studyFields(StudyKind kind);
/// Does an answer of the kind depend on the field at all?
bool usesField(StudyKind kind, std::string_view key);

Season seasonFromJson(JsonObject& o);
Json seasonJson(const Season& season);
void readStudyFields(JsonObject& o, Study& study);
void writeStudyFields(Json& j, const Study& study);

/// What the answer depends on of the fields that the kind goes by, and that enter as they stand.
void hashStudyFields(Hasher& h, const Study& study);

/// `--set key=value`: the value as JSON, a list with commas, or text. An error names the key, what is expected, or the
/// key that was meant. Days without a year are those of `year`.
Outcome setStudyField(Study& study, std::string_view keyAndValue, int year);
/// Days written without a year become those of a year; an error where there is no such day.
Outcome settleDates(Study& study, int year);

/// A line of a table of settings, as a sheet shows it.
struct SettingText {
  std::string key, name, value;
  bool isDefault = false;
};
std::vector<SettingText> settingTexts(const Study& study, const DisplayUnits& units = {});

/// The description of all fields as a table in Markdown, by kind of settings: part of docs/project-format.md.
std::string fieldsAsMarkdown();
/// The same for one kind of study, for `--settings`.
std::string fieldsAsText(StudyKind kind);

} // namespace noonward
