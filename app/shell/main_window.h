#pragma once
// The frame: Path, Stage, Sheet, Almanac, and everything that can be done, by name.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/almanac/almanac.h"
#include "app/panels/beside_panel.h"
#include "app/panels/fisheye_panel.h"
#include "app/panels/help_panel.h"
#include "app/panels/import_panel.h"
#include "app/panels/measuring_desk.h"
#include "app/panels/pictures_panel.h"
#include "app/panels/receivers_panel.h"
#include "app/panels/shade_panel.h"
#include "app/panels/shadow_panel.h"
#include "app/panels/shown_design.h"
#include "app/panels/sweep_desk.h"
#include "app/panels/trace_panel.h"
#include "app/panels/underlay_panel.h"
#include "app/panels/weather_bench.h"
#include "app/panels/year_panels.h"
#include "app/shell/path_bar.h"
#include "app/stage/second_stage.h"
#include "app/stage/skyline_dial.h"
#include "app/stage/tool_strip.h"
#include "app/steps/finishes_sheet.h"
#include "app/steps/model_sheet.h"
#include "app/steps/options_sheet.h"
#include "app/steps/record_sheet.h"
#include "app/steps/rooms_sheet.h"
#include "app/steps/site_sheet.h"
#include "app/steps/studies_sheet.h"
#include <QMainWindow>
#endif

class QBoxLayout;
class QSplitter;
class QStackedWidget;
class QToolButton;

namespace noonward {

class MainWindow : public QMainWindow {
  Q_OBJECT
public:
  explicit MainWindow(const std::filesystem::path& resources);
  ~MainWindow() override;

  Document& document() { return document_; }
  Studies& studies() { return studies_; }
  Stage& stage() { return *stage_; }
  SecondStage& second() { return *second_; }
  void showSecondStage(bool on);
  Almanac& almanac() { return *almanac_; }
  /// Opens, with an offer to take up what a broken-off session left.
  bool openProject(const std::filesystem::path& path);
  void openDemo(const char* file);
  /// Asks what becomes of work that is not saved; false where it stays open.
  bool mayLeave();
  void loadModel(const QString& path, const QString& level = {}); ///< level of detail, where the file has several
  void layPicture(const QString& path);                           ///< to trace over
  void writeModel(const QString& path);                           ///< the ending says the format
  QAction* action(const QString& name) const;
  void setDark(bool dark);
  RecordSheet& record() { return *record_; }

protected:
  void closeEvent(QCloseEvent*) override;
  bool eventFilter(QObject* watched, QEvent* event) override;
  void resizeEvent(QResizeEvent*) override;
  void changeEvent(QEvent*) override;

private:
  void viewAs(ViewKind kind);
  void buildFrame();
  void buildActions();
  QAction* add(const QString& name, const QKeySequence& keys, const std::function<void()>& done);
  void refresh();
  void placePanels();
  void layOut();
  void openHelp();
  void say(const QString& text, bool fault);
  void saveProject(bool as);
  void pickFile(const QString& title, const QString& filter, const std::function<void(const QString&)>& done,
                const QString& suffix = {});
  void offerRecovery(const std::filesystem::path& path);
  void offerBoth();
  void remember(const std::filesystem::path& path);
  void flyToFinding(const Finding& finding);
  void goToView(const SavedView& view);

  Document document_;
  Studies studies_;
  Stage* stage_ = nullptr;
  Almanac* almanac_ = nullptr;
  PathBar* path_ = nullptr;
  QStackedWidget* sheets_ = nullptr;
  std::map<Step, Sheet*> byStep_;
  SiteSheet* site_ = nullptr;
  ModelSheet* model_ = nullptr;
  RecordSheet* record_ = nullptr;
  SkylineDial* dial_ = nullptr;
  HelpPanel* help_ = nullptr;
  ToolStrip* modelTools_ = nullptr;
  TourPanel* tour_ = nullptr;
  QSplitter *across_ = nullptr, *upright_ = nullptr; ///< stage and sheet; both and the Almanac
  QSplitter* stages_ = nullptr;
  SecondStage* second_ = nullptr;
  QBoxLayout* stageHead_ = nullptr; ///< title and views, beside or below each other
  QPushButton* beside_ = nullptr;
  FindingsPanel* findings_ = nullptr;
  DoAnything* anything_ = nullptr;
  ImportPanel* import_ = nullptr;
  TracePanel* tracing_ = nullptr;
  ShadePanel* shade_ = nullptr;
  PicturesPanel* pictures_ = nullptr;
  ShadowPanel* shadows_ = nullptr;
  WeatherBench* bench_ = nullptr;
  MeasuringDesk* desk_ = nullptr;
  SweepDesk* sweeps_ = nullptr;
  FisheyePanel* fisheye_ = nullptr;
  ReceiversPanel* receivers_ = nullptr;
  UnderlayPanel* underlay_ = nullptr;
  ProofPanel* proofs_ = nullptr;
  RunsPanel* runs_ = nullptr;
  ReadingsPanel* readings_ = nullptr;
  BesidePanel* compare_ = nullptr;
  ShownDesign* shownDesign_ = nullptr;
  QHBoxLayout* options_ = nullptr; ///< the strip along the top
  QString optionsShown_;
  void showOptions();
  template <class P> void openPanel(P* panel) {
    placePanels();
    panel->show();
    panel->raise();
    panel->refresh();
    panel->setFocus();
  }
  FirstPage* first_ = nullptr;
  QPushButton *title_ = nullptr, *findingsButton_ = nullptr, *units_ = nullptr;
  QLabel *stageTitle_ = nullptr, *stageLine_ = nullptr, *notice_ = nullptr;
  std::map<ViewKind, QPushButton*> views_;
  QPushButton* perspective_ = nullptr;
  QTimer noticeTimer_;
  std::thread reading_;
  std::shared_ptr<RunControl> readControl_; ///< of the model being read
  QPushButton* stopReading_ = nullptr;
};

} // namespace noonward
