#include "picture/record_pages.h"
#include "core/base/words.h"
#include "core/sky/measured/weather_making.h"
#include "picture/record_chapters.h"
#include <QBuffer>
#include <QPageSize>
#include <algorithm>
#include <fmt/format.h>

namespace noonward {

namespace {

/// What is handed in, and what it comes to.
void composeFront(const ChapterPage& page) {
  Flow& w = page.w;
  const RecordFacts& f = page.facts;
  const Project& p = f.project;
  const Theme& t = page.theme;
  w.title(q(p.name));
  w.paragraph(q((p.site.name.empty() ? std::string() : p.site.name + " · ") + placeText(p.site.place)) +
                  (p.options.empty() ? QString() : " · option " + q(p.options[p.option].name)),
              t.muted, 11);
  w.gap(4);
  w.picture(w.width() * page.pictures.model.aspect(),
            [&](QPainter& painter, QRectF area) { page.pictures.model.paint(painter, area, t, 0.6); });
  w.heading(f.verdicts.size() > 1 ? "Verdicts" : "Verdict");
  for (const VerdictChapter& c : f.verdicts) {
    const Verdict& v = c.verdict;
    w.paragraph(q(v.title + ": " + v.text), page.of(v.outcome), 10.5, true);
    if (!v.detail.empty()) w.paragraph(q(v.detail + "."), t.ink, 9);
    if (c.readings.size() > 1)
      w.paragraph(robust(c.readings) ? "Robust: the same under every reading that may be contested."
                                     : "Not robust: another reading turns it.",
                  robust(c.readings) ? t.muted : t.short_, 9);
    for (const std::string& n : v.notes)
      if (n.starts_with("Departs")) w.paragraph(q(n), t.short_, 9);
    w.gap(3);
  }
  if (f.verdicts.empty()) w.paragraph("No yardstick is laid against this project.", t.muted);
  w.heading("Handed in by");
  QStringList studies;
  for (const RecordPart& part : f.parts)
    if (part.kind == RecordPartKind::Study) studies << q(partName(p, part));
  w.facts({{"Client", p.client.empty() ? "not named" : q(p.client)},
           {"Prepared by", p.preparedBy.empty() ? "not named" : q(p.preparedBy)},
           {"Made", q(f.made).replace('T', ' ')},
           {"Studies", studies.isEmpty() ? "none beside the verdicts" : studies.join(", ")},
           {"Fingerprint", q(f.fingerprint())},
           {"To check", "The folder of this record carries the project, the weather and the yardsticks: noonward-cli "
                        "verify FOLDER computes every number anew."}});
}

/// Whether light that meets surfaces is in any part: finishes matter.
bool reflected(const RecordFacts& f) {
  return !f.years.empty() || std::any_of(f.fields.begin(), f.fields.end(),
                                         [](const FieldChapter& x) { return factsOf(x.study.kind).inside; });
}

void composeInputs(const ChapterPage& page) {
  Flow& w = page.w;
  const RecordFacts& f = page.facts;
  const Project& p = f.project;
  const Theme& t = page.theme;
  const DisplayUnits& units = p.units;
  const ShownUnit area = shownUnit("m²", units);
  const auto square = [&](double v, int digits) { return QString::number(area.shown(v), 'f', digits); };
  w.heading("Place and weather");
  const Site& s = p.site;
  std::vector<std::pair<QString, QString>> place{
      {"Place", q(fmt::format("{}, {:.0f} m above the sea", placeText(s.place), s.place.elevation))},
      {"Clock", q(fmt::format("{}, clock changes of {}", s.zone, s.year))},
      {"North", q(northText(s.northAngle))}};
  if (s.weather) {
    place.push_back(
        {"Weather year", q(s.weather->name() + (s.weather->source.empty() ? "" : " (" + s.weather->source + ")"))});
    if (const auto invented = inventedHours(*s.weather); invented && *invented > 0)
      place.push_back({"Invented", q(fmt::format("{} of 8760 hours, by its header", *invented))});
    if (partOfYear(*s.weather)) place.push_back({"Part of a year", "studies are of the hours it has alone"});
    place.push_back({"Light from it", "Hourly beam and diffuse irradiance by the efficacies of Perez et al. 1990; sky "
                                      "by their all-weather distribution of 1993"});
  }
  place.push_back(
      {"Ground", q(fmt::format("endless, at {:g} m, reflectance {:g} %", s.groundLevel, 100 * s.groundReflectance))});
  w.facts(place);
  w.heading("Model");
  std::size_t proposed = 0;
  QStringList out, gone;
  for (const ElementPtr& e : p.elements) {
    proposed += e->proposed;
    if (e->demolished) gone << q(nameOf(*e));
    if (!e->counted || e->role == Role::Ignore) out << q(e->name);
  }
  std::vector<std::pair<QString, QString>> model{
      {"Elements", q(fmt::format("{}, {} of them proposed", p.elements.size(), proposed))},
      {"Left out", out.isEmpty() ? "nothing" : out.join(", ")}};
  if (!gone.isEmpty()) model.push_back({"To be demolished", gone.join(", ")});
  if (!p.rooms.empty())
    model.push_back({"Rooms", q(fmt::format("{}, {} of them counted", p.rooms.size(),
                                            std::count_if(p.rooms.begin(), p.rooms.end(),
                                                          [](const Room& x) { return x.counted; })))});
  if (!f.years.empty()) {
    const auto& groups = f.years.front().year.facts.groups;
    double glass = 0;
    for (const WindowGroup& g : groups) glass += g.area;
    model.push_back({"Glazing", q(fmt::format("{} in {}", quantityText(glass, 1, "m²", units),
                                              counted(groups.empty() ? 0 : groups.size() - 1, "group of windows",
                                                      "groups of windows")))});
  }
  if (!s.referenceSystem.empty()) model.push_back({"Coordinates", q(s.referenceSystem)});
  w.facts(model);
  std::vector<QString> names;
  for (const ElementPtr& e : p.elements)
    if (e->proposed) names.push_back(q(nameOf(*e)));
  if (!names.empty()) {
    QStringList told;
    for (std::size_t k = 0; k < std::min<std::size_t>(12, names.size()); ++k) told << names[k];
    if (names.size() > 12) told << QString("%1 more").arg(names.size() - 12);
    w.facts({{"Proposed", told.join(", ")}});
  }
  QStringList notCounted;
  for (const Room& x : p.rooms)
    if (!x.counted) notCounted << q(x.name + (x.reason.empty() ? ": no reason given" : ": " + x.reason));
  if (!notCounted.isEmpty()) w.facts({{"Do not count", notCounted.join("; ")}});
  if (!reflected(f)) return;
  w.heading("Finishes and glazings", 120);
  std::vector<QStringList> rows;
  for (const FinishLine& l : finishLines(p))
    rows.push_back({q(l.name), q(l.value), square(l.area, 0),
                    q(l.source) + (l.isDefault ? (l.source.empty() ? "by its role" : "; by its role") : "")});
  w.table({{"name", 2.2, false}, {"value", 3.4, false}, {q(area.symbol), 0.8, true}, {"source", 3, false}}, rows);

  if (!f.defaults.empty()) {
    w.heading("Defaults that nobody touched");
    for (const std::string& d : f.defaults) w.paragraph("· " + q(d), t.ink, 9);
  }
}

void composeBack(const ChapterPage& page) {
  Flow& w = page.w;
  const RecordFacts& f = page.facts;
  const Project& p = f.project;
  const Theme& t = page.theme;
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
           {"Fingerprint of the claims", q(f.fingerprint())}});
}

