#include "app/steps/model_sheet.h"
#include "app/steps/field_rows.h"
#include "app/theme/style.h"
#include "core/model/form/arrange.h"
#include "core/model/form/carry.h"
#include "core/model/form/edit.h"
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>

namespace noonward {

ModelSheet::ModelSheet(Document& document, Stage& stage, QWidget* parent)
    : Sheet("Model", document, parent), stage_(stage) {
  summary_ = addNote();
  pictures_ = addGroup();
  pictures_->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Maximum); // the list of parts takes what is free
  addHeading("To trace over");
  underlays_ = new QListWidget;
  underlays_->setAccessibleName("Underlays");
  underlays_->setToolTip("Ticked ones are shown while one draws; studies never see them");
  addWidget(underlays_);
  connect(underlays_, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
    if (filling_) return;
    Project p = document_.project();
    for (Underlay& u : p.underlays)
      if (u.id == laid_[std::size_t(underlays_->row(item))]) u.shown = item->checkState() == Qt::Checked;
    document_.change(std::move(p), "Show or hide a picture");
  });
  connect(underlays_, &QListWidget::itemDoubleClicked, this,
          [this](QListWidgetItem* item) { emit adjustWanted(laid_[std::size_t(underlays_->row(item))]); });
  addButton("Adjust the picture", [this] {
    if (!laid_.empty()) emit adjustWanted(laid_[std::size_t(std::max(0, underlays_->currentRow()))]);
  });
  endGroup();
  selectedRows_ = addGroup();
  addHeading("Selected")->setObjectName("selected");
  size_ = addNote();
  size_->setAccessibleName("Facts of the selection");
  name_ = addName("Name",
                  [this](const QString& t) { editSelected("Rename", [&](Element& e) { e.name = t.toStdString(); }); });
  name_->setAccessibleName("Element name");
  layer_ = addField(
      "Layer",
      [this](const QString& t) {
        editSelected("Put on a layer", [&](Element& e) { e.layer = t.trimmed().toStdString(); });
      },
      "A name that elements share: shown, coloured, left out and written together");
  height_ = addField(
      "Height",
      [this](const QString& t) {
        lengthEdit(height_, t, "Set height", 0.01, [](Element& e, double v) {
          if (auto* m = std::get_if<Mass>(&e.shape))
            m->height = v;
          else
            setHeight(e, v);
        });
      },
      "Of its walls; or pull the roof on the stage, or type a number over it");
  storeys_ = addField("Storeys", [this](const QString& t) {
    const auto v = numberFromText(t.toStdString());
    if (!v || *v < 1 || *v > 500 || *v != std::floor(*v))
      return showFault(storeys_, "A whole number from 1 to 500 is expected");
    editSelected("Set storeys", [&](Element& e) {
      if (auto* m = std::get_if<Mass>(&e.shape)) m->storeys = int(*v);
    });
  });
  base_ = addField(
      "Base level",
      [this](const QString& t) {
        lengthEdit(base_, t, "Set base level", -1000, [](Element& e, double v) {
          moveElement(e, {0, 0, v - boxOf(e).low.z});
        });
      },
      "Above the ground");
  roof_ = addChoice(
      "Roof", {"flat", "mono", "gable", "hip"},
      [this](int i) {
        editSelected("Set roof", [&](Element& e) {
          auto* m = std::get_if<Mass>(&e.shape);
          if (!m) return;
          const bool first = m->roof.flat() && i > 0;
          m->roof.kind = Roof::Kind(i);
          if (!first) return;
          // A ridge runs the long way, and rises as a roof usually does.
          const Ring& ring = m->outline.outer;
          Vec2 longest{1, 0};
          for (std::size_t k = 0; k < ring.size(); ++k)
            if (const Vec2 d = ring[(k + 1) % ring.size()] - ring[k]; length(d) > length(longest)) longest = d;
          m->roof.along = std::atan2(longest.y, longest.x);
          m->roof.rise = std::round(20 * 0.25 * std::sqrt(area(m->outline))) / 20;
        });
      },
      "On walls of the height above; a mono roof rises to the left of its ridge's direction");
  roof_->setAccessibleName("Roof of the mass");
  rise_ = addField(
      "Rise",
      [this](const QString& t) {
        lengthEdit(rise_, t, "Set rise", 0.01, [](Element& e, double v) {
          if (auto* m = std::get_if<Mass>(&e.shape)) m->roof.rise = v;
        });
      },
      "Of the ridge above the eaves");
  ridge_ = addField(
      "Ridge runs",
      [this](const QString& t) {
        const auto v = numberFromText(QString(t).remove("°").trimmed().toStdString());
        if (!v || std::abs(*v) > 360) return showFault(ridge_, "Degrees from −360 to 360 are expected");
        editSelected("Turn ridge", [&](Element& e) {
          if (auto* m = std::get_if<Mass>(&e.shape)) m->roof.along = radians(*v);
        });
      },
      "Degrees in the drawing, counter-clockwise from its right");
  QStringList roles;
  for (Role r : allRoles) roles << roleName(r);
  role_ = addChoice("Role", roles, [this](int i) {
    editSelected("Set role", [&](Element& e) { e.role = allRoles[std::size_t(i)]; });
  });
  proposed_ = addChoice(
      "Status", {"existing", "proposed", "to be demolished"},
      [this](int i) {
        editSelected("Set status", [&](Element& e) {
          e.proposed = i == 1;
          e.demolished = i == 2;
        });
      },
      "“Before” is the scene without the proposal, and with what is demolished for it");
  counted_ = addChoice("In studies", {"counted", "left out"}, [this](int i) {
    editSelected("Count", [&](Element& e) {
      e.counted = i == 0;
      e.ghost &= !e.counted;
    });
  });
  hidden_ = addChoice(
      "On the stage", {"shown", "hidden"},
      [this](int i) { editSelected("Show or hide", [&](Element& e) { e.hidden = i == 1; }); },
      "Hiding never changes a study");
  moveX_ = addField("Move right", [this](const QString& t) {
    lengthEdit(moveX_, t, "Move", -1e5, [](Element& e, double v) { moveElement(e, {v, 0, 0}); });
    moveX_->clear();
  });
  moveY_ = addField("Move up", [this](const QString& t) {
    lengthEdit(moveY_, t, "Move", -1e5, [](Element& e, double v) { moveElement(e, {0, v, 0}); });
    moveY_->clear();
  });
  treeGroup_ = addGroup();
  treeRows_ = std::make_unique<FieldRows<Tree>>(*this, fieldsOf<Tree>(), false,
                                                [this](const QString& name, const std::function<void(Tree&)>& change) {
                                                  editSelected(name, [&](Element& e) {
                                                    if (auto* t = std::get_if<Tree>(&e.shape)) change(*t);
                                                  });
                                                });
  endGroup();
  tilt_ = addField(
      "Tilt up",
      [this](const QString& t) {
        const auto v = numberFromText(QString(t).remove("°").toStdString());
        if (v) editSelected("Tilt", [&](Element& e) { tiltPlate(e, radians(*v)); });
        tilt_->clear();
      },
      "Degrees, of a plate about its first edge");
  tilt_->setPlaceholderText("0°");
  turn_ = addField(
      "Turn left",
      [this](const QString& t) {
        QString clean = t;
        clean.remove("°");
        const auto v = numberFromText(clean.toStdString());
        if (v) turnSelected(radians(*v));
        turn_->clear();
      },
      "Degrees, counter-clockwise about its middle");
  for (QLineEdit* f : {moveX_, moveY_}) f->setPlaceholderText("0");
  turn_->setPlaceholderText("0°");
  auto* more = addButtons();
  const auto small = [&](const QString& text, auto done) {
    auto* b = new QPushButton(text);
    b->setAccessibleName(text);
    connect(b, &QPushButton::clicked, this, done);
    more->addWidget(b);
  };
  small("Copy beside", [this] { copySelected(); });
  small("Delete", [this] { deleteSelected(); });
  buildShaping();
  more = addButtons();
  small("Correct corners", [this] {
    stage_.setTool(Tool::Corners);
    stage_.setFocus();
  });
  small("All like it", [this] { selectAlike(); });
  more->itemAt(0)->widget()->setToolTip(
      "Of the selected mass, or of the simplified model where nothing is selected (C)");
  more->itemAt(1)->widget()->setToolTip(
      "Selects every element of the same layer and role: what is changed above then goes to all of them");
  endGroup();
  everythingRows_ = addGroup();
  addHeading("Everything");
  QStringList alone{"everything"};
  for (Role r : allRoles)
    if (r != Role::Ignore) alone << QString(roleName(r)).toLower() + " alone";
  alone_ = addChoice(
      "Show", alone,
      [this](int i) {
        document_.look([&](Looking& l) {
          l.onlyGlazing.clear();
          l.onlyRole.reset();
          if (i > 0) l.onlyRole = allRoles[std::size_t(i - 1)];
        });
      },
      "One role alone, rooms and windows with it; studies never change by it");
  alone_->setAccessibleName("Shown roles");
  buildLayers();
  filter_ = new QLineEdit;
  filter_->setPlaceholderText("filter by name");
  filter_->setAccessibleName("Filter elements");
  connect(filter_, &QLineEdit::textChanged, this, [this] { refresh(); });
  addWidget(filter_);
  list_ = new QListWidget;
  list_->setAccessibleName("Elements");
  list_->setSelectionMode(QAbstractItemView::ExtendedSelection);
  list_->setMinimumHeight(150);
  addWidget(list_);
  endGroup();
  connect(list_, &QListWidget::itemSelectionChanged, this, [this] {
    if (filling_) return;
    std::vector<ElementId> ids;
    for (const QModelIndex& i : list_->selectionModel()->selectedRows())
      if (i.row() < int(listed_.size())) ids.push_back(listed_[std::size_t(i.row())]);
    document_.look([&](Looking& l) {
      l.selected = ids;
      l.face.reset();
    });
  });
  explain({{name_, "What the element is called in tables, findings and records"},
           {storeys_, "How many floors divide its height: for floor area, rooms and facade grids"},
           {role_, "What it is: decides its finish, its part in studies and whether rooms are made of it"},
           {proposed_, "Existing stays when the proposal is taken away, for every before and after"},
           {counted_, "Left out, it neither shades nor reflects, in no study"},
           {moveX_, "Along the first axis of the plan, at once; negative moves left"},
           {moveY_, "Along the second axis of the plan, at once; negative moves down"}});
  refresh();
}

