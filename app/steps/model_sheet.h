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
  ~ModelSheet() override;
  void refresh() override;
  void copySelected();
  void deleteSelected();
  void selectAlike(); ///< every element of the layer and role of the first selected one
  void turnSelected(double angle);
  void cutAlongALine();
  void cutOut(); ///< of the first of the selected masses, the others
  void join();
  void holdTogether(const QString& name); ///< empty: a new name
  void letGo();
  /// Keeps what is selected with everything in it, to be put into another option or back again.
  void takeAlong(bool away);
  void putHere();

signals:
  void adjustWanted(UnderlayId underlay);

private:
  void buildLayers(); // model_layers.cpp
  void refreshLayers();
  void showLayer(); ///< the one looked at
  void onLayer(const QString& name, const std::function<void(Element&)>& change);
  void buildShaping(); // model_shaping.cpp
  void refreshShaping(const Element& first, std::size_t selected);
  void copyInARow();
  void setBack();
  void mirror();
  void cutAtLevel(const QString& text);
  void shaped(Expected<Project> made, const QString& name, const std::vector<ElementId>& selected);
  QPushButton* actionButton(const QString& text, const std::function<void()>& done);
  /// What is typed, or what is usual where nothing is; nothing where it is no length, which the field then says.
  std::optional<double> lengthIn(QLineEdit* field, std::optional<double> usual);
  std::optional<int> countIn(QLineEdit* field, int least, int most, int usual);
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
      *stepX_, *stepY_, *rows_, *rowX_, *rowY_, *setBackFrom_, *setBackBy_, *cutLevel_, *group_;
  std::unique_ptr<FieldRows<Tree>> treeRows_;
  QWidget *treeGroup_, *alignRows_;
  Fold* layersFold_;
  QListWidget* layers_;
  QLineEdit *layer_, *layerName_;
  QComboBox* layerColour_;
  std::vector<std::string> listedLayers_;
  QString rowKey_;
  std::optional<Project> taken_;         ///< as it was when something was taken along
  std::vector<ElementId> takenElements_; ///< of it
  QComboBox *setBackSides_, *mirror_, *mirrored_, *align_;
  QComboBox *roof_, *role_, *proposed_, *counted_, *hidden_, *alone_;
  std::vector<ElementId> listed_;
  QString listKey_;
  bool filling_ = false;
};

} // namespace noonward
