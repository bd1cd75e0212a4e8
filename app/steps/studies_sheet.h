#pragma once
#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/charts/bars.h"
#include "app/charts/energy_bars.h"
#include "app/charts/hours_chart.h"
#include "app/charts/month_bars.h"
#include "app/stage/stage.h"
#include "app/steps/setting_rows.h"
#include "core/yardsticks/questions.h"
#endif

class QListWidget;
class QProgressBar;
class QSlider;
class QTableWidget;

namespace noonward {

/// A study: questions where none is asked yet, the answer and its verdicts, what was asked.
/// Skies to choose from, by key and as shown.
const std::vector<std::pair<std::string, QString>>& skiesOffered();

class StudiesSheet : public Sheet {
  Q_OBJECT
public:
  StudiesSheet(Document& document, Studies& studies, Stage& stage, QWidget* parent = nullptr);
  void refresh() override;
  void addStudy();

  void takeWeights(const QString& file);

signals:
  void runsWanted();
  void shadowsWanted();
  void deskWanted();
  void fisheyeWanted();
  void receiversWanted();
  void robustnessWanted();
  void weightsWanted(); ///< a file of what a kWh is weighed by

private:
  const Study* study() const;
  void edit(const QString& name, const std::function<void(Study&)>& change);
  void editSettings(const QString& name, const std::function<void(SunHoursSettings&)>& change);
  void chooseGroup(int index);
  void showAnswer();
  void showVerdicts();
  void showRuns();
  void addFacadeGroup(double bay);
  void addDwellings();
  void lookAt(Project project, const std::vector<GroupId>& groups, const QString& name);
  void editLight(const QString& name, const std::function<void(LightSettings&)>& change);
  void showLight(const SensorField& painted);
  void addYardstick();
  void showParameters();
  void offerRuleFor(StudyKind kind);
  std::optional<StudyKind> ruleOffered_; ///< the kind of study that the rule was last chosen for

  Studies& studies_;
  Stage& stage_;
  QComboBox *kind_, *sky_, *skyMoment_, *period_, *designState_;
  QWidget *periodRows_, *skyEnergyRows_, *stateRows_;
  QLineEdit *skyDiffuse_, *skyDirect_;
  QLabel* energy_;
  void showEnergy(const SensorField& painted, double threshold);
  void buildQuestions();
  void buildRun();
  void buildAnswer();
  void buildAsked();
  void buildYardsticks();
  void buildRuns();
  void take(Expected<Asked> asked);
  void foldAsked();
  QWidget *questionRows_, *whole_, *sunRows_, *sunFold_, *lightRows_, *skyRows_, *verdictRows_, *roomRows_,
      *spreadRows_, *yearShown_, *yardstickRows_, *runRows_;
  QComboBox* ruleToMeet_;
  QPushButton* back_;
  bool asking_ = false; ///< another question, beside a study that is there
  Fold* asked_;
  QLabel* askedWords_;
  std::optional<bool> askedByHand_; ///< opened or closed by the user, for the study looked at
  StudyId askedOf_;
  std::vector<std::unique_ptr<SettingRows>> settings_; ///< rows that follow from the description of the settings
  void addSettings(SettingsOf whose, bool folded);
  QTableWidget* rooms_;
  QLabel* whatCounts_;
  QLabel* cost_;
  void showCost();
  QComboBox *which_, *on_, *when_, *clock_, *yardstick_;
  QWidget* yearRows_;
  QComboBox* metric_;
  std::vector<QPushButton*> areaButtons_; ///< of grids outdoors
  QTableWidget* groupBlinds_;             ///< a rule for each group of windows
  QLabel* groupsWords_;
  QString groupsKey_;
  std::vector<WindowGroup> groups_; ///< of the study's last answer
  StudyId groupsOf_;
  QPushButton *robust_, *setUp_;
  HoursChart* hours_;
  QLabel* hoursText_;
  std::vector<std::size_t> rowSpaces_; ///< room of each row of the table
  int sortColumn_ = -1;
  bool sortDown_ = false;
  void showHours();
  void setUpByYardstick();
  QLabel* building_;
  void buildYear();
  void refreshYear(const Study* study);
  void refreshGroups(const YearSettings& now);
  void showYear(const SensorField& painted);
  void buildEnergyYear();
  void showEnergyYear(const SensorField& painted);
  QWidget* energyRows_;
  EnergyBars* energyBars_;
  QLabel *energyWhy_, *energyWeighed_, *energySeason_;
  QPushButton* wholeYear_;
  std::optional<std::size_t> energyMonth_; ///< whose causes are told; the year's where none is chosen
  void editYear(const QString& name, const std::function<void(YearSettings&)>& change);
  QLineEdit *rangeLow_, *rangeHigh_, *roomFilter_;
  QPushButton *figures_, *wholeRange_;
  void setRange(bool low, const QString& text);
  QLineEdit *dates_, *from_, *to_, *spacing_;
  QPushButton *run_, *trial_, *enough_, *drop_, *live_, *lay_;
  QLabel *state_, *statistics_, *behind_, *thresholdWords_;
  void showMonths(const std::shared_ptr<const StudyAnswer>& answer);
  MonthBars* months_;
  std::pair<Digest, std::size_t> monthsOf_{}; ///< of which answer and sensor they are, or are being added up
  std::shared_ptr<RunControl> monthsRun_;
  QSlider* threshold_;
  SpreadChart* spread_;
  QBoxLayout* verdicts_;
  QBoxLayout* parameters_;
  QListWidget* runs_;
  QString parametersKey_;
  bool datesOfOwn_ = false; ///< "dates below" was chosen
  std::vector<StudyId> listed_;
};

} // namespace noonward
