#pragma once
// The tools of a step along the stage's left edge: sign, name and key.

#include <QList>
#include <QWidget>

class QAction;

namespace noonward {

/// What a tool's sign shows; drawn in the theme's ink.
enum class ToolSign {
  Mass,
  Move,
  Plate,
  Balcony,
  Corners,
  Area,
  Room,
  Window,
  Probe,
  Import,
  Trace,
  Picture,
  Cut,
  Tree,
  Guide
};

class ToolStrip : public QWidget {
  Q_OBJECT
public:
  struct Entry {
    QAction* action = nullptr; ///< its text is the name, its shortcut the key
    ToolSign sign = ToolSign::Mass;
    QString tip;
    bool apart = false; ///< a rule above it
  };
  ToolStrip(QWidget* stage, const QString& name, const QList<Entry>& entries);

protected:
  void paintEvent(QPaintEvent*) override;

private:
  QList<int> rules_; ///< entries with a rule above them
};

} // namespace noonward
