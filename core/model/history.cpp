#include "core/model/history.h"
#include <set>

namespace noonward {

std::size_t elementBytes(const Element& e) {
  return sizeof(Element) + e.name.size() + e.layer.size() + e.source.size() + e.extra.size() +
         std::visit([](const auto& s) { return bytesOf(s); }, e.shape);
}

namespace {
template <class T> bool sameList(const std::vector<T>& a, const std::vector<T>& b, auto same) {
  if (a.size() != b.size()) return false;
  for (std::size_t i = 0; i < a.size(); ++i)
    if (!same(a[i], b[i])) return false;
  return true;
}
bool sameElement(const ElementPtr& a, const ElementPtr& b) {
  return a == b || *a == *b;
}
} // namespace

bool sameProject(const Project& a, const Project& b) {
  const Site &s = a.site, &t = b.site;
  return a.id == b.id && a.name == b.name && a.units == b.units && a.extra == b.extra && a.preparedBy == b.preparedBy &&
         a.client == b.client && a.record == b.record && a.accepted == b.accepted && a.underlays == b.underlays &&
         a.guides == b.guides && a.sources == b.sources && a.option == b.option &&
         sameList(a.options, b.options,
                  [](const Option& g, const Option& h) {
                    return g.id == h.id && g.name == h.name && g.design == h.design && g.orphans == h.orphans;
                  }) &&
         s.name == t.name && s.place == t.place && s.zone == t.zone && s.year == t.year &&
         s.northAngle == t.northAngle && s.weather == t.weather && s.weatherFile == t.weatherFile &&
         s.origin == t.origin && s.referenceSystem == t.referenceSystem && s.extra == t.extra &&
         a.seasons == b.seasons && a.sunWishes == b.sunWishes && a.layerColours == b.layerColours &&
         s.groundLevel == t.groundLevel && s.groundReflectance == t.groundReflectance && a.rooms == b.rooms &&
         a.openings == b.openings && a.windowRules == b.windowRules && a.shadeRules == b.shadeRules &&
         a.finishes == b.finishes && a.glazings == b.glazings && a.assignments == b.assignments && a.heat == b.heat &&
         a.measured == b.measured && a.sweeps == b.sweeps && a.beside == b.beside &&
         sameList(a.elements, b.elements, sameElement) &&
         sameList(a.groups, b.groups,
                  [](const SensorGroup& g, const SensorGroup& h) {
                    return g.id == h.id && g.name == h.name && g.layout == h.layout && g.dwelling == h.dwelling &&
                           g.building == h.building && g.subject == h.subject && g.eyes == h.eyes && g.extra == h.extra;
                  }) &&
         sameList(a.studies, b.studies,
                  [](const Study& g, const Study& h) {
                    return g.id == h.id && g.name == h.name && g.groups == h.groups && g.sunHours == h.sunHours &&
                           g.kind == h.kind && g.light == h.light && g.year == h.year && g.extra == h.extra;
                  }) &&
         sameList(a.judgements, b.judgements,
                  [](const Judgement& g, const Judgement& h) {
                    return g.id == h.id && g.yardstick == h.yardstick && g.groups == h.groups &&
                           g.changed == h.changed && g.extra == h.extra;
                  }) &&
         sameList(a.views, b.views, [](const SavedView& g, const SavedView& h) {
           return g.id == h.id && g.name == h.name && g.camera == h.camera && g.moment == h.moment &&
                  g.option == h.option && g.study == h.study;
         });
}

History::History(Project start, std::size_t byteLimit) : now_(std::move(start)), byteLimit_(byteLimit) {}

void History::change(Project next, std::string name, std::string gesture) {
  const bool merges = !gesture.empty() && gesture == lastGesture_ && !undo_.empty();
  if (!merges) {
    if (sameProject(now_, next)) return;
    undo_.push_back({std::move(name), now_});
  }
  now_ = std::move(next);
  redo_.clear();
  lastGesture_ = std::move(gesture);
  if (merges && sameProject(undo_.back().project, now_)) {
    undo_.pop_back(); // the gesture came back to where it began
    lastGesture_.clear();
  }
  trim();
}

void History::undo() {
  if (undo_.empty()) return;
  redo_.push_back({undo_.back().name, std::move(now_)});
  now_ = std::move(undo_.back().project);
  undo_.pop_back();
  lastGesture_.clear();
}

void History::redo() {
  if (redo_.empty()) return;
  undo_.push_back({redo_.back().name, std::move(now_)});
  now_ = std::move(redo_.back().project);
  redo_.pop_back();
  lastGesture_.clear();
}

void History::trim() {
  std::set<const void*> seen;
  std::size_t bytes = 0;
  const auto count = [&](const Project& p) {
    bytes += sizeof(Project) + p.elements.size() * sizeof(ElementPtr);
    for (const ElementPtr& e : p.elements) {
      if (!seen.insert(e.get()).second) continue;
      bytes += elementBytes(*e);
      if (const Imported* i = e->imported(); i && i->mesh && seen.insert(i->mesh.get()).second)
        bytes += i->mesh->points.size() * sizeof(Vec3) + i->mesh->triangles.size() * 16;
    }
    if (p.site.weather && seen.insert(p.site.weather.get()).second)
      bytes += p.site.weather->hours.size() * sizeof(WeatherHour);
  };
  count(now_);
  bytes = 0; // the present is not charged to undo
  for (std::size_t i = undo_.size(); i-- > 0;) {
    count(undo_[i].project);
    if (bytes > byteLimit_) {
      undo_.erase(undo_.begin(), undo_.begin() + std::ptrdiff_t(i) + 1);
      return;
    }
  }
}

} // namespace noonward
