#pragma once
// The open project with its history, its file and its findings. Tools change it through change() or, while something is
// dragged, through preview(); everyone listens to the signals and reads project() and looking().

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/state/looking.h"
#include "core/files/library.h"
#include "core/files/meshes/mesh_files.h"
#include "core/files/results/result_store.h"
#include "core/model/history.h"
#include "core/model/rooms/sensors.h"
#include <QFileSystemWatcher>
#include <QObject>
#include <QThreadPool>
#include <QTimer>
#include <filesystem>
#endif

namespace noonward {

class Document : public QObject {
  Q_OBJECT
public:
  Document(std::filesystem::path resources, QObject* parent = nullptr);
  ~Document() override;

  const Project& project() const { return preview_ ? *preview_ : history_.now(); }
  const Looking& looking() const { return looking_; }
  bool previewing() const { return preview_.has_value(); }
  /// As it would be saved, whatever is previewed or shown.
  const Project& own() const { return history_.now(); }
  /// Another design in place of the project, to be looked at in every view; what it is called stands in shown().
  /// Nothing can be changed meanwhile; dropPreview() ends it.
  void show(Project design, const QString& what);
  bool showing() const { return preview_ && !shown_.isEmpty(); }
  const QString& shown() const { return shown_; }
  /// A preview of what studies see, and not of a picture to trace over alone.
  bool previewingModel() const;
  const std::filesystem::path& path() const { return path_; }
  const std::filesystem::path& resources() const { return resources_; }
  bool modified() const { return modified_; }
  const Findings& findings() const { return findings_; }
  /// Of every group, from the last check of the project.
  const std::vector<SensorGridFacts>& grids() const { return grids_; }
  bool gridKnown(GroupId group) const { return std::find(gridded_.begin(), gridded_.end(), group) != gridded_.end(); }
  const YardstickShelf& shelf() const { return *shelf_; }
  std::shared_ptr<const YardstickShelf> sharedShelf() const { return shelf_; }
  std::shared_ptr<ResultStore> store() const { return store_; }
  quint64 revision() const { return revision_; } ///< grows with every change and preview

  void change(Project next, const QString& name, const QString& gesture = {});
  void endGesture() { history_.endGesture(); }
  void preview(Project next);
  void commitPreview(const QString& name);
  void dropPreview();
  bool canUndo() const { return history_.canUndo(); }
  bool canRedo() const { return history_.canRedo(); }
  QString undoName() const { return QString::fromStdString(history_.undoName()); }
  QString redoName() const { return QString::fromStdString(history_.redoName()); }
  void undo();
  void redo();

  /// Runs `edit` on a copy of what is being looked at; tells if that changed anything.
  void look(const std::function<void(Looking&)>& edit);

  void startNew(Project project = {});
  Outcome open(const std::filesystem::path& path);
  /// An error where another program has saved the file since, unless `overTheirs`.
  Outcome save(const std::filesystem::path& path = {}, bool overTheirs = false);
  /// Has another program saved the project's file since it was read or written here?
  bool savedElsewhere() const;
  /// A newer autosave lies beside the file at this path.
  static bool hasRecovery(const std::filesystem::path& path);
  Outcome recover(const std::filesystem::path& path);
  void discardRecovery();
  void setAutosaveDelay(int milliseconds) { autosave_.setInterval(milliseconds); }
  void mend(const Finding& finding);
  void mendAll(); ///< every finding with a mend that nobody may have decided on purpose
  /// What a mend would do, worked out behind the window.
  void previewMend(const Finding& finding, std::function<void(Document&, Expected<Project>)> then);
  /// Compares the files that elements came from with what was brought in, behind the window.
  void lookAtSources();
  void acceptFinding(const Finding& finding);
  /// Something broke inside the program and was caught at its border: a finding, with a copy of the project as its
  /// mend.
  void tellBroken(const QString& what);
  /// What only rays can see, told by the last answer; kept beside what the check finds.
  void setRunFindings(Findings found);

  /// Runs `work` behind the window, one after the other; what it returns is then done here.
  void inBackground(std::function<std::function<void(Document&)>()> work);

signals:
  void projectChanged();
  void lookingChanged();
  void findingsChanged();
  void fileChanged(); ///< path or modified
  void replaced();    ///< another project was opened
  void notice(const QString& text, bool fault);

private:
  bool refusedWhileShowing();
  void mendBehind(std::function<Expected<Project>(const Project&)> work, const QString& name);
  void take(Project project, std::filesystem::path path);
  void changed();
  void check();          ///< behind the window
  void gatherFindings(); ///< of the last check, of files, of runs
  void behind(QThreadPool& pool, std::function<std::function<void(Document&)>()> work);
  void examineMeshes();
  void watchSources();
  void bringAgain(const Finding& finding);
  void writeAutosave();
  void openStore();
  Digest asKnown_;          ///< content of the file as read or written last
  Findings brokenFindings_; ///< of the program itself

  std::filesystem::path resources_, path_;
  History history_;
  std::optional<Project> preview_;
  QString shown_;
  Looking looking_;
  QThreadPool worker_;          ///< one thread
  QThreadPool checker_, saver_; ///< one thread each, so that a large file being read holds up neither
  bool examining_ = false, checkingBehind_ = false, checkAgain_ = false;
  quint64 life_ = 0; ///< of the open project: another one has another
  std::vector<GroupId> gridded_;
  Findings findings_, checkedFindings_, runFindings_, sourceFindings_;
  std::shared_ptr<SourceWatch> watch_ = std::make_shared<SourceWatch>(); ///< of the worker alone
  QFileSystemWatcher files_;
  bool lookingAtSources_ = false;
  std::vector<SourceFile> lookedAt_; ///< sources when their files were last compared
  std::vector<SensorGridFacts> grids_;
  std::optional<std::pair<Digest, Findings>> weatherFindings_;
  std::shared_ptr<const YardstickShelf> shelf_;
  std::shared_ptr<ResultStore> store_; ///< shared with runs, which may outlive the open project
  QTimer autosave_, checking_;
  bool modified_ = false;
  quint64 revision_ = 0;
};

/// Where user's own yardsticks are kept: "~/.local/share/noonward/yardsticks".
std::filesystem::path userYardsticks();
/// Finishes kept between projects: "~/.local/share/noonward/finishes.json".
std::filesystem::path userFinishes();
/// Where a project that was never saved is autosaved.
std::filesystem::path unsavedPath();

} // namespace noonward
