// What the Studies sheet tells of an answer: state, verdicts, spread, rooms, what is behind a value, earlier runs.

#include "app/steps/studies_sheet.h"
#include "app/theme/style.h"
#include "app/theme/table_fill.h"
#include "core/base/units.h"
#include "core/runs/trial.h"
#include "core/studies/energy_months.h"
#include "core/studies/irradiation.h"
#include <QComboBox>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPointer>
#include <QPushButton>
#include <QSlider>
#include <QTableWidget>
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

void StudiesSheet::showAnswer() {
  const auto answer = studies_.current();
  const auto last = studies_.latest();
  const Looking& l = document_.looking();
  const bool busy = studies_.busy();
  showMonths(answer);
  run_->setVisible(!busy);
  trial_->setVisible(!busy);
  robust_->setVisible(study() && study()->kind == StudyKind::Year &&
                      !(answer && answer->trial)); // a trial is no verdict
  enough_->setVisible(busy);
  drop_->setVisible(busy);
  QString state;
  if (!study()) return; // questions stand there
  if (busy && !(answer && answer->quick))
    state = QString("running, %1 %").arg(int(100 * studies_.progress()));
  else if (last && !last->fault.empty() && !answer)
    state = QString::fromStdString(last->fault);
  else if (answer && !answer->fault.empty())
    state = QString::fromStdString(answer->fault);
  else if (answer && answer->quick)
    state = answer->painted && answer->painted->light ? "follows the drag, roughly"
                                                      : "follows the drag, by steps of 10 min";
  else if (answer && answer->painted)
    state = QString("%1 · %2 s · run %3")
                .arg(countText(answer->painted->sensors.sensors.size(), "sensor"))
                .arg(answer->seconds, 0, 'f', 2)
                .arg(QString::fromStdString(answer->key.fingerprint()));
  else
    state = studies_.live() && studies_.tooLargeForLive() && !runsWhenAsked(study()->kind)
                ? "Too large to follow every change: press Run."
                : "Not run yet, or changed since: press Run.";
  if (answer && answer->painted && answer->painted->light && answer->painted->light->unsettled > 0 &&
      !answer->partial && !answer->quick)
    state += QString(" · %1 with a larger error").arg(countText(answer->painted->light->unsettled, "sensor"));
  if (answer && !answer->partial && answer->painted && answer->painted->end() == RunEnd::Enough && !answer->year)
    state += " · stopped early: cells without colour were not reached";
  if (answer && answer->trial && answer->painted)
    state = QString::fromStdString(trialText(*study(), document_.project().site.year)) + " · " +
            state.section(" · run", 0, 0);
  state_->setText(state);
  showVerdicts();
  const auto painted = answer ? answer->painted : nullptr;
  spreadRows_->setVisible(painted != nullptr);
  const bool change = painted && painted->isChange;
  threshold_->setVisible(painted != nullptr && !painted->year && !change);
  stateRows_->setVisible(study()->kind != StudyKind::Year && hasProposal(document_.project()));
  designState_->setCurrentIndex(int(l.state));
  energy_->hide();
  energyRows_->hide();
  // What went in, what was left out, what was only a default.
  QStringList counted;
  if (answer && (answer->lightInput || answer->facts)) {
    const Project& p = document_.project();
    QStringList out;
    for (const ElementPtr& e : p.elements)
      if (!e->counted || e->role == Role::Ignore) out << QString::fromStdString(e->name);
    const QString left = out.isEmpty() ? QString() : "; left out: " + out.join(", ");
    counted << (answer->lightInput
                    ? QString("Counted: %1 triangles%2.").arg(answer->lightInput->scene->triangleCount()).arg(left)
                    : QString("Counted: %1 elements%2.").arg(p.elements.size() - std::size_t(out.size())).arg(left));
    const bool inside = !answer->lightInput || factsOf(answer->lightInput->kind).inside;
    for (const Room& r : p.rooms)
      if (inside && !r.counted)
        counted << QString("%1 is not regularly occupied%2.")
                       .arg(QString::fromStdString(r.name),
                            r.reason.empty() ? QString() : ": " + QString::fromStdString(r.reason));
    for (const Finding& f : merged(answer->lightInput ? answer->lightInput->findings : answer->facts->findings))
      if (inside || f.code != "finish.default") counted << QString::fromStdString(f.text);
  }
  whatCounts_->setText(counted.join(" "));
  whatCounts_->setVisible(!counted.isEmpty());
  roomRows_->setVisible(painted && painted->light && painted->inRooms());
  for (QLineEdit* field : {rangeLow_, rangeHigh_})
    field->setEnabled(painted && !painted->year && !change); // each figure of a year has its own
  figures_->setChecked(l.values);
  if (painted) {
    const FieldScale scale = l.scale(*painted);
    show(rangeLow_, QString("%1 %2").arg(scale.low, 0, 'g', 4).arg(QString::fromStdString(scale.unit)));
    show(rangeHigh_, QString("%1 %2").arg(scale.high, 0, 'g', 4).arg(QString::fromStdString(scale.unit)));
    wholeRange_->setEnabled(!change && l.ranges.contains(painted->kind()));
  }
  if (painted && painted->light) {
    painted->year ? showYear(*painted) : showLight(*painted);
    spread_->show(painted, l.scale(*painted).threshold);
  } else if (painted) {
    spread_->show(painted, l.threshold(StudyKind::SunHours));
    threshold_->blockSignals(true);
    threshold_->setMaximum(int(painted->scale.high * 10));
    threshold_->setValue(int(std::lround(l.threshold(StudyKind::SunHours) * 10)));
    threshold_->blockSignals(false);
    const HourStatistics st =
        statistics(*painted->result, 0, painted->result->hours.size(), l.threshold(StudyKind::SunHours),
                   painted->sensors.areasOf(0, painted->result->hours.size()));
    thresholdWords_->setText(QString("%1 % have %2 h or more, %3 % less")
                                 .arg(100 * st.shareAtLeast, 0, 'f', 1)
                                 .arg(l.threshold(StudyKind::SunHours), 0, 'g', 3)
                                 .arg(100 * (1 - st.shareAtLeast), 0, 'f', 1));
    const auto t = [](double h) { return QString("%1 h %2").arg(int(h)).arg(int(h * 60) % 60, 2, 10, QChar('0')); };
    statistics_->setText(QString("mean %1 · median %2 · min %3 · max %4 · free sky %5")
                             .arg(t(st.mean), t(st.median), t(st.least), t(st.most), t(painted->result->possible)));
  } else {
    thresholdWords_->setText({});
    statistics_->setText({});
  }
  if (painted && painted->year) {
    QString text = answer->stored   ? "As it was kept: nothing was traced again. "
                   : answer->reused ? "No path was traced again: only the hours. "
                                    : "";
    if (l.sensor && *l.sensor < painted->sensors.sensors.size()) {
      const SensorYear& y = painted->year->sensors[*l.sensor];
      const auto lux = [&](double v) { return shownQuantity(v, 0, "lx", document_.project().units); };
      text = QString("%1: %2 % of the hours enough, mean %3 ± %4 %, median %5, max %6; %7 h with beam.")
                 .arg(QString::fromStdString(painted->sensors.sensorName(*l.sensor)))
                 .arg(100 * y.autonomy, 0, 'f', 1)
                 .arg(lux(y.mean))
                 .arg(100 * double(painted->year->relativeError[*l.sensor]), 0, 'g', 2)
                 .arg(lux(y.median))
                 .arg(lux(y.most))
                 .arg(painted->year->beamHours[*l.sensor]);
    }
    behind_->setText(text);
    return;
  }
  if (painted && painted->light) {
    QString text = "Click a cell to ask why it is what it is.";
    if (l.sensor && *l.sensor < painted->sensors.sensors.size() && answer->lightInput) {
      text = QString::fromStdString(painted->sensors.sensorName(*l.sensor)) + ": ";
      if (answer->state != DesignState::Proposed)
        text += QString::fromStdString(painted->valueText(*l.sensor)) + ".";
      else
        for (const std::string& line :
             explain(*answer->lightInput, painted->light.get(), *l.sensor, painted->scale.unit).sentences)
          text += QString::fromStdString(line) + " ";
    }
    behind_->setText(text);
    return;
  }
  if (painted && l.sensor && *l.sensor < painted->sensors.sensors.size() && answer->input) {
    QString text = QString::fromStdString(painted->sensors.sensorName(*l.sensor)) + ": ";
    int lines = 0;
    for (const auto& [date, sun] : sunStretches(*answer->input, *l.sensor)) {
      if (++lines > 8) {
        text += " …";
        break;
      }
      const Instant midnight = answer->input->zone.instant({date, 0});
      QStringList parts;
      for (const Interval& i : sun) {
        const auto clock = [&](double s) {
          const CivilTime c = answer->input->zone.clock(midnight + s);
          const int whole = int(std::lround(c.seconds));
          return QString("%1:%2:%3")
              .arg(whole / 3600)
              .arg(whole / 60 % 60, 2, 10, QChar('0'))
              .arg(whole % 60, 2, 10, QChar('0'));
        };
        parts << clock(i.begin) + "–" + clock(i.end);
      }
      text += "\n" + QString::fromStdString(dayText(date)) + "  " +
              (parts.isEmpty() ? QString("no sun") : parts.join(", "));
    }
    behind_->setText(text);
  } else {
    behind_->setText(painted ? "Click a cell for the hours behind it." : QString());
  }
}

