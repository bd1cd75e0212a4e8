// The known answers that anyone can run, judged here anew.

#ifndef Q_MOC_RUN
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QtTest>
#include <cmath>
#endif

class TestProofs : public QObject {
  Q_OBJECT
private slots:
  void proofsHold() {
    QProcess p;
    p.start(NOONWARD_CLI, {"prove", "--json"});
    QVERIFY(p.waitForFinished(1800000));
    const QJsonArray all = QJsonDocument::fromJson(p.readAllStandardOutput()).array();
    QVERIFY(all.size() >= 120);
    for (const auto& v : all) { // told here anew, whatever the command says of itself
      const QJsonObject c = v.toObject();
      const double off = c["got"].toDouble() - c["expected"].toDouble();
      QVERIFY2(c["pass"].toBool() && std::abs(off) <= c["allowed"].toDouble(),
               qPrintable(QString("%1 is off by %2 %3, allowed %4")
                              .arg(c["name"].toString())
                              .arg(off)
                              .arg(c["unit"].toString())
                              .arg(c["allowed"].toDouble())));
    }
    QCOMPARE(p.exitCode(), 0);
  }
};

QTEST_GUILESS_MAIN(TestProofs)
#include "tst_proofs.moc"