void compose(const ChapterPage& page) {
  Flow& w = page.w;
  const RecordFacts& f = page.facts;
  composeFront(page);
  if (f.changes) {
    w.newPage();
    composeChanges(page, *f.changes);
  }
  composeRemarks(page);
  w.newPage();
  composeInputs(page);
  for (const RecordPart& part : f.parts) {
    if (part.kind == RecordPartKind::Text) {
      if (!part.title.empty()) w.heading(q(part.title), 40);
    } else {
      if (w.room() < 300) w.newPage();
      const VerdictChapter* v = f.verdict(part);
      w.heading(q(v ? v->verdict.title : partName(f.project, part)), 120);
    }
    if (!part.text.empty()) w.paragraph(q(part.text), page.theme.ink, 9.5);
    if (const YearChapter* y = f.year(part)) composeYear(page, *y);
    if (const FieldChapter* x = f.field(part)) composeField(page, *x);
    if (const VerdictChapter* v = f.verdict(part)) composeVerdict(page, *v);
    if (part.kind == RecordPartKind::Shadows)
      if (const ShadowChapter* s = f.shadow(part)) composeShadows(page, *s);
    if (const MeasuredChapter* m = f.measuredOf(part)) composeMeasured(page, *m);
    if (const SweepChapter* s = part.kind == RecordPartKind::Sweep ? f.sweepOf(part) : nullptr) composeSweep(page, *s);
    if (part.kind == RecordPartKind::Beside && f.beside) composeBeside(page, *f.beside);
    if (part.kind == RecordPartKind::View) composeMaps(page, part.of);
  }
  composeBack(page);
}

