#include "app/steps/finishes_sheet.h"
#include "app/theme/style.h"
#include "core/model/form/edit.h"
#include "core/model/light_model.h"
#include "core/model/settings/fields.h"
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTimer>

namespace noonward {

namespace {
struct SurfaceKind {
  const char* label;
  Role role;
};
constexpr std::array<SurfaceKind, 8> kinds{{{"Ceilings", Role::Ceiling},
                                            {"Walls", Role::Wall},
                                            {"Partitions", Role::Partition},
                                            {"Floors", Role::Floor},
                                            {"Glass", Role::Glazing},
                                            {"Buildings", Role::Building},
                                            {"Neighbours", Role::Neighbour},
                                            {"Shading", Role::Shading}}};

} // namespace

std::vector<std::string> FinishesSheet::names(bool glazing) const {
  const Project& p = document_.project();
  std::vector<std::string> out;
  const auto add = [&](const auto& list) {
    for (const auto& x : list)
      if (std::find(out.begin(), out.end(), x.name) == out.end()) out.push_back(x.name);
  };
  if (glazing) {
    add(p.glazings);
    add(shelf_.glazings);
    add(libraryGlass_);
  } else {
    add(p.finishes);
    add(shelf_.finishes);
    add(library_);
  }
  return out;
}

const Finish* FinishesSheet::finishNamed(const std::string& name) const {
  for (const auto* list : {&document_.project().finishes, &shelf_.finishes, &library_})
    if (const Finish* f = findFinish(*list, name)) return f;
  return nullptr;
}

const Glazing* FinishesSheet::glazingNamed(const std::string& name) const {
  for (const auto* list : {&document_.project().glazings, &shelf_.glazings, &libraryGlass_})
    if (const Glazing* g = findGlazing(*list, name)) return g;
  return nullptr;
}

FinishesSheet::FinishesSheet(Document& document, QWidget* parent) : Sheet("Finishes", document, parent) {
  if (auto shelf = readFinishShelf(userFinishes()))
    shelf_ = std::move(*shelf);
  else
    QTimer::singleShot(0, this, [this, text = QString::fromStdString(shelf.error().text())] {
      emit document_.notice("Your kept finishes could not be read. " + text, true);
    });
  addNote("What surfaces reflect and glass lets through. Sun hours need none of it; light does. A change never asks "
          "for geometry again.");
  for (std::size_t k = 0; k < kinds.size(); ++k) {
    auto* c = addChoice(kinds[k].label, {}, [this, k](int i) {
      const auto list = names(kinds[k].role == Role::Glazing);
      if (i >= 0 && i < int(list.size())) give(int(k), list[std::size_t(i)]);
    });
    c->setAccessibleName(QString("Finish of %1").arg(QString(kinds[k].label).toLower()));
    explain({{c, "For all of these that have none of their own"}});
    given_.push_back(c);
  }
  ground_ = shareField(
      "Ground",
      [this](double v) {
        Project p = document_.project();
        p.site.groundReflectance = v;
        document_.change(std::move(p), "Set ground reflectance");
      },
      "What the endless ground around the model reflects");
  particular_ = addNote();
  addHeading("Library");
  which_ = addNames("Look at", [this](int) {
    looked_ = which_->currentText().toStdString();
    refresh();
  });
  which_->setAccessibleName("Finish looked at");
  source_ = addNote();
  inPlaceOf_ = addNames(
      "Replace", [](int) {}, "Puts this one wherever another is used: in windows, on elements, as a default");
  inPlaceOf_->setAccessibleName("Finish to replace");
  addButton("Replace", [this] {
    if (inPlaceOf_->currentIndex() > 0) putInPlaceOf(inPlaceOf_->currentText().toStdString());
  });
  buildParticular();
  copy_ = addButton("Make my own", [this] { copyToEdit(); });
  keep_ = addButton("Keep for other projects", [this] { keepForOthers(); });
  name_ = addName("Name", [this](const QString& t) {
    const std::string fresh = t.trimmed().toStdString();
    Project p = document_.project();
    if (fresh.empty() || findFinish(p.finishes, fresh) || findGlazing(p.glazings, fresh))
      return showFault(name_, "A name that is not taken is expected here");
    for (Finish& f : p.finishes)
      if (f.name == looked_) f.name = fresh;
    for (Glazing& g : p.glazings)
      if (g.name == looked_) g.name = fresh;
    p = withFinishReplaced(std::move(p), looked_, fresh);
    looked_ = fresh;
    document_.change(std::move(p), "Rename finish");
  });
  name_->setAccessibleName("Finish name");
  finishRows_ = addGroup();
  reflectance_ = shareField("Reflectance",
                            [this](double v) { editFinish("Set reflectance", [&](Finish& f) { f.reflectance = v; }); });
  specular_ = shareField(
      "Specularity", [this](double v) { editFinish("Set specularity", [&](Finish& f) { f.specular = v; }); },
      "Share of the reflected light that is mirrored");
  endGroup();
  glazingRows_ = addGroup();
  transmittance_ = shareField(
      "Transmittance", [this](double v) { editGlazing("Set transmittance", [&](Glazing& g) { g.transmittance = v; }); },
      "Visible, at normal incidence");
  panes_ = addField(
      "Panes",
      [this](const QString& t) {
        const auto v = numberFromText(t.toStdString());
        if (!v || *v < 0 || *v > 6 || *v != int(*v)) return showFault(panes_, "0 to 6 panes are expected");
        editGlazing("Set panes", [&](Glazing& g) { g.panes = int(*v); });
      },
      "0: an opening without glass");
  diffuse_ = shareField(
      "Diffuse share", [this](double v) { editGlazing("Set diffuse share", [&](Glazing& g) { g.diffuse = v; }); },
      "Of the transmitted light: opal glass, fabric");
  frame_ = shareField(
      "Frame factor", [this](double v) { editGlazing("Set frame", [&](Glazing& g) { g.frame = v; }); },
      "Glazed share of the opening: what the frame leaves");
  dirt_ = shareField(
      "Dirt factor", [this](double v) { editGlazing("Set dirt", [&](Glazing& g) { g.dirt = v; }); },
      "Share of the light that dirt lets through: 1 is clean");
  gains_ = shareField(
      "Solar factor g", [this](double v) { editGlazing("Set g", [&](Glazing& g) { g.solarFactor = v; }); },
      "Share of the sun's energy that comes through the glass as heat; 0 %: not stated");
  loses_ = addField(
      "U-value",
      [this](const QString& t) {
        const auto v = numberWithUnit(t.toStdString(), "W/m²K");
        if (!v || *v < 0 || *v > 10) return showFault(loses_, "0 to 10 W/m²K are expected");
        editGlazing("Set U-value", [&](Glazing& g) { g.uValue = *v; });
      },
      "Heat that window and frame lose for each degree, W/(m²K); 0: not stated");
  loses_->setAccessibleName("U-value of the glazing");
  endGroup();
  buildHeat();
  body()->addStretch();
  explain({{which_, "The finish or glazing that the fields below tell of"},
           {name_, "What it is called; records and tables name it so"},
           {reflectance_, "Share of light that comes back, diffuse and mirrored together"}});
  refresh();
}

QLineEdit* FinishesSheet::shareField(const QString& label, const std::function<void(double)>& done,
                                     const QString& help) {
  auto slot = std::make_shared<QLineEdit*>(nullptr);
  *slot = addField(
      label,
      [done, slot](const QString& t) {
        const auto v = numberFromText(QString(t).remove("%").toStdString());
        if (!v || *v < 0 || *v > 100) return showFault(*slot, "0 to 100 % is expected here");
        if (const std::string back = shareAskedBack(t.toStdString()); !back.empty())
          return showFault(*slot, "Is it " + QString::fromStdString(back) + "?");
        done(*v / 100);
      },
      help);
  return *slot;
}

void FinishesSheet::give(int surface, const std::string& name) {
  Project p = document_.project();
  const Role role = kinds[std::size_t(surface)].role;
  std::erase_if(p.assignments, [&](const Assignment& a) {
    return a.role == role && !a.element && !a.face && !a.facing && a.layer.empty() && a.type.empty();
  });
  if (name != defaultFinish(role)) {
    Assignment a;
    a.finish = name;
    a.role = role;
    // What the user keeps goes with the project, so that it can be computed anywhere.
    if (const Finish* f = findFinish(shelf_.finishes, name); f && !findFinish(p.finishes, name))
      p.finishes.push_back(*f);
    if (const Glazing* g = findGlazing(shelf_.glazings, name); g && !findGlazing(p.glazings, name))
      p.glazings.push_back(*g);
    p.assignments.insert(p.assignments.begin(), a); // the general before the particular
  }
  document_.change(std::move(p), "Assign finish");
}

void FinishesSheet::copyToEdit() {
  Project p = document_.project();
  std::string fresh;
  for (int n = 1; fresh.empty() || findFinish(p.finishes, fresh) || findGlazing(p.glazings, fresh); ++n)
    fresh = looked_ + ", own" + (n > 1 ? " " + std::to_string(n) : "");
  const Finish* f = finishNamed(looked_);
  const Glazing* g = glazingNamed(looked_);
  if (f) {
    Finish copy = *f;
    copy.name = fresh;
    copy.locked = false;
    copy.source = "copied from " + f->name;
    p.finishes.push_back(std::move(copy));
  } else if (g) {
    Glazing copy = *g;
    copy.name = fresh;
    copy.locked = false;
    copy.source = "copied from " + g->name;
    p.glazings.push_back(std::move(copy));
  } else {
    return;
  }
  looked_ = fresh;
  document_.change(std::move(p), "Copy finish");
}

void FinishesSheet::keepForOthers() {
  const auto keep = [](auto& list, const auto& one) {
    std::erase_if(list, [&](const auto& x) { return x.name == one.name; });
    list.push_back(one);
  };
  if (const Finish* f = findFinish(document_.project().finishes, looked_))
    keep(shelf_.finishes, *f);
  else if (const Glazing* g = findGlazing(document_.project().glazings, looked_))
    keep(shelf_.glazings, *g);
  else
    return;
  const Outcome done = writeFinishShelf(shelf_, userFinishes());
  emit document_.notice(done ? QString("\"%1\" is kept for other projects.").arg(QString::fromStdString(looked_))
                             : "Not kept. " + QString::fromStdString(done.error().text()),
                        !done);
  refresh();
}

void FinishesSheet::editFinish(const QString& name, const std::function<void(Finish&)>& change) {
  Project p = document_.project();
  for (Finish& f : p.finishes)
    if (f.name == looked_) change(f);
  document_.change(std::move(p), name);
}

void FinishesSheet::editGlazing(const QString& name, const std::function<void(Glazing&)>& change) {
  Project p = document_.project();
  for (Glazing& g : p.glazings)
    if (g.name == looked_) change(g);
  document_.change(std::move(p), name);
}

void FinishesSheet::refresh() {
  const Project& p = document_.project();
  const auto share = [](double v) { return QString("%1 %").arg(100 * v, 0, 'g', 3); };
  for (std::size_t k = 0; k < kinds.size(); ++k) {
    given_[k]->clear();
    for (const std::string& n : names(kinds[k].role == Role::Glazing)) given_[k]->addItem(QString::fromStdString(n));
    SurfaceQuestion asked;
    asked.role = kinds[k].role;
    const SurfaceAnswer a = finishFor(p, asked);
    given_[k]->setCurrentIndex(given_[k]->findText(QString::fromStdString(a.name)));
  }
  show(ground_, share(p.site.groundReflectance));
  int particular = 0;
  for (const Assignment& a : p.assignments) particular += a.element || a.facing || !a.layer.empty() || !a.type.empty();
  for (const ElementPtr& e : p.elements) particular += !e->finish.empty();
  for (const WindowRule& w : p.windowRules) particular += !w.glazing.empty();
  particular_->setText(
      particular
          ? QString("%1 surfaces, windows or layers have a finish of their own and do not follow.").arg(particular)
          : QString("Every surface follows these."));
  const std::vector<std::string> opaque = names(false), glass = names(true);
  if (looked_.empty() || (std::find(opaque.begin(), opaque.end(), looked_) == opaque.end() &&
                          std::find(glass.begin(), glass.end(), looked_) == glass.end()))
    looked_ = opaque.front();
  which_->clear();
  for (const auto* list : {&opaque, &glass})
    for (const std::string& n : *list) which_->addItem(QString::fromStdString(n));
  which_->setCurrentIndex(which_->findText(QString::fromStdString(looked_)));
  const Finish* own = findFinish(p.finishes, looked_);
  const Finish* f = finishNamed(looked_);
  const Glazing* ownGlass = findGlazing(p.glazings, looked_);
  const Glazing* g = f ? nullptr : glazingNamed(looked_);
  finishRows_->setVisible(f);
  glazingRows_->setVisible(g);
  const bool editable = f ? own != nullptr : ownGlass != nullptr;
  const bool kept = findFinish(shelf_.finishes, looked_) || findGlazing(shelf_.glazings, looked_);
  keep_->setVisible(editable);
  source_->setText(
      QString("%1%2").arg(editable ? kept ? "Your own, kept for other projects. " : "Your own, of this project. "
                          : kept   ? "Kept from another project. "
                                   : "Ships with the program, read-only. ",
                          QString::fromStdString(f   ? f->source
                                                 : g ? g->source
                                                     : "")));
  for (QLineEdit* field :
       {name_, reflectance_, specular_, transmittance_, panes_, diffuse_, frame_, dirt_, gains_, loses_})
    field->setEnabled(editable);
  show(name_, QString::fromStdString(looked_));
  if (f) {
    show(reflectance_, share(f->reflectance));
    show(specular_, share(f->specular));
  }
  refreshParticular();
  if (g) {
    show(transmittance_, share(g->transmittance));
    show(panes_, QString::number(g->panes));
    show(diffuse_, share(g->diffuse));
    show(frame_, share(g->frame));
    show(dirt_, share(g->dirt));
    show(gains_, g->solarFactor > 0 ? share(g->solarFactor) : QString("not stated"));
    show(loses_, g->uValue > 0 ? QString("%1 W/m²K").arg(g->uValue, 0, 'g', 3) : QString("not stated"));
  }
  refreshHeat();
}

} // namespace noonward
