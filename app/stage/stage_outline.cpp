// Tools that take the corners of an outline: blocks, areas, rooms, plates, sections.

#include "app/stage/stage.h"
#include "core/model/form/carry.h"
#include "core/model/form/edit.h"

namespace noonward {

void Stage::drawClick(QPointF at) {
  const Snap s = snapped(at);
  if (s.kind == SnapKind::Start) return finishOutline();
  Vec2 p = s.at;
  if (const auto typed = lengthFromText(typed_.toStdString(), document_.project().units); typed && !draft_.empty())
    p = atLength(draft_, p, *typed);
  typed_.clear();
  if (draft_.empty() || length(draft_.back() - p) > 1e-3) draft_.push_back(p);
  if (tool_ == Tool::Section && draft_.size() == 2) {
    const SectionLine line{draft_[0], draft_[1]};
    setTool(Tool::Select);
    document_.look([&](Looking& l) { l.section = line; });
    return setView(ViewKind::Section);
  }
  update();
}

void Stage::finishOutline() {
  if (tool_ == Tool::Section) return;
  if (const OutlineCheck c = checkOutline({draft_, {}}); c.fault != OutlineFault::None) {
    emit said(QString("This outline %1. Backspace takes the last corner away.").arg(faultText(c.fault)));
    return;
  }
  typed_.clear();
  const auto& selected = document_.looking().selected;
  if (tool_ == Tool::Room) {
    Room r;
    r.id = RoomId::fresh();
    Project p = document_.project();
    r.name = "Room " + std::to_string(p.rooms.size() + 1);
    r.outline = tidied({draft_, {}});
    p.rooms.push_back(std::move(r));
    document_.change(std::move(p), "Draw room");
    setTool(Tool::Select);
    return;
  }
  if (tool_ == Tool::Plate) {
    Element e;
    e.id = ElementId::fresh();
    e.name = freshName(document_.project(), "Shade");
    e.role = Role::Shading;
    e.proposed = true;
    Plate plate;
    for (Vec2 v : tidied({draft_, {}}).outer) plate.corners.push_back({v.x, v.y, 3});
    e.shape = std::move(plate);
    const ElementId id = e.id;
    document_.change(withElement(document_.project(), std::move(e)), "Draw shading plane");
    setTool(Tool::Select);
    document_.look([&](Looking& l) {
      l.selected = {id};
      l.step = Step::Model;
    });
    return;
  }
  if (tool_ == Tool::Area) {
    SensorGroup g;
    g.id = GroupId::fresh();
    g.name = freshName(document_.project(), "Area");
    GroundArea area;
    area.outline = tidied({draft_, {}});
    Box3 b;
    for (Vec2 p : draft_) b.add({p.x, p.y, 0});
    area.spacing = std::max(0.5, std::round(std::sqrt(b.size().x * b.size().y / 1500) * 2) / 2);
    g.layout = area;
    Project p = withGroup(document_.project(), g);
    if (p.studies.empty()) {
      Study s;
      s.id = StudyId::fresh();
      s.groups = {g.id};
      s.sunHours.season = document_.looking().season;
      p.studies.push_back(s);
    }
    const Date day = p.zone().clock(document_.looking().moment).date;
    if (p.studies.front().sunHours.dates.empty() && p.studies.size() == 1 && p.groups.size() == 1)
      p.studies.front().sunHours.dates = {day};
    document_.change(std::move(p), "Draw area");
    setTool(Tool::Select);
    return;
  }
  // Drawn inside the only selected mass: a hole (courtyard) of it.
  if (selected.size() == 1)
    if (const ElementPtr e = document_.project().element(selected.front()); e && e->mass()) {
      Outline o = e->mass()->outline;
      o.holes.push_back(draft_);
      if (checkOutline(o).fault == OutlineFault::None) {
        document_.change(
            withEdited(document_.project(), selected, [&](Element& x) { std::get<Mass>(x.shape).outline = tidied(o); }),
            "Cut courtyard");
        setTool(Tool::Select);
        return;
      }
    }
  raising_ = true;
  draftHeight_ = 9;
  emit said("Pull up with the pointer and click, or type the height and Enter");
  update();
}

void Stage::finishMass() {
  Element e;
  e.id = ElementId::fresh();
  e.name = freshName(document_.project(), "Block");
  e.role = Role::Building;
  e.proposed = true;
  if (const auto typed = lengthFromText(typed_.toStdString(), document_.project().units)) draftHeight_ = *typed;
  e.shape = Mass{tidied({draft_, {}}), 0, draftHeight_, std::max(1, int(std::lround(draftHeight_ / 3.2)))};
  const ElementId id = e.id;
  document_.change(withElement(document_.project(), std::move(e)), "Draw block");
  setTool(Tool::Select);
  document_.look([&](Looking& l) { l.selected = {id}; });
}

void Stage::applyTyped() {
  if (raising_) return finishMass();
  if (tool_ == Tool::Balcony) {
    if (facadeDraft_ && facadeDraft_->seen) finishBalcony();
    return;
  }
  if (tool_ == Tool::Window) {
    if ((wall_ || facadeDraft_) && !typed_.isEmpty()) windowClick(pointer_);
    return;
  }
  if (drawsOutline(tool_)) {
    if (!typed_.isEmpty() && !draft_.empty()) return drawClick(pointer_);
    if (draft_.size() > 2) finishOutline();
    return;
  }
  // Typed over a selection without a drag: its height.
  if (drag_ == Drag::None && !typed_.isEmpty())
    if (const Element* e = onlySelected())
      if (const auto h = lengthFromText(typed_.toStdString(), document_.project().units); h && *h > 0.01)
        document_.change(carried(document_.project(),
                                 withEdited(document_.project(), {e->id}, [&](Element& x) { setHeight(x, *h); }),
                                 {e->id}),
                         "Type height");
  typed_.clear();
  update();
}

} // namespace noonward
