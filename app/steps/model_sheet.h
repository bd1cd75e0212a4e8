#pragma once
#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/stage/stage.h"
#include "app/steps/sheet.h"
#endif

class QListWidget;

namespace noonward {

/// What stands there: the list of elements and the facts of the selected one.
class ModelSheet : public Sheet {
  Q_OBJECT
public:
  ModelSheet(Document& document, Stage& stage, QWidget* parent = nullptr);
  void refresh() override;
  void copySelected();
  void deleteSelected();
  void selectAlike(); ///< every element of the layer and role of the first selected one
  void turnSelected(double angle);

signals:
  void adjustWanted(UnderlayId underlay);

private:
  void copyInARow();
  void editSelected(const QString& name, const std::function<void(Element&)>& change);
  void lengthEdit(QLineEdit* field, const QString& text, const QString& name, double least,
                  const std::function<void(Element&, double)>& change);
  Stage& stage_;
  void fillUnderlays();
  QListWidget *list_, *underlays_;
  QWidget *pictures_, *selectedRows_, *everythingRows_;
  std::vector<UnderlayId> laid_;
  QLabel *summary_, *size_;
  QLineEdit *name_, *height_, *base_, *storeys_, *moveX_, *moveY_, *turn_, *tilt_, *filter_, *rise_, *ridge_, *copies_,
      *stepX_, *stepY_;
  QComboBox *roof_, *role_, *proposed_, *counted_, *hidden_, *alone_;
  std::vector<ElementId> listed_;
  QString listKey_;
  bool filling_ = false;
};

} // namespace noonward
