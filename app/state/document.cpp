#include "app/state/document.h"
#include "core/files/project/design_json.h"
#include "core/model/mending/check.h"
#include "core/sky/weather_check.h"
#include <QDateTime>
#include <QFile>
#include <QStandardPaths>

namespace noonward {

std::filesystem::path userYardsticks() {
  return std::filesystem::path(QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation).toStdString()) /
         "noonward/yardsticks";
}

std::filesystem::path userFinishes() {
  return userYardsticks().parent_path() / "finishes.json";
}

std::filesystem::path unsavedPath() {
  return std::filesystem::path(QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation).toStdString()) /
         "noonward/unsaved.noonward";
}

Document::Document(std::filesystem::path resources, QObject* parent)
    : QObject(parent), resources_(std::move(resources)), history_(Project{}) {
  worker_.setMaxThreadCount(1);
  checker_.setMaxThreadCount(1);
  saver_.setMaxThreadCount(1);
  shelf_ = std::make_shared<const YardstickShelf>(readYardsticks({resources_ / "yardsticks", userYardsticks()}));
  autosave_.setSingleShot(true);
  autosave_.setInterval(2000);
  connect(&autosave_, &QTimer::timeout, this, &Document::writeAutosave);
  checking_.setSingleShot(true);
  checking_.setInterval(120);
  connect(&checking_, &QTimer::timeout, this, &Document::check);
  // Programs write a file in several steps, or put another in its place: look a moment later, and watch it anew.
  connect(&files_, &QFileSystemWatcher::fileChanged, this,
          [this] { QTimer::singleShot(600, this, &Document::lookAtSources); });
  connect(&files_, &QFileSystemWatcher::directoryChanged, this,
          [this] { QTimer::singleShot(600, this, &Document::lookAtSources); });
  startNew();
}

Document::~Document() {
  saver_.waitForDone();
  checker_.waitForDone();
  worker_.waitForDone();
}

void Document::openStore() {
  store_ = std::make_shared<ResultStore>(path_.empty() ? std::filesystem::path() : ResultStore::besideProject(path_));
  for (const std::string& n : store_->notes()) emit notice(QString::fromStdString(n), true);
}

void Document::take(Project project, std::filesystem::path path) {
  history_ = History(std::move(project));
  preview_.reset();
  shown_.clear();
  path_ = std::move(path);
  modified_ = false;
  openStore();
  const Project& p = history_.now();
  Looking l;
  l.step = looking_.step;
  l.season = builtInSeasons(p.site.place.latitude)[1];
  const Date day = p.studies.empty() || p.studies.front().sunHours.dates.empty()
                       ? Date{p.site.year, 3, 21}
                       : p.studies.front().sunHours.dates.front();
  l.moment = p.zone().instant({day, 11.5 * 3600});
  if (!p.studies.empty()) l.study = p.studies.front().id;
  looking_ = l;
  runFindings_.clear();
  sourceFindings_.clear();
  brokenFindings_.clear();
  checkedFindings_.clear();
  gridded_.clear();
  ++life_;
  asKnown_ = {};
  ++revision_;
  check();
  watchSources();
  lookAtSources();
  emit replaced();
  emit projectChanged();
  emit lookingChanged();
  emit fileChanged();
}

void Document::startNew(Project project) {
  if (!project.id) project.id = ProjectId::fresh();
  take(std::move(project), {});
}

Outcome Document::open(const std::filesystem::path& path) {
  auto loaded = readProject(path);
  if (!loaded) return tl::unexpected(loaded.error());
  take(std::move(loaded->project), std::filesystem::absolute(path));
  asKnown_ = loaded->content;
  for (const std::string& n : loaded->notes) emit notice(QString::fromStdString(n), false);
  return {};
}

bool Document::hasRecovery(const std::filesystem::path& path) {
  std::error_code e;
  if (!std::filesystem::exists(autosavePath(path), e)) return false;
  if (!std::filesystem::exists(path, e)) return true;
  // One that is older than the project itself holds nothing that the project does not.
  const auto autosaved = std::filesystem::last_write_time(autosavePath(path), e),
             saved = std::filesystem::last_write_time(path, e);
  return e || autosaved >= saved;
}