QPageSize::PageSizeId sizeOf(Paper paper) {
  switch (paper) {
  case Paper::A4:
    return QPageSize::A4;
  case Paper::A3:
    return QPageSize::A3;
  case Paper::Letter:
    return QPageSize::Letter;
  }
  return QPageSize::A4;
}

} // namespace

Outcome makeRecordFolder(const RecordFacts& f, const std::filesystem::path& folder, RunControl& control) {
  const PaintingWithoutWindow painting;
  const Theme theme = paperTheme();
  std::error_code code;
  std::filesystem::create_directories(folder / "pictures", code);
  if (code) return fail(fmt::format("The folder can't be made: {}.", code.message()), folder.string());
  const auto pictures = recordPictures(f, control, theme);
  if (!pictures) return tl::unexpected(pictures.error());
  std::vector<std::string> made;
  const auto put = [&](const std::string& name, const QByteArray& bytes) -> Outcome {
    made.push_back(name);
    return saveFile(folder / name, std::string_view(bytes.constData(), std::size_t(bytes.size())));
  };
  if (Outcome o = put("pictures/model.png", pngBytes(pictures->model, 1600, 962, theme)); !o) return o;
  for (const auto& [id, maps] : pictures->of)
    for (const RecordMap& m : maps) {
      const int high = 62 + int(std::lround(1500 * m.picture.aspect()));
      if (Outcome o = put("pictures/" + m.name + ".png", pngBytes(m.picture, 1500, high, theme)); !o) return o;
      if (Outcome o = put("pictures/" + m.name + ".svg", svgBytes(m.picture, 1500, high, theme)); !o) return o;
    }
  FileNames seats;
  for (const FieldChapter& x : f.fields)
    if (x.glare && x.glare->worst) {
      QByteArray png;
      QBuffer into(&png);
      into.open(QIODevice::WriteOnly);
      fisheyePage(worstSeatPage(f.project, *x.glare), theme).save(&into, "PNG");
      if (Outcome o = put("pictures/" + seats("worst seat of " + x.study.name) + ".png", png); !o) return o;
    }
  const QPageSize size(sizeOf(f.project.record.paper));
  const QSizeF points = size.size(QPageSize::Point);
  const QString foot = QString("%1 · claims %2 · Noonward %3 · ± is numerical only")
                           .arg(q(f.project.name), q(f.fingerprint()), NOONWARD_VERSION);
  int pages = 0;
  { // count first, for "2 of 9"
    Flow dry(nullptr, points, theme, foot, 0);
    compose({dry, f, *pictures, theme});
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
    pdf.setTitle(q(f.project.name + " · record"));
    pdf.setCreator("Noonward " NOONWARD_VERSION);
    Flow w(&pdf, points, theme, foot, pages);
    compose({w, f, *pictures, theme});
  }
  buffer.close();
  if (Outcome o = put("record.pdf", bytes); !o) return o;
  return writeRecord(f, folder, made);
}

} // namespace noonward
