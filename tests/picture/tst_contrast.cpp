// What is written can be read: contrast of at least 4.5 : 1 in both themes, as WCAG 2.1 reckons it.

#include "picture/theme.h"
#include <QFile>
#include <QRegularExpression>
#include <QtTest>

using namespace noonward;

namespace {
double luminance(const QColor& c) {
  const auto linear = [](double v) { return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
  return 0.2126 * linear(c.redF()) + 0.7152 * linear(c.greenF()) + 0.0722 * linear(c.blueF());
}
double contrast(const QColor& a, const QColor& b) {
  const double x = luminance(a), y = luminance(b);
  return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
}
} // namespace

class TestContrast : public QObject {
  Q_OBJECT
private slots:
  void knownContrasts() {
    QVERIFY(std::abs(contrast(Qt::white, Qt::black) - 21) < 1e-6);
    QVERIFY(std::abs(contrast(QColor("#777777"), Qt::white) - 4.48) < 0.01);
  }

  void lettersOnEveryGround_data() {
    QTest::addColumn<QColor>("letters");
    QTest::addColumn<QColor>("ground");
    for (const Theme* t : {&Theme::light(), &Theme::darkTheme()})
      for (const auto& [on, ground] :
           {std::pair{"paper", t->paper}, {"raised", t->raised}, {"stage", t->stage}, {"ground", t->ground}})
        for (const auto& [name, letters] : {std::pair{"ink", t->ink},
                                            {"muted", t->muted},
                                            {"accent", t->noonText},
                                            {"meets", t->meets},
                                            {"falls short", t->short_}})
          QTest::addRow("%s, %s on %s", t->dark ? "dark" : "light", name, on) << letters << ground;
    for (const Theme* t : {&Theme::light(), &Theme::darkTheme()}) { // the main button, and under the pointer
      QTest::addRow("%s, main button", t->dark ? "dark" : "light") << t->paper << t->ink;
      QTest::addRow("%s, main button under the pointer", t->dark ? "dark" : "light") << t->paper << t->noonText;
    }
  }
  void lettersOnEveryGround() {
    QFETCH(QColor, letters);
    QFETCH(QColor, ground);
    QVERIFY2(contrast(letters, ground) >= 4.5,
             qPrintable(QString("%1 on %2: %3").arg(letters.name(), ground.name()).arg(contrast(letters, ground))));
  }

  /// The accent is for lines and marks; letters take its darker sister.
  void styleWritesNoLettersInTheBareAccent() {
    QFile style(SOURCE_TREE "/app/theme/style.cpp");
    QVERIFY(style.open(QIODevice::ReadOnly));
    const QString text = QString::fromUtf8(style.readAll());
    QVERIFY(text.contains("%accent"));
    QVERIFY(!QRegularExpression("(^|[^-])color: %noon").match(text).hasMatch());
  }
};

QTEST_GUILESS_MAIN(TestContrast)
#include "tst_contrast.moc"
