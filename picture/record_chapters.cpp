#include "picture/record_chapters.h"
#include "core/base/words.h"
#include "core/studies/energy/energy_reading.h"
#include "picture/shadow_page.h"
#include "picture/skyline.h"
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

namespace {

/// As many digits as a figure of its size needs; a dash for none.
QString figure(double v) {
  if (!std::isfinite(v)) return "–";
  return QString::number(v, 'f', std::abs(v) >= 100 ? 0 : std::abs(v) >= 10 ? 1 : 2);
}
/// Rows of a table on pages; more stand in the tables beside them.
constexpr std::size_t mostRows = 40;

void composeRobust(const ChapterPage& page, const std::vector<RuleReading>& readings) {
  if (readings.size() < 2) return;
  Flow& w = page.w;
  w.heading("How robust is it?", 60);
  w.paragraph(robust(readings) ? "The outcome is the same under every reading that a reviewer may contest."
                               : "The outcome turns with the reading:",
              robust(readings) ? page.theme.meets : page.theme.short_, 9.2);
  std::vector<QStringList> rows;
  for (const RuleReading& r : readings)
    rows.push_back({q(r.name), q(r.changed.empty() ? "the verdict" : r.changed),
                    q(std::string(outcomeText(r.verdict.outcome))), q(r.verdict.text)});
  w.table({{"reading", 1.6, false}, {"what differs", 3.2, false}, {"outcome", 1.1, false}, {"figures", 3, false}}, rows,
          [&](std::size_t k, int c) {
            return c == 2 && readings[k].verdict.outcome != readings.front().verdict.outcome ? page.theme.short_
                                                                                             : QColor();
          });
}

/// The skies of the worst receivers beside each other.
void composeWorst(const ChapterPage& page, const std::vector<WorstReceiver>& worst) {
  if (worst.empty()) return;
  Flow& w = page.w;
  const Project& p = page.facts.project;
  const Theme& t = page.theme;
  w.heading("What stands before those with least", 200);
  w.paragraph("The sky seen from each, zenith in the middle: what stands there is filled, what is proposed is tinted; "
              "lines are the sun's tracks on the 21st of June, March and December.",
              t.muted, 9);
  const SunKnots knots = SunKnots::ofYear(p.site.year);
  w.picture(206, [&](QPainter& painter, QRectF area) {
    painter.setRenderHint(QPainter::Antialiasing, true);
    const double wide = area.width() / 3, radius = std::min(66.0, wide / 2 - 24);
    for (std::size_t k = 0; k < worst.size(); ++k) {
      const QPointF middle(area.left() + wide * (double(k) + 0.5), area.top() + radius + 18);
      const QImage dome = skylineDome(p, *worst[k].seen, int(8 * radius), t);
      paintSkyline(painter, middle, radius, p, dome, {&knots, false, {}}, t);
      const QRectF below(area.left() + wide * double(k) + 6, middle.y() + radius + 18, wide - 12, 50);
      painter.setFont(textFont(8.6, true));
      painter.setPen(t.ink);
      QRectF used;
      painter.drawText(below, Qt::AlignHCenter | Qt::AlignTop | Qt::TextWordWrap, q(worst[k].name), &used);
      painter.setFont(textFont(8.2));
      painter.setPen(t.muted);
      painter.drawText(QRectF(below.left(), used.bottom() + 1, below.width(), 30),
                       Qt::AlignHCenter | Qt::AlignTop | Qt::TextWordWrap, q(worst[k].text));
    }
  });
}

} // namespace

QColor ChapterPage::of(Outcome3 o) const {
  return o == Outcome3::Meets ? theme.meets : o == Outcome3::FallsShort ? theme.short_ : theme.muted;
}

void composeMaps(const ChapterPage& page, const std::string& id) {
  const auto at = page.pictures.of.find(id);
  if (at == page.pictures.of.end()) return;
  Flow& w = page.w;
  for (const RecordMap& m : at->second) {
    const double h = w.width() * m.picture.aspect();
    w.gap(6);
    if (w.room() < h + 24) w.newPage();
    w.paragraph(m.caption, page.theme.ink, 10, true);
    w.picture(h, [&](QPainter& painter, QRectF area) { m.picture.paint(painter, area, page.theme, 0.62); });
  }
}