/// What the months bring to the cell that is looked at: added up behind the window, the one asked last.
void StudiesSheet::showMonths(const std::shared_ptr<const StudyAnswer>& answer) {
  const Looking& l = document_.looking();
  const auto input = answer ? answer->lightInput : nullptr;
  const bool wanted = input && input->kind == StudyKind::Irradiation && input->radiant && input->radiant->hours() > 0 &&
                      answer->state == DesignState::Proposed && !answer->quick && l.sensor &&
                      *l.sensor < input->sensors.sensors.size() && study();
  if (!wanted) {
    if (monthsRun_) monthsRun_->wish = Wish::Drop;
    monthsOf_ = {};
    months_->hide();
    return;
  }
  const std::pair<Digest, std::size_t> asked{answer->key, *l.sensor};
  if (asked == monthsOf_) return;
  monthsOf_ = asked;
  months_->hide();
  if (monthsRun_) monthsRun_->wish = Wish::Drop;
  monthsRun_ = std::make_shared<RunControl>();
  document_.inBackground([sheet = QPointer<StudiesSheet>(this), control = monthsRun_, asked, input,
                          project = document_.project(), study = *study()]() -> std::function<void(Document&)> {
    auto found = std::make_shared<Expected<std::vector<EnergyMonth>>>(
        irradiationByMonth(project, study, *input, {asked.second}, *control));
    return [sheet, control, asked, found](Document& d) {
      if (!sheet || sheet->monthsOf_ != asked || control->wish.load() == Wish::Drop || !*found) return;
      std::array<std::optional<MonthParts>, 12> parts;
      for (const EnergyMonth& m : **found)
        parts[std::size_t(m.month - 1)] = MonthParts{double(m.result.direct[0]), double(m.result.sky[0]),
                                                     double(m.result.reflected[0]), double(m.result.standardError[0])};
      sheet->months_->show(parts, d.project().units);
      sheet->months_->setVisible(true);
    };
  });
}

