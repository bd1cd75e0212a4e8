#include "app/shell/path_bar.h"
#include "app/theme/style.h"
#include <QPainter>
#include <QPainterPath>
#include <QVBoxLayout>

namespace noonward {

const char* stepName(Step step) {
  switch (step) {
  case Step::Site:
    return "Site";
  case Step::Model:
    return "Model";
  case Step::Finishes:
    return "Finishes";
  case Step::Rooms:
    return "Rooms";
  case Step::Studies:
    return "Studies";
  case Step::Options:
    return "Options";
  case Step::Record:
    return "Record";
  }
  return "";
}

const char* readinessText(Readiness r) {
  switch (r) {
  case Readiness::NotBegun:
    return "not begun";
  case Readiness::ToMend:
    return "something to mend";
  case Readiness::Ready:
    return "ready";
  }
  return "";
}

Readiness readinessOf(Step step, const Document& document, const Studies& studies) {
  const Project& p = document.project();
  const auto finding = [&](std::initializer_list<const char*> stems) {
    for (const Finding& f : document.findings())
      if (f.rank != Rank::WorthKnowing)
        for (const char* s : stems)
          if (f.code.starts_with(s)) return true;
    return false;
  };
  switch (step) {
  case Step::Site:
    if (finding({"site.", "weather."})) return Readiness::ToMend;
    return p.site.place == Place{} ? Readiness::NotBegun : Readiness::Ready;
  case Step::Model:
    if (finding({"element.", "scene."})) return Readiness::ToMend;
    return p.elements.empty() ? Readiness::NotBegun : Readiness::Ready;
  case Step::Studies: {
    if (p.studies.empty()) return Readiness::NotBegun;
    const auto answer = studies.current();
    return finding({"sensors."}) || !answer || !answer->painted ? Readiness::ToMend : Readiness::Ready;
  }
  case Step::Record: {
    const auto answer = studies.current();
    return answer && answer->painted && !p.judgements.empty() ? Readiness::Ready : Readiness::NotBegun;
  }
  case Step::Finishes:
    if (finding({"finish.", "glazing."})) return Readiness::ToMend;
    return p.assignments.empty() && p.finishes.empty() && p.glazings.empty() && p.rooms.empty() ? Readiness::NotBegun
                                                                                                : Readiness::Ready;
  case Step::Rooms:
    if (finding({"room.", "opening."})) return Readiness::ToMend;
    return p.rooms.empty() ? Readiness::NotBegun : Readiness::Ready;
  case Step::Options:
    if (finding({"option."})) return Readiness::ToMend;
    return p.options.empty() ? Readiness::NotBegun : Readiness::Ready;
  }
  return Readiness::NotBegun;
}

StepButton::StepButton(Step step, QWidget* parent) : QAbstractButton(parent), step_(step) {
  setText(stepName(step));
  setFixedHeight(58);
  setFocusPolicy(Qt::TabFocus);
  setCursor(Qt::PointingHandCursor);
}

void StepButton::show(Readiness r, bool current) {
  readiness_ = r;
  current_ = current;
  setAccessibleName(text());
  setAccessibleDescription(readinessText(r));
  setToolTip(QString("%1: %2").arg(text(), readinessText(r)));
  update();
}

void StepButton::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing, true);
  const Theme& t = theme();
  if (current_) {
    p.fillRect(rect().adjusted(0, 4, 0, -4), t.raised);
    p.fillRect(QRect(0, 4, 3, height() - 8), t.noon);
  }
  const QPointF m(width() / 2.0, 20);
  switch (readiness_) {
  case Readiness::Ready: {
    p.setPen(Qt::NoPen);
    p.setBrush(t.meets);
    p.drawEllipse(m, 6.5, 6.5);
    QPainterPath tick;
    tick.moveTo(m + QPointF(-3, 0));
    tick.lineTo(m + QPointF(-0.8, 2.4));
    tick.lineTo(m + QPointF(3.2, -2.4));
    p.setPen(QPen(t.dark ? QColor("#171A26") : QColor(Qt::white), 1.5));
    p.setBrush(Qt::NoBrush);
    p.drawPath(tick);
    break;
  }
  case Readiness::ToMend:
    p.setPen(Qt::NoPen);
    p.setBrush(t.noon);
    p.drawPolygon(QPolygonF({m + QPointF(0, -7), m + QPointF(7, 5.5), m + QPointF(-7, 5.5)}));
    break;
  case Readiness::NotBegun:
    p.setPen(QPen(t.muted, 1.3, Qt::DotLine));
    p.setBrush(Qt::NoBrush);
    p.drawEllipse(m, 6, 6);
    break;
  }
  p.setPen(current_ ? t.ink : t.muted);
  p.setFont(textFont(11.5, current_));
  p.drawText(QRectF(0, 30, width(), 20), Qt::AlignCenter, text());
  if (hasFocus()) {
    p.setPen(QPen(t.noon, 1, Qt::DotLine));
    p.setBrush(Qt::NoBrush);
    p.drawRect(rect().adjusted(5, 5, -5, -5));
  }
}

PathBar::PathBar(Document& document, Studies& studies, QWidget* parent)
    : QWidget(parent), document_(document), studies_(studies) {
  setFixedWidth(84);
  auto* layout = new QVBoxLayout(this);
  layout->setContentsMargins(0, 8, 0, 8);
  layout->setSpacing(0);
  for (Step s : allSteps) {
    auto* b = new StepButton(s, this);
    buttons_[s] = b;
    layout->addWidget(b);
    connect(b, &QAbstractButton::clicked, this, [this, s] { document_.look([&](Looking& l) { l.step = s; }); });
  }
  layout->addStretch();
  connect(&document_, &Document::projectChanged, this, &PathBar::refresh);
  connect(&document_, &Document::lookingChanged, this, &PathBar::refresh);
  connect(&document_, &Document::findingsChanged, this, &PathBar::refresh);
  connect(&studies_, &Studies::answerChanged, this, &PathBar::refresh);
  refresh();
}

void PathBar::refresh() {
  for (const auto& [step, button] : buttons_)
    button->show(readinessOf(step, document_, studies_), document_.looking().step == step);
}

void PathBar::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), theme().dark ? theme().paper : QColor("#F1EDE3"));
  p.setPen(theme().rule);
  p.drawLine(width() - 1, 0, width() - 1, height());
}

} // namespace noonward