FisheyePage worstSeatPage(const Project& p, const GlareChapter& g) {
  return {p, *g.worst, q(g.seats.front().name), q(g.seats.front().moment), {}, true};
}

/// The lines of sight that fare worst, and what the worst of them sees.
void composeGlare(const ChapterPage& page, const FieldChapter& f) {
  Flow& w = page.w;
  const Theme& t = page.theme;
  const GlareChapter& g = *f.glare;
  std::vector<QStringList> rows;
  for (const SeatLine& s : g.seats) {
    rows.push_back({q(s.name)});
    for (double share : s.seat.above) rows.back() << QString::number(100 * share, 'f', 1);
    rows.back() << QString::number(s.seat.dgp95, 'f', 2) << QString::number(s.seat.worst, 'f', 2) << q(s.moment)
                << q(s.cause);
  }
  if (rows.empty()) return w.paragraph("No line of sight has light in the schedule.", t.muted, 9);
  w.gap(6);
  w.keep(60);
  w.paragraph("Lines of sight that fare worst: share of the schedule above a limit of DGP, %; DGP exceeded in 5 % of "
              "it; the worst hour, and by what the hours above 0.40 come.",
              t.muted, 9);
  w.table({{"line of sight", 2.1, false},
           {"> 0.35", 0.7, true},
           {"> 0.40", 0.7, true},
           {"> 0.45", 0.7, true},
           {"DGP 95 %", 0.9, true},
           {"worst", 0.85, true},
           {"at", 1.5, false},
           {"by", 2.8, false}},
          rows);
  const SeatLine& worst = g.seats.front();
  if (!g.worst) {
    if (!g.fault.empty()) w.paragraph(q("No picture of the worst seat: " + g.fault), t.short_, 9);
    return;
  }
  constexpr double k = 0.62;
  const double disc = 0.55 * w.width(), high = disc + 70 * k;
  w.gap(8);
  w.keep(high + 30);
  w.paragraph(q(fmt::format("What “{}” sees on {}", worst.name, worst.moment)), t.ink, 10, true);
  w.paragraph(q(fmt::format("Blinds open, {}. In the year, blinds as they then stand, DGP is {:.2f}.", g.worst->sky,
                            worst.seat.worst)),
              t.muted, 9);
  const FisheyePage shown = worstSeatPage(page.facts.project, g);
  w.picture(high, [&](QPainter& painter, QRectF area) {
    paintFisheye(painter, {area.left(), area.top(), disc, disc}, shown, t, k);
    paintLuminanceScale(painter, {area.left(), area.top() + disc + 34 * k, disc - 2, 9 * k}, shown.scale, t, k);
    const double left = area.left() + disc + 24 * k;
    paintFisheyeFigures(painter, {left, area.top(), area.right() - left, high}, shown, t, k);
  });
}

