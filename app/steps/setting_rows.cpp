#include "app/steps/setting_rows.h"
#include "app/steps/field_rows.h"
#include "core/model/settings/study_fields.h"

namespace noonward {

SettingRows::~SettingRows() = default;

SettingRows::SettingRows(Sheet& sheet, SettingsOf whose, bool folded, Edit edit) : whose_(whose) {
  const StudyKindFacts* like = nullptr;
  for (const StudyKindFacts& k : studyKinds)
    if (k.settings == whose && !like) like = &k;
  rows_ = std::make_unique<FieldRows<Study>>(sheet, studyFields(like->kind), folded, edit);
}

void SettingRows::show(const Study& s, const DisplayUnits& units) {
  if (factsOf(s.kind).settings != whose_) return;
  rows_->show(
      s, units, [&](const Field<Study>& f) { return usesField(s.kind, f.key); }, FieldRows<Study>::Idle::Grey);
}

} // namespace noonward
