// The part of the Rooms sheet for windows drawn one by one, each of which may stand in a row.

#include "app/steps/looked_at.h"
#include "app/steps/rooms_sheet.h"
#include "app/theme/style.h"
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

namespace noonward {

void RoomsSheet::addSmall(QBoxLayout* row, const QString& text, const QString& tip, const std::function<void()>& done) {
  auto* b = new QPushButton(text);
  b->setAccessibleName(text);
  b->setToolTip(tip);
  connect(b, &QPushButton::clicked, this, [done] { done(); });
  row->addWidget(b);
}

void RoomsSheet::fillGlazings(QComboBox* choice, const std::string& now) {
  choice->clear();
  choice->addItem("by finish");
  const Project& p = document_.project();
  for (const Glazing& g : p.glazings) choice->addItem(QString::fromStdString(g.name));
  for (const Glazing& g : libraryGlazings())
    if (!findGlazing(p.glazings, g.name)) choice->addItem(QString::fromStdString(g.name));
  choice->setCurrentIndex(std::max(0, choice->findText(QString::fromStdString(now))));
}

void RoomsSheet::editOpening(const QString& name, const std::function<void(Opening&)>& change) {
  editLookedAt(document_, &Project::openings, document_.looking().opening, name, change);
}

void RoomsSheet::buildOpenings() {
  addHeading("Windows one by one");
  auto* tools = addButtons();
  addSmall(tools, "Draw windows", "Click two corners on a facade; W", [this] {
    stage_.setTool(Tool::Window);
    stage_.setFocus();
  });
  openRows_ = addGroup();
  whichOpening_ = addNames("Window", [this](int i) {
    const auto& list = document_.project().openings;
    if (i >= 0 && i < int(list.size())) document_.look([&](Looking& l) { l.opening = list[std::size_t(i)].id; });
  });
  whichOpening_->setAccessibleName("Drawn window");
  openFacts_ = addNote();
  openAlong_ = lengthField(
      "From the corner", -1e5, [this](double v) { editOpening("Move window", [&](Opening& o) { o.along = v; }); },
      "From the wall's first corner, seen from outside its left; in a ceiling x");
  openSill_ = lengthField(
      "Its sill", -1e5, [this](double v) { editOpening("Set sill", [&](Opening& o) { o.sill = v; }); },
      "Above the floor; in a ceiling y");
  openWidth_ =
      lengthField("Its width", 0.05, [this](double v) { editOpening("Set width", [&](Opening& o) { o.width = v; }); });
  openHeight_ = lengthField("Its height", 0.05,
                            [this](double v) { editOpening("Set height", [&](Opening& o) { o.height = v; }); });
  openRepeat_ = numberField(
      "Row of", "", 1, 200, [this](double v) { editOpening("Set count", [&](Opening& o) { o.repeat = int(v); }); },
      "So many alike beside each other");
  openGap_ = lengthField(
      "Gap", 0, [this](double v) { editOpening("Set gap", [&](Opening& o) { o.gap = v; }); },
      "Between the windows of the row");
  openType_ = addField(
      "Its type",
      [this](const QString& t) { editOpening("Set type", [&](Opening& o) { o.type = t.trimmed().toStdString(); }); },
      "A name of your own: finishes and shading can go by it");
  openGlazing_ = addNames("Its glazing", [this](int i) {
    const std::string name = i <= 0 ? std::string() : openGlazing_->currentText().toStdString();
    editOpening("Choose glazing", [&](Opening& o) { o.glazing = name; });
  });
  addButton("Delete window", [this] {
    Project p = document_.project();
    if (const Opening* now = lookedAt(p.openings, document_.looking().opening))
      std::erase_if(p.openings, [id = now->id](const Opening& o) { return o.id == id; });
    document_.change(std::move(p), "Delete window");
  });
  endGroup();
}

void RoomsSheet::refreshOpening() {
  const Project& p = document_.project();
  const Opening* o = lookedAt(p.openings, document_.looking().opening);
  openRows_->setVisible(o != nullptr);
  whichOpening_->clear();
  for (const Opening& x : p.openings) {
    const Room* r = p.room(x.room);
    whichOpening_->addItem(QString::fromStdString((r ? r->name + ": " : std::string()) + x.name));
    if (o && x.id == o->id) whichOpening_->setCurrentIndex(whichOpening_->count() - 1);
  }
  if (!o) return;
  const auto text = [&](double v) { return QString::fromStdString(lengthText(v, p.units.length)); };
  QString facts = o->edge < 0 ? QString("In the ceiling") : QString();
  if (const Room* r = p.room(o->room); r && o->edge >= 0 && o->edge < int(r->outline.outer.size())) {
    const Ring& ring = r->outline.outer;
    const Vec2 d = ring[(std::size_t(o->edge) + 1) % ring.size()] - ring[std::size_t(o->edge)];
    const auto facing = facingOf({d.y, -d.x, 0}, p.site.northAngle);
    facts = QString("In the %1 wall, %2 long").arg(facing ? facingKey(*facing) : "sloping", text(length(d)));
  }
  openFacts_->setText(
      facts +
      QString(", %1 in all").arg(shownQuantity(o->width * o->height * std::max(1, o->repeat), 1, "m²", p.units)));
  show(openAlong_, text(o->along));
  show(openSill_, text(o->sill));
  show(openWidth_, text(o->width));
  show(openHeight_, text(o->height));
  show(openRepeat_, QString::number(o->repeat));
  show(openGap_, text(o->gap));
  openGap_->setEnabled(o->repeat > 1);
  show(openType_, QString::fromStdString(o->type));
  fillGlazings(openGlazing_, o->glazing);
}

} // namespace noonward