/// Rooms by cause, and the months of all of them; without the proposal beside it where there is one.
void composeEnergy(const ChapterPage& page, const FieldChapter& f) {
  Flow& w = page.w;
  const ShownUnit unit = shownUnit("kWh/m²", page.facts.project.units),
                  area = shownUnit("m²", page.facts.project.units);
  const auto figuresOf = [&](const EnergyRoom& r) {
    QStringList out;
    const EnergyParts y = r.year();
    for (double kwh : {y.heating, y.cooling, y.lighting, y.solar, y.internal, y.transmission, y.ventilation})
      out << QString::number(unit.shown(kwh / std::max(1e-9, r.floorArea)), 'f', 1);
    return out;
  };
  std::vector<QStringList> rows;
  const auto row = [&](const QString& name, const EnergyRoom& r) {
    rows.push_back({name, q(r.use), QString::number(area.shown(r.floorArea), 'f', 0)});
    rows.back() << figuresOf(r);
  };
  const auto all = allRooms(*f.now->light->energy);
  if (!all) return;
  row("All rooms", *all);
  if (f.before && f.before->light && f.before->light->energy)
    if (const auto before = allRooms(*f.before->light->energy)) row("without the proposal", *before);
  for (const EnergyRoom& r : f.now->light->energy->rooms)
    if (rows.size() < mostRows) row(q(r.name), r);
  w.paragraph(QString("%1 of floor in a year, into the room positive. ± of heating and cooling %2, of lighting %3, "
                      "numerical alone.")
                  .arg(q(unit.symbol))
                  .arg(unit.shown(all->demandError() / all->floorArea), 0, 'g', 2)
                  .arg(unit.shown(all->lightingError / all->floorArea), 0, 'g', 2),
              page.theme.muted, 9);
  w.table({{"room", 2.4, false},
           {"used as", 1.6, false},
           {q(area.symbol), 0.8, true},
           {"heating", 1, true},
           {"cooling", 1, true},
           {"lighting", 1, true},
           {"sun", 0.8, true},
           {"internal", 1, true},
           {"transmission", 1.4, true},
           {"ventilation", 1.2, true}},
          rows);
  rows.clear();
  w.gap(8);
  for (std::size_t m = 0; m < 12; ++m) {
    const EnergyParts& y = all->months[m];
    rows.push_back({monthName(int(m) + 1)});
    for (double kwh : {y.heating, y.cooling, y.lighting, y.solar, y.internal, y.transmission, y.ventilation})
      rows.back() << QString::number(unit.shown(kwh / all->floorArea), 'f', 2);
  }
  w.table({{"all rooms", 1.6, false},
           {"heating", 1, true},
           {"cooling", 1, true},
           {"lighting", 1, true},
           {"sun", 1, true},
           {"internal", 1, true},
           {"transmission", 1.4, true},
           {"ventilation", 1.2, true}},
          rows);
  w.paragraph(q(whyText(page.facts.project, *all, std::nullopt) + " " + freeText(*all)), page.theme.ink, 9.2);
  if (const HeatDesign& heat = page.facts.project.heat; !heat.weights.empty()) {
    w.paragraph(q(weighedText(*all, heat.weights, page.facts.project.units) + "."), page.theme.ink, 9.2);
    for (const EnergyWeight& x : heat.weights)
      if (!x.source.empty()) w.paragraph(q(x.name + ": " + x.source), page.theme.muted, 9);
  }
}

void composeField(const ChapterPage& page, const FieldChapter& f) {
  Flow& w = page.w;
  const Theme& t = page.theme;
  const Project& p = page.facts.project;
  w.paragraph(q(f.asked + ". " + methodText(f.study.kind)), t.ink, 9.2);
  if (!f.now) {
    w.paragraph(q("Not run: " + f.fault), t.short_, 10, true);
    return;
  }
  w.paragraph(q("Run " + f.now->key().fingerprint() +
                (f.before ? ", without the proposal " + f.before->key().fingerprint() : std::string()) + "."),
              t.muted, 9);
  if (f.now->light && f.now->light->energy) {
    composeEnergy(page, f);
    return composeMaps(page, f.study.id.text());
  }
  const ShownUnit unit = shownUnit(f.now->scale.unit, p.units), area = shownUnit("m²", p.units);
  const QString symbol = q(unit.symbol),
                share = QString("% with %1 %2").arg(unit.shown(usualThreshold(f.study.kind)), 0, 'g', 4).arg(symbol);
  std::vector<Flow::Column> columns{
      {"receivers", 3, false}, {"number", 1, true}, {q(area.symbol), 1, true}, {"mean " + symbol, 1.1, true},
      {"±", 0.8, true},        {"min", 0.9, true},  {"max", 0.9, true},        {share, 1.3, true}};
  if (f.before) {
    columns.push_back({"mean before", 1.1, true});
    columns.push_back({share + " before", 1.4, true});
  }
  const bool buildings = f.groups.size() > mostRows;
  const std::vector<GroupFigures> groups = buildings ? byBuilding(f.groups) : f.groups;
  if (buildings && groups.size() < f.groups.size())
    w.paragraph(QString("By building; the %1 groups stand in the tables of this record.").arg(f.groups.size()), t.muted,
                9);
  std::vector<QStringList> rows;
  for (const GroupFigures& g : groups) {
    if (rows.size() >= mostRows) break;
    rows.push_back({q(g.name), QString::number(g.sensors), g.area > 0 ? figure(area.shown(g.area)) : "–",
                    figure(unit.shown(g.mean)),
                    !g.known()    ? "–"
                    : g.error > 0 ? figure(unit.shown(g.error))
                                  : "exact",
                    figure(unit.shown(g.min)), figure(unit.shown(g.max)), figure(100 * g.share)});
    if (f.before) rows.back() << figure(unit.shown(g.beforeMean)) << figure(100 * g.beforeShare);
  }
  w.table(columns, rows);
  if (groups.size() > rows.size())
    w.paragraph(QString("%1 more stand in the tables of this record.").arg(groups.size() - rows.size()), t.muted, 9);
  if (f.glare) composeGlare(page, f);
  composeMaps(page, f.study.id.text());
}

