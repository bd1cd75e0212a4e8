#include "app/steps/record_sheet.h"
#include "core/files/tables.h"
#include "picture/picture_export.h"
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

namespace noonward {

RecordSheet::RecordSheet(Document& document, Studies& studies, Stage& stage, QWidget* parent) : Sheet("Record", document, parent), studies_(studies), stage_(stage) {
  ready_ = addNote();
  assessor_ = addField("Assessor", [this](const QString& t) {
    Project p = document_.project();
    p.assessor = t.toStdString();
    document_.change(std::move(p), "Name assessor");
  });
  owner_ = addField("For", [this](const QString& t) {
    Project p = document_.project();
    p.owner = t.toStdString();
    document_.change(std::move(p), "Name owner");
  });
  addHeading("Picture");
  addNote("As the stage shows it, with legend, title, place, period, north, scale and fingerprint.");
  const auto size = [&](const QString& label, int value) {
    auto* f = addField(label, [](const QString&) {});
    f->setText(QString::number(value));
    return f;
  };
  width_ = size("Width, px", 1600);
  height_ = size("Height, px", 1000);
  addButton("Save picture (PNG)…", [this] { emit fileWanted("png"); }, true);
  addButton("Save picture (SVG)…", [this] { emit fileWanted("svg"); });
  addHeading("Table");
  addButton("Save values (CSV)…", [this] { emit fileWanted("csv"); });
  addButton("Save verdicts (CSV)…", [this] { emit fileWanted("verdict"); });
  addHeading("Page");
  addNote("One page with picture, inputs, verdicts and warnings, to hand in.");
  addButton("Save page (PDF)…", [this] { emit fileWanted("pdf"); }, true);
  body()->addStretch();
  refresh();
}

RecordSheet::~RecordSheet() {
  if (control_) control_->wish = Wish::Drop;
  if (worker_.joinable()) worker_.join();
}

void RecordSheet::refresh() {
  show(assessor_, QString::fromStdString(document_.project().assessor));
  show(owner_, QString::fromStdString(document_.project().owner));
  const auto answer = studies_.current();
  ready_->setText(answer && answer->painted ? QString("The record will carry run %1.").arg(QString::fromStdString(answer->key.fingerprint()))
                                            : QString("No current result: pictures and page will run the study first."));
}

void RecordSheet::exportTo(const QString& kind, const QString& path) {
  if (worker_.joinable()) worker_.join();
  PictureRequest r;
  r.camera = stage_.camera();
  r.view = r.camera->kind;
  r.moment = document_.looking().moment;
  r.values = document_.looking().values;
  r.storey = document_.looking().storey;
  if (stage_.camera().kind == ViewKind::Section) r.section = document_.looking().section;
  if (const auto answer = studies_.current(); answer && answer->painted)
    if (const auto at = document_.looking().ranges.find(answer->painted->kind()); at != document_.looking().ranges.end()) r.range = at->second;
  if (const auto answer = studies_.current(); answer && answer->painted) r.threshold = document_.looking().threshold(answer->painted->kind());
  if (const auto answer = studies_.current(); answer && answer->year && answer->painted) r.known = answer->painted;
  r.metric = document_.looking().metric;
  r.width = std::clamp(width_->text().toInt(), 200, 12000);
  r.height = std::clamp(height_->text().toInt(), 150, 12000);
  if (document_.looking().study) r.study = document_.looking().study.text();
  const Project project = document_.project();
  if (project.studies.empty()) r.study = "-";
  control_ = std::make_shared<RunControl>();
  const auto answer = studies_.current();
  const auto store = document_.store();
  emit document_.notice(QString("Writing %1…").arg(path), false);
  worker_ = std::thread([this, kind, path, r, project, control = control_, answer, store, shelf = document_.shelf(), studyId = document_.looking().study] {
    Outcome done;
    const std::filesystem::path file = path.toStdString();
    if (kind == "csv") {
      const Study* study = nullptr;
      for (const Study& s : project.studies)
        if (!study || s.id == studyId) study = &s;
      if (!study) {
        done = fail("There is no study to write.");
      } else if (study->kind == StudyKind::Year) {
        const auto input = yearInput(project, study->groups, study->year);
        if (!input) {
          done = tl::unexpected(input.error());
        } else {
          const bool known = answer && answer->year && answer->year->end == RunEnd::Finished && answer->year->key == input->key;
          const YearResult result = known ? *answer->year : runYear(*input, *control);
          done = saveFile(file, yearCsv(*input, result));
          if (done) done = saveFile(file.parent_path() / (file.stem().string() + "-spaces.csv"), yearSpacesCsv(*input, result));
        }
      } else if (study->kind != StudyKind::SunHours) {
        const auto input = lightInput(project, *study, false, r.moment);
        if (!input) {
          done = tl::unexpected(input.error());
        } else {
          StudyRunner runner(store.get());
          const auto result = runner.light(*input, *control, study->name);
          done = result ? saveFile(file, lightCsv(*input, **result)) : Outcome(tl::unexpected(result.error()));
        }
      } else if (auto input = sunHoursInput(project, study->groups, study->sunHours); !input) {
        done = tl::unexpected(input.error());
      } else {
        StudyRunner runner(store.get());
        const auto result = runner.sunHours(project, study->groups, study->sunHours, false, 0, *control, study->name);
        done = result ? saveFile(file, sunHoursCsv(*input, **result)) : Outcome(tl::unexpected(result.error()));
      }
    } else if (kind == "verdict") {
      std::string text;
      StudyRunner runner(store.get());
      for (const Judgement& j : project.judgements)
        if (const Yardstick* y = shelf.find(j.yardstick)) text += verdictCsv(runner.judgement(project, *y, j, *control));
      done = text.empty() ? Outcome(fail("No yardstick is laid against this project.")) : saveFile(file, text);
    } else {
      done = exportPicture(project, r, file, *control, store.get(), &shelf);
    }
    QMetaObject::invokeMethod(this, [this, path, done] {
      emit document_.notice(done ? QString("Saved %1").arg(path) : QString("Not saved. %1").arg(QString::fromStdString(done.error().text())), !done);
      emit exported(path, done.has_value());
    }, Qt::QueuedConnection);
  });
}

} // namespace noonward
