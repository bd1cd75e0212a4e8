#include "app/panels/sweep_desk.h"
#include "app/theme/style.h"
#include "app/theme/table_fill.h"
#include "core/base/units.h"
#include "core/runs/sweep/sweep_words.h"
#include <QComboBox>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QTableWidget>
#include <QTimer>
#include <QVBoxLayout>

namespace noonward {

namespace {
enum VariableColumn { VariableName, VariablePlace, VariableValues, VariableWeight };
enum OutcomeColumn { OutcomeName, OutcomeOf, OutcomeGoal };

QTableWidget* tableOf(const QStringList& heads, const QString& name, const QString& help) {
  auto* t = new QTableWidget(0, int(heads.size()));
  t->setAccessibleName(name);
  t->setAccessibleDescription(help);
  t->setToolTip(help);
  t->setHorizontalHeaderLabels(heads);
  t->verticalHeader()->hide();
  t->setShowGrid(false);
  t->setSelectionBehavior(QAbstractItemView::SelectRows);
  t->setSelectionMode(QAbstractItemView::SingleSelection);
  t->verticalHeader()->setDefaultSectionSize(22);
  t->horizontalHeader()->setMinimumSectionSize(30);
  t->horizontalHeader()->setHighlightSections(false);
  t->setWordWrap(false);
  return t;
}
QString q(const std::string& text) {
  return QString::fromStdString(text);
}
} // namespace

SweepDesk::SweepDesk(Document& document, QWidget* parent) : Panel(parent), document_(document) {
  setAccessibleName("Many designs panel");
  build();
  connect(&writer_, &Writer::progressed, this, [this](double share) {
    if (writer_.busy()) say(QString("running … %1 %").arg(int(100 * share)));
  });
  connect(&writer_, &Writer::changed, this, [this] {
    stop_->setVisible(writer_.busy());
    run_->setEnabled(!writer_.busy());
    search_->setEnabled(!writer_.busy());
  });
  connect(&document_, &Document::projectChanged, this, [this] {
    if (isVisible()) refresh();
  });
  hide();
}

SweepDesk::~SweepDesk() = default;

void SweepDesk::build() {
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(18, 10, 18, 12);
  all->setSpacing(6);
  auto* top = new QHBoxLayout;
  top->setSpacing(8);
  all->addLayout(top);
  top->addWidget(words("Trying many designs", titleFont(17), false));
  top->addSpacing(12);
  which_ = new QComboBox;
  which_->setAccessibleName("Sweep");
  which_->setToolTip("Sweeps that the project keeps");
  which_->setFixedWidth(190);
  top->addWidget(which_);
  name_ = new QLineEdit;
  name_->setAccessibleName("Name of the sweep");
  name_->setToolTip("What it is called in the project, on the command line and in tables");
  name_->setPlaceholderText("name of the sweep");
  name_->setFixedWidth(190);
  top->addWidget(name_);
  top->addWidget(textButton("New", "Another sweep", [this] {
    Sweep s;
    s.id = SweepId::fresh();
    Project p = document_.project();
    s.name = "Sweep " + std::to_string(p.sweeps.size() + 1);
    in_ = s.id;
    p.sweeps.push_back(std::move(s));
    document_.change(std::move(p), "Add a sweep");
    refresh();
  }));
  remove_ = textButton("Remove", "This sweep; its results stay in the store", [this] {
    Project p = document_.project();
    std::erase_if(p.sweeps, [this](const Sweep& s) { return s.id == in_; });
    in_ = {};
    document_.change(std::move(p), "Remove a sweep");
    refresh();
  });
  remove_->setAccessibleName("Remove this sweep");
  top->addWidget(remove_);
  top->addStretch();
  connect(which_, &QComboBox::activated, this, [this](int at) {
    const auto& all = document_.project().sweeps;
    if (at >= 0 && std::size_t(at) < all.size()) in_ = all[std::size_t(at)].id;
    found_.reset();
    least_.reset();
    refresh();
  });
  connect(name_, &QLineEdit::editingFinished, this, [this] {
    const std::string typed = name_->text().trimmed().toStdString();
    if (!sweep() || typed.empty() || sweep()->name == typed) return;
    edit("Name a sweep", [&](Sweep& s) {
      s.name = typed;
      return Outcome{};
    });
  });
  auto* both = new QHBoxLayout;
  both->setSpacing(18);
  all->addLayout(both, 1);
  auto* left = new QVBoxLayout;
  left->setSpacing(4);
  both->addLayout(left, 9);
  buildAsked(left);
  auto* right = new QVBoxLayout;
  right->setSpacing(4);
  both->addLayout(right, 13);
  buildRead(right);
  auto* foot = new QHBoxLayout;
  foot->setSpacing(8);
  all->addLayout(foot);
  state_ = words("", textFont(12), true);
  state_->setAccessibleName("State of the sweep");
  foot->addWidget(state_, 1);
  stop_ = textButton("Enough", "Ends the run and keeps what is there", [this] { writer_.stop(); });
  stop_->setAccessibleName("Enough of the sweep");
  stop_->hide();
  foot->addWidget(stop_);
  show_ = textButton("Show it", "The run chosen on the stage, in plans and in the Almanac; the project stays as it is",
                     [this] { showChosen(); });
  show_->setAccessibleName("Show the run");
  foot->addWidget(show_);
  beside_ =
      textButton("Lay it beside", "The run chosen goes to the designs that are compared", [this] { layBeside(); });
  beside_->setAccessibleName("Lay the run beside others");
  foot->addWidget(beside_);
  option_ = textButton("Make it an option", "The run chosen becomes an option of the project, in hand",
                       [this] { makeOption(); });
  foot->addWidget(option_);
  save_ = textButton("Save …", "Table as CSV, XLSX or JSON, chart as PNG, SVG or PDF", [this] { emit fileWanted(); });
  save_->setAccessibleName("Save the sweep");
  foot->addWidget(save_);
  foot->addWidget(textButton("Close", "Escape closes too; a run goes on", [this] { hide(); }));
}

void SweepDesk::buildAsked(QVBoxLayout* into) {
  const auto title = [&](const QString& text, QPushButton*& offers, const QString& name, const QString& help) {
    auto* row = new QHBoxLayout;
    row->addWidget(words(text, textFont(12, true), false, false));
    row->addStretch();
    offers = new QPushButton(name + " …");
    offers->setAccessibleName(name);
    offers->setToolTip(help);
    offers->setMenu(new QMenu(offers));
    offers->menu()->setAccessibleName(name + ": offers");
    connect(offers->menu(), &QMenu::aboutToShow, this, &SweepDesk::fillOffers);
    row->addWidget(offers);
    into->addLayout(row);
  };
  title("What is varied", vary_, "Vary this",
        "What the project offers to vary; any other place of its file may be typed");
  variables_ = tableOf({"name", "place", "values", "weight"}, "Variables",
                       "Values as \"0 to 1.2 by 0.1\" or as a list; weight: how dear a change of it is; an empty name "
                       "takes the line away");
  variables_->setColumnWidth(VariableName, 96);
  variables_->setColumnWidth(VariablePlace, 150);
  variables_->setTextElideMode(Qt::ElideLeft); // the end of a place tells most
  variables_->setColumnWidth(VariableWeight, 48);
  variables_->horizontalHeader()->setSectionResizeMode(VariableValues, QHeaderView::Stretch);
  into->addWidget(variables_, 3);
  title("What is looked at", look_, "Look at this", "Figures of studies, of rules laid and of the model");
  outcomes_ = tableOf({"name", "of", "goal"}, "Outcomes",
                      "Goal: at least 40, at most 10, most or least; an empty name takes the line away");
  outcomes_->setColumnWidth(OutcomeName, 104);
  outcomes_->setColumnWidth(OutcomeGoal, 124);
  outcomes_->horizontalHeader()->setSectionResizeMode(OutcomeOf, QHeaderView::Stretch);
  into->addWidget(outcomes_, 3);
  auto* more = new QHBoxLayout;
  more->addWidget(words("Only where", textFont(12), true, false));
  where_ = new QLineEdit;
  where_->setAccessibleName("Conditions");
  where_->setPlaceholderText("sill + height <= 2.6");
  where_->setToolTip("Between variables by name, with ; between them: runs that break one are left out");
  more->addWidget(where_, 1);
  more->addWidget(words("sample", textFont(12), true, false));
  sample_ = new QLineEdit;
  sample_->setAccessibleName("Sample");
  sample_->setToolTip("So many runs, spread well over all combinations; empty: every one");
  sample_->setPlaceholderText("all");
  sample_->setFixedWidth(52);
  more->addWidget(sample_);
  into->addLayout(more);
  cost_ = words("", textFont(12), true);
  cost_->setAccessibleName("Cost of the sweep");
  into->addWidget(cost_);
  auto* go = new QHBoxLayout;
  run_ = textButton("Run the sweep", "Every design is an ordinary run of the store: none is computed twice",
                    [this] { run(); });
  go->addWidget(run_);
  search_ = textButton("Find the least change",
                       "From the design in hand to one that keeps all bounds; the last run is "
                       "a full one",
                       [this] { search(); });
  go->addWidget(search_);
  go->addStretch();
  into->addLayout(go);
  // Once the table has closed its editor: a change fills it anew.
  for (const bool variables : {true, false})
    connect(variables ? variables_ : outcomes_, &QTableWidget::cellChanged, this, [this, variables](int r, int c) {
      if (filling_) return;
      const QString typed = (variables ? variables_ : outcomes_)->item(r, c)->text().trimmed();
      QTimer::singleShot(0, this, [=, this] { cellTyped(variables, r, c, typed.toStdString()); });
    });
  connect(where_, &QLineEdit::editingFinished, this, [this] {
    std::vector<std::string> list;
    for (const QString& one : where_->text().split(';', Qt::SkipEmptyParts))
      if (!one.trimmed().isEmpty()) list.push_back(one.trimmed().toStdString());
    if (!sweep() || sweep()->conditions == list) return;
    edit("Change the conditions", [&](Sweep& s) {
      s.conditions = list;
      return Outcome{};
    });
  });
  connect(sample_, &QLineEdit::editingFinished, this, [this] {
    bool whole = false;
    const QString typed = sample_->text().trimmed();
    const int n = typed.isEmpty() || typed == "all" ? 0 : typed.toInt(&whole);
    if (!sweep()) return;
    if (n < 0 || (n == 0 && !typed.isEmpty() && typed != "all" && !whole))
      return say("A number of runs is expected, or nothing for all.");
    if (sweep()->sample == n) return;
    edit("Change the sample", [&](Sweep& s) {
      s.sample = n;
      return Outcome{};
    });
  });
}

void SweepDesk::buildRead(QVBoxLayout* into) {
  auto* row = new QHBoxLayout;
  into->addLayout(row);
  const auto pick = [&](QComboBox*& box, const QString& label, const QString& name, const QString& help, int width) {
    row->addWidget(words(label, textFont(12), true, false));
    box = new QComboBox;
    box->setAccessibleName(name);
    box->setToolTip(help);
    box->setFixedWidth(width);
    row->addWidget(box);
  };
  pick(way_, "Shown", "Chart of the sweep",
       "What each variable does; a line for each run, to be picked by dragging along an axis; two figures against each "
       "other with the edge of the best",
       180);
  way_->addItems({"what each variable does", "every run, a line", "two against each other"});
  pick(one_, "across", "Figure across", "Of two against each other: the one across", 120);
  pick(other_, "up", "Figure up", "Of two against each other: the one up", 120);
  row->addStretch();
  chart_ = new SweepChart;
  into->addWidget(chart_, 5);
  text_ = words("", textFont(12), false);
  text_->setAccessibleName("What the sweep says");
  into->addWidget(text_);
  rows_ = tableOf({}, "Runs of the sweep", "Click a heading to sort; the run chosen is drawn in the chart");
  rows_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  into->addWidget(rows_, 3);
  const auto looked = [this] {
    chart_->view().way = SweepView::Way(way_->currentIndex());
    chart_->view().one = std::size_t(std::max(0, one_->currentIndex()));
    chart_->view().other = std::size_t(std::max(0, other_->currentIndex()));
    for (QComboBox* b : {one_, other_}) b->setEnabled(way_->currentIndex() == 2);
    chart_->redraw();
  };
  for (QComboBox* b : {way_, one_, other_}) connect(b, &QComboBox::activated, this, looked);
  for (QComboBox* b : {one_, other_}) b->setEnabled(false);
  connect(chart_, &SweepChart::chosen, this, &SweepDesk::choose);
  connect(chart_, &SweepChart::picked, this, [this] { say(sweepText(*chart_->table(), chart_->view())); });
  connect(rows_, &QTableWidget::itemSelectionChanged, this, [this] {
    if (filling_ || rows_->currentRow() < 0) return;
    choose(std::size_t(rows_->item(rows_->currentRow(), 0)->data(Qt::UserRole).toInt()));
  });
  rows_->horizontalHeader()->setSectionsClickable(true);
}

const Sweep* SweepDesk::sweep() const {
  for (const Sweep& s : document_.project().sweeps)
    if (s.id == in_) return &s;
  return nullptr;
}

void SweepDesk::say(const QString& text) {
  state_->setText(text);
}

void SweepDesk::open() {
  document_.dropPreview(); // of a run that was shown
  show();
  raise();
  setFocus();
  refresh();
}

void SweepDesk::edit(const QString& name, const std::function<Outcome(Sweep&)>& how) {
  Project p = document_.project();
  auto at = std::find_if(p.sweeps.begin(), p.sweeps.end(), [this](const Sweep& s) { return s.id == in_; });
  if (at == p.sweeps.end()) { // the first thing asked begins a sweep
    Sweep s;
    s.id = in_ = SweepId::fresh();
    s.name = "Sweep " + std::to_string(p.sweeps.size() + 1);
    p.sweeps.push_back(std::move(s));
    at = p.sweeps.end() - 1;
  }
  if (const Outcome o = how(*at); !o) {
    refresh();
    return say(q(o.error().text()));
  }
  document_.change(std::move(p), name);
  refresh();
}

void SweepDesk::refresh() {
  const auto& all = document_.project().sweeps;
  if (!sweep() && !all.empty()) in_ = all.front().id;
  filling_ = true;
  which_->clear();
  for (const Sweep& s : all) {
    which_->addItem(q(s.name));
    if (s.id == in_) which_->setCurrentIndex(which_->count() - 1);
  }
  if (all.empty()) which_->addItem("no sweep yet");
  const Sweep* s = sweep();
  if (!name_->hasFocus()) name_->setText(s ? q(s->name) : QString());
  name_->setEnabled(s);
  remove_->setEnabled(s);
  fillTables();
  filling_ = false;
  fillRows();
  // What it would cost is worked out behind the window: places are looked up and tried.
  if (!s || s->variables.empty() || s->outcomes.empty()) {
    cost_->setText("Choose what is varied and what is looked at.");
    return;
  }
  document_.inBackground(
      [this, sweep = *s, shelf = document_.sharedShelf(),
       project = std::make_shared<const Project>(document_.project())]() -> std::function<void(Document&)> {
        const auto cost = sweepCost(*project, sweep, *shelf);
        const QString text =
            cost ? QString("%1 of %L2 combinations%3, in %4 that share rays.")
                       .arg(countText(cost->rows, "run", "runs"))
                       .arg(cost->combinations, 0, 'f', 0)
                       .arg(cost->leftOut > 0 ? QString(", %1 left out by conditions").arg(cost->leftOut) : QString())
                       .arg(countText(cost->batches, "batch", "batches"))
                 : q(cost.error().text());
        return [this, text, id = sweep.id](Document&) {
          if (id == in_) cost_->setText(text);
        };
      });
}

namespace {
/// "Overhang: depth" stands under "Overhang".
void putOffer(QMenu* menu, const std::string& words, const std::function<void()>& chosen) {
  const QString all = q(words), who = all.section(": ", 0, 0), what = all.section(": ", 1);
  QMenu* under = nullptr;
  for (QAction* a : menu->actions())
    if (a->menu() && a->text() == who) under = a->menu();
  if (!under) under = menu->addMenu(who);
  QObject::connect(under->addAction(what), &QAction::triggered, menu, chosen);
}
} // namespace

void SweepDesk::fillVary(const std::vector<VariableOffer>& offers) {
  vary_->menu()->clear();
  for (const VariableOffer& o : offers)
    putOffer(vary_->menu(), o.words, [this, variable = o.variable] {
      edit("Vary something", [&](Sweep& s) {
        Variable v = variable;
        v.name = freshColumn(s, v.name);
        s.variables.push_back(std::move(v));
        return Outcome{};
      });
    });
}

void SweepDesk::vary(const std::vector<ElementId>& selected, OpeningId opening) {
  open();
  if (selected.empty() && opening.value == 0) return say("Select a mass or a window first; or choose under Vary this.");
  offerToVary(variableOffersOf(document_.project(), selected, opening));
}

void SweepDesk::varyRule(RuleId rule) {
  open();
  std::vector<VariableOffer> offers = variableOffers(document_.project());
  std::erase_if(offers, [&](const VariableOffer& o) {
    return o.variable.at.front().find("/" + rule.text() + "/") == std::string::npos;
  });
  offerToVary(offers);
}

void SweepDesk::offerToVary(const std::vector<VariableOffer>& offers) {
  if (offers.empty()) return say("Nothing of it can be varied.");
  fillVary(offers);
  const QSignalBlocker quiet(vary_->menu()); // what it offers stays
  vary_->menu()->popup(vary_->mapToGlobal(QPoint(0, vary_->height())));
}

void SweepDesk::fillOffers() {
  fillVary(variableOffers(document_.project()));
  look_->menu()->clear();
  for (const OutcomeOffer& o : outcomeOffers(document_.project(), document_.shelf()))
    putOffer(look_->menu(), o.words, [this, outcome = o.outcome] {
      edit("Look at something", [&](Sweep& s) {
        SweepOutcome fresh = outcome;
        const auto taken = [&](const SweepOutcome& x) { return x.name == fresh.name; };
        for (int n = 2; std::any_of(s.outcomes.begin(), s.outcomes.end(), taken); ++n)
          fresh.name = outcome.name + " " + std::to_string(n);
        s.outcomes.push_back(std::move(fresh));
        return Outcome{};
      });
    });
}

void SweepDesk::fillTables() {
  const Sweep* s = sweep();
  const Project& p = document_.project();
  const auto put = [](QTableWidget* t, int row, int column, const QString& text, bool fixed = false) {
    auto* item = new QTableWidgetItem(text);
    item->setFont(textFont(12));
    item->setToolTip(text);
    if (fixed) item->setFlags(item->flags() & ~Qt::ItemIsEditable);
    t->setItem(row, column, item);
  };
  {
    const TableFill filling(variables_);
    variables_->setRowCount(s ? int(s->variables.size()) : 0);
    for (std::size_t k = 0; s && k < s->variables.size(); ++k) {
      const Variable& v = s->variables[k];
      std::string at;
      for (const std::string& one : v.at) at += (at.empty() ? "" : "; ") + one;
      put(variables_, int(k), VariableName, q(v.name));
      put(variables_, int(k), VariablePlace, q(at));
      put(variables_, int(k), VariableValues, q(valuesText(v)));
      put(variables_, int(k), VariableWeight, QString::number(v.weight));
    }
  }
  {
    const TableFill filling(outcomes_);
    outcomes_->setRowCount(s ? int(s->outcomes.size()) : 0);
    for (std::size_t k = 0; s && k < s->outcomes.size(); ++k) {
      const SweepOutcome& o = s->outcomes[k];
      std::string of = o.of == SweepOutcome::Of::Model ? "the model" : o.source;
      for (const Study& x : p.studies)
        if (x.id.text() == o.source) of = x.name;
      for (const Judgement& x : p.judgements)
        if (x.id.text() == o.source || x.yardstick == o.source)
          if (const Yardstick* y = document_.shelf().find(x.yardstick)) of = y->title;
      put(outcomes_, int(k), OutcomeName, q(o.name));
      put(outcomes_, int(k), OutcomeOf, q(of + ": " + o.figure + (o.group.empty() ? "" : ", " + o.group)), true);
      put(outcomes_, int(k), OutcomeGoal, q(goalsText(*s, o.name)));
    }
  }
  if (!where_->hasFocus()) {
    QStringList list;
    if (s)
      for (const std::string& c : s->conditions) list << q(c);
    where_->setText(list.join("; "));
  }
  if (!sample_->hasFocus()) sample_->setText(s && s->sample > 0 ? QString::number(s->sample) : QString());
}

void SweepDesk::cellTyped(bool variables, int row, int column, const std::string& typed) {
  const Sweep* now = sweep();
  const auto k = std::size_t(row);
  if (!now || k >= (variables ? now->variables.size() : now->outcomes.size())) return;
  edit("Change a sweep", [&](Sweep& s) -> Outcome {
    if (variables) {
      Variable& v = s.variables[k];
      if (column == VariableName && typed.empty()) {
        s.variables.erase(s.variables.begin() + row);
      } else if (column == VariableName) {
        v.name = typed;
      } else if (column == VariablePlace) {
        v.at.clear();
        for (const QString& one : q(typed).split(';', Qt::SkipEmptyParts)) v.at.push_back(one.trimmed().toStdString());
        if (v.at.empty()) return fail("A place of the project is expected, such as shading/Overhang/depth.");
      } else if (column == VariableValues) {
        return takeValues(v, typed);
      } else {
        const auto n = numberFromText(typed);
        if (!n || *n < 0) return fail("A weight of 0 or more is expected.");
        v.weight = *n;
      }
      return {};
    }
    SweepOutcome& o = s.outcomes[k];
    if (column == OutcomeGoal) return takeGoals(s, o.name, typed);
    if (column != OutcomeName) return {};
    if (typed.empty()) {
      std::erase_if(s.goals, [&](const SweepGoal& g) { return g.outcome == o.name; });
      s.outcomes.erase(s.outcomes.begin() + row);
      return {};
    }
    for (SweepGoal& g : s.goals)
      if (g.outcome == o.name) g.outcome = typed;
    o.name = typed;
    return {};
  });
}

} // namespace noonward
