#include "core/base/words.h"
#include "picture/record_chapters.h"
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

QString percent(double v, int digits = 1) {
  return QString::number(100 * v, 'f', digits);
}

/// Settings against those that the rule proposes.
void composeSettings(const ChapterPage& page, const YearChapter& f) {
  Flow& w = page.w;
  const Theme& t = page.theme;
  const Project& p = page.facts.project;
  w.heading("Settings");
  std::vector<QStringList> rows;
  std::vector<bool> departs;
  for (const SettingLine& l : settingLines(p, f)) {
    rows.push_back({q(l.name), q(l.value), q(l.remark)});
    departs.push_back(l.remark.starts_with("departs"));
  }
  w.table({{"setting", 2, false}, {"value", 4, false}, {"against the yardstick", 2.6, false}}, rows,
          [&](std::size_t k, int c) { return c == 2 ? departs[k] ? t.short_ : t.muted : QColor(); });
}

/// Figures of rooms, and hours in which their blinds are closed.
void composeRooms(const ChapterPage& page, const YearChapter& f) {
  Flow& w = page.w;
  const Theme& t = page.theme;
  const YearResult& r = *f.year.result;
  const YearFacts& y = f.year.facts;
  const DisplayUnits& units = page.facts.project.units;
  const ShownUnit area = shownUnit("m²", units), light = shownUnit("lx", units);
  const auto square = [&](double v, int digits) { return QString::number(area.shown(v), 'f', digits); };
  const auto lux = [&](double v) { return QString::number(light.shown(v), 'f', light.factor < 1 ? 1 : 0); };
  // ---- rooms
  w.heading("Rooms");
  std::vector<QStringList> rows;
  std::vector<std::size_t> shown;
  double occupied = 0;
  for (std::size_t k = 0; k < r.spaces.size(); ++k) {
    if (y.sensors.groups[k].count == 0) continue;
    const SpaceYear& x = r.spaces[k];
    rows.push_back({q(y.sensors.groups[k].name) + (y.counted[k] ? "" : " (not regularly occupied)"),
                    square(y.areas[k], 1), percent(x.sda), QString("± %1").arg(100 * r.sdaError[k], 0, 'f', 1),
                    percent(x.ase), lux(x.meanLux), lux(x.medianLux), percent(x.useful[0] + x.useful[1], 0),
                    percent(x.useful[2], 0), percent(x.useful[3], 0)});
    shown.push_back(k);
    if (y.counted[k]) occupied += y.areas[k];
  }
  rows.push_back({"Regularly occupied", square(occupied, 1), percent(r.building.sda),
                  QString("± %1").arg(100 * r.buildingSdaError, 0, 'f', 1), percent(r.building.ase),
                  lux(r.building.meanLux), lux(r.building.medianLux),
                  percent(r.building.useful[0] + r.building.useful[1], 0), percent(r.building.useful[2], 0),
                  percent(r.building.useful[3], 0)});
  const QString low = QString("below %1 %2, % of h").arg(lux(f.study.year.metrics.useful[1]), q(light.symbol)),
                high = QString("above %1 %2").arg(lux(f.study.year.metrics.useful[2]), q(light.symbol));
  w.table(
      {{"room", 3, false},
       {q(area.symbol), 1, true},
       {"sDA %", 1, true},
       {"points", 1, true},
       {"ASE %", 1, true},
       {"mean " + q(light.symbol), 1, true},
       {"median " + q(light.symbol), 1, true},
       {low, 1.2, true},
       {"useful", 1, true},
       {high, 1.2, true}},
      rows,
      [&](std::size_t k, int c) {
        return c == 4 && k < shown.size() && y.counted[shown[k]] && r.spaces[shown[k]].ase > f.limit + 1e-9 ? t.short_
                                                                                                            : QColor();
      },
      true);
  w.heading("Blinds");
  rows.clear();
  for (std::size_t k = 1; k < y.groups.size(); ++k)
    rows.push_back({q(y.groups[k].name), square(y.groups[k].area, 1), QString::number(r.closedHours[k])});
  w.table({{"group of windows", 4, false},
           {q(area.symbol) + " of glass", 1.2, true},
           {"closed, h of the schedule", 2, true}},
          rows);
}

/// Rooms above the limit of ASE, and the readings that may be contested.
void composeContested(const ChapterPage& page, const YearChapter& f) {
  Flow& w = page.w;
  const Theme& t = page.theme;
  const YearFacts& y = f.year.facts;
  // ---- too bright
  w.heading(QString("Rooms above %1 % ASE").arg(100 * f.limit, 0, 'g', 3), 60);
  if (f.bright.empty()) w.paragraph("None.", t.muted);
  for (const BrightRoom& b : f.bright) {
    w.keep(58);
    w.paragraph(QString("%1: ASE %2 %").arg(q(y.sensors.groups[b.space].name)).arg(100 * b.ase, 0, 'f', 1), t.short_,
                10, true);
    w.paragraph(q(b.when), t.ink, 9);
    w.paragraph(b.remark.empty() ? "How glare is dealt with: no remark was given."
                                 : "How glare is dealt with: " + q(b.remark),
                b.remark.empty() ? t.short_ : t.ink, 9);
    w.gap(4);
  }
  if (f.readings.size() > 1) {
    w.heading("How robust is it?", 120);
    w.paragraph("The same rays under the readings that a reviewer may contest.", t.muted, 9);
    std::vector<QStringList> rows;
    const auto steps = f.study.year.steps;
    for (const Reading& x : f.readings) {
      int bright = 0;
      for (std::size_t k = 0; k < x.spaces.size(); ++k) bright += y.counted[k] && x.spaces[k].ase > f.limit + 1e-9;
      rows.push_back({q(x.name), q(x.changed.empty() ? "the study" : x.changed),
                      percent(x.building.sda) + QString(" ± %1").arg(100 * x.sdaError, 0, 'f', 1),
                      QString::number(stepsReached(x.building.sda, steps)), percent(x.building.ase),
                      QString::number(bright)});
      if (f.provision > 0) {
        const ProvisionRooms n = provisionRooms(x, y, f.provision);
        rows.back() << QString("%1 | %2 of %3").arg(n.same).arg(n.own).arg(n.all);
      }
    }
    const int asked = stepsReached(f.readings.front().building.sda, steps);
    std::vector<Flow::Column> columns{{"reading", 2.1, false}, {"what differs", 3.4, false},
                                      {"sDA %", 1.5, true},    {"steps reached", 1.1, true},
                                      {"ASE %", 0.9, true},    {"rooms above", 1, true}};
    if (f.provision > 0) columns.push_back({"provision", 1.3, true});
    if (f.provision > 0)
      w.paragraph("Provision: rooms that reach the level asked for, by the share of the plane in the same hours | by "
                  "each point's own hours.",
                  t.muted, 9);
    w.table(columns, rows, [&](std::size_t k, int c) {
      return c == 3 && stepsReached(f.readings[k].building.sda, steps) != asked ? t.short_ : QColor();
    });
  }
}

} // namespace

void composeYear(const ChapterPage& page, const YearChapter& f) {
  Flow& w = page.w;
  w.paragraph(q(f.study.name + ", run " + f.year.result->key.fingerprint() + ". " + methodText(StudyKind::Year)),
              page.theme.ink, 9.2);
  composeSettings(page, f);
  composeRooms(page, f);
  composeContested(page, f);
  composeMaps(page, f.study.id.text());
}

} // namespace noonward
