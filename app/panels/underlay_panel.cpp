#include "app/panels/underlay_panel.h"
#include "app/theme/style.h"
#include "core/files/cities/reference_system.h"
#include "core/files/project/underlay_json.h"
#include "core/model/form/edit.h"
#include "picture/underlay_image.h"
#include <QComboBox>
#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSlider>
#include <QStandardItemModel>
#include <QVBoxLayout>

namespace noonward {

UnderlayPanel::UnderlayPanel(Document& document, QWidget* parent) : Panel(parent), document_(document) {
  setAccessibleName("Underlay panel");
  setFixedWidth(440);
  auto* l = new QVBoxLayout(this);
  l->setContentsMargins(20, 12, 20, 14);
  l->setSpacing(7);
  l->addWidget(words("A picture to trace over", titleFont(17), false));
  auto* first = new QHBoxLayout;
  name_ = new QLineEdit;
  name_->setAccessibleName("Underlay name");
  first->addWidget(name_, 1);
  kind_ = new QComboBox;
  kind_->setAccessibleName("Underlay lies");
  kind_->addItems({"flat: a plan", "flat: by its coordinates", "upright: a facade"}); // as UnderlayKind counts
  first->addWidget(kind_);
  l->addLayout(first);
  l->addWidget(hint_ = words({}, textFont(12), true));
  l->addWidget(board_ = new PinBoard);
  const auto grid = [&](QWidget*& rows) {
    rows = new QWidget;
    auto* g = new QGridLayout(rows);
    g->setContentsMargins(0, 0, 0, 0);
    g->setHorizontalSpacing(10);
    g->setVerticalSpacing(4);
    l->addWidget(rows);
    return g;
  };
  const auto field = [&](QGridLayout* g, int row, int column, const QString& label, const QString& help,
                         const QString& called = {}) {
    auto* name = words(label, textFont(12), true, false);
    name->setToolTip(help);
    auto* f = new QLineEdit;
    f->setAccessibleName(called.isEmpty() ? label : called);
    f->setToolTip(help);
    g->addWidget(name, row, 2 * column);
    g->addWidget(f, row, 2 * column + 1);
    return f;
  };
  const auto button = [&](const QString& text, const QString& help, auto pressed) {
    auto* b = new QPushButton(text);
    b->setAccessibleName(text);
    b->setToolTip(help);
    connect(b, &QPushButton::clicked, this, pressed);
    return b;
  };
  const auto ask = [this](Asked what, const QString& text) {
    return [this, what, text] {
      asked_ = what;
      aside_ = true; // the whole stage is there to click on
      hide();
      emit spotWanted(text, what == Asked::Wall);
    };
  };
  auto* plan = grid(planRows_);
  distance_ = field(plan, 0, 0, "A to B in truth", "The distance that is known of the two marks");
  level_ = field(plan, 0, 1, "Level", "Height the plan lies at, above the ground");
  plan->addWidget(first_ = button("A on the stage", "Click where mark A lies in the model",
                                  ask(Asked::First, "Click where A lies; corners are caught")),
                  1, 0, 1, 2);
  plan->addWidget(second_ =
                      button("B on the stage",
                             "Click where mark B lies: it turns the plan, and scales it where no distance was given",
                             ask(Asked::Second, "Click where B lies; corners are caught")),
                  1, 2, 1, 2);
  auto* sheet = grid(sheetRows_);
  system_ = field(sheet, 0, 0, "Reference system",
                  "In which its coordinates count, such as EPSG:25832; empty: that of the project");
  sheetLevel_ = field(sheet, 0, 1, "Level", "Height the sheet lies at, beside terrain; on terrain it is draped",
                      "Level of the sheet");
  auto* facade = grid(facadeRows_);
  facade->addWidget(onWall_ = button("On which wall? Click it on the stage",
                                     "The four corners go to the corners of the wall, until lengths say otherwise",
                                     ask(Asked::Wall, "Click the wall that the photograph shows")),
                    0, 0, 1, 4);
  width_ = field(facade, 1, 0, "Width", "From mark 1 to mark 2 in truth", "True width");
  height_ = field(facade, 1, 1, "Height", "From mark 1 to mark 4 in truth", "True height");
  left_ = field(facade, 2, 0, "From its left end", "Of the wall as seen from outside, to mark 1");
  foot_ = field(facade, 2, 1, "Above its base", "Of the wall, to mark 1");
  auto* strength = new QHBoxLayout;
  strength->addWidget(words("Opacity", textFont(12), true, false));
  strength_ = new QSlider(Qt::Horizontal);
  strength_->setAccessibleName("Underlay opacity");
  strength_->setRange(5, 100);
  strength->addWidget(strength_, 1);
  l->addLayout(strength);
  l->addWidget(state_ = words({}, textFont(12), false));
  explain({{name_, "What the picture is called in lists"},
           {kind_, "Flat on the ground or a floor, or upright on a wall"},
           {strength_, "How strong the picture is over the model"}});
  state_->setAccessibleName("State of the underlay");
  auto* buttons = new QHBoxLayout;
  buttons->addWidget(button("Take it away", "Removes the picture from the project", [this] {
    const UnderlayId id = now_.id;
    const bool was = !fresh_;
    hide();
    if (!was) return;
    Project p = document_.project();
    std::erase_if(p.underlays, [&](const Underlay& u) { return u.id == id; });
    document_.change(std::move(p), "Take a picture away");
  }));
  buttons->addStretch();
  buttons->addWidget(button("Cancel", "As it was before", [this] { hide(); }));
  buttons->addWidget(keep_ = button("Apply", "", [this] { keep(); }));
  keep_->setProperty("main", true);
  l->addLayout(buttons);
  connect(kind_, &QComboBox::activated, this, [this](int i) {
    if (int(kindNow_) == i) return;
    if (i == 0)
      beginPlan();
    else if (i == 1)
      beginSheet();
    else
      beginFacade();
    fill();
    showOnStage();
  });
  connect(board_, &PinBoard::marked, this, &UnderlayPanel::moved);
  connect(strength_, &QSlider::valueChanged, this, [this](int v) {
    now_.strength = v / 100.0;
    showOnStage();
  });
  connect(name_, &QLineEdit::editingFinished, this, [this] { now_.name = name_->text().trimmed().toStdString(); });
  connect(distance_, &QLineEdit::editingFinished, this, [this] {
    take(distance_, 0.01, 1e5, [this](double v) {
      if (auto scaled = withTrueDistance(now_, v)) now_ = std::move(*scaled);
    });
  });
  connect(level_, &QLineEdit::editingFinished, this, [this] {
    take(level_, -1000, 5000, [this](double v) {
      for (UnderlayPin& p : now_.pins) p.place.z = v;
    });
  });
  connect(sheetLevel_, &QLineEdit::editingFinished, this, [this] {
    take(sheetLevel_, -1000, 5000, [this](double v) {
      for (UnderlayPin& p : now_.pins) p.place.z = v;
    });
  });
  connect(system_, &QLineEdit::editingFinished, this, [this] {
    if (!system_->isModified() || !sheet_) return;
    system_->setModified(false);
    sheet_->system = system_->text().trimmed().toStdString();
    beginSheet();
    fill();
    showOnStage();
  });
  const auto wallField = [this](QLineEdit* f, double least, auto use) {
    connect(f, &QLineEdit::editingFinished, this, [this, f, least, use] {
      take(f, least, 1e4, [this, use](double v) {
        if (!wall_) return;
        use(*wall_, v);
        now_.scaled = true;
      });
    });
  };
  connect(&document_, &Document::replaced, this, [this] { // of another project
    aside_ = false;
    hide();
  });
  wallField(width_, 0.05, [](WallRectangle& w, double v) { w.width = v; });
  wallField(height_, 0.05, [](WallRectangle& w, double v) { w.height = v; });
  wallField(left_, -1e3, [this](WallRectangle& w, double v) {
    const Vec3 from = face_ ? face_->corner : w.corner;
    w.corner = {from.x + w.right.x * v, from.y + w.right.y * v, w.corner.z};
  });
  wallField(foot_, -1e3,
            [this](WallRectangle& w, double v) { w.corner.z = (face_ ? face_->corner.z : w.corner.z) + v; });
  hide();
}

void UnderlayPanel::take(QLineEdit* field, double least, double most, const std::function<void(double)>& use) {
  if (!field->isModified()) return;
  field->setModified(false);
  const auto v = lengthFromText(field->text().toStdString(), document_.project().units.length);
  const bool sound = v && *v >= least && *v <= most;
  field->setStyleSheet(sound ? QString() : QString("border: 1px solid %1;").arg(theme().short_.name()));
  if (!sound) return state_->setText("A length is expected here, such as 12.5 or 40 ft.");
  use(*v);
  fill();
  showOnStage();
}

void UnderlayPanel::lay(const QString& file) {
  hide(); // one that was being adjusted stays as it was
  auto picture = readPicture(file.toStdString());
  if (!picture)
    return emit document_.notice("The picture was not laid. " + QString::fromStdString(picture.error().text()), true);
  size_ = sizeOf(**picture);
  if (size_.isEmpty())
    return emit document_.notice(
        "The picture was not laid. " + file.section('/', -1) + " can't be read: it may be cut off.", true);
  Underlay u;
  u.id = UnderlayId::fresh();
  u.picture = std::move(*picture);
  u.name = file.section('/', -1).section('.', 0, -2).toStdString();
  u.scaled = false;
  auto sheet = mapSheetOf(file.toStdString(), *u.picture);
  begin(std::move(u));
  fresh_ = true;
  if (sheet && *sheet) {
    sheet_ = std::move(**sheet);
    beginSheet();
  } else {
    if (!sheet)
      emit document_.notice("Where the picture lies can't be read. " + QString::fromStdString(sheet.error().text()) +
                                " It begins as a plan.",
                            true);
    beginPlan();
  }
  showPicture();
}

void UnderlayPanel::adjust(UnderlayId id) {
  hide();
  const Project& p = document_.project();
  const auto at = std::find_if(p.underlays.begin(), p.underlays.end(), [&](const Underlay& u) { return u.id == id; });
  if (at == p.underlays.end()) return;
  if (!at->picture)
    return emit document_.notice(
        QString("The file of \"%1\" is gone: lay the picture anew.").arg(QString::fromStdString(at->name)), true);
  size_ = sizeOf(*at->picture);
  begin(*at);
  fresh_ = false;
  kindNow_ = kindOf(now_);
  if (kindNow_ == UnderlayKind::Sheet) laidBy_ = "Lies by its coordinates. " + coveredTold(p, now_);
  wall_ = wallOf(now_.pins);
  face_ = wall_;
  showPicture();
}

void UnderlayPanel::begin(Underlay underlay) {
  aside_ = false;
  now_ = std::move(underlay);
  kindNow_ = UnderlayKind::Plan;
  sheet_.reset();
  site_.reset();
  laidBy_.clear();
  wall_.reset();
  face_.reset();
  asked_ = Asked::Nothing;
}

/// Decoded behind the window; the panel comes with it.
void UnderlayPanel::showPicture() {
  document_.inBackground([this, picture = now_.picture, serial = ++serial_]() -> std::function<void(Document&)> {
    auto image = std::make_shared<Expected<QImage>>(decoded(*picture, 2048));
    return [this, image, serial](Document& d) {
      if (serial != serial_) return;
      if (!*image) return d.notice("The picture was not laid. " + QString::fromStdString(image->error().message), true);
      board_->show(**image, size_);
      QSignalBlocker quiet(strength_);
      strength_->setValue(int(std::lround(100 * now_.strength)));
      name_->setText(QString::fromStdString(now_.name));
      fill();
      Panel::show();
      raise();
      setFocus();
      showOnStage();
      if (wall_)
        emit wallWanted(*wall_, width() + 20);
      else
        emit planWanted(width() + 20);
    };
  });
}

/// By its coordinates, at once and with no marks to put.
void UnderlayPanel::beginSheet() {
  kindNow_ = UnderlayKind::Sheet;
  wall_.reset();
  face_.reset();
  site_.reset();
  if (!sheet_) return; // one that is there already: it keeps its corners
  auto laid = laidSheet(document_.project(), now_, {double(size_.width()), double(size_.height())}, *sheet_);
  if (!laid) {
    laidBy_ = laid.error().text();
    now_.pins.clear();
    return;
  }
  now_ = std::move(laid->underlay);
  laidBy_ = std::move(laid->told);
  site_ = std::move(laid->site);
}

void UnderlayPanel::beginPlan() {
  kindNow_ = UnderlayKind::Plan;
  site_.reset();
  wall_.reset();
  now_.scaled = false;
  // A guess to begin with: as wide as what stands there, in its middle.
  Box3 box;
  for (const ElementPtr& e : document_.project().elements)
    if (e->role != Role::Ground) box.addBox(boxOf(*e));
  const double w = size_.width(), h = size_.height(), metres = box.empty() ? 30 : std::clamp(box.size().x, 5.0, 500.0);
  const Vec3 c = box.center();
  const Vec2 a{w * 0.2, h * 0.7}, b{w * 0.8, h * 0.7};
  const auto place = [&](Vec2 p) {
    return Vec3{c.x + (p.x - w / 2) * metres / w, c.y - (p.y - h / 2) * metres / w, 0};
  };
  now_.pins = {{a, place(a)}, {b, place(b)}};
}

void UnderlayPanel::beginFacade() {
  kindNow_ = UnderlayKind::Facade;
  site_.reset();
  now_.scaled = false;
  const double w = size_.width(), h = size_.height();
  const std::array<Vec2, 4> marks{
      {{w * 0.15, h * 0.85}, {w * 0.85, h * 0.85}, {w * 0.85, h * 0.15}, {w * 0.15, h * 0.15}}};
  now_.pins.clear();
  for (Vec2 m : marks) now_.pins.push_back({m, {}});
  wall_.reset();
  face_.reset();
}

void UnderlayPanel::moved(int mark) {
  const auto& marks = board_->marks();
  if (mark < 0 || mark >= int(now_.pins.size()) || marks.size() != now_.pins.size()) return;
  // While the size is a guess, the picture stays and the place moves; after that, the place stays.
  if (kindNow_ == UnderlayKind::Plan && !now_.scaled)
    if (const auto map = planeMapOf(now_.pins))
      if (const auto p = map->place(marks[std::size_t(mark)])) now_.pins[std::size_t(mark)].place = *p;
  now_.pins[std::size_t(mark)].pixel = marks[std::size_t(mark)];
  fill();
  showOnStage();
}

void UnderlayPanel::comeBack() {
  if (!aside_) return;
  aside_ = false;
  Panel::show();
  raise();
}

void UnderlayPanel::setSpot(Vec3 place, Vec3 normal, quint64 element) {
  if (!aside_ || asked_ == Asked::Nothing) return;
  comeBack();
  const Asked asked = std::exchange(asked_, Asked::Nothing);
  if (asked == Asked::Wall) {
    const auto found = wallOf(document_.project(), ElementId{element}, place, normal);
    if (!found) {
      state_->setText("That is no upright face. Click the wall that the photograph shows.");
      return;
    }
    face_ = wall_ = *found;
    now_.scaled = true;
    emit wallWanted(*face_, width() + 20);
  } else if (now_.pins.size() == 2) {
    Vec3 &a = now_.pins[0].place, &b = now_.pins[1].place;
    const Vec3 way = b - a;
    place.z = a.z;
    if (asked == Asked::First) {
      a = place;
      b = place + way;
    } else if (const Vec3 to = place - a; length(to) > 0.01) {
      b = now_.scaled ? a + normalized(to) * length(way) : place;
      now_.scaled = true;
    }
  }
  fill();
  showOnStage();
}

void UnderlayPanel::fill() {
  const LengthUnit unit = document_.project().units.length;
  const auto text = [&](double v) { return QString::fromStdString(lengthText(v, unit)); };
  const auto show = [&](QLineEdit* f, const QString& t) {
    if (!f->isModified()) f->setText(t);
  };
  const bool facade = kindNow_ == UnderlayKind::Facade, sheet = kindNow_ == UnderlayKind::Sheet;
  kind_->setCurrentIndex(int(kindNow_));
  if (auto* items = qobject_cast<QStandardItemModel*>(kind_->model()))
    items->item(int(UnderlayKind::Sheet))->setEnabled(sheet || sheet_); // where coordinates are known
  planRows_->setVisible(kindNow_ == UnderlayKind::Plan);
  sheetRows_->setVisible(sheet);
  facadeRows_->setVisible(facade);
  std::vector<Vec2> marks;
  if (!sheet)
    for (const UnderlayPin& p : now_.pins) marks.push_back(p.pixel);
  board_->setMarks(std::move(marks), facade
                                         ? QStringList{"1 lower left", "2 lower right", "3 upper right", "4 upper left"}
                                         : QStringList{"A", "B"});
  hint_->setText(sheet ? "It says itself where it lies; there is nothing to mark."
                 : facade
                     ? "Put the marks on the corners of what is a rectangle in truth, seen from outside: the wall, "
                       "or a row of windows. Drag; the wheel zooms."
                     : "Put A and B on two spots whose distance you know, as far apart as may be. Click or drag; "
                       "the wheel zooms.");
  system_->setEnabled(sheet_.has_value());
  if (sheet) {
    const std::string system = sheet_ ? sheet_->system : document_.project().site.referenceSystem;
    const int number = system.find('[') == std::string::npos ? epsgNumber(system) : 0; // else the text of a .prj
    show(system_, number > 0 ? QString("EPSG:%1").arg(number) : QString::fromStdString(system).section('\n', 0, 0));
    system_->setCursorPosition(0);
    show(sheetLevel_, now_.pins.empty() ? QString() : text(now_.pins[0].place.z));
    sheetLevel_->setEnabled(!now_.pins.empty());
  }
  if (kindNow_ == UnderlayKind::Plan && now_.pins.size() == 2) {
    show(distance_, now_.scaled ? text(length(now_.pins[1].place - now_.pins[0].place)) : QString());
    show(level_, text(now_.pins[0].place.z));
  }
  for (QLineEdit* f : {width_, height_, left_, foot_}) f->setEnabled(wall_.has_value());
  if (wall_) {
    const WallRectangle& from = face_ ? *face_ : *wall_;
    show(width_, text(wall_->width));
    show(height_, text(wall_->height));
    show(left_, text(dot(wall_->corner - from.corner, wall_->right)));
    show(foot_, text(wall_->corner.z - from.corner.z));
  }
}

void UnderlayPanel::showOnStage() {
  const bool facade = kindNow_ == UnderlayKind::Facade;
  if (facade && wall_ && now_.pins.size() == 4)
    now_.pins = facadePins({now_.pins[0].pixel, now_.pins[1].pixel, now_.pins[2].pixel, now_.pins[3].pixel}, *wall_);
  const bool placed = !facade || wall_.has_value();
  const auto map = planeMapOf(now_.pins);
  keep_->setEnabled(placed && map.has_value());
  if (kindNow_ == UnderlayKind::Sheet)
    state_->setText(QString::fromStdString(laidBy_));
  else if (!placed)
    state_->setText("It lies nowhere yet: say which wall it shows.");
  else if (!map)
    state_->setText(QString::fromStdString(map.error().message));
  else if (!now_.scaled)
    state_->setText("Its size is a guess so far: type how far A is from B, or click both on the stage.");
  else {
    const auto &a = now_.pins[0], &b = now_.pins[1];
    state_->setText(
        QString("To scale: one pixel is %1 mm at mark %2.")
            .arg(1000 * length(b.place - a.place) / std::max(1.0, noonward::length(b.pixel - a.pixel)), 0, 'f', 1)
            .arg(facade ? "1" : "A"));
  }
  layout()->activate(); // wrapped lines ask for their height when the width is known
  resize(width(), layout()->totalHeightForWidth(width()));
  if (!isVisible()) return;
  document_.dropPreview();
  if (!placed || !map) return;
  Project p = document_.project();
  std::erase_if(p.underlays, [&](const Underlay& u) { return u.id == now_.id; });
  p.underlays.push_back(now_);
  if (site_) p.site = *site_;
  document_.preview(std::move(p));
}

void UnderlayPanel::keep() {
  now_.name = name_->text().trimmed().toStdString();
  if (now_.name.empty()) now_.name = "Picture";
  now_.shown = true;
  const Underlay kept = now_;
  const std::optional<Site> site = site_;
  hide();
  Project p = document_.project();
  if (site) p.site = *site;
  const auto at =
      std::find_if(p.underlays.begin(), p.underlays.end(), [&](const Underlay& u) { return u.id == kept.id; });
  if (at == p.underlays.end())
    p.underlays.push_back(kept);
  else
    *at = kept;
  document_.change(std::move(p), fresh_ ? "Lay a picture" : "Adjust a picture");
}

void UnderlayPanel::hideEvent(QHideEvent* e) {
  if (aside_) return Panel::hideEvent(e);
  ++serial_;
  asked_ = Asked::Nothing;
  if (document_.previewing()) document_.dropPreview();
  Panel::hideEvent(e);
}

} // namespace noonward
