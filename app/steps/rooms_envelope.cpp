// What is around a room: each surface with what lies behind it and its construction, as drawn or as corrected here or
// by a click on the stage.

#include "app/steps/rooms_sheet.h"
#include "core/model/heat_library.h"
#include "core/studies/energy/envelope.h"
#include <QListWidget>
#include <QScrollArea>
#include <QTimer>
#include <fmt/format.h>

namespace noonward {

namespace {
constexpr std::array<Beyond, 5> beyonds{Beyond::AsDrawn, Beyond::Outdoors, Beyond::Ground, Beyond::Unheated,
                                        Beyond::Alike};

std::vector<std::string> constructionNames(const HeatDesign& d) {
  std::vector<std::string> out;
  for (const auto& list : {d.constructions, libraryConstructions()})
    for (const Construction& c : list) out.push_back(c.name);
  return out;
}
/// Scrolls the sheet to it.
void bringUp(QWidget* w) {
  for (QWidget* p = w->parentWidget(); p; p = p->parentWidget())
    if (auto* area = qobject_cast<QScrollArea*>(p)) area->ensureWidgetVisible(w, 0, 24);
}
} // namespace

void RoomsSheet::buildEnvelope() {
  envelopeFold_ = addFold("What is around it");
  connect(envelopeFold_, &Fold::clicked, this, [this] { refreshEnvelope(); });
  envelopeFacts_ = addNote();
  envelopeFacts_->setAccessibleName("What the room loses");
  envelope_ = new QListWidget;
  envelope_->setAccessibleName("Surfaces of the room");
  envelope_->setWordWrap(true);
  envelope_->setMaximumHeight(150);
  addWidget(envelope_);
  connect(envelope_, &QListWidget::currentRowChanged, this, [this](int row) {
    if (row < 0 || row >= int(edges_.size())) return;
    const std::pair now{room_.value, edges_[std::size_t(row)]};
    if (document_.looking().heatSurface == now) return;
    document_.look([&](Looking& l) { l.heatSurface = now; });
  });
  beyond_ = addNames(
      "Behind it",
      [this](int i) {
        if (i >= 0 && i < int(beyonds.size()))
          editSurface("Say what is behind it", [&](HeatSurface& s) { s.beyond = beyonds[std::size_t(i)]; });
      },
      "As drawn, by where rooms, ground and roofs lie; or what you know better");
  beyond_->setAccessibleName("Behind the surface");
  surfaceConstruction_ = addNames(
      "Construction",
      [this](int i) {
        const auto names = constructionNames(document_.project().heat);
        if (i < 0 || i > int(names.size())) return;
        editSurface("Choose a construction of a surface",
                    [&](HeatSurface& s) { s.construction = i == 0 ? std::string() : names[std::size_t(i - 1)]; });
      },
      "Of this surface alone; the usual ones are chosen in Finishes, Heat");
  surfaceConstruction_->setAccessibleName("Construction of the surface");
  endFold();
}

void RoomsSheet::editSurface(const QString& name, const std::function<void(HeatSurface&)>& change) {
  const auto at = document_.looking().heatSurface;
  if (!at || at->first != room_.value) return;
  Project p = document_.project();
  HeatSurface s{room_, at->second, Beyond::AsDrawn, {}};
  if (const HeatSurface* said = heatSurface(p.heat, room_, at->second)) s = *said;
  change(s);
  setHeatSurface(p.heat, s);
  document_.change(std::move(p), name);
}

void RoomsSheet::refreshEnvelope() {
  const Project& p = document_.project();
  const auto index = std::find_if(p.rooms.begin(), p.rooms.end(), [&](const Room& r) { return r.id == room_; });
  edges_.clear();
  const QSignalBlocker quiet(envelope_);
  envelope_->clear();
  std::optional<EnvelopeSurface> looked;
  const bool seen = envelopeFold_->isOpen() || document_.looking().heatSurface; // every room is looked at for it
  if (seen && index != p.rooms.end()) {
    const RoomEnvelope e = roomEnvelopes(p)[std::size_t(index - p.rooms.begin())];
    const ShownUnit area = shownUnit("m²", p.units);
    for (const EnvelopeSurface& s : e.surfaces) {
      const HeatSurface* said = heatSurface(p.heat, room_, s.edge);
      const auto c = findConstruction(p.heat, s.construction);
      const bool loses = s.neighbour || s.beyond != Beyond::Alike;
      envelope_->addItem(QString::fromStdString(fmt::format(
          "{}  ·  {:.1f} {}  ·  to {}{}{}", surfaceName(p, s), area.shown(s.area), area.symbol, beyondText(p, s),
          loses && c ? fmt::format("  ·  {}, U {:.2g}", c->name, uValueOf(*c, s.flow)) : std::string(),
          said ? "  ·  as you said" : "")));
      edges_.push_back(s.edge);
      if (const auto at = document_.looking().heatSurface; !looked && at && *at == std::pair{room_.value, s.edge}) {
        looked = s;
        envelope_->setCurrentRow(int(edges_.size()) - 1);
      }
    }
    const double loss = heatLoss(p, e);
    envelopeFacts_->setText(QString::fromStdString(fmt::format(
        "It loses {:.0f} W for each °C, {:.2f} W/m²K of its floor: {:.0f} % through windows. Air comes beside that.",
        loss, loss / std::max(1e-9, e.floorArea), loss > 0 ? 100 * e.windows / loss : 0)));
  }
  for (QComboBox* c : {beyond_, surfaceConstruction_}) {
    const QSignalBlocker still(c);
    c->clear();
    c->setEnabled(looked.has_value());
  }
  if (!looked) return shownSurface_.reset();
  if (const auto now = document_.looking().heatSurface;
      shownSurface_ != now) { // chosen on the stage: its lines come up
    shownSurface_ = now;
    envelopeFold_->setOpen(true);
    QTimer::singleShot(0, this, [this] { bringUp(surfaceConstruction_); });
  }
  const HeatSurface* said = heatSurface(p.heat, room_, looked->edge);
  const QSignalBlocker still(beyond_), too(surfaceConstruction_);
  for (const Beyond b : beyonds) beyond_->addItem(beyondName(b));
  beyond_->setCurrentIndex(int(said ? said->beyond : Beyond::AsDrawn));
  surfaceConstruction_->addItem("the usual one");
  int chosen = 0;
  for (const std::string& name : constructionNames(p.heat)) {
    surfaceConstruction_->addItem(QString::fromStdString(name));
    if (said && said->construction == name) chosen = surfaceConstruction_->count() - 1;
  }
  surfaceConstruction_->setCurrentIndex(chosen);
}

} // namespace noonward
