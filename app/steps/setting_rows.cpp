#include "app/steps/setting_rows.h"
#include "core/model/settings/study_fields.h"
#include <QComboBox>
#include <QLineEdit>

namespace noonward {

struct SettingRows::Row {
  const Field<Study>* field;
  const FieldRow<Study>* row;
  QWidget* whole;
  QLineEdit* line;
  QComboBox* choice;
};

SettingRows::~SettingRows() = default;

SettingRows::SettingRows(Sheet& sheet, SettingsOf whose, bool folded, Edit edit) : whose_(whose) {
  const StudyKindFacts* like = nullptr;
  for (const StudyKindFacts& k : studyKinds)
    if (k.settings == whose && !like) like = &k;
  for (const Field<Study>& field : studyFields(like->kind))
    for (const FieldRow<Study>& row : field.rows) {
      if (field.folded != folded) continue;
      const QString label = QString::fromStdString(row.name), help = QString::fromStdString(row.help),
                    name = "Set " + label.toLower();
      Row made{&field, &row, nullptr, nullptr, nullptr};
      if (row.choices.empty()) {
        auto slot = std::make_shared<QLineEdit*>(nullptr);
        *slot = sheet.addField(
            label,
            [this, slot, &row, edit, name](const QString& typed) {
              const std::string text = typedText(row, typed.trimmed().toStdString(), units_);
              Study tried = shown_;
              const std::string expected = row.take(tried, text);
              if (!expected.empty())
                return Sheet::showFault(*slot, "Expected here: " + QString::fromStdString(expected));
              edit(name, [&](Study& s) { row.take(s, text); });
            },
            help);
        made.line = *slot;
      } else {
        QStringList words;
        for (const FieldChoice& c : row.choices) words << QString::fromStdString(c.words);
        made.choice = sheet.addChoice(
            label, words,
            [&row, edit, name](int i) {
              edit(name, [&](Study& s) { row.take(s, row.choices[std::size_t(i)].words); });
            },
            help);
      }
      QWidget* input = made.line ? static_cast<QWidget*>(made.line) : made.choice;
      if (!row.spoken.empty()) input->setAccessibleName(QString::fromStdString(row.spoken));
      made.whole = input->parentWidget();
      rows_.push_back(made);
    }
}

void SettingRows::show(const Study& s, const DisplayUnits& units) {
  if (factsOf(s.kind).settings != whose_) return;
  shown_ = s;
  units_ = units;
  for (const Row& r : rows_) {
    r.whole->setVisible(usesField(s.kind, r.field->key));
    const bool matters = r.field->isIn(s);
    const QString text = QString::fromStdString(shownText(*r.row, s, units));
    if (r.line) {
      Sheet::show(r.line, text);
      r.line->setEnabled(matters);
    } else {
      r.choice->setCurrentIndex(r.choice->findText(text));
      r.choice->setEnabled(matters);
    }
  }
}

} // namespace noonward
