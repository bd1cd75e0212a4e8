#include "picture/record_pages.h"
#include "core/base/words.h"
#include "picture/flow.h"
#include "picture/opened_rooms.h"
#include "picture/picture_export.h"
#include <QBuffer>
#include <QPageSize>
#include <fmt/format.h>

namespace noonward {

namespace {

QString q(const std::string& s) {
  return QString::fromStdString(s);
}
QString percent(double v, int digits = 1) {
  return QString::number(100 * v, 'f', digits);
}

struct Map {
  std::string name; ///< of its files
  QString caption;
  FurnishedPicture picture;
};

struct Pictures {
  FurnishedPicture model;
  std::vector<Map> maps;
};

Expected<Pictures> makePictures(const RecordFacts& f, RunControl& control, const Theme& theme) {
  PictureRequest r;
  r.study = "-";
  r.moment =
      f.project.zone().instant({{f.project.site.year, f.project.site.place.latitude >= 0 ? 3 : 9, 21}, 11 * 3600.0});
  auto model = FurnishedPicture::prepare(f.project, r, 1600, 900, control, nullptr, theme);
  if (!model) return tl::unexpected(model.error());
  Pictures out{std::move(*model), {}};
  const auto shown = [&](YearMetric m) {
    return std::make_shared<const SensorField>(yearField(f.year.facts, f.year.result, m, f.project.units));
  };
  for (const double floor : storeys(f.project)) {
    bool any = false;
    for (std::size_t k = 0; k < f.year.facts.rooms.size(); ++k)
      if (const Room* room = f.year.facts.rooms[k] ? f.project.room(f.year.facts.rooms[k]) : nullptr)
        any |= onStorey(*room, floor);
    if (!any) continue;
    Box3 around;
    for (const Box3& b : roomBoxes(f.project, floor)) {
      around.add(b.low);
      around.add(b.high);
    }
    const double depthByWidth = around.size().y / std::max(0.1, around.size().x);
    for (const YearMetric m : {YearMetric::Autonomy, YearMetric::BeamHours, YearMetric::MeanLux}) {
      PictureRequest plan;
      plan.view = ViewKind::Plan;
      plan.study = f.study.id.text();
      plan.known = shown(m);
      plan.metric = m;
      plan.storey = floor;
      // As wide as the page, as high as the rooms ask for; the legend stands below.
      plan.margin = 0.03;
      plan.foot = 110;
      const double high = std::clamp(1500 * depthByWidth + plan.foot, 560.0, 1700.0);
      auto picture = FurnishedPicture::prepare(f.project, plan, 1500, int(high), control, nullptr, theme);
      if (!picture) return tl::unexpected(picture.error());
      const char* key = m == YearMetric::Autonomy ? "autonomy" : m == YearMetric::BeamHours ? "beam-hours" : "mean-lux";
      out.maps.push_back(
          {fmt::format("{}-floor-{:.1f}", key, floor),
           QString("%1 · rooms with their floor at %2 m").arg(QString(yearMetricName(m))).arg(floor, 0, 'f', 1),
           std::move(*picture)});
    }
  }
  return out;
}

void compose(Flow& w, const RecordFacts& f, const Pictures& pictures, const Theme& t) {
  const Project& p = f.project;
  const YearResult& r = *f.year.result;
  const YearFacts& y = f.year.facts;
  const auto outcomeColour = [&](Outcome3 o) {
    return o == Outcome3::Meets ? t.meets : o == Outcome3::FallsShort ? t.short_ : t.muted;
  };

  // ---- what is handed in
  w.title(q(p.name));
  w.paragraph(q((p.site.name.empty() ? std::string() : p.site.name + " · ") + placeText(p.site.place)) +
                  (p.options.empty() ? QString() : " · option " + q(p.options[p.option].name)),
              t.muted, 11);
  w.gap(4);
  w.picture(w.width() * pictures.model.aspect(),
            [&](QPainter& painter, QRectF area) { pictures.model.paint(painter, area, t, 0.6); });
  w.heading("Verdict");
  for (const auto& [j, v] : f.verdicts) {
    w.paragraph(q(v.title + ": " + v.text), outcomeColour(v.outcome), 10.5, true);
    if (!v.detail.empty()) w.paragraph(q(v.detail + "."), t.ink, 9);
    for (const std::string& n : v.notes) w.paragraph(q(n), n.starts_with("Departs") ? t.short_ : t.muted, 9);
    w.gap(3);
  }
  if (f.verdicts.empty()) w.paragraph("No yardstick is laid against this project.", t.muted);
  w.heading("Handed in by");
  w.facts({{"Client", p.client.empty() ? "not named" : q(p.client)},
           {"Prepared by", p.preparedBy.empty() ? "not named" : q(p.preparedBy)},
           {"Made", q(f.made).replace('T', ' ')},
           {"Study", q(f.study.name) + ", run " + q(r.key.fingerprint())},
           {"To check", "The folder of this record carries the project, the weather and the yardsticks: noonward-cli "
                        "verify FOLDER computes every number anew."}});

  // ---- place and model
  w.newPage();
  const DisplayUnits& units = p.units;
  const ShownUnit area = shownUnit("m²", units), light = shownUnit("lx", units);
  const auto square = [&](double v, int digits) { return QString::number(area.shown(v), 'f', digits); };
  const auto lux = [&](double v) { return QString::number(light.shown(v), 'f', light.factor < 1 ? 1 : 0); };
  w.heading("Place and weather");
  const Site& s = p.site;
  std::vector<std::pair<QString, QString>> place{
      {"Place", q(fmt::format("{}, {:.0f} m above the sea", placeText(s.place), s.place.elevation))},
      {"Clock", q(fmt::format("{}, clock changes of {}", s.zone, s.year))},
      {"North", q(northText(s.northAngle))}};
  if (s.weather) {
    place.push_back(
        {"Weather year", q(s.weather->name() + (s.weather->source.empty() ? "" : " (" + s.weather->source + ")"))});
    place.push_back({"Light from it", "Hourly beam and diffuse irradiance by the efficacies of Perez et al. 1990; sky "
                                      "by their all-weather distribution of 1993"});
  }
  place.push_back(
      {"Ground", q(fmt::format("endless, at {:g} m, reflectance {:g} %", s.groundLevel, 100 * s.groundReflectance))});
  w.facts(place);
  w.heading("Model");
  std::size_t proposed = 0;
  QStringList out;
  for (const ElementPtr& e : p.elements) {
    proposed += e->proposed;
    if (!e->counted || e->role == Role::Ignore) out << q(e->name);
  }
  double glass = 0;
  for (const WindowGroup& g : y.groups) glass += g.area;
  w.facts({{"Elements", q(fmt::format("{}, {} of them proposed", p.elements.size(), proposed))},
           {"Left out", out.isEmpty() ? "nothing" : out.join(", ")},
           {"Rooms",
            q(fmt::format("{}, {} of them counted", p.rooms.size(),
                          std::count_if(p.rooms.begin(), p.rooms.end(), [](const Room& x) { return x.counted; })))},
           {"Glazing", q(fmt::format("{} in {}", quantityText(glass, 1, "m²", units),
                                     counted(y.groups.empty() ? 0 : y.groups.size() - 1, "group of windows",
                                             "groups of windows")))}});
  QStringList notCounted;
  for (const Room& x : p.rooms)
    if (!x.counted) notCounted << q(x.name + (x.reason.empty() ? ": no reason given" : ": " + x.reason));
  if (!notCounted.isEmpty()) w.facts({{"Do not count", notCounted.join("; ")}});
  w.heading("Finishes and glazings", 120);
  std::vector<QStringList> rows;
  for (const FinishLine& l : finishLines(p))
    rows.push_back({q(l.name), q(l.value), square(l.area, 0),
                    q(l.source) + (l.isDefault ? (l.source.empty() ? "by its role" : "; by its role") : "")});
  w.table({{"name", 2.2, false}, {"value", 3.4, false}, {q(area.symbol), 0.8, true}, {"source", 3, false}}, rows);

  // ---- how
  w.newPage();
  w.heading("Method");
  w.paragraph("Daylight coefficients by paths from every sensor, kept apart by group of windows and by 577 patches of "
              "the sky; interreflections until less than a thousandth remains, light between a room's surfaces "
              "remembered on patches of 0.6 m. "
              "The beam is traced to the true position of the sun in the middle of every hour with sun. sDA and ASE as "
              "in IES LM-83-12; a room's figure weighs its sensors by the area of their cells, the building's weighs "
              "rooms by their floor. "
              "± is one standard error of the computation alone, not of weather, model or finishes.",
              t.ink, 9.2);
  w.heading("Settings");
  rows.clear();
  std::vector<bool> departs;
  for (const SettingLine& l : settingLines(f)) {
    rows.push_back({q(l.name), q(l.value), q(l.remark)});
    departs.push_back(l.remark.starts_with("departs"));
  }
  w.table({{"setting", 2, false}, {"value", 4, false}, {"against the yardstick", 2.6, false}}, rows,
          [&](std::size_t k, int c) { return c == 2 ? departs[k] ? t.short_ : t.muted : QColor(); });
  if (!f.defaults.empty()) {
    w.heading("Defaults that nobody touched");
    for (const std::string& d : f.defaults) w.paragraph("· " + q(d), t.ink, 9);
  }

  // ---- rooms
  w.newPage();
  w.heading("Rooms");
  rows.clear();
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
  for (const auto& [j, v] : f.verdicts) {
    if (v.rows.empty()) continue;
    w.heading(q(v.title) + ", room by room", 60);
    rows.clear();
    for (const VerdictRow& x : v.rows)
      rows.push_back(
          {q(x.name),
           x.outcome == Outcome3::NotJudged && !std::isnan(v.points) ? "remark owed" : outcomeText(x.outcome),
           q(x.text)});
    w.table({{"room", 2, false}, {"outcome", 1.2, false}, {"figures", 5, false}}, rows,
            [&](std::size_t k, int c) { return c == 1 ? outcomeColour(v.rows[k].outcome) : QColor(); });
  }

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
    rows.clear();
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

  // ---- maps, two a page
  if (!pictures.maps.empty()) w.newPage();
  for (const Map& m : pictures.maps) {
    const double h = w.width() * m.picture.aspect();
    if (w.room() < h + 24) w.newPage();
    w.paragraph(m.caption, t.ink, 10, true);
    w.picture(h, [&](QPainter& painter, QRectF area) { m.picture.paint(painter, area, t, 0.62); });
  }

  // ---- findings
  w.heading("Findings", 60);
  if (f.open.empty()) w.paragraph("Nothing is left open.", t.muted);
  for (const Finding& x : f.open)
    w.paragraph(q(std::string(rankText(x.rank)) + ": " + x.text), x.rank == Rank::WorthKnowing ? t.ink : t.short_, 9);
  if (!f.accepted.empty()) {
    w.heading("Findings that were accepted", 40);
    for (const Finding& x : f.accepted) {
      const std::string& words = p.accepted.at(x.code);
      w.paragraph(q(x.text), t.ink, 9);
      w.paragraph(words.empty() ? "accepted without words" : "accepted because: " + q(words), t.muted, 9);
    }
  }
  w.heading("Versions");
  w.facts({{"Program", "Noonward " NOONWARD_VERSION},
           {"Time zones", q(timeZoneDataVersion())},
           {"Key of the question", q(r.key.hex())}});
}

} // namespace

Outcome makeRecordFolder(const RecordFacts& f, const std::filesystem::path& folder, PageKind page,
                         RunControl& control) {
  const PaintingWithoutWindow painting;
  const Theme theme = paperTheme();
  std::error_code code;
  std::filesystem::create_directories(folder / "pictures", code);
  if (code) return fail(fmt::format("The folder can't be made: {}.", code.message()), folder.string());
  const auto pictures = makePictures(f, control, theme);
  if (!pictures) return tl::unexpected(pictures.error());
  std::vector<std::string> made;
  const auto put = [&](const std::string& name, const QByteArray& bytes) -> Outcome {
    made.push_back(name);
    return saveFile(folder / name, std::string_view(bytes.constData(), std::size_t(bytes.size())));
  };
  if (Outcome o = put("pictures/model.png", pngBytes(pictures->model, 1600, 962, theme)); !o) return o;
  for (const Map& m : pictures->maps) {
    if (Outcome o = put("pictures/" + m.name + ".png",
                        pngBytes(m.picture, 1500, 62 + int(std::lround(1500 * m.picture.aspect())), theme));
        !o)
      return o;
    if (Outcome o = put("pictures/" + m.name + ".svg",
                        svgBytes(m.picture, 1500, 62 + int(std::lround(1500 * m.picture.aspect())), theme));
        !o)
      return o;
  }
  const QPageSize size(page == PageKind::Letter ? QPageSize::Letter : QPageSize::A4);
  const QSizeF points = size.size(QPageSize::Point);
  const QString foot =
      QString("%1 · %2 · run %3 · Noonward %4 · ± is numerical only")
          .arg(q(f.project.name), q(f.study.name), q(f.year.result->key.fingerprint()), NOONWARD_VERSION);
  int pages = 0;
  { // count first, for "2 of 9"
    Flow dry(nullptr, points, theme, foot, 0);
    compose(dry, f, *pictures, theme);
    pages = dry.pages();
  }
  QByteArray bytes;
  QBuffer buffer(&bytes);
  buffer.open(QIODevice::WriteOnly);
  {
    QPdfWriter pdf(&buffer);
    pdf.setPageSize(size);
    pdf.setResolution(144);
    pdf.setPageMargins(QMarginsF(0, 0, 0, 0));
    pdf.setTitle(q(f.project.name + " · " + f.study.name));
    pdf.setCreator("Noonward " NOONWARD_VERSION);
    Flow w(&pdf, points, theme, foot, pages);
    compose(w, f, *pictures, theme);
  }
  buffer.close();
  if (Outcome o = put("record.pdf", bytes); !o) return o;
  return writeRecord(f, folder, made);
}

} // namespace noonward
