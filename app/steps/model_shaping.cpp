// The part of the Model sheet that shapes what is selected: rows, set-backs, cuts, joins, mirror images, alignment.

#include "app/steps/model_sheet.h"
#include "app/theme/style.h"
#include "core/model/form/arrange.h"
#include "core/model/form/edit.h"
#include "core/model/form/shaping.h"
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>

namespace noonward {

namespace {
constexpr const char* wrongLength = "A length is expected here, such as 12.5 or 40 ft";
}

void ModelSheet::buildShaping() {
  const auto quiet = [](const QString&) {};
  addFold("Copies in a row");
  copies_ = addField("Copies", quiet, "How many beside the one there is");
  stepX_ = addField("Each right by", quiet, "From middle to middle, along the drawing's right; negative: left");
  stepY_ = addField("Each up by", quiet, "From middle to middle, up the drawing; negative: down");
  rows_ = addField("Rows", quiet, "So many rows above each other make a grid");
  rowX_ = addField("Rows right by", quiet, "From a row to the next, along the drawing's right");
  rowY_ = addField("Rows up by", quiet, "From a row to the next, up the drawing");
  addButton("Copy in a row", [this] {
    copyInARow();
  })->setToolTip("Asked again for any of the row, the copies are moved, added and taken away");
  endFold();

  addFold("Set back and cut");
  setBackFrom_ = addField("From storey", quiet, "1 is the lowest; this one and all above it are set back");
  setBackFrom_->setText("2");
  setBackBy_ = addField("Set back by", quiet, "From the wall below");
  setBackBy_->setText(QString::fromStdString(lengthText(2, document_.project().units.length)));
  setBackSides_ = addChoice(
      "Set back from", {"all sides", "the wall picked"}, [](int) {}, "Pick a wall with a click on the selected mass");
  addButton("Set back", [this] { setBack(); });
  cutLevel_ = addField(
      "Cut at level", [this](const QString& t) { cutAtLevel(t); }, "What is above becomes a mass of its own");
  auto* cuts = addButtons();
  cuts->addWidget(actionButton("Cut along a line", [this] { cutAlongALine(); }));
  cuts->addWidget(actionButton("Cut out of the first", [this] { cutOut(); }));
  endFold();

  addFold("Mirror and align");
  mirror_ = addChoice(
      "Mirror in", {"an upright line", "a level line", "a line to draw"}, [](int) {},
      "As seen in plan, through the middle of the selection, or beside it where a copy is made");
  mirrored_ = addChoice(
      "Mirror image", {"itself", "a copy of it"}, [](int) {}, "Whether what is selected stays as it is");
  addButton("Mirror it", [this] { mirror(); });
  alignRows_ = addGroup();
  align_ = addChoice(
      "Align",
      {"left sides", "middles left to right", "right sides", "lower sides", "middles low to high", "upper sides",
       "base levels", "tops"},
      [](int) {}, "With the one selected first");
  addButton("Align them", [this] {
    document_.change(withAligned(document_.project(), document_.looking().selected, Align(align_->currentIndex())),
                     "Align");
  });
  endGroup();
  endFold();

  addFold("Together");
  group_ = addField(
      "Group", [this](const QString& t) { holdTogether(t); },
      "A name that several elements share: a click selects them all, with Ctrl one alone");
  auto* together = addButtons();
  together->addWidget(actionButton("Hold together", [this] { holdTogether({}); }));
  together->addWidget(actionButton("Let go", [this] { letGo(); }));
  addButton("Join", [this] {
    join();
  })->setToolTip("Masses into one; where they differ in height, one for each run of levels");
  endFold();
}

QPushButton* ModelSheet::actionButton(const QString& text, const std::function<void()>& done) {
  auto* b = new QPushButton(text);
  b->setAccessibleName(text);
  connect(b, &QPushButton::clicked, this, [done] { done(); });
  return b;
}

void ModelSheet::shaped(Expected<Project> made, const QString& name, const std::vector<ElementId>& selected) {
  if (!made) return emit document_.notice(QString::fromStdString(made.error().text()), true);
  document_.change(std::move(*made), name);
  if (!selected.empty())
    document_.look([&](Looking& l) {
      l.selected = selected;
      l.face.reset();
    });
}

std::optional<double> ModelSheet::lengthIn(QLineEdit* field, std::optional<double> usual) {
  showFault(field, {});
  const std::string text = field->text().trimmed().toStdString();
  const auto v = text.empty() ? usual : lengthFromText(text, document_.project().units.length);
  if (v && std::abs(*v) <= 1e5) return v;
  showFault(field, wrongLength);
  return {};
}

std::optional<int> ModelSheet::countIn(QLineEdit* field, int least, int most, int usual) {
  showFault(field, {});
  const std::string text = field->text().trimmed().toStdString();
  const auto v = text.empty() ? std::optional<double>(usual) : numberFromText(text);
  if (v && *v >= least && *v <= most && *v == std::floor(*v)) return int(*v);
  showFault(field, QString("A whole number from %1 to %2 is expected").arg(least).arg(most));
  return {};
}

void ModelSheet::copyInARow() {
  Box3 all;
  for (ElementId id : document_.looking().selected)
    if (const ElementPtr e = document_.project().element(id)) all.addBox(boxOf(*e));
  if (all.empty()) return;
  const auto copies = countIn(copies_, 0, mostInARow, 3), rows = countIn(rows_, 1, mostInARow, 1);
  const auto x = lengthIn(stepX_, all.size().x + 4), y = lengthIn(stepY_, 0.0), nextX = lengthIn(rowX_, 0.0),
             nextY = lengthIn(rowY_, all.size().y + 4);
  if (!copies || !rows || !x || !y || !nextX || !nextY) return;
  RowLayout layout{*copies + 1, *rows, {*x, *y}, {*nextX, *nextY}};
  auto made = withRow(document_.project(), document_.looking().selected, layout);
  if (!made) return showFault(stepX_, QString::fromStdString(made.error().message));
  const auto row = rowOf(document_.project(), document_.looking().selected.front());
  document_.change(std::move(*made), "Copy in a row");
  document_.look([&](Looking& l) { // the one looked at may be one of those taken away
    std::erase_if(l.selected, [&](ElementId id) { return !document_.project().element(id); });
    if (l.selected.empty() && row) l.selected = {row->first};
  });
}

void ModelSheet::setBack() {
  const Project& p = document_.project();
  const auto& selected = document_.looking().selected;
  const auto by = lengthIn(setBackBy_, 2.0);
  const auto storey = countIn(setBackFrom_, 1, 500, 2);
  if (!by || !storey || selected.empty()) return;
  SetBack how{*storey, *by, {}};
  if (setBackSides_->currentIndex() == 1) {
    const auto face = document_.looking().face;
    if (!face || *face < firstWallFace || selected.size() != 1)
      return emit document_.notice("Pick the wall first: click it on the selected mass.", true);
    how.edges = {*face - firstWallFace};
  }
  std::vector<ElementId> made;
  shaped(withSetBack(p, selected.front(), how, &made), "Set back", made);
}

void ModelSheet::cutAtLevel(const QString& text) {
  const auto level = lengthFromText(text.toStdString(), document_.project().units.length);
  if (!level) return showFault(cutLevel_, wrongLength);
  if (document_.looking().selected.empty()) return;
  std::vector<ElementId> made;
  shaped(withCutAtLevel(document_.project(), document_.looking().selected.front(), *level, &made), "Cut at a level",
         made);
  cutLevel_->clear();
}

void ModelSheet::cutAlongALine() {
  stage_.setTool(Tool::Cut);
  stage_.setFocus();
}

void ModelSheet::cutOut() {
  const auto& selected = document_.looking().selected;
  if (selected.size() < 2)
    return emit document_.notice("Select the mass to be cut first, then the ones to cut out of it.", true);
  std::vector<ElementId> made;
  shaped(withMassCutOut(document_.project(), selected.front(), {selected.begin() + 1, selected.end()}, true, &made),
         "Cut out", made);
}

void ModelSheet::join() {
  std::vector<ElementId> made;
  shaped(withMassesJoined(document_.project(), document_.looking().selected, &made), "Join masses", made);
}

void ModelSheet::mirror() {
  const auto& selected = document_.looking().selected;
  const int how = mirror_->currentIndex();
  if (selected.empty()) return;
  if (how == 2) {
    stage_.setTool(Tool::Mirror);
    return stage_.setFocus();
  }
  Box3 all;
  for (ElementId id : selected)
    if (const ElementPtr e = document_.project().element(id)) all.addBox(boxOf(*e));
  const bool copies = mirrored_->currentIndex() == 1;
  Vec2 at = xy(all.center());
  if (copies) at = how == 0 ? Vec2{all.high.x + 2, at.y} : Vec2{at.x, all.high.y + 2}; // beside it, not through it
  std::vector<ElementId> made;
  shaped(withMirrored(document_.project(), selected, at, at + (how == 0 ? Vec2{0, 1} : Vec2{1, 0}), copies, &made),
         "Mirror", made);
}

void ModelSheet::holdTogether(const QString& name) {
  const Project& p = document_.project();
  const auto& selected = document_.looking().selected;
  if (selected.empty()) return;
  if (selected.size() < 2 && name.trimmed().isEmpty())
    return emit document_.notice("Select several elements to hold them together.", true);
  const std::string group = name.trimmed().isEmpty() ? freshGroup(p, "Group") : name.trimmed().toStdString();
  document_.change(withGroupNamed(p, selected, group), "Hold together");
}

void ModelSheet::letGo() {
  document_.change(withGroupNamed(document_.project(), document_.looking().selected, ""), "Let go");
}

void ModelSheet::takeAlong(bool away) {
  const auto& selected = document_.looking().selected;
  if (selected.empty()) return emit document_.notice("Select what is to be taken along first.", true);
  taken_ = document_.project();
  taken_->options.clear(); // the designs of the others are not looked at
  taken_->derived = freshDerivedMemory();
  takenElements_ = selected;
  if (away) document_.change(withoutHosts(document_.project(), selected), "Take along");
  emit document_.notice(QString("%1 taken along: choose another option, then Put here (Ctrl+V).")
                            .arg(countText(takenElements_.size(), "element")),
                        false);
}

void ModelSheet::putHere() {
  if (!taken_) return emit document_.notice("Nothing was taken along yet: select it and press Ctrl+C or Ctrl+X.", true);
  std::vector<ElementId> made;
  Project put = withPasted(document_.project(), *taken_, takenElements_, &made);
  shaped(std::move(put), "Put here", made);
}

void ModelSheet::refreshShaping(const Element& e, std::size_t selected) {
  const Project& p = document_.project();
  const auto text = [&](double v) { return QString::fromStdString(lengthText(v, p.units.length)); };
  const auto row = rowOf(p, e.id);
  const RowLayout l = row ? row->layout : RowLayout{4, 1, {boxOf(e).size().x + 4, 0}, {0, boxOf(e).size().y + 4}};
  const QString key = QString::fromStdString(e.id.text()) + text(boxOf(e).size().x) + text(boxOf(e).size().y) +
                      (row ? text(l.stepRight.x) + text(l.stepRight.y) + text(l.stepUp.x) + text(l.stepUp.y) +
                                 QString("/%1/%2").arg(l.right).arg(l.up)
                           : QString());
  if (key != rowKey_) { // what is typed there stays until the row, or the element, is another
    rowKey_ = key;
    show(copies_, QString::number(l.right - 1));
    show(rows_, QString::number(l.up));
    show(stepX_, text(l.right > 1 ? l.stepRight.x : boxOf(e).size().x + 4));
    show(stepY_, text(l.stepRight.y));
    show(rowX_, text(l.stepUp.x));
    show(rowY_, text(l.up > 1 ? l.stepUp.y : boxOf(e).size().y + 4));
  }
  show(group_, QString::fromStdString(e.group));
  alignRows_->setVisible(selected > 1);
}

} // namespace noonward