void StudiesSheet::showLight(const SensorField& painted) {
  const LightResult& r = *painted.light;
  const FieldScale scale = document_.looking().scale(painted);
  const QString unit = QString::fromStdString(scale.unit);
  const double threshold = scale.threshold, step = factsOf(r.kind).step * scale.perSi;
  threshold_->blockSignals(true);
  threshold_->setMaximum(int(painted.scale.high / step));
  threshold_->setValue(int(std::lround(threshold / step)));
  threshold_->blockSignals(false);
  const LightStatistics st =
      lightStatistics(r, 0, r.value.size(), threshold, scale.high, painted.sensors.areasOf(0, r.value.size()));
  const auto number = [](double v) { return QString::number(v, 'f', v >= 100 ? 0 : v >= 10 ? 1 : 2); };
  if (painted.isChange && scale.low < 0) {
    double more = 0, less = 0, area = 0;
    const std::vector<double> areas = painted.sensors.areasOf(0, r.value.size());
    for (std::size_t i = 0; i < r.value.size(); ++i) {
      if (std::isnan(r.value[i])) continue;
      const double sure = std::max(1e-6, 2 * double(r.standardError[i])); // beyond what is noise
      area += areas[i];
      more += double(r.value[i]) > sure ? areas[i] : 0;
      less += double(r.value[i]) < -sure ? areas[i] : 0;
    }
    thresholdWords_->setText(
        area > 0
            ? QString("%1 % get less, %2 % more").arg(100 * less / area, 0, 'f', 1).arg(100 * more / area, 0, 'f', 1)
            : QString());
    const QString error = st.meanError > 0 ? QString(" ± %1").arg(st.meanError, 0, 'g', 2) : QString();
    statistics_->setText(QString("mean %1%2 %3 · from %4 to %5%6")
                             .arg(st.mean, 0, 'f', 2)
                             .arg(error, unit)
                             .arg(st.least, 0, 'f', 2)
                             .arg(st.most, 0, 'f', 2)
                             .arg(error.isEmpty() ? "" : ". ± is numerical only."));
    roomRows_->hide();
    return;
  }
  thresholdWords_->setText(
      QString("%1 % have %2 %3 or more, %4 % less")
          .arg(100 * st.shareAtLeast, 0, 'f', 1)
          .arg(threshold, 0, 'g', 4)
          .arg(unit)
          .arg(100 * st.shareBelow, 0, 'f', 1) +
      (st.shareAbove > 0 ? QString(", %1 % above the scale").arg(100 * st.shareAbove, 0, 'f', 1) : QString()));
  statistics_->setText(QString("mean %1 ± %2 %3 · median %4 · min %5 · max %6 · uniformity %7. ± is numerical only.")
                           .arg(number(st.mean))
                           .arg(st.meanError, 0, 'g', 2)
                           .arg(unit, number(st.median), number(st.least), number(st.most))
                           .arg(st.uniformity, 0, 'f', 2));
  if (r.kind == StudyKind::Irradiation && !painted.isChange) showEnergy(painted, threshold);
  if (r.energy && !painted.isChange) return showEnergyYear(painted);
  if (!painted.inRooms()) return;
  rooms_->setHorizontalHeaderLabels({"Room", "mean " + unit, "median", QString("≥ %1").arg(threshold, 0, 'g', 4)});
  const TableFill fill(rooms_);
  rooms_->setRowCount(0);
  const QFont small = textFont(11.5), figures = figureFont(11);
  for (const SensorGridFacts& g : painted.sensors.groups) {
    if (!roomFilter_->text().isEmpty() &&
        !QString::fromStdString(g.name).contains(roomFilter_->text(), Qt::CaseInsensitive))
      continue;
    const LightStatistics x =
        lightStatistics(r, g.first, g.count, threshold, 1e30, painted.sensors.areasOf(g.first, g.count));
    const int row = rooms_->rowCount();
    rooms_->insertRow(row);
    const QStringList cells{QString::fromStdString(g.name), number(x.mean), number(x.median),
                            QString("%1 %").arg(100 * x.shareAtLeast, 0, 'f', 0)};
    for (int c = 0; c < 4; ++c) {
      auto* item = new QTableWidgetItem(cells[c]);
      item->setFont(c == 0 ? small : figures);
      item->setTextAlignment(c == 0 ? Qt::AlignLeft | Qt::AlignVCenter : Qt::AlignRight | Qt::AlignVCenter);
      if (c == 1) item->setToolTip(QString("± %1 %2").arg(x.meanError, 0, 'g', 2).arg(unit));
      rooms_->setItem(row, c, item);
    }
  }
  rooms_->setFixedHeight(28 + 24 * rooms_->rowCount());
}

