#include "app/panels/pictures_panel.h"
#include "app/theme/style.h"
#include "core/model/options.h"
#include "picture/saved_view.h"
#include <QComboBox>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>

namespace noonward {

namespace {
constexpr QSize smallSize(132, 82);
enum What { Day, Year, Views };

std::string shownBy(const SavedView& v) {
  return v.camera + v.moment + v.option;
}
} // namespace

PicturesPanel::PicturesPanel(Document& document, std::function<PictureRequest()> picture, QWidget* parent)
    : Panel(parent), document_(document), picture_(std::move(picture)) {
  setAccessibleName("Pictures panel");
  setFixedSize(660, 520);
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(18, 10, 18, 12);
  all->setSpacing(6);
  all->addWidget(words("Views, sheets and films", titleFont(17), false));
  auto* both = new QHBoxLayout;
  both->setSpacing(20);
  all->addLayout(both, 1);

  auto* left = new QVBoxLayout;
  left->setSpacing(6);
  left->addWidget(words("Saved views", titleFont(14), false));
  views_ = new QListWidget;
  views_->setAccessibleName("Saved views");
  views_->setViewMode(QListView::IconMode);
  views_->setIconSize(smallSize);
  views_->setGridSize(smallSize + QSize(10, 26));
  views_->setMovement(QListView::Static);
  views_->setResizeMode(QListView::Adjust);
  views_->setWordWrap(false);
  views_->setToolTip(
      "Camera, moment, option and study. Return or a double click goes there; F2 renames; Delete deletes. "
      "Ctrl+Alt+1 to 9 go to the first nine from anywhere");
  views_->setEditTriggers(QAbstractItemView::EditKeyPressed);
  connect(views_, &QListWidget::itemActivated, this, [this](QListWidgetItem* i) { go(std::size_t(views_->row(i))); });
  connect(views_, &QListWidget::itemChanged, this, [this](QListWidgetItem* i) {
    const auto row = std::size_t(views_->row(i));
    if (filling_ || row >= document_.project().views.size()) return;
    Project p = document_.project();
    p.views[row].name = i->text().trimmed().toStdString();
    document_.change(std::move(p), "Rename view");
  });
  left->addWidget(views_, 1);
  auto* keep = new QHBoxLayout;
  keep->addWidget(
      textButton("Save this view", "Camera, moment, option and study as they are; Ctrl+Alt+S", [this] { saveView(); }));
  keep->addWidget(textButton("Go", "To the view chosen", [this] {
    if (views_->currentRow() >= 0) go(std::size_t(views_->currentRow()));
  }));
  keep->addWidget(textButton("Delete view", "The one chosen", [this] {
    const int row = views_->currentRow();
    Project p = document_.project();
    if (row < 0 || row >= int(p.views.size())) return;
    p.views.erase(p.views.begin() + row);
    document_.change(std::move(p), "Delete view");
  }));
  keep->addStretch();
  left->addLayout(keep);
  both->addLayout(left, 1);

  auto* right = new QVBoxLayout;
  right->setSpacing(6);
  both->addLayout(right);
  const auto rows = [&](const QString& title) {
    right->addWidget(words(title, titleFont(14), false));
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(10);
    grid->setVerticalSpacing(5);
    grid->setColumnMinimumWidth(1, 200);
    right->addLayout(grid);
    return grid;
  };
  const auto put = [](QGridLayout* grid, const QString& label, QWidget* w, const QString& name, const QString& help) {
    const int row = grid->rowCount();
    auto* l = words(label, textFont(12), true, false);
    l->setToolTip(help);
    w->setToolTip(help);
    w->setAccessibleName(name);
    w->setAccessibleDescription(help);
    grid->addWidget(l, row, 0);
    grid->addWidget(w, row, 1);
    return l;
  };
  auto* sheet = rows("Facade sheet");
  put(sheet, "Sides", sides_ = new QComboBox, "Sides of the sheet",
      "Of the buildings whose windows are known, else those proposed");
  sides_->addItems({"every side", "north", "east", "south", "west"});
  put(sheet, "Days", days_ = new QLineEdit, "Days of the sheet", "Days of the project's year, with commas between");
  put(sheet, "Hours", hours_ = new QLineEdit("8, 10, 12, 14, 16, 18"), "Hours of the sheet",
      "Clock times, with commas between");
  put(sheet, "Beside", beside_ = new QComboBox, "Option beside", "Another option below each row of the one in hand");
  auto* saveSheet = new QHBoxLayout;
  saveSheet->addWidget(textButton("Save the sheet …", "PDF with a page a side; PNG or SVG a side", [this] {
    if (this->sheet()) emit fileWanted("sheet");
  }));
  saveSheet->addWidget(textButton("Hour by hour …", "A folder with a PNG for each side and hour", [this] {
    if (this->sheet()) emit fileWanted("sheet-pictures");
  }));
  saveSheet->addStretch();
  right->addLayout(saveSheet);
  right->addSpacing(6);
  auto* film = rows("Film");
  put(film, "Of", what_ = new QComboBox, "What the film shows",
      "A day from 4:00 to 22:00, a year at the hour looked at, or a way from view to view");
  what_->addItems({"the day looked at", "the year at this hour", "a way along the saved views"});
  connect(what_, &QComboBox::activated, this, [this] { fill(); });
  stepLabel_ = put(film, "Every, min", step_ = new QLineEdit("10"), "Step of the film",
                   "Minutes of a day, days of a year, or frames from one view to the next");
  put(film, "A second", perSecond_ = new QLineEdit("12"), "Frames a second", "How many frames run in a second");
  auto* size = new QWidget;
  auto* sizes = new QHBoxLayout(size);
  sizes->setContentsMargins(0, 0, 0, 0);
  sizes->addWidget(width_ = new QLineEdit("1280"));
  sizes->addWidget(words("×", textFont(12), true, false));
  sizes->addWidget(height_ = new QLineEdit("720"));
  put(film, "Pixels", size, "Size of the film", "Width and height, even numbers");
  width_->setAccessibleName("Width of the film");
  height_->setAccessibleName("Height of the film");
  explain({{width_, "Pixels across, an even number"}, {height_, "Pixels from top to bottom, an even number"}});
  auto* saveFilm = new QHBoxLayout;
  saveFilm->addWidget(textButton("Save the film …", "MP4 or WebM; needs the program ffmpeg", [this] {
    if (this->film()) emit fileWanted("film");
  }));
  saveFilm->addWidget(textButton("Frame by frame …", "A folder with a PNG for each frame", [this] {
    if (this->film()) emit fileWanted("film-pictures");
  }));
  saveFilm->addStretch();
  right->addLayout(saveFilm);
  right->addStretch();

  auto* foot = new QHBoxLayout;
  state_ = words("", textFont(12), true);
  state_->setAccessibleName("State of the pictures");
  foot->addWidget(state_, 1);
  stop_ = textButton("Stop writing pictures", "What is whole stays", [this] { writer_.stop(); });
  foot->addWidget(stop_);
  foot->addWidget(textButton("Close", "Escape closes too", [this] { hide(); }));
  all->addLayout(foot);
  stop_->hide();
  connect(&writer_, &Writer::changed, this, [this] { stop_->setVisible(writer_.busy()); });
  connect(&writer_, &Writer::progressed, this,
          [this](double share) { state_->setText(QString("Writing, %1 % done").arg(100 * share, 0, 'f', 0)); });
  connect(&document_, &Document::projectChanged, this, [this] {
    if (isVisible()) fill();
  });
  hide();
}

void PicturesPanel::open() {
  const Project& p = document_.project();
  if (days_->text().isEmpty())
    days_->setText(p.site.place.latitude >= 0 ? "21 Jun, 21 Mar, 21 Dec" : "21 Dec, 21 Mar, 21 Jun");
  if (!writer_.busy()) state_->clear();
  drawing_ = false;
  fill();
  show();
  raise();
  setFocus();
}

void PicturesPanel::fill() {
  filling_ = true;
  const Project& p = document_.project();
  const int row = views_->currentRow();
  views_->clear();
  for (const SavedView& v : p.views) {
    auto* item = new QListWidgetItem(QString::fromStdString(v.name));
    item->setFlags(item->flags() | Qt::ItemIsEditable);
    const auto known = small_.find(shownBy(v));
    QPixmap blank(smallSize);
    blank.fill(theme().paper);
    item->setIcon(QIcon(known == small_.end() ? blank : known->second));
    QString says = QString::fromStdString(v.name);
    if (const auto s = stampFromText(v.moment))
      says += "\n" + QString::fromStdString(dayText(s->time.date) + " " + clockText(s->time.seconds / 60));
    for (const Option& o : p.options)
      if (o.id.text() == v.option) says += "\n" + QString::fromStdString(o.name);
    item->setToolTip(says);
    views_->addItem(item);
  }
  views_->setCurrentRow(std::clamp(row, -1, views_->count() - 1));
  const QString other = beside_->currentText();
  beside_->clear();
  beside_->addItem("no other option");
  for (std::size_t k = 0; k < p.options.size(); ++k)
    if (k != p.option) beside_->addItem(QString::fromStdString(p.options[k].name), int(k));
  beside_->setCurrentIndex(std::max(0, beside_->findText(other)));
  beside_->setEnabled(p.options.size() > 1);
  stepLabel_->setText(what_->currentIndex() == Day    ? "Every, min"
                      : what_->currentIndex() == Year ? "Every, days"
                                                      : "Frames a way");
  filling_ = false;
  drawSmall();
}

/// The small pictures that are not there yet, one after the other behind the window.
void PicturesPanel::drawSmall() {
  if (drawing_) return;
  const Project& p = document_.project();
  for (const SavedView& v : p.views) {
    if (small_.contains(shownBy(v))) continue;
    const auto camera = cameraFromJson(v.camera);
    if (!camera) continue;
    Project of = p;
    for (std::size_t k = 0; k < p.options.size(); ++k)
      if (p.options[k].id.text() == v.option && k != p.option) of = withOption(p, k);
    PictureRequest r;
    r.camera = *camera;
    r.study = "-";
    r.samples = 2;
    r.moment = momentOf(v, p.zone());
    drawing_ = true;
    document_.inBackground([this, of, r, key = shownBy(v)]() -> std::function<void(Document&)> {
      RunControl control;
      const auto made = FurnishedPicture::prepare(of, r, 2 * smallSize.width(), 2 * smallSize.height(), control,
                                                  nullptr, paperTheme());
      QImage image(smallSize * 2, QImage::Format_RGB32);
      image.fill(Qt::white);
      if (made) {
        QPainter painter(&image);
        made->paintBare(painter, QRectF(image.rect()));
      }
      return [this, image, key](Document&) {
        small_[key] = QPixmap::fromImage(image);
        drawing_ = false;
        fill();
      };
    });
    return;
  }
}

void PicturesPanel::saveView() {
  Project p = document_.project();
  const Looking& l = document_.looking();
  const PictureRequest now = picture_();
  if (now.section || (now.camera && now.camera->kind == ViewKind::Section)) {
    emit document_.notice("A section can't be kept as a view: go to another view first.", false);
    return;
  }
  SavedView v;
  v.id = ViewId::fresh();
  v.name = "View " + std::to_string(p.views.size() + 1);
  v.camera = cameraJson(now.camera.value_or(Camera{})).dump();
  v.moment = isoText(l.moment, p.zone().offset(l.moment));
  if (!p.options.empty()) v.option = p.options[p.option].id.text();
  if (l.study) v.study = l.study.text();
  p.views.push_back(std::move(v));
  document_.change(std::move(p), "Save view");
  if (!isVisible())
    emit document_.notice(
        QString("Saved as View %1; Ctrl+Alt+%1 comes back to it.").arg(document_.project().views.size()), false);
}

void PicturesPanel::go(std::size_t n) {
  const Project& p = document_.project();
  if (n >= p.views.size()) {
    emit document_.notice(QString("There is no saved view %1.").arg(n + 1), false);
    return;
  }
  emit viewWanted(SavedView(p.views[n]));
}

bool PicturesPanel::fault(QLineEdit* field, const QString& expected) {
  field->setStyleSheet(expected.isEmpty() ? QString() : QString("border: 1px solid %1;").arg(theme().short_.name()));
  if (!expected.isEmpty()) state_->setText("Expected here: " + expected + ".");
  return !expected.isEmpty();
}

std::optional<SheetRequest> PicturesPanel::sheet() {
  const Project& p = document_.project();
  SheetRequest r;
  fault(days_, {});
  fault(hours_, {});
  state_->clear();
  if (const int side = sides_->currentIndex(); side > 0) r.sides = {allFacings[std::size_t(side - 1)]};
  for (const QString& day : days_->text().split(',', Qt::SkipEmptyParts)) {
    const std::string text = day.trimmed().toStdString();
    auto d = dateFromText(text);
    if (!d) d = dateFromText(text + " " + std::to_string(p.site.year));
    if (!d) {
      fault(days_, "days such as 21 Jun, with commas between");
      return {};
    }
    r.dates.push_back(*d);
  }
  for (const QString& hour : hours_->text().split(',', Qt::SkipEmptyParts)) {
    const auto m = minutesFromText(hour.trimmed().toStdString());
    if (!m || *m >= 1440) {
      fault(hours_, "clock times such as 9, 12, 14:30");
      return {};
    }
    r.minutes.push_back(*m);
  }
  if (beside_->currentIndex() > 0) r.beside = {p.option, std::size_t(beside_->currentData().toInt())};
  return r;
}

std::optional<FilmRequest> PicturesPanel::film() {
  FilmRequest r;
  for (QLineEdit* f : {step_, perSecond_, width_, height_}) fault(f, {});
  state_->clear();
  const auto step = numberFromText(step_->text().trimmed().toStdString()),
             rate = numberFromText(perSecond_->text().trimmed().toStdString());
  if (!step || *step <= 0 || *step > 5000) {
    fault(step_, "a number over 0");
    return {};
  }
  if (!rate || *rate < 1 || *rate > 60) {
    fault(perSecond_, "1 to 60");
    return {};
  }
  r.picture = picture_();
  r.picture.width = width_->text().toInt();
  r.picture.height = height_->text().toInt();
  for (QLineEdit* f : {width_, height_})
    if (const int n = f->text().toInt(); n < 64 || n > 4320 || n % 2) {
      fault(f, "an even number from 64 to 4320");
      return {};
    }
  r.perSecond = *rate;
  const Project& p = document_.project();
  const auto clock = p.zone().clock(document_.looking().moment);
  if (what_->currentIndex() == Day) {
    r.frames = dayFrames(p.zone(), clock.date, 4 * 60, 22 * 60, *step);
  } else if (what_->currentIndex() == Year) {
    r.frames = yearFrames(p.zone(), p.site.year, clock.seconds / 60, std::max(1, int(*step)));
  } else {
    auto frames = viewFrames(p, {}, int(*step), document_.looking().moment);
    if (!frames) {
      state_->setText(QString::fromStdString(frames.error().message));
      return {};
    }
    r.frames = std::move(*frames);
  }
  return r;
}

void PicturesPanel::exportTo(const QString& kind, const QString& path) {
  const auto sheetWish = kind.startsWith("sheet") ? sheet() : std::nullopt;
  const auto filmWish = kind.startsWith("film") ? film() : std::nullopt;
  if (!sheetWish && !filmWish) return;
  const auto project = document_.project();
  const auto store = document_.store();
  const bool begun = writer_.start(
      [kind, file = std::filesystem::path(path.toStdString()), sheetWish, filmWish, project,
       store](RunControl& control) -> Outcome {
        if (filmWish) return writeFilm(project, *filmWish, file, control, store.get());
        const auto made = makeFacadeSheet(project, *sheetWish, control);
        if (!made) return tl::unexpected(made.error());
        if (kind == "sheet") return writeFacadeSheet(*made, file);
        const auto pictures = writeSheetPictures(*made, file);
        return pictures ? Outcome() : Outcome(tl::unexpected(pictures.error()));
      },
      [this, path](const Outcome& done) {
        const QString says = done ? "Saved " + path + "." : "Not saved. " + QString::fromStdString(done.error().text());
        state_->setText(says);
        emit document_.notice(says, !done);
      });
  state_->setText(begun ? "Writing …" : "Something is still being written: stop it, or wait.");
}

} // namespace noonward