Outcome Document::recover(const std::filesystem::path& path) {
  const auto text = loadFile(autosavePath(path));
  if (!text) return tl::unexpected(text.error());
  auto loaded = parseProject(*text, path.filename().string(), path.parent_path());
  if (!loaded) return tl::unexpected(loaded.error());
  const Digest known = contentOf(path).value_or(Digest{});
  take(std::move(loaded->project), path == unsavedPath() ? std::filesystem::path() : std::filesystem::absolute(path));
  asKnown_ = known;
  modified_ = true;
  emit fileChanged();
  return {};
}

void Document::discardRecovery() {
  autosave_.stop();
  saver_.waitForDone(); // or what is being written would come after it
  std::error_code e;
  std::filesystem::remove(autosavePath(path_.empty() ? unsavedPath() : path_), e);
}

bool Document::savedElsewhere() const {
  return !path_.empty() && asKnown_ != Digest{} && !stillTheSame(path_, asKnown_);
}

Outcome Document::save(const std::filesystem::path& given, bool overTheirs) {
  const std::filesystem::path target = given.empty() ? path_ : given;
  if (target.empty()) return fail("The project has no file yet.");
  if (!overTheirs && target == path_ && asKnown_ != Digest{})
    if (Outcome same = stillTheSame(path_, asKnown_); !same) return same;
  Project p = history_.now();
  if (target.parent_path() != path_.parent_path() && p.site.weather)
    p.site.weatherFile.clear(); // is written beside the new place
  if (Outcome o = writeProject(p, target); !o) return o;
  asKnown_ = contentOf(target).value_or(Digest{});
  autosave_.stop();
  discardRecovery();
  const bool moved = target != path_;
  path_ = std::filesystem::absolute(target);
  if (p.site.weatherFile != history_.now().site.weatherFile) history_.change(std::move(p), "Save", "save");
  modified_ = false;
  if (moved) openStore();
  emit fileChanged();
  return {};
}

void Document::writeAutosave() {
  if (!modified_) return;
  const std::filesystem::path file = autosavePath(path_.empty() ? unsavedPath() : path_);
  behind(saver_, [p = history_.now(), file]() mutable -> std::function<void(Document&)> {
    std::error_code e;
    std::filesystem::create_directories(file.parent_path(), e);
    const Outcome o = writeProject(p, file);
    return [o](Document& d) {
      if (!o) emit d.notice(QString::fromStdString("Autosave: " + o.error().text()), true);
    };
  });
}

void Document::changed() {
  ++revision_;
  modified_ = true;
  autosave_.start();
  checking_.start();
  std::erase_if(looking_.selected, [&](ElementId id) { return !project().element(id); });
  if (history_.now().sources != lookedAt_) {
    watchSources();
    lookAtSources();
  }
  emit projectChanged();
  emit fileChanged();
}

void Document::show(Project design, const QString& what) {
  shown_ = what;
  preview_ = std::move(design);
  std::erase_if(looking_.selected, [&](ElementId id) { return !project().element(id); });
  ++revision_;
  emit projectChanged();
}

/// What is typed into a design that is only shown would end up in the project: it is refused, and fields go back.
bool Document::refusedWhileShowing() {
  if (!showing()) return false;
  emit notice(shown_ + " is only shown. Make it an option, or go back, before you change anything.", true);
  emit projectChanged();
  return true;
}

void Document::change(Project next, const QString& name, const QString& gesture) {
  if (refusedWhileShowing()) return;
  preview_.reset();
  if (sameProject(history_.now(), next)) {
    ++revision_;
    emit projectChanged(); // a preview may have been dropped
    return;
  }
  next = withOthersRebased(std::move(next), history_.now());
  history_.change(std::move(next), name.toStdString(), gesture.toStdString());
  changed();
}