/// What all sensors receive together, by side, and where it is enough for panels.
void StudiesSheet::showEnergy(const SensorField& painted, double threshold) {
  const LightResult& r = *painted.light;
  const EnergyTotal all = energyTotal(painted.sensors, r, 0, r.value.size(), threshold);
  energy_->setVisible(all.area > 0);
  if (!(all.area > 0)) return;
  const bool energy = r.unitText().starts_with("kWh");
  const QString perDay = r.unitText().ends_with("a day") ? " a day" : "";
  const auto sum = [&](double v) {
    return (v >= 1e4 ? QString("%1 %2").arg(v / 1000, 0, 'f', v >= 1e6 ? 0 : 1).arg(energy ? "MWh" : "kW")
                     : QString("%1 %2").arg(v, 0, 'f', 0).arg(energy ? "kWh" : "W")) +
           perDay;
  };
  const auto area = [&](double v) { return shownQuantity(v, v >= 100 ? 0 : 1, "m²", document_.project().units); };
  QStringList lines{QString("Together %1 on %2: %3 % sun, %4 % sky, %5 % reflected.")
                        .arg(sum(all.energy), area(all.area))
                        .arg(100 * all.direct / all.energy, 0, 'f', 0)
                        .arg(100 * all.sky / all.energy, 0, 'f', 0)
                        .arg(100 * all.reflected / all.energy, 0, 'f', 0)};
  const auto sides =
      energyBySide(painted.sensors, r, 0, r.value.size(), threshold, document_.project().site.northAngle);
  if (sides.size() > 1)
    for (const EnergyBySide& s : sides)
      lines << QString("%1: %2 on %3, mean %4")
                   .arg(QString::fromStdString(s.side), sum(s.total.energy), area(s.total.area))
                   .arg(s.total.mean(), 0, 'f', s.total.mean() >= 100 ? 0 : 1);
  lines << QString("From %1 %2 on: %3 with %4.")
               .arg(threshold, 0, 'g', 4)
               .arg(QString::fromStdString(painted.scale.unit), area(all.areaAtLeast), sum(all.energyAtLeast));
  energy_->setText(lines.join("\n"));
}

