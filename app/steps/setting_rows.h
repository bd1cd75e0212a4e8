#pragma once
// Rows of a sheet made from the description of a study's settings: a field that is added there has its row at once.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/steps/sheet.h"
#endif

namespace noonward {

template <class S> class FieldRows;

class SettingRows {
public:
  using Edit = std::function<void(const QString& name, const std::function<void(Study&)>& change)>;
  /// Adds the rows of all fields of these settings, those that are folded away or those that are not, where the sheet
  /// stands. `edit` makes a change to the study shown, by a name for undo.
  SettingRows(Sheet& sheet, SettingsOf whose, bool folded, Edit edit);
  ~SettingRows();
  SettingRows(const SettingRows&) = delete;
  SettingRows& operator=(const SettingRows&) = delete;
  /// Shows what the study goes by; rows of fields that its kind does not use vanish, those that do not matter as the
  /// others stand can't be changed.
  void show(const Study& study, const DisplayUnits& units);

private:
  std::unique_ptr<FieldRows<Study>> rows_;
  SettingsOf whose_;
};

} // namespace noonward
