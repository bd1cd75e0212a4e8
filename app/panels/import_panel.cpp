#include "app/panels/import_panel.h"
#include "app/theme/style.h"
#include "core/files/cities/reference_system.h"
#include <QComboBox>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>

namespace noonward {

namespace {
constexpr int mostRows = 400;
constexpr std::size_t mostPlaced = 400'000; ///< triangles, put on the stage before they are brought in
} // namespace

ImportPanel::ImportPanel(Document& document, QWidget* parent) : Panel(parent), document_(document) {
  setAccessibleName("Import a model panel");
  setFixedWidth(560);
  auto* l = new QVBoxLayout(this);
  l->setContentsMargins(20, 14, 20, 16);
  l->setSpacing(8);
  auto* title = words({}, titleFont(17), false);
  title->setText("Import a model");
  l->addWidget(title);
  l->addWidget(facts_ = words({}, textFont(12), true));
  facts_->setAccessibleName("Facts of the model");
  const auto choice = [&](QHBoxLayout* row, const QString& label, const QStringList& items) {
    auto* name = words({}, textFont(12), true);
    name->setText(label);
    name->setWordWrap(false);
    row->addWidget(name);
    auto* c = new QComboBox;
    c->setAccessibleName(label);
    c->addItems(items);
    row->addWidget(c, 1);
    return c;
  };
  auto* first = new QHBoxLayout;
  unit_ = choice(first, "Its numbers are", {"metres", "millimetres", "centimetres", "feet", "inches"});
  first->addSpacing(12);
  up_ = choice(first, "Up is", {"z", "y"});
  first->addSpacing(12);
  auto* northName = words({}, textFont(12), true);
  northName->setText("Its +y points to");
  northName->setWordWrap(false);
  first->addWidget(northName);
  north_ = new QLineEdit;
  north_->setAccessibleName("North of the model");
  north_->setToolTip("Degrees clockwise from north that the drawing's +y points to; empty: as the file says, else as "
                     "the project lies");
  north_->setFixedWidth(64);
  first->addWidget(north_);
  l->addLayout(first);
  auto* check = new QHBoxLayout;
  measure_ = new QPushButton("Check a distance");
  measure_->setAccessibleName("Check a distance");
  measure_->setToolTip("Click two spots of the model on the stage, then say how far apart they are in truth");
  connect(measure_, &QPushButton::clicked, this, [this] { emit distanceWanted(); });
  check->addWidget(measure_);
  auto* should = words({}, textFont(12), true);
  should->setText("in truth");
  should->setWordWrap(false);
  check->addWidget(should);
  true_ = new QLineEdit;
  true_->setAccessibleName("True distance");
  true_->setFixedWidth(90);
  true_->setEnabled(false);
  explain({{true_, "How far apart they are in truth: the whole model is scaled by it"}});
  connect(true_, &QLineEdit::editingFinished, this, &ImportPanel::trueLength);
  connect(north_, &QLineEdit::editingFinished, this, [this] {
    if (north_->isModified()) refresh();
    north_->setModified(false);
  });
  check->addWidget(true_);
  check->addStretch();
  level_ = new QComboBox;
  level_->setAccessibleName("Level of detail");
  level_->setToolTip("The file has its objects in several levels of detail");
  check->addWidget(level_);
  connect(level_, &QComboBox::activated, this, [this](int i) {
    const QString path = QString::fromStdString(model_->path),
                  level = i == 0 ? QString() : QString::fromStdString(model_->levels[std::size_t(i - 1)]);
    hide();
    emit levelWanted(path, level);
  });
  l->addLayout(check);
  l->addWidget(size_ = words({}, textFont(13, true), false));
  size_->setAccessibleName("Resulting size");
  auto* second = new QHBoxLayout;
  roles_ = choice(second, "Roles", {"guessed", "all alike"});
  second->addSpacing(12);
  QStringList names;
  for (Role r : allRoles) names << roleName(r);
  role_ = choice(second, "Others are", names);
  role_->setToolTip("Of what nothing is known about");
  l->addLayout(second);
  table_ = new QTableWidget(0, 4);
  table_->setAccessibleName("Layers of the model");
  table_->setHorizontalHeaderLabels({"Layer", "Triangles", "Role", "Why"});
  table_->verticalHeader()->hide();
  table_->setShowGrid(false);
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  table_->setSelectionMode(QAbstractItemView::ExtendedSelection);
  table_->setWordWrap(false);
  table_->verticalHeader()->setDefaultSectionSize(28);
  table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
  table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  table_->setColumnWidth(1, 84);
  table_->setColumnWidth(2, 112);
  table_->setColumnWidth(3, 168);
  table_->setToolTip("Choose a role for a layer; where several rows are marked it goes to all of them");
  l->addWidget(table_);
  l->addWidget(notes_ = words({}, textFont(11.5), true));
  notes_->setAccessibleName("Notes on the model");
  auto* third = new QHBoxLayout;
  proposed_ = choice(third, "Status", {"existing", "proposed"});
  explain({{unit_, "The unit of the file's numbers; the size that follows stands above"},
           {up_, "The axis of the file that points up"},
           {roles_, "What each layer becomes: guessed from its name, or one for all"},
           {proposed_, "Existing stays when the proposal is taken away"}});
  third->addStretch();
  const auto button = [&](const QString& text, auto done, bool main) {
    auto* b = new QPushButton(text);
    b->setAccessibleName(text);
    if (main) b->setProperty("main", true);
    connect(b, &QPushButton::clicked, this, done);
    third->addWidget(b);
  };
  button(
      "Cancel", [this] { hide(); }, false);
  button(
      "Import", [this] { bringIn(); }, true);
  l->addLayout(third);
  for (QComboBox* c : {unit_, up_, role_, roles_}) connect(c, &QComboBox::activated, this, &ImportPanel::refresh);
  hide();
}

Role ImportPanel::role() const {
  return allRoles[std::size_t(role_->currentIndex())];
}

void ImportPanel::show(std::shared_ptr<const Model> model) {
  model_ = std::move(model);
  said_.clear();
  const Project& p = document_.project();
  guess_ = guessPlacement(*model_,
                          p.elements.empty() && p.site.origin == Vec3{} ? std::nullopt : std::optional(p.site.origin));
  if (const auto before = placementAsBefore(p, *model_)) {
    guess_.placement = *before;
    guess_.reason = "taken as before";
    guess_.suspicious = false;
  }
  measured_ = 0;
  true_->clear();
  true_->setEnabled(false);
  measure_->setText("Check a distance");
  north_->setText(guess_.placement.northAngle ? QString::number(degrees(*guess_.placement.northAngle), 'g', 6) + "°"
                                              : QString());
  north_->setPlaceholderText(model_->geo.northAngle ? QString::number(degrees(*model_->geo.northAngle), 'g', 4) + "°"
                             : p.elements.empty()   ? QString("0°")
                                                    : QString::number(degrees(p.site.northAngle), 'g', 4) + "°");
  unit_->setCurrentIndex(int(guess_.placement.unit));
  up_->setCurrentIndex(guess_.placement.yUp);
  role_->setCurrentIndex(int(Role::Neighbour));
  roles_->setCurrentIndex(0);
  QStringList what;
  if (!model_->parts.empty())
    what << QString("%1 part%2, %L3 triangles")
                .arg(model_->parts.size())
                .arg(model_->parts.size() == 1 ? "" : "s")
                .arg(model_->triangleCount());
  if (!model_->outlines.empty())
    what << QString("%1 outline%2").arg(model_->outlines.size()).arg(model_->outlines.size() == 1 ? "" : "s");
  QString text = QString("%1: %2; %3.")
                     .arg(QString::fromStdString(model_->file), what.join(", "), QString::fromStdString(guess_.reason));
  if (model_->geo.place)
    text += QString(" It stands at %1° N, %2° E.")
                .arg(degrees(model_->geo.place->latitude), 0, 'f', 4)
                .arg(degrees(model_->geo.place->longitude), 0, 'f', 4);
  else if (!model_->geo.system.empty()) {
    text += QString(" Reference system %1").arg(QString::fromStdString(model_->geo.system));
    const Vec3 c = model_->box().center();
    if (const auto at = locate(model_->geo.system, c.x, c.y))
      text += QString(": it stands at %1° N, %2° E.")
                  .arg(degrees(at->place.latitude), 0, 'f', 4)
                  .arg(degrees(at->place.longitude), 0, 'f', 4);
    else
      text += ": where that is is not known here.";
  }
  facts_->setText(text);
  QStringList notes;
  for (const std::string& n : model_->notes) notes << QString::fromStdString(n);
  notes_->setText(notes.join("\n"));
  notes_->setVisible(!notes.isEmpty());
  layers_.clear();
  level_->clear();
  level_->addItem("finest of each object");
  for (const std::string& n : model_->levels) level_->addItem("level of detail " + QString::fromStdString(n));
  level_->setCurrentIndex(
      model_->level.empty()
          ? 0
          : 1 + int(std::find(model_->levels.begin(), model_->levels.end(), model_->level) - model_->levels.begin()));
  level_->setVisible(model_->levels.size() > 1);
  refresh();
  Panel::show();
  raise();
  setFocus();
}

void ImportPanel::refresh() {
  if (!model_) return;
  if (guess_.placement.unit != LengthUnit(unit_->currentIndex()))
    guess_.placement.scale = 1; // a true length was said of the other unit
  guess_.placement.unit = LengthUnit(unit_->currentIndex());
  guess_.placement.yUp = up_->currentIndex() == 1;
  north_->setStyleSheet({});
  guess_.placement.northAngle.reset();
  if (const QString text = QString(north_->text()).remove("°").trimmed(); !text.isEmpty()) {
    const auto v = numberFromText(text.toStdString());
    if (v && std::abs(*v) <= 360)
      guess_.placement.northAngle = radians(*v);
    else
      north_->setStyleSheet(QString("border: 1px solid %1;").arg(theme().short_.name()));
  }
  const Vec3 s = model_->box().size() * (metresPer(guess_.placement.unit) * guess_.placement.scale);
  const LengthUnit shown = document_.project().units.length;
  const auto text = [&](double v) { return QString::fromStdString(lengthText(v, shown)); };
  const Vec3 o = guess_.placement.yUp ? Vec3{s.x, s.z, s.y} : s;
  const double largest = std::max({o.x, o.y, o.z});
  size_->setText(QString("%1 × %2, %3 high%4")
                     .arg(text(o.x), text(o.y), text(o.z),
                          largest > 4000 ? "  — too large for a site"
                          : largest < 1  ? "  — very small"
                                         : ""));
  fillLayers();
}

void ImportPanel::fillLayers() {
  // Shapes are looked at to guess: behind the window.
  document_.inBackground([this, model = model_, placement = guess_.placement, role = role(),
                          guess = roles_->currentIndex() == 0, said = said_,
                          project = (document_.dropPreview(), document_.project()),
                          asked = ++asked_]() -> std::function<void(Document&)> {
    auto layers = std::make_shared<std::vector<ModelLayer>>(modelLayers(*model, placement, role, guess));
    // And the model where it would stand, as long as that is quick.
    std::shared_ptr<ImportOutcome> placed;
    if (model->triangleCount() <= mostPlaced)
      placed = std::make_shared<ImportOutcome>(broughtIn(project, *model, placement, role, guess, {}, said));
    return [this, layers, placed, asked, elements = project.elements](Document& d) {
      if (asked != asked_ || !isVisible()) return;
      layers_ = std::move(*layers);
      showLayers();
      if (!placed || (d.project().elements != elements && !d.previewing())) return;
      std::vector<std::uint64_t> ids;
      for (const auto* list : {&placed->fresh, &placed->renewed})
        for (ElementId id : *list)
          if (ids.size() < 500) ids.push_back(id.value);
      d.preview(std::move(placed->project));
      emit previewed(ids);
    };
  });
}

void ImportPanel::showLayers() {
  const int rows = std::min(mostRows, int(layers_.size()));
  table_->setRowCount(0);
  table_->setRowCount(rows);
  QStringList names;
  for (Role r : allRoles) names << roleName(r);
  for (int i = 0; i < rows; ++i) {
    const ModelLayer& l = layers_[std::size_t(i)];
    const auto item = [&](int column, const QString& text, const QFont& font, Qt::Alignment align = Qt::AlignLeft) {
      auto* cell = new QTableWidgetItem(text);
      cell->setFont(font);
      cell->setToolTip(text);
      cell->setTextAlignment(align | Qt::AlignVCenter);
      table_->setItem(i, column, cell);
      return cell;
    };
    const QString name = QString::fromStdString(l.name);
    item(0, l.parts > 1 ? QString("%1 (%2 parts)").arg(name).arg(l.parts) : name, textFont(12));
    item(1,
         l.triangles > 0 ? QString("%L1").arg(l.triangles)
                         : QString("%1 outline%2").arg(l.outlines).arg(l.outlines == 1 ? "" : "s"),
         figureFont(11), Qt::AlignRight);
    const bool own = said_.contains(l.name);
    auto* why = item(
        3,
        own ? "you said so"
            : QString("%1%2").arg(l.sure > 0 && l.sure < 1 ? QString("%1 %: ").arg(100 * l.sure, 0, 'f', 0) : QString(),
                                  QString::fromStdString(l.why)),
        textFont(11));
    if (!own && l.sure < 0.5)
      why->setForeground(theme().short_);
    else
      why->setForeground(theme().muted);
    auto* c = new QComboBox;
    c->addItems(names);
    c->setAccessibleName("Role of " + name);
    c->setCurrentIndex(
        int(std::find(allRoles.begin(), allRoles.end(), own ? said_[l.name] : l.role) - allRoles.begin()));
    connect(c, &QComboBox::activated, this, [this, i](int chosen) {
      std::vector<int> to{i};
      const auto marked = table_->selectionModel()->selectedRows();
      if (std::any_of(marked.begin(), marked.end(), [i](const QModelIndex& m) { return m.row() == i; }))
        for (const QModelIndex& m : marked) to.push_back(m.row());
      for (int row : to) said_[layers_[std::size_t(row)].name] = allRoles[std::size_t(chosen)];
      // Rebuilt after the box that was clicked has done its work.
      QMetaObject::invokeMethod(
          this, [this] { fillLayers(); }, Qt::QueuedConnection);
    });
    table_->setCellWidget(i, 2, c);
  }
  table_->setFixedHeight(32 + 28 * std::clamp(rows, 1, 7));
  if (int(layers_.size()) > mostRows)
    notes_->setText(notes_->text() +
                    QString("\nThe %1 heaviest of %2 layers are listed.").arg(mostRows).arg(layers_.size())),
        notes_->setVisible(true);
  adjustSize();
}

void ImportPanel::hideEvent(QHideEvent* e) {
  ++asked_;
  if (document_.previewing()) document_.dropPreview();
  Panel::hideEvent(e);
}

void ImportPanel::setMeasured(double metres) {
  if (!isVisible() || !(metres > 0)) return;
  measured_ = metres;
  measure_->setText(
      QString("Measured %1").arg(QString::fromStdString(lengthText(metres, document_.project().units.length))));
  true_->setEnabled(true);
  true_->setFocus();
}

void ImportPanel::trueLength() {
  if (!(measured_ > 0) || !true_->isModified()) return;
  true_->setModified(false);
  const auto v = lengthFromText(true_->text().toStdString(), document_.project().units.length);
  true_->setStyleSheet(v && *v > 0 ? QString() : QString("border: 1px solid %1;").arg(theme().short_.name()));
  if (!v || !(*v > 0)) return;
  guess_.placement.scale *= *v / measured_;
  measured_ = *v;
  measure_->setText(
      QString("Measured %1").arg(QString::fromStdString(lengthText(*v, document_.project().units.length))));
  refresh();
}

void ImportPanel::bringIn() {
  hide();
  emit document_.notice("Importing " + QString::fromStdString(model_->file) + "…", false);
  document_.inBackground([model = model_, project = document_.project(), placement = guess_.placement, role = role(),
                          guess = roles_->currentIndex() == 0, proposed = proposed_->currentIndex() == 1,
                          said = said_]() -> std::function<void(Document&)> {
    auto done = std::make_shared<ImportOutcome>(broughtIn(project, *model, placement, role, guess, proposed, said));
    for (const ElementPtr& e : done->project.elements)
      if (const Imported* i = e->imported(); i && i->mesh) (void)i->health->of(*i->mesh);
    return [done, project](Document& d) {
      if (d.project().elements != project.elements)
        return d.notice("The model changed meanwhile: bring it in again.", true);
      d.change(takenOver(d.project(), project, *done), "Import model"); // whatever else was changed meanwhile stays
      d.look([&](Looking& l) { l.selected = done->gone; });
      emit d.notice("Imported: " + QString::fromStdString(outcomeText(project, *done)), !done->remark.empty());
    };
  });
}

} // namespace noonward
