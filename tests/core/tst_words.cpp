// The trade's words in everything that the program says: every string of its sources, its rules and its pages.

#ifndef Q_MOC_RUN
#include "tests/plain_words.h"
#endif
#include <QDirIterator>
#include <QtTest>

using namespace noonward::test;

namespace {

bool isOfUse(const QString& text) { // keys of earlier files are read, not said
  return text.size() > 2 && (text.contains(' ') || text[0].isUpper() || text.contains("%"));
}

QByteArray contents(const QString& path) {
  QFile f(path);
  return f.open(QIODevice::ReadOnly) ? f.readAll() : QByteArray();
}

} // namespace

class TestWords : public QObject {
  Q_OBJECT
private slots:
  void everyStringOfTheSourcesIsInTheTradesWords() {
    QStringList faults;
    int read = 0;
    for (const char* folder : {"app", "core", "picture", "cli", "ifc"})
      for (QDirIterator it(QString(SOURCE_TREE "/") + folder, {"*.cpp", "*.h"}, QDir::Files,
                           QDirIterator::Subdirectories);
           it.hasNext();) {
        const QString path = it.next();
        for (const QString& line : QString::fromUtf8(contents(path)).split('\n')) {
          if (line.trimmed().startsWith("#include")) continue;
          for (auto m = literal.globalMatch(line.section(" // ", 0, 0)); m.hasNext();) {
            const QString text = m.next().captured(1);
            ++read;
            if (!isOfUse(text) || line.contains("in earlier files") || line.contains("h.add(")) continue;
            for (const QString& f : faultsIn(text)) faults << path.section('/', -2) + ": " + f;
          }
        }
      }
    QVERIFY2(read > 5000, qPrintable(QString::number(read))); // it read them indeed
    QVERIFY2(faults.isEmpty(), qPrintable("\n" + faults.mid(0, 20).join("\n")));
  }

  void rulesAndPagesToo() {
    QStringList faults;
    for (const char* folder : {"resources/yardsticks", "docs"})
      for (QDirIterator it(QString(SOURCE_TREE "/") + folder, {"*.json", "*.md"}, QDir::Files); it.hasNext();) {
        const QString path = it.next();
        for (const QString& line : QString::fromUtf8(contents(path)).split('\n'))
          if (!line.contains("earlier files")) // where the old keys are listed
            for (const QString& f : faultsIn(line)) faults << path.section('/', -1) + ": " + f;
      }
    for (const QString& f : faultsIn(QString::fromUtf8(contents(SOURCE_TREE "/README.md")))) faults << "README: " + f;
    QVERIFY2(faults.isEmpty(), qPrintable("\n" + faults.mid(0, 20).join("\n")));
  }

  void theListFindsWhatItIsFor() { // else the tests above could not fail
    for (const char* text : {"Foot", "48.2° high", "a light model", "Beam of ASE", "least %3", "Belongs to",
                             "Strip from", "Put it in", "bends the result", "▼ 4", "Draw a block"})
      QVERIFY2(!faultsIn(text).isEmpty(), text);
    for (const char* text : {"Base level", "altitude 48.2°", "at least {} h", "at most %1 apart", "▲ to mend"})
      QVERIFY2(faultsIn(text).isEmpty(), qPrintable(faultsIn(text).join(' ')));
  }

  void countsHaveTheirPlural() {
    // "{} elements" would say "1 elements": sentences with a count take core/base/words.h or say "n of m".
    QStringList faults;
    for (const char* folder : {"app", "core", "picture"})
      for (QDirIterator it(QString(SOURCE_TREE "/") + folder, {"*.cpp"}, QDir::Files, QDirIterator::Subdirectories);
           it.hasNext();) {
        const QString path = it.next();
        const QString text = QString::fromUtf8(contents(path));
        for (auto m = plainCount.globalMatch(text); m.hasNext();)
          if (const QString found = m.next().captured(0); !found.contains("more than {}"))
            faults << path.section('/', -2) + ": " + found.left(110);
      }
    QVERIFY2(faults.isEmpty(), qPrintable("\n" + faults.join("\n")));
  }
};

QTEST_GUILESS_MAIN(TestWords)
#include "tst_words.moc"