void composeVerdict(const ChapterPage& page, const VerdictChapter& c) {
  Flow& w = page.w;
  const Theme& t = page.theme;
  const Verdict& v = c.verdict;
  w.paragraph(q(v.text), page.of(v.outcome), 11, true);
  if (!v.detail.empty()) w.paragraph(q(v.detail + "."), t.ink, 9.2);
  QString rule = q(c.yardstick.edition);
  if (!rule.isEmpty()) rule[0] = rule[0].toUpper();
  w.paragraph(rule + ". " + q(c.yardstick.source), t.muted, 9);
  for (const std::string& n : v.notes) w.paragraph(q(n), n.starts_with("Departs") ? t.short_ : t.muted, 9);
  if (!v.rows.empty()) {
    // Those that fall short first, the least of them on top; the others in the rule's own order.
    std::vector<const VerdictRow*> order;
    for (const VerdictRow& r : v.rows) order.push_back(&r);
    std::stable_sort(order.begin(), order.end(), [&](const VerdictRow* a, const VerdictRow* b) {
      const bool fa = a->outcome == Outcome3::FallsShort, fb = b->outcome == Outcome3::FallsShort;
      return fa != fb ? fa : fa && (v.atMost ? a->after > b->after : a->after < b->after);
    });
    std::vector<QStringList> rows;
    for (const VerdictRow* r : order) {
      if (rows.size() >= mostRows) break;
      rows.push_back(
          {q(r->name),
           r->outcome == Outcome3::NotJudged && !std::isnan(v.points) ? "remark owed" : outcomeText(r->outcome),
           q(r->text)});
    }
    w.gap(4);
    w.table({{"judged", 2.4, false}, {"outcome", 1.2, false}, {"figures", 4.6, false}}, rows,
            [&](std::size_t k, int column) { return column == 1 ? page.of(order[k]->outcome) : QColor(); });
    if (rows.size() < order.size())
      w.paragraph(QString("%1 more stand in verdicts.csv.").arg(order.size() - rows.size()), t.muted, 9);
  }
  composeWorst(page, c.worst);
  composeRobust(page, c.readings);
}