ModelSheet::~ModelSheet() = default;

void ModelSheet::editSelected(const QString& name, const std::function<void(Element&)>& change) {
  const Project& now = document_.project();
  document_.change(carried(now, withEdited(now, document_.looking().selected, change), document_.looking().selected),
                   name); // rooms, windows and grids go along
}

void ModelSheet::lengthEdit(QLineEdit* field, const QString& text, const QString& name, double least,
                            const std::function<void(Element&, double)>& change) {
  const auto v = lengthFromText(text.toStdString(), document_.project().units.length);
  if (!v || *v < least) return showFault(field, "A length is expected here, such as 12.5 or 40 ft");
  editSelected(name, [&](Element& e) { change(e, *v); });
}

void ModelSheet::copySelected() {
  std::vector<ElementId> fresh;
  Box3 all;
  for (ElementId id : document_.looking().selected)
    if (const ElementPtr e = document_.project().element(id)) all.addBox(boxOf(*e));
  if (all.empty()) return;
  document_.change(withCopies(document_.project(), document_.looking().selected, {all.size().x + 4, 0, 0}, &fresh),
                   "Copy");
  if (!fresh.empty()) document_.look([&](Looking& l) { l.selected = fresh; });
}

void ModelSheet::selectAlike() {
  const Project& p = document_.project();
  const auto& selected = document_.looking().selected;
  const ElementPtr like = selected.empty() ? nullptr : p.element(selected.front());
  if (!like) return;
  std::vector<ElementId> ids;
  for (const ElementPtr& e : p.elements)
    if (e->layer == like->layer && e->role == like->role && e->shape.index() == like->shape.index())
      ids.push_back(e->id);
  document_.look([&](Looking& l) {
    l.selected = ids;
    l.face.reset();
  });
}

