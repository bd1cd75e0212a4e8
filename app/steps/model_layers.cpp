// The part of the Model sheet for layers: what is on them, shown, counted, and in which colour.

#include "app/steps/model_sheet.h"
#include "app/theme/style.h"
#include "core/model/form/edit.h"
#include "core/model/form/layers.h"
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>

namespace noonward {

namespace {
/// Quiet colours that tell layers apart in both themes and in grey print.
constexpr std::pair<const char*, const char*> colours[] = {
    {"by role", ""},        {"brick", "#9C5A44"}, {"ochre", "#B98B35"}, {"moss", "#6A8F5B"},
    {"harbour", "#4C7F93"}, {"slate", "#56607A"}, {"plum", "#7D5273"},  {"chalk", "#E4DED2"}};
} // namespace

void ModelSheet::buildLayers() {
  layersFold_ = addFold("Layers");
  connect(layersFold_, &Fold::clicked, this, [this] { refreshLayers(); });
  layers_ = new QListWidget;
  layers_->setAccessibleName("Layers list");
  layers_->setToolTip("Ticked ones are shown on the stage; studies never change by it");
  addWidget(layers_);
  connect(layers_, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
    if (filling_) return;
    layers_->setCurrentItem(item);
    const bool shown = item->checkState() == Qt::Checked;
    onLayer("Show or hide a layer", [&](Element& e) { e.hidden = !shown; });
  });
  connect(layers_, &QListWidget::currentRowChanged, this, [this] {
    if (!filling_) showLayer();
  });
  layerName_ = addField(
      "Layer name",
      [this](const QString& t) {
        const int row = layers_->currentRow();
        if (row < 0 || t.trimmed().isEmpty()) return;
        const std::string was = listedLayers_[std::size_t(row)], name = t.trimmed().toStdString();
        listedLayers_[std::size_t(row)] = name; // it stays the one looked at
        document_.change(withLayerRenamed(document_.project(), was, name), "Rename layer");
      },
      "Of the layer looked at; a name that is there already joins the two");
  QStringList names;
  for (const auto& [name, value] : colours) names << name;
  layerColour_ = addChoice(
      "Layer colour", names,
      [this](int i) {
        const int row = layers_->currentRow();
        if (row < 0) return;
        auto with = withLayerColour(document_.project(), listedLayers_[std::size_t(row)], colours[i].second);
        if (with) document_.change(std::move(*with), "Colour layer");
      },
      "On the stage and in pictures");
  auto* row = addButtons();
  row->addWidget(actionButton("Select it all", [this] {
    const int at = layers_->currentRow();
    if (at < 0) return;
    for (const LayerFacts& l : layersOf(document_.project()))
      if (l.name == listedLayers_[std::size_t(at)])
        document_.look([&](Looking& look) {
          look.selected = l.elements;
          look.face.reset();
        });
  }));
  row->addWidget(actionButton("Count or leave out", [this] {
    const int at = layers_->currentRow();
    if (at < 0) return;
    bool any = false;
    for (const LayerFacts& l : layersOf(document_.project()))
      if (l.name == listedLayers_[std::size_t(at)]) any = l.counted > 0;
    onLayer(any ? "Leave a layer out" : "Count a layer", [&](Element& e) {
      e.counted = !any;
      e.ghost &= !e.counted;
    });
  }));
  addButton("Sort onto layers by level", [this] {
    const Project& p = document_.project();
    std::vector<ElementId> ids = document_.looking().selected;
    if (ids.size() < 2) {
      ids.clear();
      for (const ElementPtr& e : p.elements)
        if (e->role != Role::Ground) ids.push_back(e->id);
    }
    document_.change(withLayersByLevel(p, ids), "Sort by level");
  })->setToolTip("What is selected, or everything but the ground, by the level it stands on");
  endFold();
}

void ModelSheet::onLayer(const QString& name, const std::function<void(Element&)>& change) {
  const int row = layers_->currentRow();
  if (row < 0 || row >= int(listedLayers_.size())) return;
  for (const LayerFacts& l : layersOf(document_.project()))
    if (l.name == listedLayers_[std::size_t(row)])
      return document_.change(withEdited(document_.project(), l.elements, change), name);
}

void ModelSheet::refreshLayers() {
  if (!layersFold_->isOpen()) return; // a city has thousands of elements to count
  const Project& p = document_.project();
  const std::vector<LayerFacts> all = layersOf(p);
  const int now = layers_->currentRow();
  const std::string kept = now >= 0 && now < int(listedLayers_.size()) ? listedLayers_[std::size_t(now)] : "";
  filling_ = true;
  layers_->clear();
  listedLayers_.clear();
  for (const LayerFacts& l : all) {
    auto* item = new QListWidgetItem(QString("%1   %2%3")
                                         .arg(l.name.empty() ? QString("on no layer") : QString::fromStdString(l.name),
                                              countText(l.elements.size(), "element"),
                                              l.counted == 0                  ? QString(" · left out")
                                              : l.counted < l.elements.size() ? QString(" · some left out")
                                                                              : QString()));
    item->setCheckState(l.shown == 0                  ? Qt::Unchecked
                        : l.shown < l.elements.size() ? Qt::PartiallyChecked
                                                      : Qt::Checked);
    if (!l.colour.empty()) {
      QPixmap swatch(12, 12);
      swatch.fill(QColor(QString::fromStdString(l.colour)));
      item->setIcon(swatch);
    }
    layers_->addItem(item);
    listedLayers_.push_back(l.name);
  }
  const auto at = std::find(listedLayers_.begin(), listedLayers_.end(), kept);
  const int row = all.empty() ? -1 : at == listedLayers_.end() ? 0 : int(at - listedLayers_.begin());
  layers_->setCurrentRow(row);
  layers_->setFixedHeight(6 + 27 * std::clamp(int(all.size()), 1, 6));
  filling_ = false;
  showLayer();
}

void ModelSheet::showLayer() {
  const int row = layers_->currentRow();
  if (row < 0 || row >= int(listedLayers_.size())) return;
  const std::string& name = listedLayers_[std::size_t(row)];
  show(layerName_, QString::fromStdString(name));
  const std::string own = layerColour(document_.project(), name);
  int colour = 0;
  for (int k = 0; k < int(std::size(colours)); ++k)
    if (own == colours[k].second) colour = k;
  layerColour_->setCurrentIndex(colour);
}

} // namespace noonward
