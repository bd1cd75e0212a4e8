#pragma once
// What a model looks like before it is brought in: units, up, place, and its layers with the roles they would get, each
// open to correction; then what it does to the project: new, renewed, moved, gone.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/panels/panels.h"
#include "core/files/meshes/mesh_files.h"
#include <map>
#endif

class QTableWidget;
class QPushButton;

namespace noonward {

class ImportPanel : public Panel {
  Q_OBJECT
public:
  ImportPanel(Document& document, QWidget* parent);
  void show(std::shared_ptr<const Model> model);
  void setMeasured(double metres);

signals:
  void distanceWanted();
  void levelWanted(const QString& path, const QString& level); ///< the file read again by another level of detail
  /// The model stands on the stage as it would be brought in, by these ids.
  void previewed(const std::vector<std::uint64_t>& ids);

protected:
  void hideEvent(QHideEvent*) override;

private:
  void refresh();
  void fillLayers();
  void showLayers();
  void bringIn();
  Role role() const;
  Document& document_;
  std::shared_ptr<const Model> model_;
  PlacementGuess guess_;
  std::vector<ModelLayer> layers_;
  std::map<std::string, Role> said_; ///< by the user, of layers
  quint64 asked_ = 0;                ///< the last question of fillLayers(); older answers are dropped
  QLabel *facts_, *size_, *notes_;
  void trueLength();
  double measured_ = 0; ///< m, as the model stands
  QLineEdit *north_, *true_;
  QPushButton* measure_;
  QComboBox *unit_, *up_, *role_, *roles_, *proposed_, *level_;
  QTableWidget* table_;
};

} // namespace noonward
