#pragma once
// Drives a real window as a user would: real mouse and key events, widgets found by accessible name, waiting on what
// the program says of itself, never sleeping.

#include "app/shell/main_window.h"
#include "app/theme/style.h"
#include "tests/coarse.h"
#include <QApplication>
#include <QClipboard>
#include <QComboBox>
#include <QLineEdit>
#include <QPointer>
#include <QPushButton>
#include <QScrollArea>
#include <QTemporaryDir>
#include <QtTest>

namespace noonward::test {

template <class W = QWidget> W* named(QWidget& top, const QString& name) {
  W* hidden = nullptr;
  for (W* w : top.findChildren<W*>())
    if (w->accessibleName() == name) {
      if (w->isVisible()) return w;
      hidden = w;
    }
  if (!hidden) qFatal("nothing is called \"%s\"", qPrintable(name));
  return hidden;
}

inline void reveal(QWidget* w) {
  for (QWidget* p = w->parentWidget(); p; p = p->parentWidget()) // a fold is opened by its head
    if (auto* head = qobject_cast<QWidget*>(p->property("foldHead").value<QObject*>()); head && p->isHidden()) {
      reveal(head);
      QTest::mouseClick(head, Qt::LeftButton);
      QCoreApplication::processEvents();
    }
  for (QWidget* p = w->parentWidget(); p; p = p->parentWidget())
    if (auto* area = qobject_cast<QScrollArea*>(p)) area->ensureWidgetVisible(w);
  QCoreApplication::processEvents();
}

inline void click(QWidget* w, QPoint at = {-1, -1}) {
  reveal(w);
  if (!w->isVisible()) qFatal("\"%s\" is not to be seen", qPrintable(w->accessibleName()));
  QTest::mouseClick(w, Qt::LeftButton, {}, at.x() < 0 ? w->rect().center() : at);
  QCoreApplication::processEvents();
}

/// Presses a button of a list that is made anew now and then: as soon as one of that name is to be seen.
inline void press(QWidget& top, const QString& name) {
  const bool done = QTest::qWaitFor(
      [&] {
        QPointer<QPushButton> b = named<QPushButton>(top, name);
        if (b->isVisible()) reveal(b);
        if (!b || !b->isVisible()) return false;
        QTest::mouseClick(b, Qt::LeftButton);
        return true;
      },
      10000);
  if (!done) qFatal("\"%s\" is not to be seen", qPrintable(name));
  QCoreApplication::processEvents();
}

/// Types a field's new text and leaves it with Enter.
inline void fill(QWidget& top, const QString& name, const QString& text) {
  auto* f = named<QLineEdit>(top, name);
  const auto seen = [f] { // an answer that comes in may fold the rows away again
    reveal(f);
    return f->isVisible();
  };
  if (!QTest::qWaitFor(seen, 5000)) qFatal("\"%s\" is not to be seen", qPrintable(name));
  QTest::mouseClick(f, Qt::LeftButton);
  f->selectAll();
  text.isEmpty() ? QTest::keyClick(f, Qt::Key_Delete) : QTest::keyClicks(f, text);
  QTest::keyClick(f, Qt::Key_Return);
  QCoreApplication::processEvents();
}

/// Chooses an entry by keyboard, as the arrow keys do.
inline void choose(QWidget& top, const QString& name, const QString& entry) {
  auto* c = named<QComboBox>(top, name);
  reveal(c);
  c->setFocus();
  const int wanted = c->findText(entry);
  if (wanted < 0) qFatal("\"%s\" has no entry \"%s\"", qPrintable(name), qPrintable(entry));
  for (int guard = 0; c->currentIndex() != wanted && guard < 200; ++guard)
    QTest::keyClick(c, c->currentIndex() < wanted ? Qt::Key_Down : Qt::Key_Up);
  QCoreApplication::processEvents();
}

inline void drag(QWidget* w, QPointF from, QPointF to, Qt::MouseButton button = Qt::LeftButton,
                 Qt::KeyboardModifiers modifiers = {}, bool release = true) {
  const auto send = [&](QEvent::Type type, QPointF at, Qt::MouseButton b, Qt::MouseButtons down) {
    QMouseEvent e(type, at, w->mapToGlobal(at), b, down, modifiers);
    QApplication::sendEvent(w, &e);
    QCoreApplication::processEvents();
  };
  send(QEvent::MouseButtonPress, from, button, button);
  for (int k = 1; k <= 8; ++k) send(QEvent::MouseMove, from + (to - from) * k / 8.0, Qt::NoButton, button);
  if (release) send(QEvent::MouseButtonRelease, to, button, {});
}

inline void clickAt(QWidget* w, QPointF at, Qt::KeyboardModifiers modifiers = {}) {
  QTest::mouseMove(w, at.toPoint());
  QTest::mouseClick(w, Qt::LeftButton, modifiers, at.toPoint());
  QCoreApplication::processEvents();
}

/// A window on the real display, shown and active.
inline std::unique_ptr<MainWindow> openWindow() {
  static const bool once = [] {
    loadFonts(SOURCE_TREE "/resources");
    applyTheme(*qApp, Theme::light(), SOURCE_TREE "/resources");
    return true;
  }();
  (void)once;
  auto w = std::make_unique<MainWindow>(SOURCE_TREE "/resources");
  w->show();
  if (!QTest::qWaitForWindowActive(w.get(), 10000)) qWarning("the window is not active");
  QCoreApplication::processEvents(); // sheet and Almanac take their places
  return w;
}

/// A file dialog that is open: its name is typed and confirmed.
inline void answerFileDialog(MainWindow& w, const QString& path) {
  QLineEdit* line = nullptr;
  QVERIFY(QTest::qWaitFor(
      [&] {
        for (QLineEdit* e : w.findChildren<QLineEdit*>())
          if (e->objectName() == "fileNameEdit" && e->isVisible()) line = e;
        return line != nullptr;
      },
      5000));
  line->selectAll();
  QGuiApplication::clipboard()->setText(path); // pasted: the dialog's completion rewrites what is typed
  QTest::keyClick(line, Qt::Key_V, Qt::ControlModifier);
  QPointer<QLineEdit> open(line);
  for (int k = 0; k < 3 && open && open->isVisible(); ++k) { // the first Enter may only close the list of completions
    QTest::keyClick(open, Qt::Key_Return);
    (void)QTest::qWaitFor([&] { return !open || !open->isVisible(); }, 500);
  }
}

/// A fresh copy of a demo project: autosaves and results never land in the tree.
inline std::filesystem::path demoCopy(const char* name = "ropewalk-quay.noonward") {
  static QTemporaryDir home;
  static int n = 0;
  const std::filesystem::path folder = std::filesystem::path(home.path().toStdString()) / std::to_string(++n);
  std::filesystem::create_directories(folder);
  for (const auto& entry : std::filesystem::directory_iterator(SOURCE_TREE "/demo"))
    if (entry.path().extension() == ".noonward" || entry.path().extension() == ".epw")
      std::filesystem::copy(entry.path(), folder / entry.path().filename());
  return folder / name;
}

inline std::filesystem::path coarseDemo() {
  const std::filesystem::path file = demoCopy();
  return coarsen(file) ? file : std::filesystem::path();
}

/// Behaviours that follow on each other in one window, a slot each, so that a report names the one that broke.
struct Flow {
  QTemporaryDir d;
  std::unique_ptr<MainWindow> w; // gone once a behaviour has failed: what follows is left out, and said to be

  void begin() { w = openWindow(); }
  /// To be called by the test's cleanup().
  void after() {
    if (QTest::currentTestFailed()) w.reset();
  }
};
#define FOLLOWS_ON(flow)                                                                                               \
  if (!(flow).w) QSKIP("follows on a behaviour that failed or was not run")

inline bool settled(MainWindow& w) {
  return QTest::qWaitFor([&] { return w.studies().current() && !w.studies().busy() && !w.studies().current()->quick; },
                         200000);
}

} // namespace noonward::test
