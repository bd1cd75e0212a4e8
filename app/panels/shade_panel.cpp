#include "app/panels/shade_panel.h"
#include "app/theme/style.h"
#include "core/files/results/tables.h"
#include "core/files/save_file.h"
#include "core/model/rooms/placing.h"
#include "core/runs/wish_hours.h"
#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>

namespace noonward {

struct ShadePanel::Answer {
  OpeningId window;
  Date date;
  bool coarse = false;
  std::string fault;
  std::shared_ptr<const ShadeMask> mask;
  std::vector<SunMoment> moments;
  std::optional<WindowShade> shade;
  std::shared_ptr<const GlassDays> days;
};

ShadePanel::ShadePanel(Document& document, QWidget* parent) : Panel(parent), document_(document) {
  setAccessibleName("Shade panel");
  setFixedSize(688, 556);
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(18, 10, 18, 12);
  all->setSpacing(4);
  auto* head = new QHBoxLayout;
  head->addWidget(words("Shade against the sun", titleFont(17), false, false));
  head->addStretch();
  projection_ = new QComboBox;
  projection_->setAccessibleName("Projection of the sky");
  projection_->addItems({"equidistant dome", "stereographic dome", "orthographic dome", "flat chart"});
  connect(projection_, &QComboBox::activated, this, [this](int i) { dial_->setProjection(DialProjection(i)); });
  head->addWidget(projection_);
  whichWindow_ = new QComboBox;
  whichWindow_->setAccessibleName("Window to shade");
  whichWindow_->setFixedWidth(210);
  connect(whichWindow_, &QComboBox::activated, this, [this](int i) {
    if (i < 0 || i >= int(windows_.size())) return;
    window_ = windows_[std::size_t(i)];
    fill();
    ask();
  });
  head->addWidget(whichWindow_);
  head->addWidget(textButton("Pick", "Click a window on the stage", [this] {
    picking_ = true;
    emit spotWanted("Click the window to shade.");
  }));
  all->addLayout(head);

  auto* middle = new QHBoxLayout;
  middle->setSpacing(16);
  auto* left = new QVBoxLayout;
  left->setSpacing(2);
  dial_ = new ShadeDial;
  connect(dial_, &ShadeDial::dragged, this, &ShadePanel::dragTo);
  connect(dial_, &ShadeDial::released, this, [this] {
    if (document_.previewing()) document_.commitPreview("Set depth");
  });
  left->addWidget(dial_);
  left->addStretch();
  middle->addLayout(left);

  auto* right = new QVBoxLayout;
  right->setSpacing(4);
  const auto heading = [&](const QString& text) { right->addWidget(words(text, titleFont(14), false)); };
  heading("What it does");
  figures_ = words({}, figureFont(11.5), false);
  figures_->setAccessibleName("What shading does at the window");
  figures_->setMinimumHeight(112); // six lines, never over what follows
  figures_->setAlignment(Qt::AlignTop);
  right->addWidget(figures_);
  heading("The part");
  whichRule_ = new QComboBox;
  whichRule_->setAccessibleName("Shading to size");
  connect(whichRule_, &QComboBox::activated, this, [this](int i) {
    if (i >= 0 && i < int(rules_.size())) rule_ = rules_[std::size_t(i)];
    fill();
    if (answer_) take(answer_); // its own cut-off on the sky
  });
  right->addWidget(whichRule_);
  addRow_ = new QWidget;
  auto* add = new QHBoxLayout(addRow_);
  add->setContentsMargins(0, 0, 0, 0);
  add->addWidget(textButton("Overhang here", "At this window alone", [this] { addHere(ShadeRule::Kind::Overhang); }));
  add->addWidget(textButton("Fins here", "At this window alone", [this] { addHere(ShadeRule::Kind::Fins); }));
  add->addWidget(textButton("Louvres here", "At this window alone", [this] { addHere(ShadeRule::Kind::Louvres); }));
  right->addWidget(addRow_);
  sizeRow_ = new QWidget;
  auto* size = new QHBoxLayout(sizeRow_);
  size->setContentsMargins(0, 0, 0, 0);
  size->addWidget(words("Keep out", textFont(12), true, false));
  goal_ = new QLineEdit("90 %");
  goal_->setAccessibleName("Share to keep out");
  goal_->setToolTip("Of the unwanted sun on the glass of all windows the part is at");
  goal_->setFixedWidth(52);
  size->addWidget(goal_);
  depth_ = textButton("Least depth", "The smallest depth that does, found by rays on the model as it stands",
                      [this] { this->size(ShadeSizing::What::Depth); });
  spacing_ = textButton("Widest spacing", "The widest spacing of blades that does",
                        [this] { this->size(ShadeSizing::What::Spacing); });
  stop_ = textButton("Stop", "Stop sizing", [this] {
    if (sizing_) sizing_->wish = Wish::Drop;
  });
  size->addWidget(depth_);
  size->addWidget(spacing_);
  size->addWidget(stop_);
  size->addStretch();
  right->addWidget(sizeRow_);
  heading("Hours of sun");
  wishes_ = words({}, textFont(11.5), true);
  wishes_->setAccessibleName("Hours of sun kept out and let in");
  right->addWidget(wishes_);
  auto* paint = new QHBoxLayout;
  paint->addWidget(textButton("Keep out", "Sun is not wanted in the season marked in the Almanac", [this] {
    editWishes("Keep sun out", [this](SunWishes& w) { w.keepOut.push_back(document_.looking().season); });
  }));
  paint->addWidget(textButton("Let in", "Sun is wanted in the season marked in the Almanac", [this] {
    editWishes("Let sun in", [this](SunWishes& w) { w.letIn.push_back(document_.looking().season); });
  }));
  paint->addWidget(words("the season", textFont(11.5), true, false));
  paint->addStretch();
  paint->addWidget(textButton("Clear", "Back to the hours proposed for the latitude",
                              [this] { editWishes("Clear hours of sun", [](SunWishes& w) { w = {}; }); }));
  right->addLayout(paint);
  struct Bound { // of the weather's hours
    QString label, name, tip, unit;
    double least, most;
    std::optional<double> SunWishes::*member;
  };
  auto* warm = new QHBoxLayout;
  const auto bound = [&](QHBoxLayout* row, const Bound& b) {
    row->addWidget(words(b.label, textFont(11.5), true, false));
    auto* f = new QLineEdit;
    f->setAccessibleName(b.name);
    f->setPlaceholderText("none");
    f->setToolTip(b.tip);
    f->setFixedWidth(b.unit.size() > 2 ? 80 : 56);
    connect(f, &QLineEdit::editingFinished, this, [this, f, b] {
      if (!f->isModified()) return;
      f->setModified(false);
      QString text = f->text().trimmed();
      text.remove(b.unit);
      f->setStyleSheet({});
      const auto v = numberFromText(text.trimmed().toStdString());
      if (!text.trimmed().isEmpty() && (!v || *v < b.least || *v > b.most))
        return f->setStyleSheet(QString("border: 1px solid %1;").arg(theme().short_.name()));
      editWishes("Set " + b.name.toLower(),
                 [&](SunWishes& w) { w.*b.member = text.trimmed().isEmpty() ? std::optional<double>() : v; });
    });
    row->addWidget(f);
    return f;
  };
  from_ = bound(warm, {"out from", "Kept out from", "Sun is kept out in hours of the weather this warm or warmer, °C",
                       "°C", -60, 60, &SunWishes::keepOutFrom});
  upTo_ = bound(warm, {"in up to", "Let in up to", "Sun is wanted in hours of the weather this cold or colder, °C",
                       "°C", -60, 60, &SunWishes::letInUpTo});
  warm->addWidget(words("air", textFont(11.5), true, false));
  warm->addStretch();
  right->addLayout(warm);
  auto* strong = new QHBoxLayout;
  beamFrom_ = bound(strong, {"out from", "Kept out from beam",
                             "Sun is kept out in hours whose direct normal irradiance in the weather is this or more, "
                             "W/m²",
                             "W/m²", 0, 1500, &SunWishes::keepOutBeamFrom});
  strong->addWidget(words("direct normal", textFont(11.5), true, false));
  strong->addStretch();
  right->addLayout(strong);
  hoursRow_ = new QWidget;
  auto* hours = new QHBoxLayout(hoursRow_);
  hours->setContentsMargins(0, 0, 0, 0);
  hours->addWidget(words("out in the hours of", textFont(11.5), true, false));
  hoursOf_ = new QComboBox;
  hoursOf_->setAccessibleName("Study whose hours are kept out");
  connect(hoursOf_, &QComboBox::activated, this, [this](int i) {
    const Project& p = document_.project();
    if (i <= 0 || i > int(hourStudies_.size()))
      return editWishes("Hours of no study", [](SunWishes& w) {
        w.keepOutHours.clear();
        w.keepOutHoursOf.clear();
      });
    for (const Study& s : p.studies)
      if (s.id == hourStudies_[std::size_t(i - 1)]) return takeHoursOf(s);
  });
  hours->addWidget(hoursOf_, 1);
  right->addWidget(hoursRow_);
  right->addStretch();
  middle->addLayout(right, 1);
  all->addLayout(middle);

  chart_ = new GlassDayChart;
  all->addWidget(chart_);
  day_ = words({}, textFont(11.5), true);
  day_->setAccessibleName("Sun on the glass today");
  all->addWidget(day_);
  auto* foot = new QHBoxLayout;
  foot->addWidget(textButton("Save the dial …", "PNG, SVG or PDF", [this] { emit fileWanted("dial"); }));
  foot->addWidget(textButton("Save the table …", "Every window as CSV", [this] { emit fileWanted("report"); }));
  sized_ = words({}, textFont(11.5), true);
  sized_->setAccessibleName("What sizing found");
  foot->addWidget(sized_, 1);
  foot->addWidget(textButton("Close", "Escape closes too", [this] { hide(); }));
  all->addLayout(foot);
  explain(
      {{whichWindow_, "The window whose sky is shown"},
       {whichRule_, "The shading at this window that is dragged and sized"},
       {projection_, "How the sky is laid flat: three plans of the dome, or azimuth against altitude"},
       {hoursOf_, "Hours in which a year of glare has a line of sight above 0.40, or a daylight year the beam of ASE "
                  "in a room"}});
  connect(&document_, &Document::projectChanged, this, [this] {
    if (!isVisible()) return;
    fill();
    ask();
  });
  connect(&document_, &Document::lookingChanged, this, [this] {
    if (!isVisible() || !answer_) return;
    const auto clock = document_.project().zone().clock(document_.looking().moment);
    if (clock.date != answer_->date)
      ask();
    else
      take(answer_);
  });
  hide();
}

void ShadePanel::hideEvent(QHideEvent* e) {
  if (sizing_) sizing_->wish = Wish::Drop;
  if (document_.previewing()) document_.dropPreview();
  ++opened_;
  document_.look([](Looking& l) { l.sunWishes = false; });
  Panel::hideEvent(e);
}

void ShadePanel::open(RuleId rule) {
  layout_ = placedOpenings(document_.project());
  if (layout_.openings.empty()) {
    emit document_.notice("No room has a window yet: give it some in the Rooms step first.", false);
    return;
  }
  ++opened_;
  busy_ = false; // what is still on its way is not for this opening
  sizing_.reset();
  rule_ = rule;
  const Project& p = document_.project();
  for (const ShadeRule& s : p.shadeRules) {
    if (s.id != rule) continue;
    const PlacedOpening* now = placed();
    if (now && standsAt(s, *now, p.rooms[now->room].id)) continue;
    for (const PlacedOpening& o : layout_.openings)
      if (standsAt(s, o, p.rooms[o.room].id)) {
        window_ = o.opening.id;
        break;
      }
  }
  sized_->clear();
  answer_.reset();
  show();
  raise();
  setFocus();
  document_.look([](Looking& l) { l.sunWishes = true; });
  fill();
  ask();
}

const PlacedOpening* ShadePanel::placed() const {
  for (const PlacedOpening& o : layout_.openings)
    if (o.opening.id == window_) return &o;
  return nullptr;
}

const ShadeRule* ShadePanel::rule() const {
  for (const ShadeRule& s : document_.project().shadeRules)
    if (s.id == rule_) return &s;
  return nullptr;
}

CutOff ShadePanel::cutOff() const {
  const ShadeRule* s = rule();
  const PlacedOpening* o = placed();
  return s && o ? cutOffOf(*s, frameOf(*o, document_.project().rooms[o->room])) : CutOff{};
}

void ShadePanel::fill() {
  const Project& p = document_.project();
  layout_ = placedOpenings(p);
  if (!placed() && !layout_.openings.empty()) window_ = layout_.openings.front().opening.id;
  windows_.clear();
  whichWindow_->clear();
  for (const PlacedOpening& o : layout_.openings) {
    windows_.push_back(o.opening.id);
    whichWindow_->addItem(QString::fromStdString(openingName(p, o)));
    if (o.opening.id == window_) whichWindow_->setCurrentIndex(whichWindow_->count() - 1);
  }
  rules_.clear();
  whichRule_->clear();
  const PlacedOpening* now = placed();
  for (const ShadeRule& s : p.shadeRules) {
    if (!now || !standsAt(s, *now, p.rooms[now->room].id)) continue;
    rules_.push_back(s.id);
    whichRule_->addItem(QString::fromStdString(s.name) +
                        QString(", %1 deep").arg(QString::fromStdString(lengthText(s.depth, p.units.length))));
    if (s.id == rule_) whichRule_->setCurrentIndex(whichRule_->count() - 1);
  }
  if (!rules_.empty() && std::find(rules_.begin(), rules_.end(), rule_) == rules_.end()) {
    rule_ = rules_.front();
    whichRule_->setCurrentIndex(0);
  }
  if (rules_.empty()) rule_ = {};
  whichRule_->setVisible(!rules_.empty());
  addRow_->setVisible(rules_.empty() && now && now->opening.edge >= 0);
  sizeRow_->setVisible(!rules_.empty());
  spacing_->setVisible(rule() && rule()->isBladed() && !sizing_);
  depth_->setVisible(!sizing_);
  stop_->setVisible(sizing_ != nullptr);
  const bool own = !p.sunWishes.empty();
  wishes_->setText(
      QString::fromStdString(own ? wishesText(p.sunWishes) : wishesText(proposedWishes(p.site.place.latitude))) +
      (own ? "." : " (proposed)."));
  const auto show = [](QLineEdit* f, const std::optional<double>& v, const QString& unit) {
    if (!f->hasFocus() || !f->isModified()) f->setText(v ? QString("%1 %2").arg(*v).arg(unit) : QString());
  };
  show(from_, p.sunWishes.keepOutFrom, "°C");
  show(upTo_, p.sunWishes.letInUpTo, "°C");
  show(beamFrom_, p.sunWishes.keepOutBeamFrom, "W/m²");
  const bool weather = p.site.weather && p.site.weather->whole();
  from_->setEnabled(weather);
  upTo_->setEnabled(weather);
  beamFrom_->setEnabled(weather);
  hourStudies_.clear();
  hoursOf_->clear();
  hoursOf_->addItem(p.sunWishes.keepOutHours.empty() ? "no study" : "no study any more");
  for (const Study& s : p.studies) {
    if (!tellsHoursOfSun(s)) continue;
    hourStudies_.push_back(s.id);
    hoursOf_->addItem(QString::fromStdString(s.name));
    if (!p.sunWishes.keepOutHours.empty() && p.sunWishes.keepOutHoursOf.ends_with("(" + s.name + ")"))
      hoursOf_->setCurrentIndex(hoursOf_->count() - 1);
  }
  hoursRow_->setVisible(!hourStudies_.empty() || !p.sunWishes.keepOutHours.empty());
}

void ShadePanel::ask() {
  if (busy_) {
    again_ = true;
    return;
  }
  busy_ = true;
  again_ = false;
  const bool coarse = document_.previewing();
  document_.inBackground(
      [this, project = document_.project(), window = window_, opened = opened_, coarse,
       date = document_.project().zone().clock(document_.looking().moment).date]() -> std::function<void(Document&)> {
        auto out = std::make_shared<Answer>();
        out->window = window;
        out->date = date;
        out->coarse = coarse;
        const ShadeSettings settings = coarse ? ShadeSettings{30, 4} : ShadeSettings{};
        const auto say = [&](const Error& e) {
          if (out->fault.empty()) out->fault = e.text();
        };
        auto mask = shadeMask(project, window, coarse ? 4 : 6);
        mask ? void(out->mask = std::make_shared<const ShadeMask>(std::move(*mask))) : say(mask.error());
        auto moments = sunMoments(project, settings);
        moments ? void(out->moments = std::move(*moments)) : say(moments.error());
        const auto report = shadeReport(project, settings, {window});
        if (!report)
          say(report.error());
        else if (!report->windows.empty())
          out->shade = report->windows.front();
        auto days = glassInSun(project, date, 300, coarse ? 4 : 8, {window});
        days ? void(out->days = std::make_shared<const GlassDays>(std::move(*days))) : say(days.error());
        return [this, out, opened](Document&) {
          if (opened != opened_) return;
          busy_ = false;
          if (out->window == window_) take(out);
          if (again_ && isVisible()) ask();
        };
      });
}

void ShadePanel::take(std::shared_ptr<const Answer> answer) {
  answer_ = std::move(answer);
  const Answer& a = *answer_;
  const Project& p = document_.project();
  const Looking& l = document_.looking();
  DialPicture d;
  d.mask = a.mask;
  d.moments = a.moments;
  d.place = p.site.place;
  d.zone = p.zone();
  d.year = p.site.year;
  if (!knots_ || knotYear_ != p.site.year) {
    knots_ = std::make_shared<const SunKnots>(SunKnots::ofYear(p.site.year));
    knotYear_ = p.site.year;
  }
  d.knots = knots_;
  d.northAngle = p.site.northAngle;
  d.moment = l.moment;
  d.cutOff = cutOff();
  if (const PlacedOpening* o = placed(); o && o->opening.edge >= 0)
    d.outward = wrapTwoPi(std::atan2(o->outward.x, o->outward.y) + p.site.northAngle);
  dial_->show(std::move(d));
  const auto percent = [](double v) { return QString("%1 %").arg(100 * v, 0, 'f', 1); };
  if (!a.fault.empty()) {
    figures_->setText(QString::fromStdString(a.fault));
  } else if (a.shade) {
    const WindowShade& w = *a.shade;
    const auto hours = [](double h) { return QString::number(h, 'f', 0); };
    QString text = w.keepOut.bare < 0.5
                       ? QString("No unwanted sun comes to this glass")
                       : QString("Unwanted sun kept out  %1\n   of %2 h on the glass, %3 h stay")
                             .arg(percent(w.keepOut.taken()), hours(w.keepOut.bare), hours(w.keepOut.shaded));
    if (w.keepOut.bareBeam > 0) text += QString(", %1 kWh/m²").arg(w.keepOut.shadedBeam, 0, 'f', 0);
    text += QString("\nWanted sun lost  %1\n   of %2 h").arg(percent(w.letIn.taken()), hours(w.letIn.bare));
    text += QString("\nSky left  %1 · view left  %2").arg(percent(w.sky), percent(w.view));
    if (w.keepOut.open > 0 && w.keepOut.takenByNeighbours() > 0.005)
      text += QString("\nBuildings and reveals take %1 before").arg(percent(w.keepOut.takenByNeighbours()));
    if (a.coarse) text += "\ncoarser while you drag";
    figures_->setText(text);
  }
  std::optional<double> now;
  const auto clock = p.zone().clock(l.moment);
  if (clock.date == a.date) now = clock.seconds;
  chart_->show(a.days, now);
  if (a.days && !a.days->windows.empty())
    day_->setText(QString::fromStdString(dayText(a.date)) + ": " + glassDayText(a.days->windows.front()) + ".");
}

void ShadePanel::dragTo(double azimuth, double altitude) {
  const ShadeRule* s = rule();
  const PlacedOpening* o = placed();
  if (!s || !o || o->opening.edge < 0 || sizing_) return;
  const Project& p = document_.project();
  const OpeningFrame frame = frameOf(*o, p.rooms[o->room]);
  const double outward = wrapTwoPi(std::atan2(o->outward.x, o->outward.y) + p.site.northAngle),
               hsa = wrapPi(azimuth - outward);
  if (std::abs(hsa) > radians(89.0)) return;
  const CutOff now = cutOffOf(*s, frame);
  const bool byProfile = now.profile.has_value() || s->kind == ShadeRule::Kind::Overhang ||
                         s->kind == ShadeRule::Kind::Louvres || s->kind == ShadeRule::Kind::Awning;
  const double wanted = byProfile ? std::atan2(std::tan(altitude), std::cos(hsa)) : std::abs(hsa);
  const auto angleWith = [&](double depth) -> std::optional<double> {
    ShadeRule tried = *s;
    tried.depth = depth;
    const CutOff c = cutOffOf(tried, frame);
    return byProfile ? c.profile : hsa > 0 ? c.left : c.right;
  };
  double low = 0.01, high = 6;
  if (!angleWith(low)) return;
  for (int k = 0; k < 40; ++k) { // a deeper part cuts off from a lower angle on
    const double middle = (low + high) / 2;
    const auto angle = angleWith(middle);
    (angle && *angle > wanted ? low : high) = middle;
  }
  Project next = p;
  for (ShadeRule& x : next.shadeRules)
    if (x.id == rule_) x.depth = std::round(high * 100) / 100;
  document_.preview(std::move(next));
}

void ShadePanel::editWishes(const QString& name, const std::function<void(SunWishes&)>& change) {
  Project p = document_.project();
  change(p.sunWishes);
  document_.change(std::move(p), name);
}

void ShadePanel::addHere(ShadeRule::Kind kind) {
  Project p = document_.project();
  ShadeRule s;
  s.id = RuleId::fresh();
  s.kind = kind;
  std::string name = shadeKindName(kind);
  name[0] = char(std::toupper(name[0]));
  s.name = name + " " + std::to_string(p.shadeRules.size() + 1);
  s.windows = {window_};
  if (kind == ShadeRule::Kind::Louvres) {
    s.depth = 0.15;
    s.spacing = 0.2;
  }
  rule_ = s.id;
  p.shadeRules.push_back(std::move(s));
  document_.change(std::move(p), "Add shade");
}

void ShadePanel::setSpot(Vec3 place, Vec3) {
  if (!std::exchange(picking_, false)) return;
  show();
  raise();
  const Project& p = document_.project();
  double nearest = 1.5; // m
  for (const PlacedOpening& o : layout_.openings) {
    const OpeningFrame f = frameOf(o, p.rooms[o.room]);
    const Vec3 d = place - f.origin;
    const double u = dot(d, f.along), v = dot(d, f.up), w = dot(d, f.outward);
    const double du = std::max({0.0, -u, u - f.width}), dv = std::max({0.0, -v, v - f.height}),
                 dw = std::max({0.0, w - 0.3, -f.reveal - 0.3 - w});
    if (const double away = std::sqrt(du * du + dv * dv + dw * dw); away < nearest) {
      nearest = away;
      window_ = o.opening.id;
    }
  }
  if (nearest >= 1.5) emit document_.notice("No window of a room lies there.", false);
  fill();
  ask();
}

void ShadePanel::exportTo(const QString& kind, const QString& path) {
  document_.inBackground([this, kind, path, project = document_.project(), window = window_,
                          projection = dial_->projection(),
                          moment = document_.looking().moment]() -> std::function<void(Document&)> {
    Outcome done = {};
    const std::filesystem::path file = path.toStdString();
    if (kind == "dial") {
      done = exportShadeDial(project, window, projection, moment, file);
    } else {
      const auto report = shadeReport(project);
      done = report ? saveFile(file, shadeCsv(*report)) : Outcome(tl::unexpected(report.error()));
    }
    return [this, done, path](Document&) {
      if (!done)
        emit document_.notice(QString::fromStdString(done.error().text()), true);
      else
        emit document_.notice("Saved " + path + ".", false);
    };
  });
}

} // namespace noonward
