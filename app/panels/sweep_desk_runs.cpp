// The runs of the desk: a sweep or a search behind the window, what comes of it in table, chart and words.

#include "app/panels/sweep_desk.h"
#include "app/theme/style.h"
#include "app/theme/table_fill.h"
#include "core/runs/beside.h"
#include <QComboBox>
#include <QFileInfo>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QTableWidget>
#include <cmath>

namespace noonward {

namespace {
QString told(const std::string& text) {
  return QString::fromStdString(text);
}
} // namespace

void SweepDesk::run() {
  const Sweep* s = sweep();
  if (!s) return say("There is no sweep yet.");
  auto result = std::make_shared<std::shared_ptr<const SweepTable>>();
  say("running …");
  least_.reset();
  writer_.start(
      [this, sweep = *s, project = document_.project(), shelf = document_.sharedShelf(), store = document_.store(),
       result](RunControl& control) -> Outcome {
        StudyRunner runner(store.get());
        auto last = std::chrono::steady_clock::now();
        auto t = runSweep(project, sweep, *shelf, runner, control, {}, [&](const SweepTable& soFar) {
          const auto now = std::chrono::steady_clock::now();
          if (now - last < std::chrono::milliseconds(400)) return;
          last = now;
          QMetaObject::invokeMethod(this, [this, some = std::make_shared<const SweepTable>(soFar)] {
            if (!writer_.busy()) return;
            found_ = some;
            fillRows();
          });
        });
        if (!t) return tl::unexpected(t.error());
        *result = std::make_shared<const SweepTable>(std::move(*t));
        return {};
      },
      [this, result](const Outcome& done) {
        if (done) {
          found_ = *result;
          say(QString("%1 of %2 runs in %3 s, %4.")
                  .arg(found_->rows.size())
                  .arg(found_->all)
                  .arg(found_->seconds, 0, 'f', 1)
                  .arg(countText(std::size_t(found_->traced), "batch", "batches")));
        } else {
          say(told(done.error().text()));
        }
        fillRows();
        emit ran();
      });
}

void SweepDesk::search() {
  const Sweep* s = sweep();
  if (!s) return say("There is no sweep yet.");
  auto result = std::make_shared<std::shared_ptr<const LeastChange>>();
  say("searching …");
  writer_.start(
      [this, sweep = *s, project = document_.project(), shelf = document_.sharedShelf(), store = document_.store(),
       result](RunControl& control) -> Outcome {
        StudyRunner runner(store.get());
        auto l = leastChange(project, sweep, *shelf, runner, control, {}, [&](const LeastChange& soFar) {
          QMetaObject::invokeMethod(this, [this, n = soFar.coarse + soFar.full] {
            if (writer_.busy()) say(QString("searching … %1 designs tried").arg(n));
          });
        });
        if (!l) return tl::unexpected(l.error());
        *result = std::make_shared<const LeastChange>(std::move(*l));
        return {};
      },
      [this, sweep = *s, result](const Outcome& done) {
        if (!done) {
          say(told(done.error().text()));
          return emit ran();
        }
        least_ = *result;
        // What was tried is read as any other runs are.
        auto t = std::make_shared<SweepTable>();
        t->sweep = sweep;
        t->project = document_.project().name;
        t->units = least_->units;
        t->outcomeUnits = least_->outcomeUnits;
        t->now.assign(sweep.variables.size(), std::nullopt);
        for (const TriedDesign& d : least_->tried) {
          if (t->rows.empty()) t->now.assign(d.values.begin(), d.values.end());
          SweepRow r;
          r.number = t->rows.size();
          r.values = d.values;
          r.figures = d.figures;
          r.fault = d.fault;
          t->rows.push_back(std::move(r));
        }
        t->all = t->rows.size();
        found_ = t;
        say(QString("%1 coarse and %2 full runs in %3 s.")
                .arg(least_->coarse)
                .arg(least_->full)
                .arg(least_->seconds, 0, 'f', 1));
        fillRows();
        if (least_->found) choose(*least_->found);
        emit ran();
      });
}

void SweepDesk::fillRows() {
  chart_->show(found_);
  const int one = one_->currentIndex(), other = other_->currentIndex();
  one_->clear();
  other_->clear();
  filling_ = true;
  rows_->setSortingEnabled(false);
  {
    const TableFill filling(rows_);
    rows_->setRowCount(0);
    if (found_) {
      const SweepTable& t = *found_;
      QStringList heads{"run"};
      for (std::size_t k = 0; k < t.sweep.variables.size(); ++k)
        heads << told(t.sweep.variables[k].name) + (t.units[k].empty() ? "" : " " + told(t.units[k]));
      for (std::size_t o = 0; o < t.sweep.outcomes.size(); ++o) {
        heads << told(t.sweep.outcomes[o].name) + (t.outcomeUnits[o].empty() ? "" : " " + told(t.outcomeUnits[o]));
        one_->addItem(told(t.sweep.outcomes[o].name));
        other_->addItem(told(t.sweep.outcomes[o].name));
      }
      const auto isFaulty = [](const SweepRow& r) {
        return !r.fault.empty() || std::any_of(r.figures.begin(), r.figures.end(),
                                               [](const SweepFigure& f) { return std::isnan(f.value); });
      };
      const bool remarks = least_ || std::any_of(t.rows.begin(), t.rows.end(), isFaulty);
      if (remarks) heads << "";
      rows_->setColumnCount(int(heads.size()));
      rows_->setHorizontalHeaderLabels(heads);
      rows_->setRowCount(int(t.rows.size()));
      for (std::size_t r = 0; r < t.rows.size(); ++r) {
        const SweepRow& row = t.rows[r];
        const auto put = [&](int column, const QVariant& value, const QString& tip = {}) {
          auto* item = new QTableWidgetItem;
          item->setData(Qt::DisplayRole, value);
          item->setData(Qt::UserRole, int(r));
          item->setToolTip(tip);
          item->setFont(figureFont(11));
          item->setTextAlignment((value.typeId() == QMetaType::QString ? Qt::AlignLeft : Qt::AlignRight) |
                                 Qt::AlignVCenter);
          rows_->setItem(int(r), column, item);
        };
        put(0, int(row.number) + 1);
        int column = 1;
        for (const VaryValue& v : row.values) {
          const auto n = std::holds_alternative<double>(v) ? numberOf(v) : std::nullopt;
          put(column++, n ? QVariant(*n) : QVariant(told(valueText(v))));
        }
        QString fault = told(row.fault);
        for (std::size_t o = 0; o < t.sweep.outcomes.size(); ++o, ++column) {
          if (o >= row.figures.size() || std::isnan(row.figures[o].value)) {
            if (o < row.figures.size() && fault.isEmpty()) fault = told(row.figures[o].fault);
            put(column, QString("–"), fault);
            continue;
          }
          const double scale =
              std::pow(10.0, 3 - std::ceil(std::log10(std::max(1e-6, std::abs(row.figures[o].value)))));
          put(column, std::round(row.figures[o].value * scale) / scale,
              row.figures[o].error > 0 ? QString("± %1").arg(row.figures[o].error, 0, 'g', 2) : QString());
        }
        if (remarks)
          put(column,
              fault.isEmpty() ? (least_ && r < least_->tried.size() && least_->tried[r].full ? "full run" : "") : fault,
              fault);
      }
      rows_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    }
  }
  rows_->setSortingEnabled(true);
  rows_->sortByColumn(
      rows_->horizontalHeader()->sortIndicatorSection() > 0 ? rows_->horizontalHeader()->sortIndicatorSection() : 0,
      rows_->horizontalHeader()->sortIndicatorOrder());
  filling_ = false;
  one_->setCurrentIndex(std::max(0, one));
  other_->setCurrentIndex(other >= 0 && other < other_->count() ? other : std::min(1, other_->count() - 1));
  chart_->view().one = std::size_t(std::max(0, one_->currentIndex()));
  chart_->view().other = std::size_t(std::max(0, other_->currentIndex()));
  tell();
}

void SweepDesk::tell() {
  for (QPushButton* b : {show_, beside_, option_}) b->setEnabled(found_ && chart_->view().chosen.has_value());
  save_->setEnabled(found_ != nullptr);
  if (least_) return text_->setText(told(least_->text));
  if (!found_ || found_->rows.empty()) return text_->setText("");
  QStringList lines;
  const auto best = bestOf(*found_);
  for (const SweepBest& b : best) lines << told(b.text);
  if (best.size() > 1)
    if (const std::string why = whyPart(*found_, best[0], best[1]); !why.empty()) lines << told(why);
  if (best.empty()) lines << "No goal is set: type one beside a figure, such as at least 40 or most.";
  text_->setText(lines.join("\n"));
  if (!chart_->view().chosen && !best.empty()) choose(best.front().row);
}

void SweepDesk::choose(std::size_t row) {
  if (!found_ || row >= found_->rows.size()) return;
  chart_->view().chosen = row;
  chart_->redraw();
  for (QPushButton* b : {show_, beside_, option_}) b->setEnabled(true);
  filling_ = true;
  for (int r = 0; r < rows_->rowCount(); ++r)
    if (std::size_t(rows_->item(r, 0)->data(Qt::UserRole).toInt()) == row) {
      rows_->selectRow(r);
      rows_->scrollToItem(rows_->item(r, 0));
    }
  filling_ = false;
}

void SweepDesk::showChosen() {
  if (!found_ || !chart_->view().chosen) return;
  const SweepRow& row = found_->rows[*chart_->view().chosen];
  const auto variation = Variation::of(document_.own(), found_->sweep);
  const auto design = variation ? variation->at(row.values) : tl::unexpected(variation.error());
  if (!design) return say(told(design.error().text()));
  hide();
  for (const SweepOutcome& o : found_->sweep.outcomes) { // what the sweep looks at first is what the stage shows
    const auto& studies = design->studies;
    const auto at = std::find_if(studies.begin(), studies.end(), [&](const Study& s) {
      return o.of == SweepOutcome::Of::Study && (s.id.text() == o.source || s.name == o.source);
    });
    if (at == studies.end()) continue;
    document_.look([&](Looking& l) { l.study = at->id; });
    break;
  }
  document_.show(*design, QString("Run %1 of %2: %3")
                              .arg(row.number + 1)
                              .arg(told(found_->sweep.name), told(pointText(*found_, row.values))));
}

void SweepDesk::step(int by) {
  if (!found_ || !chart_->view().chosen) return;
  // As the table stands, sorted as it is.
  for (int r = 0; r < rows_->rowCount(); ++r)
    if (std::size_t(rows_->item(r, 0)->data(Qt::UserRole).toInt()) == *chart_->view().chosen) {
      const int next = r + by;
      if (next < 0 || next >= rows_->rowCount()) return emit document_.notice("There is no run further on.", false);
      choose(std::size_t(rows_->item(next, 0)->data(Qt::UserRole).toInt()));
      return showChosen();
    }
}

void SweepDesk::layBeside() {
  if (!found_ || !chart_->view().chosen) return;
  document_.dropPreview();
  Project p = document_.project();
  p.beside = designsBeside(p);
  DesignRef ref = refOfRun(found_->sweep, found_->rows[*chart_->view().chosen].values);
  if (std::find(p.beside.begin(), p.beside.end(), ref) != p.beside.end()) return say("It is laid beside them already.");
  const QString name = told(designName(p, ref));
  p.beside.push_back(std::move(ref));
  document_.change(std::move(p), "Lay a design beside others");
  say(name + " is laid beside the others: Compare options shows them.");
}

void SweepDesk::makeOption() {
  if (!found_ || !chart_->view().chosen) return;
  document_.dropPreview();
  const SweepRow& row = found_->rows[*chart_->view().chosen];
  auto made = withPointAsOption(document_.project(), found_->sweep, row.values,
                                least_ ? "Least change" : found_->sweep.name + " " + std::to_string(row.number + 1));
  if (!made) return say(told(made.error().text()));
  const QString name = told(made->options[made->option].name);
  document_.change(std::move(*made), "Make an option of a run");
  say(name + " is an option now, and in hand.");
}

void SweepDesk::saveTo(const QString& path) {
  if (!found_) return say("There is nothing to save yet.");
  const std::filesystem::path file(path.toStdString());
  const QString ending = QFileInfo(path).suffix().toLower();
  const auto table = found_;
  const bool started = writer_.start(
      [file, table, ending](RunControl&) -> Outcome {
        if (ending == "csv" || ending == "json" || ending == "xlsx") return saveSweepTable(*table, file);
        return saveSweepPage(*table, file);
      },
      [this, path](const Outcome& done) {
        const QString says = done ? "Saved " + path + "." : "Not saved. " + told(done.error().text());
        say(says);
        emit document_.notice(says, !done);
      });
  if (!started) say("A run is on its way: say Enough, or wait.");
}

} // namespace noonward
