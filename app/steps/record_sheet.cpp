#include "app/steps/record_sheet.h"
#include "app/steps/record_plan_rows.h"
#include "app/theme/style.h"
#include "core/base/words.h"
#include "core/files/results/tables.h"
#include "core/model/record_parts.h"
#include "picture/picture_export.h"
#include "picture/record_pages.h"
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

namespace noonward {

RecordSheet::RecordSheet(Document& document, Studies& studies, Stage& stage, QWidget* parent)
    : Sheet("Record", document, parent), studies_(studies), stage_(stage) {
  ready_ = addNote();
  toStudies_ = addButton(
      "Ask a question in Studies", [this] { document_.look([](Looking& l) { l.step = Step::Studies; }); }, true);
  checkAlone_ = addButton("Check a record…", [this] { emit fileWanted("verify"); });
  whole_ = addGroup();
  assessor_ = addName("Prepared by", [this](const QString& t) {
    Project p = document_.project();
    p.preparedBy = t.toStdString();
    document_.change(std::move(p), "Name who prepared it");
  });
  owner_ = addName("Client", [this](const QString& t) {
    Project p = document_.project();
    p.client = t.toStdString();
    document_.change(std::move(p), "Name client");
  });
  addHeading("The record");
  addNote("A folder to hand in: pages, spreadsheet, tables, pictures, and the project itself, so that every number can "
          "be computed anew.");
  plan_ = new RecordPlanRows(document_);
  addWidget(plan_);
  QStringList papers;
  for (const Paper paper : allPapers) papers << paperName(paper);
  page_ = addChoice("Pages", papers, [this](int k) {
    Project p = document_.project();
    p.record.paper = allPapers[std::size_t(k)];
    document_.change(std::move(p), "Choose paper");
  });
  page_->setAccessibleName("Page size");
  remarkRows_ = addGroup();
  addHeading("How is glare dealt with?");
  auto* remarks = new QWidget;
  remarks_ = new QVBoxLayout(remarks);
  remarks_->setContentsMargins(0, 0, 0, 0);
  addWidget(remarks);
  endGroup();
  wordRows_ = addGroup();
  addHeading("Findings kept as they are");
  auto* words = new QWidget;
  words_ = new QVBoxLayout(words);
  words_->setContentsMargins(0, 0, 0, 0);
  addWidget(words);
  endGroup();
  auto* said = addFold("Remarks and answers");
  remarked_ = new RemarkRows(document_);
  addWidget(remarked_);
  endFold();
  connect(said, &Fold::clicked, this, [this] { remarked_->refresh(); });
  since_ = addNote();
  since_->setAccessibleName("Compared with");
  addButton("Since an earlier record…", [this] {
    emit fileWanted("since");
  })->setToolTip("What changed since then stands in the next record");
  forget_ = addButton("Compare with none", [this] {
    earlier_.clear();
    refresh();
  });
  addButton(
      "Make the record…", [this] { emit fileWanted("record"); }, true);
  addButton("Check a record…", [this] { emit fileWanted("verify"); });
  endGroup();
  stop_ = addButton("Stop writing", [this] { stop(); });
  checked_ = addNote();
  checked_->setAccessibleName("Record checked");
  picture_ = addGroup();
  addHeading("Picture");
  addNote("As the stage shows it, with legend, title, place, period, north, scale and fingerprint.");
  const auto size = [&](const QString& label, int value) {
    auto* f = addField(label, [](const QString&) {});
    f->setText(QString::number(value));
    return f;
  };
  width_ = size("Width, px", 1600);
  height_ = size("Height, px", 1000);
  addButton("Save picture (PNG)…", [this] { emit fileWanted("png"); });
  addButton("Save picture (SVG)…", [this] { emit fileWanted("svg"); });
  addButton("Views, sheets and films …", [this] {
    emit picturesWanted();
  })->setToolTip("Saved views, facade sheets, films of a day or a year");
  addHeading("Table");
  addButton("Save values (CSV)…", [this] { emit fileWanted("csv"); });
  addButton("Save coloured mesh (PLY)…", [this] {
    emit fileWanted("ply");
  })->setToolTip("The result's cells with their colours and values, for use elsewhere");
  addButton("Save coloured mesh (glTF)…", [this] { emit fileWanted("glb"); });
  addButton("Save verdicts (CSV)…", [this] { emit fileWanted("verdict"); });
  addHeading("Page");
  addNote("One page with picture, inputs, verdicts and warnings, to hand in.");
  addButton("Save page (PDF)…", [this] { emit fileWanted("pdf"); });
  endGroup();
  body()->addStretch();
  explain({{assessor_, "Who answers for the study; stands on the record"},
           {owner_, "For whom it is made; stands on the record"},
           {page_, "Paper of the record"},
           {width_, "Of the picture, in pixels"},
           {height_, "Of the picture, in pixels"}});
  refresh();
}

RecordSheet::~RecordSheet() {
  if (control_) control_->wish = Wish::Drop;
  if (worker_.joinable()) worker_.join();
}

void RecordSheet::stop() {
  if (control_) control_->wish = Wish::Drop;
}

void RecordSheet::refresh() {
  stop_->setVisible(control_ != nullptr);
  const Project& p = document_.project();
  const bool nothing = p.studies.empty() && p.elements.empty();
  for (QWidget* w : {static_cast<QWidget*>(toStudies_), static_cast<QWidget*>(checkAlone_)}) w->setVisible(nothing);
  for (QWidget* w : {whole_, picture_}) w->setVisible(!nothing);
  if (nothing) return ready_->setText("Nothing to hand in yet: a picture needs a model, a table or a record a study.");
  show(assessor_, QString::fromStdString(document_.project().preparedBy));
  show(owner_, QString::fromStdString(document_.project().client));
  plan_->refresh();
  remarked_->refresh();
  page_->setCurrentIndex(int(std::find(allPapers.begin(), allPapers.end(), p.record.paper) - allPapers.begin()));
  since_->setText(earlier_.empty() ? QString()
                                   : QString("Compared with %1.").arg(QString::fromStdString(earlier_.filename())));
  since_->setVisible(!earlier_.empty());
  forget_->setVisible(!earlier_.empty());
  showRemarks();
  showWords();
  const auto answer = studies_.current();
  QString told = answer && answer->painted && !answer->trial
                     ? QString("Pictures, table and page will carry run %1.")
                           .arg(QString::fromStdString(answer->key.fingerprint()))
                     : QString("No current result: pictures and page will run the study first.");
  ready_->setText(told);
}

QLineEdit* RecordSheet::remarkRow(QBoxLayout* into, const QString& name, const QString& text,
                                  const std::function<void(const QString&)>& done) {
  auto* label = new QLabel(name);
  label->setWordWrap(true);
  label->setFont(textFont(11.5));
  into->addWidget(label);
  auto* field = new QLineEdit(text);
  field->setAccessibleName("Remark: " + name);
  field->setPlaceholderText("say it in a sentence");
  connect(field, &QLineEdit::editingFinished, this, [field, done] {
    if (!field->isModified()) return;
    field->setModified(false);
    done(field->text().trimmed());
  });
  into->addWidget(field);
  return field;
}

namespace {
void emptied(QBoxLayout* rows) {
  while (QLayoutItem* item = rows->takeAt(0)) {
    item->widget()->hide();
    item->widget()->deleteLater();
    delete item;
  }
}
} // namespace

void RecordSheet::showRemarks() {
  const auto answer = studies_.current();
  struct Bright {
    RoomId room;
    QString name;
  };
  std::vector<Bright> bright;
  QString key;
  const double limit = aseLimit(document_.project(), document_.shelf());
  if (answer && answer->year && !answer->partial)
    for (std::size_t k = 0; k < answer->year->spaces.size(); ++k)
      if (answer->facts->counted[k] && answer->facts->rooms[k] && answer->year->spaces[k].ase > limit + 1e-9) {
        bright.push_back(
            {answer->facts->rooms[k], QString("%1, ASE %2 %")
                                          .arg(QString::fromStdString(answer->facts->sensors.groups[k].name))
                                          .arg(100 * answer->year->spaces[k].ase, 0, 'f', 1)});
        const Room* room = document_.project().room(bright.back().room);
        key += bright.back().name + (room ? QString::fromStdString(room->glare) : QString());
      }
  remarkRows_->setVisible(!bright.empty());
  if (key == remarksKey_) return;
  remarksKey_ = key;
  emptied(remarks_);
  for (const Bright& b : bright) {
    const Room* room = document_.project().room(b.room);
    remarkRow(remarks_, b.name, room ? QString::fromStdString(room->glare) : QString(),
              [this, id = b.room](const QString& t) {
                Project p = document_.project();
                for (Room& r : p.rooms)
                  if (r.id == id) r.glare = t.toStdString();
                document_.change(std::move(p), "Remark on glare");
              });
  }
}

void RecordSheet::showWords() {
  const auto& accepted = document_.project().accepted;
  QString key;
  for (const auto& [code, words] : accepted) key += QString::fromStdString(code + words);
  wordRows_->setVisible(!accepted.empty());
  if (key == wordsKey_) return;
  wordsKey_ = key;
  emptied(words_);
  for (const auto& [code, words] : accepted)
    remarkRow(words_, QString::fromStdString(code), QString::fromStdString(words),
              [this, code = code](const QString& t) {
                Project p = document_.project();
                p.accepted[code] = t.toStdString();
                document_.change(std::move(p), "Say why it is kept");
              });
}

PictureRequest RecordSheet::picture() const {
  PictureRequest r;
  r.camera = stage_.camera();
  r.view = r.camera->kind;
  r.moment = document_.looking().moment;
  r.values = document_.looking().values;
  r.storey = document_.looking().storey;
  r.onlyRole = document_.looking().onlyRole;
  r.onlyGlazing = document_.looking().onlyGlazing;
  if (stage_.camera().kind == ViewKind::Section) r.section = document_.looking().section;
  if (const auto answer = studies_.current(); answer && answer->painted)
    if (const auto at = document_.looking().ranges.find(answer->painted->kind());
        at != document_.looking().ranges.end())
      r.range = at->second;
  if (const auto answer = studies_.current(); answer && answer->painted)
    r.threshold = document_.looking().threshold(answer->painted->kind());
  if (const auto answer = studies_.current();
      answer && answer->year && answer->painted && !answer->partial && !answer->trial)
    r.known = answer->painted;
  r.metric = document_.looking().metric;
  r.width = std::clamp(width_->text().toInt(), 200, 12000);
  r.height = std::clamp(height_->text().toInt(), 150, 12000);
  if (document_.looking().study) r.study = document_.looking().study.text();
  if (document_.project().studies.empty()) r.study = "-";
  return r;
}

void RecordSheet::exportTo(const QString& kind, const QString& path) {
  if (kind == "since") {
    const auto was = readRecord(path.toStdString());
    if (!was) return emit document_.notice(QString::fromStdString(was.error().text()), true);
    earlier_ = was->folder;
    return refresh();
  }
  if (control_) return emit document_.notice("Something is still being written; stop it in Record, or wait.", true);
  if (worker_.joinable()) worker_.join(); // it has said that it is done
  const PictureRequest r = picture();
  const Project project = document_.project();
  control_ = std::make_shared<RunControl>();
  stop_->setVisible(true);
  const auto store = document_.store();
  emit document_.notice(QString(kind == "verify" ? "Checking %1…" : "Writing %1…").arg(path), false);
  if (kind == "verify") checked_->setText("Computing the record anew…");
  worker_ = std::thread([this, kind, path, r, earlier = earlier_, project, control = control_, store,
                         shelf = document_.shelf(), guidelines = document_.resources() / "guidelines",
                         studyId = document_.looking().study] {
    Outcome done;
    QString told;
    const std::filesystem::path file = path.toStdString();
    if (kind == "verify") {
      const auto report = verifyRecord(file, *control);
      if (!report) {
        done = tl::unexpected(report.error());
      } else {
        int holding = 0;
        QStringList differing;
        for (const VerifyLine& l : report->lines) {
          holding += l.holds;
          if (!l.holds && differing.size() < 6)
            differing << QString("%1: claimed %2, found %3")
                             .arg(QString::fromStdString(l.what), QString::fromStdString(l.claimed),
                                  QString::fromStdString(l.found));
        }
        told =
            report->holds()
                ? QString("The record holds: all %1 lines agree.").arg(holding)
                : QString("The record does not hold: %1 of %2 lines agree. ").arg(holding).arg(report->lines.size()) +
                      differing.join("; ");
      }
    } else if (kind == "record") {
      StudyRunner runner(store.get());
      const auto facts = gatherRecord(project, shelf, runner, *control, earlier, readGuidelines(guidelines));
      done = facts ? makeRecordFolder(*facts, file, *control) : Outcome(tl::unexpected(facts.error()));
      if (done && facts->changes)
        told = facts->changes->none()
                   ? QString(" Nothing changed since %1.").arg(QString::fromStdString(earlier.filename()))
                   : QString(" Since %1: %2, %3.")
                         .arg(QString::fromStdString(earlier.filename()),
                              QString::fromStdString(
                                  counted(facts->changes->verdicts.size(), "verdict", "verdicts") + " and " +
                                  counted(facts->changes->figures.size(), "figure moved", "figures moved")),
                              QString::fromStdString(
                                  counted(facts->changes->inputs.size(), "input differs", "inputs differ")));
    } else if (kind == "csv") {
      const Study* study = nullptr;
      for (const Study& s : project.studies)
        if (!study || s.id == studyId) study = &s;
      if (!study) {
        done = fail("There is no study to write.");
      } else if (study->kind == StudyKind::Year) {
        StudyRunner runner(store.get());
        const auto year = runner.year(project, study->groups, study->year, *control, study->name);
        if (!year) {
          done = tl::unexpected(year.error());
        } else {
          done = saveFile(file, yearCsv(year->facts, *year->result));
          if (done)
            done = saveFile(file.parent_path() / (file.stem().string() + "-spaces.csv"),
                            yearSpacesCsv(year->facts, *year->result));
        }
      } else if (study->kind != StudyKind::SunHours) {
        const auto input = lightInput(project, *study, false, r.moment);
        if (!input) {
          done = tl::unexpected(input.error());
        } else {
          StudyRunner runner(store.get());
          const auto result = runner.light(*input, *control, study->name);
          done = result ? saveFile(file, lightCsv(input->sensors, **result)) : Outcome(tl::unexpected(result.error()));
        }
      } else if (auto input = sunHoursInput(project, study->groups, study->sunHours); !input) {
        done = tl::unexpected(input.error());
      } else {
        StudyRunner runner(store.get());
        const auto result = runner.sunHours(project, study->groups, study->sunHours, false, 0, *control, study->name);
        done = result ? saveFile(file, sunHoursCsv(input->sensors, input->zone, **result))
                      : Outcome(tl::unexpected(result.error()));
      }
    } else if (kind == "verdict") {
      std::string text;
      StudyRunner runner(store.get());
      for (const Judgement& j : project.judgements)
        if (const Yardstick* y = shelf.find(j.yardstick))
          text += verdictCsv(runner.judgement(project, *y, j, *control));
      done = text.empty() ? Outcome(fail("No yardstick is laid against this project.")) : saveFile(file, text);
    } else {
      done = exportPicture(project, r, file, *control, store.get(), &shelf);
    }
    QMetaObject::invokeMethod(
        this,
        [this, path, done, told, kind] {
          control_.reset();
          stop_->setVisible(false);
          studies_.refreshHistory();
          if (kind == "verify") {
            checked_->setText(done ? told : QString::fromStdString(done.error().text()));
            emit document_.notice(checked_->text(), !done || !told.startsWith("The record holds"));
          } else {
            emit document_.notice(done ? QString("Saved %1.").arg(path) + told
                                       : QString("Not saved. %1").arg(QString::fromStdString(done.error().text())),
                                  !done);
          }
          emit exported(path, done.has_value());
        },
        Qt::QueuedConnection);
  });
}

} // namespace noonward
