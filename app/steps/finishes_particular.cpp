// The part of the Finishes sheet that gives a finish to some surfaces only: an element, a face, a layer, a side, a type
// of window; and lists those that do not follow.

#include "app/steps/finishes_sheet.h"
#include "app/theme/style.h"
#include "core/model/form/edit.h"
#include "core/model/light_model.h"
#include <QComboBox>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <set>

namespace noonward {

void FinishesSheet::buildParticular() {
  target_ = addNames(
      "Assign to", [](int) {}, "Some surfaces only: the more exact goes before the general");
  target_->setAccessibleName("Surfaces to assign it to");
  auto* row = addButtons();
  give_ = new QPushButton("Assign");
  give_->setAccessibleName("Assign finish to surfaces");
  connect(give_, &QPushButton::clicked, this, [this] { giveParticular(); });
  row->addWidget(give_);
  alone_ = new QPushButton("Show its panes alone");
  alone_->setAccessibleName("Show its panes alone");
  connect(alone_, &QPushButton::clicked, this, [this] {
    document_.look([&](Looking& l) {
      l.onlyRole.reset();
      l.onlyGlazing = l.onlyGlazing == looked_ ? std::string() : looked_;
    });
  });
  row->addWidget(alone_);
  particularList_ = new QListWidget;
  particularList_->setAccessibleName("Finishes of some surfaces");
  particularList_->setWordWrap(true);
  particularList_->setMaximumHeight(96);
  addWidget(particularList_);
  connect(particularList_, &QListWidget::itemSelectionChanged, this, [this] {
    const QListWidgetItem* item = particularList_->currentItem();
    const auto& list = document_.project().assignments;
    if (!item || item->data(Qt::UserRole).toUInt() >= list.size()) return;
    const auto others = notFollowing(document_.project(), list[item->data(Qt::UserRole).toUInt()]);
    QString text = others.empty() ? QString("All it fits follow.") : QString("%1 do not follow: ").arg(others.size());
    for (std::size_t k = 0; k < others.size() && k < 6; ++k)
      text += QString::fromStdString((k ? "; " : "") + others[k].first + " (" + others[k].second + ")");
    if (others.size() > 6) text += "; …";
    notFollowing_->setText(text);
  });
  notFollowing_ = addNote();
  notFollowing_->setAccessibleName("Surfaces that do not follow");
  addButton("Unassign", [this] {
    const int i = particularList_->currentRow();
    if (i < 0) return;
    const int index = particularList_->item(i)->data(Qt::UserRole).toInt();
    Project p = document_.project();
    if (index < int(p.assignments.size())) p.assignments.erase(p.assignments.begin() + index);
    document_.change(std::move(p), "Unassign finish");
  });
}

std::vector<FinishesSheet::Target> FinishesSheet::targets() const {
  std::vector<Target> out;
  const Project& p = document_.project();
  const bool glazing = !finishNamed(looked_) && glazingNamed(looked_);
  const auto& l = document_.looking();
  if (const ElementPtr e = l.selected.empty() ? nullptr : p.element(l.selected.front());
      e && (e->role == Role::Glazing) == glazing) {
    const QString name = QString::fromStdString(e->name);
    Assignment a;
    a.element = e->id;
    out.push_back({name, a});
    if (l.face && !glazing) {
      a.face = l.face;
      out.push_back({name + ", the selected face", a});
    }
  }
  std::set<std::string> layers, types;
  for (const ElementPtr& e : p.elements)
    if (!e->layer.empty() && (e->role == Role::Glazing) == glazing) layers.insert(e->layer);
  for (const std::string& layer : layers) {
    Assignment a;
    a.layer = layer;
    if (glazing) a.role = Role::Glazing;
    out.push_back({"layer " + QString::fromStdString(layer), a});
  }
  if (glazing) {
    for (const Opening& o : p.openings) types.insert(o.type);
    for (const WindowRule& w : p.windowRules) types.insert(w.type);
    types.erase("");
    for (const std::string& type : types) {
      Assignment a;
      a.type = type;
      a.role = Role::Glazing;
      out.push_back({"windows of type " + QString::fromStdString(type), a});
    }
  }
  for (const Facing f : allFacings) {
    Assignment a;
    a.facing = f;
    a.role = glazing ? Role::Glazing : Role::Building;
    out.push_back({QString(glazing ? "glass facing %1" : "facades facing %1").arg(facingKey(f)), a});
    if (glazing) continue;
    a.role = Role::Wall;
    out.push_back({QString("inside of %1 walls").arg(facingKey(f)), a});
  }
  return out;
}

QString FinishesSheet::fitsText(const Assignment& a, const Project& p) {
  QStringList parts;
  if (a.role) parts << QString(roleName(*a.role)).toLower();
  if (a.facing) parts << QString("facing %1").arg(facingKey(*a.facing));
  if (!a.layer.empty()) parts << "layer " + QString::fromStdString(a.layer);
  if (!a.type.empty()) parts << "type " + QString::fromStdString(a.type);
  if (a.element) {
    const ElementPtr e = p.element(*a.element);
    parts << (e ? QString::fromStdString(e->name) : QString("a surface")) +
                 (a.face ? QString(", face %1").arg(*a.face) : QString());
  }
  return parts.isEmpty() ? QString("everything") : parts.join(", ");
}

void FinishesSheet::giveParticular() {
  const auto list = targets();
  const int i = target_->currentIndex();
  if (i < 0 || i >= int(list.size()) || looked_.empty()) return;
  Project p = document_.project();
  Assignment a = list[std::size_t(i)].assignment;
  std::erase_if(p.assignments, [&](const Assignment& o) {
    Assignment same = o;
    same.finish = a.finish;
    return same == a;
  });
  a.finish = looked_;
  carry(p, looked_);
  p.assignments.push_back(a);
  document_.change(std::move(p), "Assign finish");
  const auto others = notFollowing(document_.project(), a);
  if (!others.empty())
    emit document_.notice(QString("%1 of them keep a finish of their own: see the list.").arg(others.size()), false);
}

void FinishesSheet::carry(Project& p, const std::string& name) const {
  if (const Finish* f = finishNamed(name)) {
    if (!findFinish(p.finishes, name)) p.finishes.push_back(*f);
  } else if (const Glazing* g = glazingNamed(name); g && !findGlazing(p.glazings, name)) {
    p.glazings.push_back(*g);
  }
}

void FinishesSheet::putInPlaceOf(const std::string& other) {
  Project p = document_.project();
  carry(p, looked_);
  document_.change(withFinishReplaced(std::move(p), other, looked_), "Replace finish");
}

void FinishesSheet::refreshParticular() {
  const Project& p = document_.project();
  const QString replaced = inPlaceOf_->currentText();
  inPlaceOf_->clear();
  inPlaceOf_->addItem("choose which");
  for (const std::string& n : names(!finishNamed(looked_) && glazingNamed(looked_)))
    if (n != looked_) inPlaceOf_->addItem(QString::fromStdString(n));
  inPlaceOf_->setCurrentIndex(std::max(0, inPlaceOf_->findText(replaced)));
  const QString before = target_->currentText();
  target_->clear();
  for (const Target& t : targets()) target_->addItem(t.name);
  target_->setCurrentIndex(std::max(0, target_->findText(before)));
  const int row = particularList_->currentRow();
  particularList_->clear();
  for (std::size_t i = 0; i < p.assignments.size(); ++i) {
    const Assignment& a = p.assignments[i];
    if (!a.element && !a.facing && a.layer.empty() && a.type.empty()) continue; // those above
    auto* item = new QListWidgetItem(QString::fromStdString(a.finish) + "  on  " + fitsText(a, p));
    item->setData(Qt::UserRole, int(i));
    particularList_->addItem(item);
  }
  particularList_->setVisible(particularList_->count() > 0);
  notFollowing_->setVisible(particularList_->count() > 0);
  if (row >= 0 && row < particularList_->count())
    particularList_->setCurrentRow(row);
  else
    notFollowing_->clear();
  const bool glazing = !finishNamed(looked_) && glazingNamed(looked_);
  alone_->setVisible(glazing);
  alone_->setText(document_.looking().onlyGlazing == looked_ ? "Show everything" : "Show its panes alone");
}

} // namespace noonward
