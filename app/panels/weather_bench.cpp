#include "app/panels/weather_bench.h"
#include "app/panels/column_chart.h"
#include "app/theme/style.h"
#include "app/theme/table_fill.h"
#include "core/base/units.h"
#include "core/files/epw.h"
#include "core/files/fetch.h"
#include "core/sky/weather_check.h"
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>

namespace noonward {

WeatherBench::WeatherBench(Document& document, QWidget* parent) : Panel(parent), document_(document) {
  setAccessibleName("Weather bench panel");
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(18, 10, 18, 12);
  all->setSpacing(6);
  all->addWidget(words("Weather bench", titleFont(17), false));
  auto* top = new QHBoxLayout;
  all->addLayout(top);
  top->addWidget(textButton("Add a station's file …", "CSV, TSV or XLSX of a station or logger; several are joined",
                            [this] { emit fileWanted("in"); }));
  filesText_ = words("No file yet.", textFont(12), true, false);
  filesText_->setAccessibleName("Files of the bench");
  top->addWidget(filesText_, 1);
  top->addWidget(words("or a year by its address", textFont(12), true, false));
  top->addWidget(address_ = new QLineEdit);
  address_->setAccessibleName("Address of a weather file");
  address_->setPlaceholderText("https://… .epw or .zip");
  address_->setToolTip("A weather file or an archive with one in it; what comes is shown before it is taken");
  address_->setMinimumWidth(200);
  top->addWidget(textButton("Fetch", "Looks at what lies at the address", [this] { fetch(); }));
  connect(address_, &QLineEdit::returnPressed, this, &WeatherBench::fetch);

  read_ = words("", textFont(12), true);
  read_->setAccessibleName("How the file is read");
  all->addWidget(read_);
  QHBoxLayout* row = nullptr;
  const auto put = [&](const QString& label, QWidget* w, const QString& name, const QString& help, int width) {
    auto* l = words(label, textFont(12), true, false);
    l->setToolTip(help);
    w->setToolTip(help);
    w->setAccessibleName(name);
    w->setAccessibleDescription(help);
    w->setFixedWidth(width);
    row->addWidget(l);
    row->addWidget(w);
  };
  const auto nextRow = [&] {
    row = new QHBoxLayout;
    row->setSpacing(8);
    all->addLayout(row);
  };
  nextRow();
  put("Stamps keep", clock_ = new QComboBox, "Clock of the stamps",
      "Which clock the file's times were written by; those with an offset of their own need none", 126);
  clock_->addItems({"standard time", "local clock", "UTC"});
  put("they mark the", stamps_ = new QComboBox, "Place of the stamps",
      "Whether a row speaks for the time before, around or after its stamp", 84);
  stamps_->addItems({"begin", "middle", "end"});
  stamps_->setCurrentIndex(2);
  put("moved by, min", slip_ = new QLineEdit("0"), "Slip of the stamps", "Minutes added to every stamp", 56);
  row->addStretch();
  nextRow();
  put("Split global by", split_ = new QComboBox, "Model of splitting",
      "Where global radiation was measured alone: five predictors, or the hour's clearness", 180);
  split_->addItems({"Ridley and others 2010", "Erbs and others 1982"});
  put("gaps: straight up to, h", straight_ = new QLineEdit("3"), "Hours interpolated",
      "Gaps up to so many hours are filled on the line between what stands beside them", 44);
  put("by days around up to, d", days_ = new QLineEdit("3"), "Days filled by days around",
      "Gaps up to so many days are filled by the same hours of the days around them; longer ones stay missing", 44);
  row->addStretch();
  auto* both = new QHBoxLayout;
  both->setSpacing(18);
  all->addLayout(both, 1);
  table_ = new QTableWidget(0, 4);
  table_->setAccessibleName("Columns of the station");
  table_->setHorizontalHeaderLabels({"Column", "Holds", "In", "Values"});
  table_->verticalHeader()->hide();
  table_->setShowGrid(false);
  table_->setSelectionMode(QAbstractItemView::NoSelection);
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  table_->verticalHeader()->setDefaultSectionSize(28);
  table_->horizontalHeader()->setSectionResizeMode(QHeaderView::Interactive);
  table_->horizontalHeader()->setStretchLastSection(true);
  table_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  table_->setColumnWidth(0, 124);
  table_->setColumnWidth(1, 206);
  table_->setColumnWidth(2, 78);
  both->addWidget(table_, 1);
  auto* right = new QVBoxLayout;
  right->setSpacing(6);
  both->addLayout(right);
  findings_ = new QListWidget;
  findings_->setAccessibleName("Findings of the bench");
  findings_->setWordWrap(true);
  findings_->setMinimumWidth(300);
  findings_->setMinimumHeight(80);
  findings_->setTextElideMode(Qt::ElideNone);
  right->addWidget(findings_, 1);
  mend_ = textButton("Move the stamps", "Moves all stamps by what the sun says of them", [this] {
    if (!made_ || !made_->made.slip) return;
    const auto now = numberFromText(slip_->text().toStdString());
    slip_->setText(QString::number(now.value_or(0) + std::round(made_->made.slip->minutes)));
    make();
  });
  mend_->hide();
  right->addWidget(mend_);

  result_ = words("", textFont(12), false);
  result_->setAccessibleName("The year that was made");
  auto* told = new QHBoxLayout;
  all->addLayout(told);
  told->addWidget(result_, 1);
  shown_ = new QComboBox;
  shown_->setAccessibleName("Picture of the bench");
  shown_->setToolTip("Where the hours came from, or a column by month and by hour of the day");
  shown_->setFixedWidth(210);
  told->addWidget(shown_, 0, Qt::AlignTop);
  connect(shown_, &QComboBox::activated, this, &WeatherBench::showPicture);
  origin_ = new OriginPicture;
  all->addWidget(origin_);
  chart_ = new ColumnChart;
  chart_->hide();
  all->addWidget(chart_);
  auto* foot = new QHBoxLayout;
  state_ = words("", textFont(12), true);
  state_->setAccessibleName("State of the bench");
  foot->addWidget(state_, 1);
  stop_ = textButton("Stop", "Ends reading; nothing is taken", [this] {
    if (control_) control_->wish = Wish::Drop;
  });
  stop_->setAccessibleName("Stop the bench");
  stop_->hide();
  foot->addWidget(stop_);
  save_ = textButton("Save the year …", "EPW as a weather file, CSV as a table with where each hour came from",
                     [this] { emit fileWanted("out"); });
  foot->addWidget(save_);
  take_ = textButton("Take it as the weather", "Of this project; the year before it comes back with undo", [this] {
    if (fetched_)
      takeWeather(fetched_->weather, QString::fromStdString(fetched_->name));
    else if (made_)
      takeWeather(made_->made.weather, "the year made");
  });
  foot->addWidget(take_);
  foot->addWidget(textButton("Close", "Escape closes too", [this] { hide(); }));
  all->addLayout(foot);
  asking_.setSingleShot(true);
  asking_.setInterval(250);
  connect(&asking_, &QTimer::timeout, this, &WeatherBench::make);
  const auto soon = [this] {
    if (!files_.empty() && !filling_) asking_.start();
  };
  for (QComboBox* c : {clock_, stamps_, split_}) connect(c, &QComboBox::activated, this, soon);
  for (QLineEdit* f : {slip_, straight_, days_}) connect(f, &QLineEdit::editingFinished, this, soon);
  connect(&watch_, &QFileSystemWatcher::fileChanged, this, [this](const QString& path) {
    if (!watch_.files().contains(path) && QFile::exists(path)) watch_.addPath(path); // written anew in place of it
    asking_.start();
  });
  fillResult();
  hide();
}

void WeatherBench::open() {
  showPicture();
  show();
  raise();
  setFocus();
}

void WeatherBench::say(const QString& text, bool fault) {
  state_->setText(text);
  if (fault) emit document_.notice(text, true);
}

void WeatherBench::addFile(const QString& path) {
  const std::filesystem::path file = path.toStdString();
  if (std::find(files_.begin(), files_.end(), file) == files_.end()) files_.push_back(file);
  fetched_.reset();
  watch_.addPath(path);
  open();
  look();
}

/// In the background: a workbook is read whole for its head.
void WeatherBench::look() {
  say("reading …");
  document_.inBackground([this, files = files_]() -> std::function<void(Document&)> {
    auto found = std::make_shared<std::vector<Expected<StationGuess>>>();
    for (const auto& f : files) found->push_back(guessStation(f));
    return [this, files, found](Document&) {
      if (files == files_) take(std::move(*found)); // else another one was added since
    };
  });
}

void WeatherBench::take(std::vector<Expected<StationGuess>> found) {
  QStringList names, facts;
  for (std::size_t k = found.size(); k-- > 0;)
    if (!found[k]) {
      say("The file was not taken. " + QString::fromStdString(found[k].error().text()), true);
      watch_.removePath(QString::fromStdString(files_[k].string()));
      files_.erase(files_.begin() + std::ptrdiff_t(k));
      found.erase(found.begin() + std::ptrdiff_t(k));
    }
  const bool refused = state_->text().startsWith("The file was not taken");
  for (std::size_t k = 0; k < found.size(); ++k) {
    const StationGuess& g = *found[k];
    for (const StationColumn& c : g.map.columns) // what was changed by hand stays
      if (std::none_of(columns_.begin(), columns_.end(), [&](const StationColumn& o) { return o.column == c.column; }))
        columns_.push_back(c);
    names << QString::fromStdString(files_[k].filename().string());
    facts << QString("%1: %2; %3; a row every %4 s.")
                 .arg(names.back(), QString::fromStdString(g.table.text()), QString::fromStdString(g.form.text()))
                 .arg(g.step);
  }
  filesText_->setText(names.isEmpty() ? "No file yet." : names.join(", "));
  read_->setText(facts.join("  "));
  if (refused || found.empty()) return emit yearMade();
  if (!guess_) stamps_->setCurrentIndex(int(found.front()->map.stamps.value_or(StampAt::End)));
  guess_ = std::move(*found.front());
  fillColumns();
  make();
}

void WeatherBench::fillColumns() {
  filling_ = true;
  const TableFacts& t = guess_->table;
  // All columns of the first file, those that are something known or not.
  table_->setRowCount(0);
  const TableFill fill(table_);
  for (std::size_t k = 0; k < t.names.size(); ++k) {
    if (k == guess_->time || (guess_->date && k == *guess_->date)) continue;
    const auto known =
        std::find_if(columns_.begin(), columns_.end(), [&](const StationColumn& c) { return c.column == t.names[k]; });
    const int row = table_->rowCount();
    table_->insertRow(row);
    const QString name = QString::fromStdString(t.names[k]);
    auto* head = new QTableWidgetItem(name);
    head->setFont(textFont(12));
    head->setToolTip(name);
    table_->setItem(row, 0, head);
    auto* holds = new QComboBox;
    holds->setAccessibleName("What " + name + " holds");
    holds->setToolTip("What the column holds; nothing leaves it out");
    holds->addItem("nothing");
    for (std::size_t q = 0; q < measuredCount; ++q)
      if (facts(Measured(q)).field) holds->addItem(facts(Measured(q)).name, int(q));
    auto* unit = new QComboBox;
    unit->setAccessibleName("Unit of " + name);
    unit->setToolTip("The unit that the file's numbers are in");
    const bool listed = known != columns_.end() && facts(known->is).field;
    holds->setCurrentIndex(listed ? holds->findData(int(known->is)) : 0);
    const auto units = [unit](Measured q, const std::string& chosen) {
      unit->clear();
      for (const MeasuredUnit& u : unitsOf(q)) unit->addItem(u.name);
      unit->setCurrentText(QString::fromStdString(chosen));
      unit->setEnabled(true);
    };
    if (listed)
      units(known->is, known->unit);
    else
      unit->setEnabled(false);
    const std::string column = t.names[k];
    connect(holds, &QComboBox::activated, this, [this, holds, unit, units, column](int at) {
      std::erase_if(columns_, [&](const StationColumn& c) { return c.column == column; });
      if (at == 0) {
        unit->clear();
        unit->setEnabled(false);
      } else {
        const auto q = Measured(holds->itemData(at).toInt());
        units(q, unitsOf(q).front().name);
        columns_.push_back({column, q, unitsOf(q).front().name, ""});
      }
      asking_.start();
    });
    connect(unit, &QComboBox::activated, this, [this, unit, column](int) {
      for (StationColumn& c : columns_)
        if (c.column == column) c.unit = unit->currentText().toStdString();
      asking_.start();
    });
    table_->setCellWidget(row, 1, holds);
    table_->setCellWidget(row, 2, unit);
    QStringList values;
    for (std::size_t r = 0; r < t.sample.size() && values.size() < 4;
         r += std::max<std::size_t>(1, t.sample.size() / 4))
      if (k < t.sample[r].size()) values << QString::fromStdString(t.sample[r][k]);
    auto* some = new QTableWidgetItem(values.join("   "));
    some->setFont(figureFont(11));
    table_->setItem(row, 3, some);
  }
  filling_ = false;
}

std::optional<StationMap> WeatherBench::map() {
  StationMap m;
  constexpr std::array<const char*, 3> clocks{"standard", "local", "utc"};
  m.clock = clocks[std::size_t(clock_->currentIndex())];
  m.stamps = StampAt(stamps_->currentIndex());
  m.split = split_->currentIndex() == 0 ? SplitModel::Brl : SplitModel::Erbs;
  const auto slip = numberFromText(slip_->text().toStdString()),
             straight = numberFromText(straight_->text().toStdString()),
             days = numberFromText(days_->text().toStdString());
  if (!slip || std::abs(*slip) > 1440)
    return say("Minutes from −1440 to 1440 are expected for the stamps."), std::nullopt;
  if (!straight || *straight < 0 || *straight > 24)
    return say("0 to 24 hours are expected for short gaps."), std::nullopt;
  if (!days || *days < 0 || *days > 60) return say("0 to 60 days are expected for longer gaps."), std::nullopt;
  m.slip = *slip;
  m.gaps = {int(*straight), int(*days)};
  for (const StationColumn& c : columns_)
    if (facts(c.is).field) m.columns.push_back(c);
  if (m.columns.empty()) return say("No column holds anything: choose what they hold."), std::nullopt;
  return m;
}

void WeatherBench::make() {
  if (files_.empty()) return;
  if (busy_) {
    again_ = true;
    if (control_) control_->wish = Wish::Drop;
    return;
  }
  const auto asked = map();
  if (!asked) return emit yearMade();
  busy_ = true;
  stop_->show();
  say("reading …");
  control_ = std::make_shared<RunControl>();
  const auto control = control_;
  control->progress = [this](double share) {
    QMetaObject::invokeMethod(this, [this, share] {
      if (busy_) state_->setText(QString("reading … %1 %").arg(int(100 * share)));
    });
  };
  const Project& p = document_.project();
  document_.inBackground([this, control, map = *asked, files = files_,
                          site = StationSite{p.site.place, p.site.name.empty() ? p.name : p.site.name,
                                             p.zone()}]() -> std::function<void(Document&)> {
    auto made = std::make_shared<Expected<StationWeather>>(stationWeather(files, map, &site, *control));
    return [this, made](Document&) {
      busy_ = false;
      stop_->hide();
      if (*made) {
        made_ = std::make_shared<const StationWeather>(std::move(**made));
        fetched_.reset(); // what was asked for last is shown
        say("");
      } else {
        made_.reset();
        say(QString::fromStdString(made->error().text()));
      }
      fillResult();
      emit yearMade();
      if (std::exchange(again_, false)) make();
    };
  });
}

void WeatherBench::fillResult() {
  findings_->clear();
  origin_->show(fetched_ ? nullptr : made_);
  showPicture();
  take_->setEnabled(made_ || fetched_);
  save_->setEnabled(bool(made_));
  mend_->hide();
  Findings list;
  if (fetched_) {
    const Weather& w = fetched_->weather;
    const Site& s = document_.project().site;
    result_->setText(QString("%1: %2 (%3), %4 hours, %5°, %6°.")
                         .arg(QString::fromStdString(fetched_->name), QString::fromStdString(w.name()),
                              QString::fromStdString(w.source))
                         .arg(w.hours.size())
                         .arg(degrees(w.place.latitude), 0, 'f', 3)
                         .arg(degrees(w.place.longitude), 0, 'f', 3));
    list = checkWeather(w).findings;
    for (Finding& f : checkWeatherAgainst(w, {s.place, document_.project().zone(), s.year}))
      list.push_back(std::move(f));
    if (list.empty()) findings_->addItem("Nothing found.");
  } else if (made_) {
    const MadeWeather& m = made_->made;
    double global = 0, warm = 0;
    std::size_t known = 0;
    for (const WeatherHour& h : m.weather.hours) {
      if (std::isfinite(h[WeatherField::GlobalHorizontal])) global += h[WeatherField::GlobalHorizontal] / 1000;
      if (std::isfinite(h[WeatherField::DryBulb])) warm += h[WeatherField::DryBulb], ++known;
    }
    result_->setText(
        QString("%1: %L2 rows, %3 of 8760 hours measured, %4 invented. Global radiation %5 kWh/m²%6.")
            .arg(m.year)
            .arg(made_->read.used)
            .arg(m.hours[0])
            .arg(m.invented())
            .arg(global, 0, 'f', 0)
            .arg(known > 0 ? QString(", air %1 °C on average").arg(warm / double(known), 0, 'f', 1) : QString()));
    list = merged(made_->findings);
    if (m.slip && m.slip->counts()) {
      mend_->setText(QString("Move the stamps by %1%2 min")
                         .arg(m.slip->minutes > 0 ? "+" : "−")
                         .arg(std::abs(std::round(m.slip->minutes))));
      mend_->show();
    }
    if (list.empty()) findings_->addItem("Nothing found.");
  } else {
    result_->setText(files_.empty()
                         ? "A station's file is mapped to the columns of a weather year here; what is not measured is "
                           "derived or filled by rule, and every invented hour is marked."
                         : "");
  }
  for (const Finding& f : list) {
    auto* item = new QListWidgetItem(QString::fromStdString(f.text));
    item->setFont(textFont(12));
    item->setToolTip(rankText(f.rank));
    findings_->addItem(item);
  }
}

/// Of the year that was made or came, else of the project's own.
void WeatherBench::showPicture() {
  std::shared_ptr<const Weather> year = document_.project().site.weather;
  if (fetched_)
    year = {fetched_, &fetched_->weather};
  else if (made_)
    year = {made_, &made_->made.weather};
  const bool origin = made_ && !fetched_;
  const bool fresh = origin && shown_->findData(-1) < 0; // a year just made shows where it came from
  const QString before = fresh ? QString() : shown_->currentText();
  shown_->clear();
  if (origin) shown_->addItem("where the hours came from", -1);
  if (year)
    for (std::size_t f = 0; f < weatherFieldCount; ++f)
      if (std::any_of(year->hours.begin(), year->hours.end(),
                      [&](const WeatherHour& h) { return std::isfinite(h.values[f]) && h.values[f] != 0; }))
        shown_->addItem(facts(WeatherField(f)).name, int(f));
  if (const int at = shown_->findText(before); at >= 0) shown_->setCurrentIndex(at);
  shown_->setVisible(shown_->count() > 0);
  const int field = shown_->currentData().toInt();
  const bool chart = shown_->count() > 0 && field >= 0;
  chart_->show(chart ? year : nullptr, WeatherField(std::max(0, field)));
  chart_->setVisible(chart);
  origin_->setVisible(!chart);
}

void WeatherBench::fetch() {
  const QString address = address_->text().trimmed();
  if (address.isEmpty()) return say("An address such as https://… is expected.");
  if (busy_) return say("Something is being read: stop it first.");
  busy_ = true;
  stop_->show();
  say("fetching …");
  control_ = std::make_shared<RunControl>();
  document_.inBackground(
      [this, control = control_, address = address.toStdString()]() -> std::function<void(Document&)> {
        auto got = std::make_shared<Expected<FetchedWeather>>(fetchWeather(address, *control));
        return [this, got](Document&) {
          busy_ = false;
          stop_->hide();
          if (*got) {
            fetched_ = std::make_shared<const FetchedWeather>(std::move(**got));
            say("It came. Nothing is taken yet.");
          } else {
            say(QString::fromStdString(got->error().text()));
          }
          fillResult();
          emit yearMade();
        };
      });
}

void WeatherBench::takeWeather(const Weather& weather, const QString& name) {
  Project p = document_.project();
  p.site.weather = std::make_shared<const Weather>(weather);
  p.site.weatherFile.clear();
  document_.change(std::move(p), "Take weather");
  document_.look([](Looking& l) { l.year = YearPicture::Global; });
  say(QString("The project's weather is %1 now.").arg(name));
}

void WeatherBench::saveTo(const QString& path) {
  if (!made_) return say("There is no year to save yet.");
  writer_.start(
      [file = std::filesystem::path(path.toStdString()), made = made_](RunControl&) -> Outcome {
        return saveFile(file, file.extension() == ".csv" ? madeCsv(made->made) : epwText(made->made.weather));
      },
      [this, path](const Outcome& done) {
        say(done ? "Saved " + path + "." : "Not saved. " + QString::fromStdString(done.error().text()), !done);
      });
}

} // namespace noonward
