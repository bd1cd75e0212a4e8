#pragma once
// The Path: seven steps with their marks of readiness, by shape and colour.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/state/studies.h"
#include <QAbstractButton>
#include <map>
#endif

namespace noonward {

enum class Readiness { NotBegun, ToMend, Ready };
const char* stepName(Step step);
const char* readinessText(Readiness readiness);
/// What is still owed at a step.
Readiness readinessOf(Step step, const Document& document, const Studies& studies);

class StepButton : public QAbstractButton {
  Q_OBJECT
public:
  StepButton(Step step, QWidget* parent);
  void show(Readiness readiness, bool current);

protected:
  void paintEvent(QPaintEvent*) override;

private:
  Step step_;
  Readiness readiness_ = Readiness::NotBegun;
  bool current_ = false;
};

class PathBar : public QWidget {
  Q_OBJECT
public:
  PathBar(Document& document, Studies& studies, QWidget* parent = nullptr);

protected:
  void paintEvent(QPaintEvent*) override;

private:
  void refresh();
  Document& document_;
  Studies& studies_;
  std::map<Step, StepButton*> buttons_;
};

} // namespace noonward
