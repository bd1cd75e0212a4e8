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

  void windowFoldersIncludeOnlyWhatLiesBelow() {
    // What the window knows (state) stands without any widget; panels and steps do not know each other, and nobody the
    // shell.
    const QMap<QString, QStringList> may{
        {"state", {}},
        {"theme", {}},
        {"almanac", {"state", "theme"}},
        {"charts", {"state", "theme"}},
        {"stage", {"state", "theme"}},
        {"panels", {"state", "theme"}},
        {"steps", {"state", "theme", "charts", "stage"}},
        {"shell", {"state", "theme", "almanac", "charts", "stage", "panels", "steps"}}};
    const QStringList there = QDir(SOURCE_TREE "/app").entryList(QDir::Dirs | QDir::NoDotAndDotDot);
    QCOMPARE(QSet<QString>(there.begin(), there.end()), QSet<QString>(may.keyBegin(), may.keyEnd()));
    int looked = 0;
    const QRegularExpression include("#include \"app/([a-z]+)/");
    for (auto it = may.begin(); it != may.end(); ++it)
      for (const QString& f : files("app/" + it.key(), {"*.h", "*.cpp"})) {
        auto m = include.globalMatch(text(f));
        while (m.hasNext()) {
          const QString other = m.next().captured(1);
          QVERIFY2(other == it.key() || it.value().contains(other), qPrintable(f + " includes " + other));
          ++looked;
        }
      }
    QVERIFY(looked > 60);
    for (const QString& f : files("app/state", {"*.h", "*.cpp"}))
      QVERIFY2(
          !text(f).contains(QRegularExpression("#include <Q(Widget|Application|MessageBox|Painter|[A-Za-z]*Dialog)")),
          qPrintable(f + " knows widgets"));
  }

  void headersAreLightForThoseWhoIncludeThem() {
    // What half the program includes must not bring these along: each costs a second or more in every file.
    const QStringList heavy{"nlohmann/json", "Eigen/", "boost/",     "CGAL/",  "embree", "CLI/",   "pugixml",
                            "sqlite3.h",     "assimp", "xlsxwriter", "geos_c", "proj.h", "regex>", "iostream>"};
    const QStringList allowed{"core/base/json.h",
                              "core/light/patches.h",
                              "core/studies/energy/energy_kept.h",
                              "core/light/light_paths.h",
                              "core/studies/coefficients.h",
                              "core/studies/hourly_sky.h",
                              "core/studies/year_space.h",
                              "core/studies/light_aims.h",
                              "core/files/buildings/xml.h",
                              "cli/commands.h",
                              "core/sky/sky_bins.h"};
    for (const char* folder : {"core", "picture", "app", "cli"})
      for (const QString& f : files(folder, {"*.h"})) {
        const QString own = f.mid(QString(SOURCE_TREE "/").size());
        if (allowed.contains(own)) continue;
        for (const QString& line : text(f).split('\n'))
          if (line.startsWith("#include <"))
            for (const QString& h : heavy) QVERIFY2(!line.contains(h), qPrintable(own + ": " + line));
      }
    // And what everybody includes stays small: lines of our own that project.h brings, itself and what it includes.
    QStringList open{"core/model/project.h"};
    QSet<QString> seen;
    qsizetype lines = 0;
    while (!open.isEmpty()) {
      const QString now = open.takeFirst();
      if (seen.contains(now)) continue;
      seen << now;
      const QString t = text(SOURCE_TREE "/" + now);
      lines += t.count('\n');
      auto m = QRegularExpression("#include \"([^\"]+)\"").globalMatch(t);
      while (m.hasNext()) open << m.next().captured(1);
    }
    QVERIFY2(lines < 2520, qPrintable(QString("project.h brings %1 lines of ours").arg(lines)));
    QVERIFY(!seen.contains("core/base/json.h"));
  }

  void codeIsLaidOutByTheTool() {
    QProcess tool;
    QStringList all;
    for (const char* folder : {"core", "picture", "app", "cli", "ifc", "foreign", "tests"})
      all << files(folder, {"*.h", "*.cpp"});
    QVERIFY(all.size() > 300);
    tool.start("clang-format-14", QStringList{"--dry-run", "-Werror", "--ferror-limit=1"} + all);
    if (!tool.waitForStarted()) QSKIP("clang-format-14 is not here");
    QVERIFY(tool.waitForFinished(300'000));
    QVERIFY2(tool.exitCode() == 0, tool.readAllStandardError().left(600).constData());
    const QRegularExpression raw("R\"\\(.*?\\)\"", QRegularExpression::DotMatchesEverythingOption);
    int wide = 0;
    for (const QString& f : all)
      for (const QString& line : text(f).remove(raw).split('\n')) wide += line.size() > 120 && !line.contains('"');
    QCOMPARE(wide, 0); // texts that can't be broken are the only ones
  }

  void oneStatementALine() {
    // "if (x) a = 1, b = 2;" reads as one and is two.
    const QRegularExpression chained(
        "^\\s*[A-Za-z_][\\w.>\\[\\]-]* [-+*|&]?= [^;(){}\"]*, [A-Za-z_][\\w.>\\[\\]-]* [-+*|&]?= [^;]*;$");
    QStringList found;
    for (const char* folder : {"core", "picture", "app", "cli"})
      for (const QString& f : files(folder, {"*.h", "*.cpp"}))
        for (QString before; const QString& line : text(f).split('\n')) {
          if (chained.match(line).hasMatch() && !before.endsWith(','))
            found << f.section('/', -1) + ": " + line.trimmed();
          before = line.trimmed();
        }
    QVERIFY2(found.isEmpty(), qPrintable(QString::number(found.size()) + "\n" + found.mid(0, 40).join('\n')));
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
                          name.endsWith("::described") || name.contains("timeZoneDataVersion") ||
                          name.contains("::null") || name.contains("nlohmann") || !name.contains("noonward");
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