void Document::preview(Project next) {
  if (refusedWhileShowing()) return;
  preview_ = std::move(next);
  ++revision_;
  emit projectChanged();
}

bool Document::previewingModel() const {
  if (!preview_ || showing()) return false;
  Project seen = *preview_;
  seen.underlays = history_.now().underlays;
  return !sameProject(seen, history_.now());
}

void Document::commitPreview(const QString& name) {
  if (!preview_ || refusedWhileShowing()) return;
  Project next = std::move(*preview_);
  change(std::move(next), name);
}

void Document::dropPreview() {
  if (!preview_) return;
  preview_.reset();
  shown_.clear();
  ++revision_;
  emit projectChanged();
}

void Document::undo() {
  preview_.reset();
  shown_.clear();
  if (!history_.canUndo()) return;
  history_.undo();
  changed();
}

void Document::redo() {
  preview_.reset();
  shown_.clear();
  if (!history_.canRedo()) return;
  history_.redo();
  changed();
}

void Document::look(const std::function<void(Looking&)>& edit) {
  Looking next = looking_;
  edit(next);
  if (next == looking_) return;
  looking_ = std::move(next);
  if (looking_.step == Step::Record && showing()) dropPreview(); // a record is of the project
  emit lookingChanged();
}

void Document::check() {
  if (checkingBehind_) { // once more when that is done
    checkAgain_ = true;
    return;
  }
  checkingBehind_ = true;
  examineMeshes();
  behind(checker_,
         [p = history_.now(), weather = weatherFindings_, life = life_]() mutable -> std::function<void(Document&)> {
           if (p.site.weather && (!weather || weather->first != p.site.weather->digest))
             weather = {p.site.weather->digest, checkWeather(*p.site.weather).findings};
           Findings found = checkProject(p, p.site.weather ? weather->second : Findings{}, true);
           std::vector<SensorGridFacts> grids;
           std::vector<GroupId> gridded;
           if (const auto sensors = layOutSensors(p)) {
             found.insert(found.end(), sensors->findings.begin(), sensors->findings.end());
             grids = sensors->groups;
             for (const SensorGroup& g : p.groups) gridded.push_back(g.id);
           } else {
             found.push_back({Rank::StopsStudy, "sensors.fault", sensors.error().text(), 1, {}, "", ""});
           }
           return [found = std::move(found), grids = std::move(grids), gridded = std::move(gridded), weather,
                   life](Document& d) {
             d.checkingBehind_ = false;
             if (d.life_ != life) return d.check(); // of a project that is no longer open
             d.weatherFindings_ = weather;
             d.grids_ = grids;
             d.gridded_ = gridded;
             d.checkedFindings_ = found;
             d.gatherFindings();
             if (std::exchange(d.checkAgain_, false)) d.check();
           };
         });
}

void Document::gatherFindings() {
  const Project& p = history_.now();
  Findings found = checkedFindings_;
  for (const Error& e : shelf_->faults)
    found.push_back({Rank::WorthKnowing, "yardstick.fault", "A yardstick was left out: " + e.text(), 1, {}, "", ""});
  for (const Findings* own : {&sourceFindings_, &runFindings_})
    for (const Finding& f : *own)
      if (!p.accepted.contains(f.code)) found.push_back(f);
  found.insert(found.end(), brokenFindings_.begin(), brokenFindings_.end());
  findings_ = merged(std::move(found));
  emit findingsChanged();
}

void Document::watchSources() {
  QStringList wanted;
  for (const SourceFile& s : history_.now().sources) {
    const QString path = QString::fromStdString(s.path);
    if (QFile::exists(path)) wanted << path;
    if (const QString folder = path.section('/', 0, -2); QFile::exists(folder)) wanted << folder;
  }
  wanted.removeDuplicates();
  const QStringList now = files_.files() + files_.directories();
  for (const QString& path : now)
    if (!wanted.contains(path)) files_.removePath(path);
  for (const QString& path : wanted)
    if (!now.contains(path)) files_.addPath(path);
}

