// The rules of the house, read off the tree itself.

#ifndef Q_MOC_RUN
#include <QDirIterator>
#include <QProcess>
#include <QtTest>
#endif

class TestLayers : public QObject {
  Q_OBJECT
  static QStringList files(const QString& folder, const QStringList& kinds) {
    QStringList out;
    QDirIterator i(SOURCE_TREE "/" + folder, kinds, QDir::Files, QDirIterator::Subdirectories);
    while (i.hasNext()) out << i.next();
    return out;
  }
  static QString text(const QString& file) {
    QFile f(file);
    return f.open(QIODevice::ReadOnly) ? QString::fromUtf8(f.readAll()) : QString();
  }
private slots:
  void coreFoldersIncludeOnlyWhatLiesBelow() {
    const QMap<QString, QStringList> may{
        {"base", {}},
        {"sun", {"base"}},
        {"sky", {"base", "sun"}},
        {"geometry", {"base"}},
        {"model", {"base", "sun", "sky", "geometry"}},
        {"light", {"base", "sun", "sky", "geometry", "model"}},
        {"studies", {"base", "sun", "sky", "geometry", "model", "light"}},
        {"yardsticks", {"base", "sun", "sky", "geometry", "model", "light", "studies"}},
        {"files", {"base", "sun", "sky", "geometry", "model", "light", "studies", "yardsticks"}},
        {"runs", {"base", "sun", "sky", "geometry", "model", "light", "studies", "yardsticks", "files"}},
        {"proof", {"base", "sun", "sky", "geometry", "model", "light", "studies", "yardsticks", "files", "runs"}}};
    int looked = 0;
    const QRegularExpression include("#include \"([a-z]+)/([a-z]+)/");
    for (auto it = may.begin(); it != may.end(); ++it)
      for (const QString& f : files("core/" + it.key(), {"*.h", "*.cpp"})) {
        auto m = include.globalMatch(text(f));
        while (m.hasNext()) {
          const auto x = m.next();
          QVERIFY2(x.captured(1) == "core", qPrintable(f));
          QVERIFY2(x.captured(2) == it.key() || it.value().contains(x.captured(2)),
                   qPrintable(f + " includes " + x.captured(2)));
          ++looked;
        }
      }
    QVERIFY(looked > 60);
  }

  void coreHasNoQt() {
    for (const QString& f : files("core", {"*.h", "*.cpp"}))
      QVERIFY2(!text(f).contains(QRegularExpression("#\\s*include\\s*<Q[A-Z]")), qPrintable(f));
  }

  void coreHasNoWritableGlobals() {
    // Data and BSS symbols of our own in the built libraries; const tables, guards and run-time type facts are none.
    const QString build = QFileInfo(NOONWARD_CLI).absoluteDir().absoluteFilePath("..");
    int libraries = 0;
    for (const QString& lib : QDir(build).entryList({"libnoonward_*.a"})) {
      if (lib.contains("picture") || lib.contains("app")) continue;
      QProcess nm;
      nm.start("nm", {"-C", "-f", "sysv", build + "/" + lib});
      QVERIFY(nm.waitForFinished());
      ++libraries;
      for (const QString& line : QString::fromUtf8(nm.readAllStandardOutput()).split('\n')) {
        const QStringList f = line.split('|');
        if (f.size() < 7) continue;
        const QString section = f[6].trimmed(), name = f[0].trimmed();
        if (!(section == ".data" || section == ".bss" || section.startsWith(".data.") || section.startsWith(".bss.")) ||
            section.startsWith(".data.rel.ro"))
          continue;
        const bool fine = name.startsWith("guard variable") || name.contains("vtable") || name.contains("typeinfo") ||
                          name.contains("std::__ioinit") || name.startsWith("DW.ref") || name.contains("::facts(") ||
                          name.contains("timeZoneDataVersion") || name.contains("::null") ||
                          name.contains("nlohmann") || !name.contains("noonward");
        QVERIFY2(fine, qPrintable(lib + ": " + name));
      }
    }
    QVERIFY(libraries >= 11);
  }

  void filesStayReadable() {
    for (const char* folder : {"core", "picture", "app", "cli"})
      for (const QString& f : files(folder, {"*.h", "*.cpp"}))
        QVERIFY2(text(f).count('\n') < 600, qPrintable(f + " has grown too long"));
  }

  void fontsAndDataCarryTheirLicences() {
    for (const char* f : {"resources/fonts/LICENSE-inter", "resources/fonts/LICENSE-vollkorn",
                          "resources/fonts/LICENSE-b612", "resources/icons/LICENSE", "LICENSE"})
      QVERIFY2(QFile::exists(QString(SOURCE_TREE "/") + f), f);
    QVERIFY(text(SOURCE_TREE "/resources/cities/cities.tsv").left(200).contains("CC BY 4.0"));
  }
};

QTEST_GUILESS_MAIN(TestLayers)
#include "tst_layers.moc"