namespace {
/// The first few that fall short, in words; nothing where none does, or where one row alone says no more than the
/// verdict.
QString shortRows(const Verdict& v) {
  constexpr int most = 6;
  QStringList lines;
  int n = 0;
  for (const VerdictRow& r : v.rows)
    if (r.outcome == Outcome3::FallsShort && ++n <= most)
      lines << QString::fromStdString(r.text.empty() ? fmt::format("{}: {:.1f} {}", r.name, r.after, v.unit)
                                                     : r.name + ": " + r.text);
  if (v.rows.size() < 2 || n == 0) return {};
  if (n > most) lines << QString("and %1 more: the bar's tip names them").arg(n - most);
  return lines.join("\n");
}
} // namespace

void StudiesSheet::showVerdicts() {
  const auto answer = studies_.current();
  const std::size_t wanted = answer ? answer->verdicts.size() : 0;
  verdictRows_->setVisible(wanted > 0);
  constexpr int each = 3; // widgets: what was judged, its bar, what falls short
  while (std::size_t(verdicts_->count()) > each * wanted) {
    QLayoutItem* item = verdicts_->takeAt(verdicts_->count() - 1);
    item->widget()->hide();
    item->widget()->deleteLater();
    delete item;
  }
  const auto words = [this] {
    auto* label = new QLabel;
    label->setFont(textFont(11.5));
    label->setWordWrap(true);
    verdicts_->addWidget(label);
  };
  while (std::size_t(verdicts_->count()) < each * wanted) {
    words();
    verdicts_->addWidget(new VerdictBar);
    words();
  }
  for (std::size_t i = 0; i < wanted; ++i) {
    const auto& [judgement, v] = answer->verdicts[i];
    const auto at = [&](int k) { return verdicts_->itemAt(each * int(i) + k)->widget(); };
    static_cast<QLabel*>(at(0))->setText(
        QString::fromStdString(v.title + (v.outcome == Outcome3::NotJudged ? "" : " · " + v.text)));
    static_cast<VerdictBar*>(at(1))->show(v, false);
    // Rooms have a table of their own; of windows, dwellings and areas those that fall short are named.
    const Yardstick* y = document_.shelf().find(judgement.yardstick);
    auto* rows = static_cast<QLabel*>(at(2));
    rows->setAccessibleName("Falls short in " + QString::fromStdString(v.title));
    rows->setText(y && !besideYear(y->measure) ? shortRows(v) : QString());
    rows->setVisible(!rows->text().isEmpty());
    QStringList all;
    for (const bool falls : {true, false}) // those that fall short first
      for (const VerdictRow& r : v.rows)
        if ((r.outcome == Outcome3::FallsShort) == falls)
          all << QString::fromStdString(
              fmt::format("{}: {}{}{}", r.name, outcomeText(r.outcome), r.text.empty() ? "" : ", ", r.text));
    at(1)->setToolTip(all.mid(0, 40).join("\n"));
  }
}

void StudiesSheet::showRuns() {
  runRows_->setVisible(!studies_.history().empty());
  runs_->clear();
  for (const StoredRun& r : studies_.history())
    runs_->addItem(QString("%1 · %2 · %3 s\n%4 · %5")
                       .arg(QString::fromStdString(r.name), QString::fromStdString(r.when).replace('T', ' '))
                       .arg(r.seconds, 0, 'f', 2)
                       .arg(QString::fromStdString(r.asked), QString::fromStdString(r.key.fingerprint())));
}

} // namespace noonward