void Document::lookAtSources() {
  if (history_.now().sources.empty() && sourceFindings_.empty()) return;
  if (lookingAtSources_) return;
  lookingAtSources_ = true;
  lookedAt_ = history_.now().sources;
  inBackground([project = history_.now(), watch = watch_]() -> std::function<void(Document&)> {
    auto found = std::make_shared<Findings>(checkSourceFiles(project, *watch));
    return [found, sources = project.sources](Document& d) {
      d.lookingAtSources_ = false;
      if (sources != d.history_.now().sources) return d.lookAtSources();
      d.watchSources();
      if (*found == d.sourceFindings_) return;
      const auto fresh = std::find_if(found->begin(), found->end(), [&](const Finding& f) {
        return f.code == "source.changed" &&
               std::find(d.sourceFindings_.begin(), d.sourceFindings_.end(), f) == d.sourceFindings_.end();
      });
      const QString told =
          fresh == found->end() ? QString() : QString::fromStdString(fresh->text); // the new one, not whatever is first
      d.sourceFindings_ = std::move(*found);
      d.gatherFindings();
      if (!told.isEmpty()) emit d.notice(told + " The findings offer to bring it in again.", false);
    };
  });
}

void Document::bringAgain(const Finding& finding) {
  emit notice("Reading…", false);
  inBackground([project = history_.now(), finding]() -> std::function<void(Document&)> {
    auto done = std::make_shared<Expected<ImportOutcome>>(*mendSourceFile(project, finding));
    return [done, project](Document& d) {
      if (!*done) return d.notice("It was not imported again. " + QString::fromStdString(done->error().text()), true);
      if (d.history_.now().elements != project.elements)
        return d.notice("The model changed meanwhile: press Mend again.", true);
      const QString text = QString::fromStdString(outcomeText(project, **done));
      d.change(takenOver(d.history_.now(), project, **done), "Import it again");
      d.look([&](Looking& l) { l.selected = (*done)->gone; });
      d.lookAtSources();
      emit d.notice("Imported again: " + text, !(*done)->remark.empty());
    };
  });
}

void Document::previewMend(const Finding& finding, std::function<void(Document&, Expected<Project>)> then) {
  inBackground([project = history_.now(), finding, then = std::move(then),
                revision = revision_]() -> std::function<void(Document&)> {
    auto again = mendSourceFile(project, finding);
    auto done = std::make_shared<Expected<Project>>(!again   ? mendProject(project, finding)
                                                    : *again ? Expected<Project>(std::move((*again)->project))
                                                             : Expected<Project>(tl::unexpected(again->error())));
    return [done, then, revision](Document& d) {
      if (d.revision_ == revision) then(d, std::move(*done));
    };
  });
}

void Document::tellBroken(const QString& what) {
  brokenFindings_.push_back({Rank::WorthKnowing,
                             "program.broken",
                             ("Something broke inside the program, and was caught: " + what +
                              ". Your work is as it was; keep a copy before going on.")
                                 .toStdString(),
                             1,
                             {},
                             "program.copy",
                             "Save a copy"});
  gatherFindings();
  emit notice("Something broke inside the program. The findings say what, and offer to save a copy.", true);
}

void Document::mend(const Finding& finding) {
  if (finding.mend == "program.copy") {
    Project copy = history_.now();
    std::filesystem::path to = path_.empty() ? unsavedPath() : path_;
    to.replace_filename(to.stem().string() + " " +
                        QDateTime::currentDateTime().toString("yyyy-MM-dd HH.mm.ss").toStdString() + ".noonward");
    std::error_code ignored;
    std::filesystem::create_directories(to.parent_path(), ignored);
    if (const Outcome o = writeProject(copy, to); !o)
      return emit notice(QString::fromStdString(o.error().text()), true);
    brokenFindings_.clear();
    gatherFindings();
    return emit notice("Saved a copy: " + QString::fromStdString(to.string()), false);
  }
  if (finding.mend.starts_with("source.")) return bringAgain(finding);
  const bool slow = finding.mend.starts_with("mesh.") || finding.mend.starts_with("model.") ||
                    finding.mend.starts_with("glass.") || finding.mend == "element.heavy" ||
                    finding.mend == "walls.skins";
  if (slow)
    return mendBehind([finding](const Project& p) { return mendProject(p, finding); },
                      QString::fromStdString(finding.mendText));
  auto mended = mendProject(history_.now(), finding);
  if (!mended) return emit notice(QString::fromStdString(mended.error().text()), true);
  change(std::move(*mended), QString::fromStdString(finding.mendText));
}

