#pragma once
#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/steps/field_rows.h"
#include "app/steps/sheet.h"
#include "core/files/project/light_json.h"
#endif

class QListWidget;

namespace noonward {

/// Which finish and glazing surfaces have; the library that ships, and copies of it that are the project's own.
class FinishesSheet : public Sheet {
  Q_OBJECT
public:
  FinishesSheet(Document& document, QWidget* parent = nullptr);
  void refresh() override;

private:
  void give(int surface, const std::string& name);
  void buildHeat();
  void refreshHeat();
  void editHeat(const QString& name, const std::function<void(HeatDesign&)>& change);
  void buildParticular();
  void refreshParticular();
  void giveParticular();
  void copyToEdit();
  void keepForOthers();
  /// Names that can be given: the project's, the user's kept ones, the library's.
  std::vector<std::string> names(bool glazing) const;
  const Finish* finishNamed(const std::string& name) const;
  const Glazing* glazingNamed(const std::string& name) const;
  void editFinish(const QString& name, const std::function<void(Finish&)>& change);
  void editGlazing(const QString& name, const std::function<void(Glazing&)>& change);
  QLineEdit* shareField(const QString& label, const std::function<void(double)>& done, const QString& help = {});

  struct Target {
    QString name;
    Assignment assignment; ///< what it fits; the finish is put in when it is given
  };
  std::vector<Target> targets() const;
  static QString fitsText(const Assignment& assignment, const Project& project);
  void putInPlaceOf(const std::string& other);
  /// The library's or the user's own, copied into a project so that it can be computed anywhere.
  void carry(Project& project, const std::string& name) const;
  QComboBox *target_, *inPlaceOf_;
  QPushButton *give_, *alone_;
  QListWidget* particularList_;
  QLabel* notFollowing_;
  std::vector<QComboBox*> given_; ///< one for each kind of surface
  QComboBox* which_;
  QLineEdit *ground_, *name_, *reflectance_, *specular_, *transmittance_, *panes_, *diffuse_, *frame_, *dirt_, *gains_,
      *loses_;
  std::array<QComboBox*, 5> constructionOf_{}; ///< by HeatFlow
  QComboBox* construction_;
  QLabel* constructionFacts_;
  QLineEdit *uValue_, *constructionName_;
  std::unique_ptr<FieldRows<HeatDesign>> heatFields_;
  std::string lookedConstruction_;
  QLabel *source_, *particular_;
  QWidget *finishRows_, *glazingRows_;
  QPushButton *copy_, *keep_;
  FinishShelf shelf_; ///< the user's, kept between projects
  const std::vector<Finish> library_ = libraryFinishes();
  const std::vector<Glazing> libraryGlass_ = libraryGlazings();
  std::string looked_; ///< the finish or glazing looked at
};

} // namespace noonward