void ModelSheet::deleteSelected() {
  if (!document_.looking().selected.empty())
    document_.change(withoutElements(document_.project(), document_.looking().selected), "Delete");
}

void ModelSheet::turnSelected(double angle) {
  editSelected("Turn", [&](Element& e) { turnElement(e, middleOf(e), angle); });
}

void ModelSheet::fillUnderlays() {
  const std::vector<Underlay>& all = document_.project().underlays;
  pictures_->setVisible(!all.empty());
  std::vector<UnderlayId> ids;
  for (const Underlay& u : all) ids.push_back(u.id);
  filling_ = true;
  if (ids != laid_) {
    laid_ = ids;
    underlays_->clear();
    for (std::size_t i = 0; i < ids.size(); ++i) underlays_->addItem("");
    underlays_->setFixedHeight(6 + 27 * std::clamp(int(ids.size()), 1, 4));
    if (!ids.empty()) underlays_->setCurrentRow(int(ids.size()) - 1);
  }
  for (int i = 0; i < int(all.size()); ++i) {
    const Underlay& u = all[std::size_t(i)];
    QListWidgetItem* item = underlays_->item(i);
    item->setText(QString::fromStdString(u.name) +
                  (!u.picture                          ? "   file is gone"
                   : kindOf(u) == UnderlayKind::Facade ? "   facade"
                   : kindOf(u) == UnderlayKind::Sheet  ? "   map sheet"
                                                       : "   plan") +
                  (u.scaled ? "" : " · not to scale"));
    item->setCheckState(u.shown ? Qt::Checked : Qt::Unchecked);
  }
  filling_ = false;
}