void Document::mendAll() {
  mendBehind(
      [](const Project& p) {
        Findings done;
        return noonward::mendAll(
            p, [](const Finding& f) { return !neverOfAll(f); }, done);
      },
      "Mend all");
}

/// A million faces take a second, a trace more: behind the window, for the project as it is now.
void Document::mendBehind(std::function<Expected<Project>(const Project&)> work, const QString& name) {
  emit notice(name + "…", false);
  inBackground([project = history_.now(), work = std::move(work), name]() -> std::function<void(Document&)> {
    auto mended = std::make_shared<Expected<Project>>(work(project));
    return [mended, name, project](Document& d) {
      if (!*mended) return d.notice(QString::fromStdString(mended->error().text()), true);
      const Project& now = d.history_.now();
      if (now.elements != project.elements || now.rooms != project.rooms || now.openings != project.openings)
        return d.notice("The model changed while it was mended: press Mend again.", true);
      // Whatever else was changed meanwhile stays.
      Project next = now;
      next.elements = std::move((*mended)->elements);
      next.rooms = std::move((*mended)->rooms);
      next.openings = std::move((*mended)->openings);
      const Site &was = project.site, &then = (*mended)->site;
      if (then.weather != was.weather) {
        next.site.weather = then.weather;
        next.site.weatherFile = then.weatherFile;
      }
      if (then.zone != was.zone) next.site.zone = then.zone;
      if (then.place.latitude != was.place.latitude || then.place.longitude != was.place.longitude) {
        next.site.place = then.place;
        next.site.name = then.name;
      }
      if ((*mended)->groups.size() != project.groups.size())
        next.groups = std::move((*mended)->groups); // a grid was laid
      d.change(std::move(next), name);
      emit d.notice(name + ": done. Undo takes it back.", false);
    };
  });
}

void Document::examineMeshes() {
  std::vector<std::pair<std::shared_ptr<const Mesh>, std::shared_ptr<const LazyHealth>>> unknown;
  for (const ElementPtr& e : history_.now().elements)
    if (const Imported* i = e->imported(); i && i->mesh && !i->health->ifKnown())
      unknown.emplace_back(i->mesh, i->health);
  if (unknown.empty() || examining_) return;
  examining_ = true;
  inBackground([unknown = std::move(unknown)]() -> std::function<void(Document&)> {
    for (const auto& [mesh, health] : unknown) (void)health->of(*mesh);
    return [](Document& d) {
      d.examining_ = false;
      d.check();
    };
  });
}

void Document::inBackground(std::function<std::function<void(Document&)>()> work) {
  behind(worker_, std::move(work));
}

void Document::behind(QThreadPool& pool, std::function<std::function<void(Document&)>()> work) {
  pool.start([this, work = std::move(work)] {
    std::function<void(Document&)> then;
    try {
      then = work();
    } catch (const std::exception& e) { // never out of a thread
      then = [what = QString(e.what())](Document& d) {
        d.lookingAtSources_ = d.examining_ = d.checkingBehind_ = false;
        d.tellBroken(what);
      };
    }
    QMetaObject::invokeMethod(
        this, [this, then = std::move(then)] { then(*this); }, Qt::QueuedConnection);
  });
}

void Document::setRunFindings(Findings found) {
  if (found == runFindings_) return;
  runFindings_ = std::move(found);
  gatherFindings();
}

void Document::acceptFinding(const Finding& finding) {
  change(accepted(history_.now(), finding.code), "Keep as it is");
}

} // namespace noonward
