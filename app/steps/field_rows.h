#pragma once
// Rows of a sheet made from the description of a struct's fields (core/model/settings/fields.h): what is described
// there has its row at once.

#include "app/steps/sheet.h"
#include "core/model/settings/fields.h"
#include <QComboBox>
#include <QLineEdit>

namespace noonward {

template <class S> class FieldRows {
public:
  using Edit = std::function<void(const QString& name, const std::function<void(S&)>& change)>;
  /// Adds the rows of all fields that are folded away, or of those that are not, where the sheet stands. `edit` makes a
  /// change to what is shown, by a name for undo.
  FieldRows(Sheet& sheet, const Fields<S>& fields, bool folded, const Edit& edit) {
    for (const Field<S>& field : fields)
      for (const FieldRow<S>& row : field.rows) {
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
                S tried = shown_;
                const std::string expected = row.take(tried, text);
                if (!expected.empty())
                  return Sheet::showFault(*slot, "Expected here: " + QString::fromStdString(expected));
                edit(name, [&](S& s) { row.take(s, text); });
              },
              help);
          made.line = *slot;
        } else {
          QStringList words;
          for (const FieldChoice& c : row.choices) words << QString::fromStdString(c.words);
          made.choice = sheet.addChoice(
              label, words,
              [&row, edit, name](int i) { edit(name, [&](S& s) { row.take(s, row.choices[std::size_t(i)].words); }); },
              help);
        }
        QWidget* input = made.line ? static_cast<QWidget*>(made.line) : made.choice;
        if (!row.spoken.empty()) input->setAccessibleName(QString::fromStdString(row.spoken));
        made.whole = input->parentWidget();
        rows_.push_back(made);
      }
  }
  FieldRows(const FieldRows&) = delete;
  FieldRows& operator=(const FieldRows&) = delete;

  enum class Idle { Grey, Gone };
  /// Rows of fields that `uses` does not take vanish; those that do not matter as the others stand are grey, or gone.
  void show(const S& s, const DisplayUnits& units, const std::function<bool(const Field<S>&)>& uses, Idle idle) {
    shown_ = s;
    units_ = units;
    for (const Row& r : rows_) {
      const bool matters = r.field->isIn(s);
      r.whole->setVisible((!uses || uses(*r.field)) && (matters || idle == Idle::Grey));
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

private:
  struct Row {
    const Field<S>* field;
    const FieldRow<S>* row;
    QWidget* whole;
    QLineEdit* line;
    QComboBox* choice;
  };
  std::vector<Row> rows_;
  S shown_;
  DisplayUnits units_;
};

} // namespace noonward