void ModelSheet::refresh() {
  fillUnderlays();
  const Project& p = document_.project();
  const auto& selected = document_.looking().selected;
  std::size_t proposed = 0, demolished = 0, out = 0, ghosts = 0;
  for (const ElementPtr& e : p.elements) {
    proposed += e->proposed;
    demolished += e->demolished;
    out += !e->counted && !e->ghost;
    ghosts += e->ghost;
  }
  summary_->setText(
      p.elements.empty()
          ? QString("Nothing is built yet. Draw a mass on the ground, or import a model: tools stand at the "
                    "stage's left edge.")
          : QString("%1, %2 proposed%3%4.")
                    .arg(countText(p.elements.size(), "element"))
                    .arg(proposed)
                    .arg(demolished ? QString(", %1 to be demolished").arg(demolished) : QString())
                    .arg(out ? QString(", %1 left out").arg(out) : QString()) +
                (ghosts ? QString(" A simplified model stands for %1 of them.").arg(ghosts) : QString()) +
                (selected.empty() ? " Click a mass on the stage or in the list; pull a face of it to change "
                                    "it, type a number for its height."
                                  : ""));
  const ElementPtr e = selected.empty() ? nullptr : p.element(selected.front());
  const bool one = e != nullptr;
  refreshLayers();
  const QList<QWidget*> fields{name_,     layer_,   height_, storeys_, base_,  role_,
                               proposed_, counted_, hidden_, moveX_,   moveY_, turn_};
  for (QWidget* w : fields) w->setEnabled(one);
  selectedRows_->setVisible(one);
  everythingRows_->setVisible(!p.elements.empty());
  if (e) {
    const Box3 b = boxOf(*e);
    const auto text = [&](double v) { return QString::fromStdString(lengthText(v, p.units.length)); };
    QString facts;
    if (selected.size() > 1)
      facts = QString("%1 elements; changes go to all of them.").arg(selected.size());
    else {
      facts = QString::fromStdString(std::visit([&](const auto& s) { return factsOf(s, p.units.length); }, e->shape));
      if (!e->source.empty()) facts += " from " + QString::fromStdString(e->source);
    }
    size_->setText(facts);
    show(name_, QString::fromStdString(e->name));
    show(layer_, QString::fromStdString(e->layer));
    show(height_, text(e->mass() ? e->mass()->height : heightOf(*e)));
    show(storeys_, e->mass() ? QString::number(e->mass()->storeys) : QString());
    storeys_->parentWidget()->setVisible(e->mass());
    const Roof roof = e->mass() ? e->mass()->roof : Roof{};
    roof_->setCurrentIndex(roof.flat() ? 0 : int(roof.kind));
    show(rise_, text(roof.rise));
    show(ridge_, QString("%1°").arg(degrees(roof.along), 0, 'g', 5));
    roof_->parentWidget()->setVisible(e->mass());
    rise_->parentWidget()->setVisible(e->mass() && !roof.flat());
    ridge_->parentWidget()->setVisible(e->mass() && !roof.flat() && roof.kind != Roof::Kind::Hip);
    show(base_, text(b.low.z));
    role_->setCurrentIndex(int(std::find(allRoles.begin(), allRoles.end(), e->role) - allRoles.begin()));
    proposed_->setCurrentIndex(e->demolished ? 2 : e->proposed ? 1 : 0);
    counted_->setCurrentIndex(!e->counted);
    hidden_->setCurrentIndex(e->hidden);
    treeGroup_->setVisible(e->tree());
    if (e->tree()) treeRows_->show(*e->tree(), p.units, {}, FieldRows<Tree>::Idle::Gone);
    refreshShaping(*e, selected.size());
  }
  tilt_->parentWidget()->setVisible(e && e->plate());
  alone_->setCurrentIndex(
      document_.looking().onlyRole
          ? 1 + int(std::find(allRoles.begin(), allRoles.end(), *document_.looking().onlyRole) - allRoles.begin())
          : 0);
  filling_ = true;
  QString key = filter_->text();
  std::vector<ElementPtr> shown;
  for (const ElementPtr& x : p.elements) {
    const QString name = QString::fromStdString(x->name);
    if (!filter_->text().isEmpty() && !name.contains(filter_->text(), Qt::CaseInsensitive)) continue;
    if (shown.size() >= 2000) break;
    shown.push_back(x);
    key += QString::number(quintptr(x.get()), 16);
  }
  if (key != listKey_) {
    listKey_ = key;
    list_->clear();
    listed_.clear();
    for (const ElementPtr& x : shown) {
      listed_.push_back(x->id);
      QString line = QString::fromStdString(x->name) + "   " + QString(roleName(x->role)).toLower();
      if (x->proposed) line += " · proposed";
      if (x->demolished) line += " · to be demolished";
      if (x->ghost)
        line += " · ghost";
      else if (!x->counted)
        line += " · left out";
      if (x->hidden) line += " · hidden";
      list_->addItem(line);
    }
  }
  for (int i = 0; i < list_->count(); ++i)
    list_->item(i)->setSelected(std::find(selected.begin(), selected.end(), listed_[std::size_t(i)]) != selected.end());
  filling_ = false;
}

} // namespace noonward