void composeShadows(const ChapterPage& page, const ShadowChapter& c) {
  Flow& w = page.w;
  const Theme& t = page.theme;
  const Project& p = page.facts.project;
  if (!c.fault.empty()) {
    w.paragraph(q("Not made: " + c.fault), t.short_, 10, true);
    return;
  }
  const ShadowPlan& plan = c.plan;
  w.paragraph(q(fmt::format("{} to {} by the clock, every {:g} min in the middle of the step. Polygons in plan, cast "
                            "along the sun from every opaque surface; {}; trees by their crown. Run {}.",
                            clockText(c.asked.fromMinute), clockText(c.asked.toMinute), c.asked.stepMinutes,
                            plan.hasTerrain ? "on the terrain as drawn" : "on level ground", plan.key.fingerprint())),
              t.ink, 9.2);
  if (plan.hasProposal)
    w.paragraph(QString("Net new on the ground: %1 m²·h.").arg(plan.freshAreaHours(), 0, 'f', 0), t.ink, 10, true);
  std::vector<QStringList> rows;
  for (const ShadowMoment& m : plan.moments) {
    const QString clock = q(clockText(p.zone().clock(m.at).seconds / 60)),
                  altitude = QString("%1°").arg(degrees(m.altitude), 0, 'f', 1);
    if (!m.up) {
      rows.push_back({clock, altitude, "–", "sun too low", "–", "–"});
      continue;
    }
    rows.push_back({clock, altitude, QString("%1°").arg(degrees(m.azimuth), 0, 'f', 1), figure(m.ground.allArea),
                    figure(m.ground.beforeArea), plan.hasProposal ? figure(m.ground.freshArea) : "–"});
  }
  w.table({{"clock", 1, false},
           {"altitude", 1, true},
           {"azimuth", 1, true},
           {"shadow m²", 1.2, true},
           {"before m²", 1.2, true},
           {"net new m²", 1.2, true}},
          rows);
  rows.clear();
  std::vector<GroupId> told;
  for (const ShadowMoment& m : plan.moments)
    for (const ShadowArea& a : m.areas) {
      if (!plan.hasProposal || std::find(told.begin(), told.end(), a.group) != told.end()) continue;
      told.push_back(a.group);
      Instant when{};
      const double most = plan.mostFresh(a.group, &when);
      rows.push_back({q(a.name), figure(a.area), figure(plan.freshAreaHours(a.group)),
                      most > 0 ? q(clockText(p.zone().clock(when).seconds / 60)) : "–", figure(most),
                      figure(100 * most / std::max(1e-9, a.area))});
    }
  if (!rows.empty()) {
    w.gap(6);
    w.table({{"area", 2.6, false},
             {"m²", 1, true},
             {"net new m²·h", 1.3, true},
             {"most at", 1, true},
             {"m²", 1, true},
             {"% of it", 1, true}},
            rows);
  }
  const double h = std::min(w.width() * 0.72, 420.0);
  w.gap(4);
  if (w.room() < h + 8) w.newPage();
  w.picture(h, [&](QPainter& painter, QRectF area) { paintShadowOutlines(painter, area, {&p, &plan, p.name}, t); });
}

void composeRemarks(const ChapterPage& page) {
  const auto& remarks = page.facts.project.record.remarks;
  if (remarks.empty()) return;
  Flow& w = page.w;
  w.heading("Remarks and answers", 60);
  for (const Remark& r : remarks) {
    w.keep(40);
    w.paragraph(q((r.by.empty() ? std::string("Reviewer") : r.by) + ": " + r.text), page.theme.ink, 9.5, true);
    w.paragraph(q(r.answer.empty() ? "Not answered yet." : r.answer),
                r.answer.empty() ? page.theme.short_ : page.theme.ink, 9.2);
    w.gap(3);
  }
}

void composeChanges(const ChapterPage& page, const RecordChanges& c) {
  Flow& w = page.w;
  const Theme& t = page.theme;
  w.heading("What changed since the last hand-in", 60);
  w.paragraph(q(fmt::format("Against the record of {}, fingerprint {}. Figures count as moved beyond two standard "
                            "errors of both.",
                            c.earlier.substr(0, 16), c.fingerprint)),
              t.muted, 9);
  if (c.none()) return w.paragraph("Nothing: inputs, figures and verdicts are the same.", t.meets, 9.5, true);
  const auto table = [&](const std::vector<RecordChange>& changes) {
    std::vector<QStringList> rows;
    for (const RecordChange& x : changes) {
      if (rows.size() >= mostRows) break;
      rows.push_back({q(x.what), q(x.was), q(x.is)});
    }
    if (!rows.empty()) w.table({{"what", 2.6, false}, {"was", 2, false}, {"is", 2, false}}, rows);
  };
  const auto lines = [&](const char* head, const std::vector<std::string>& texts, std::size_t most) {
    if (texts.empty()) return;
    w.gap(4);
    w.paragraph(head, t.ink, 9.5, true);
    for (std::size_t k = 0; k < std::min(most, texts.size()); ++k) w.paragraph(q("· " + texts[k]), t.ink, 9);
    if (texts.size() > most) w.paragraph(QString("… and %1 more.").arg(texts.size() - most), t.muted, 9);
  };
  table(c.verdicts);
  lines("Receivers whose outcome turned", c.receivers, 60);
  if (!c.figures.empty()) w.gap(6);
  table(c.figures);
  lines("Inputs", c.inputs, 60);
}

} // namespace noonward
