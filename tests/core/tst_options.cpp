// Options: what differs is stated by id and field, kept in the file, carried over edits of the first.

#include "core/files/project/design_json.h"
#include "core/model/form/edit.h"
#include "core/model/history.h"
#include "core/model/mending/check.h"
#include "tests/house.h"
#include <QtTest>

using namespace noonward;

namespace {
Json json(const char* text) {
  return Json::parse(text);
}

/// The house, and the same with a larger window and a brim.
Project twoHouses() {
  Project p = withNewOption(test::houseOfTheYear(1.2), "Large window");
  p.id = ProjectId::fresh();
  p.windowRules[0].ratio = 0.6;
  ShadeRule brim;
  brim.id = {77};
  brim.name = "Overhang";
  p.shadeRules.push_back(brim);
  return p;
}
} // namespace

class TestOptions : public QObject {
  Q_OBJECT
private slots:
  void differencesGoByIdNotByPlace() {
    const Json a =
        json(R"({"rooms":[{"id":"1","name":"Hall","height":3},{"id":"2","name":"Nook","height":2}],"n":[1,2]})");
    const Json b = json(R"({"rooms":[{"id":"3","name":"Attic"},{"id":"2","name":"Nook","height":2.5}],"n":[1,2,3]})");
    const auto d = differences(a, b);
    QCOMPARE(d.size(), std::size_t(4));
    QCOMPARE(d[0], (JsonChange{{"rooms", "1"}, a["rooms"][0], nullptr}));
    QCOMPARE(d[1], (JsonChange{{"rooms", "2", "height"}, 2, 2.5}));
    QCOMPARE(d[2], (JsonChange{{"rooms", "3"}, nullptr, b["rooms"][0]}));
    QCOMPARE(d[3], (JsonChange{{"n"}, a["n"], b["n"]}));
    QVERIFY(differences(a, a).empty());
    QCOMPARE(QString::fromStdString(changeText(d[1], a, b)), QString("rooms · Nook · height: 2 → 2.5"));
    QCOMPARE(QString::fromStdString(changeText(d[0], a, b)), QString("rooms · Hall: gone"));
    // Put in, the one becomes the other, but for the order of what has an id.
    const Json made = withChanges(a, d);
    QVERIFY(differences(made, b).empty());
    QVERIFY(differences(withChanges(b, differences(b, a)), a).empty());
  }

  void changesWithoutAPlaceAreTold() {
    const Json gone = json(R"({"rooms":[{"id":"1","name":"Hall"}]})");
    std::vector<std::string> lost;
    const Json same =
        withChanges(gone, {{{"rooms", "9", "height"}, 2, 3}, {{"rooms", "8"}, json(R"({"id":"8"})"), nullptr}}, &lost);
    QCOMPARE(same, gone);
    QCOMPARE(lost.size(), std::size_t(1)); // to take away what is gone is no loss
    QVERIFY(QString::fromStdString(lost[0]).contains("height"));
    lost.clear();
    QCOMPARE(withChanges(gone, {{{"shades", "5", "depth"}, 1, 2}}, &lost), gone); // no such list: nothing is begun
    QCOMPARE(lost.size(), std::size_t(1));
    // A list that is not there yet is begun; a name does as well as an id.
    QCOMPARE(withChanges(gone, {{{"shades", "5"}, nullptr, json(R"({"id":"5"})")}})["shades"].size(), std::size_t(1));
    QCOMPARE(withChanges(gone, {{{"rooms", "Hall", "height"}, nullptr, 4}})["rooms"][0]["height"], Json(4));
  }

  void optionsAreChosenAddedAndRemoved() {
    Project p = twoHouses();
    QCOMPARE(p.options.size(), std::size_t(2));
    QCOMPARE(p.option, std::size_t(1));
    QCOMPARE(optionNamed(p, "B"), std::optional<std::size_t>(1));
    QCOMPARE(optionNamed(p, "As drawn"), std::optional<std::size_t>(0));
    QVERIFY(!optionNamed(p, "C"));
    p.client = "shared by all";
    const Project first = withOption(p, 0);
    QCOMPARE(first.windowRules[0].ratio, 0.35);
    QVERIFY(first.shadeRules.empty());
    QCOMPARE(first.client, p.client);
    QCOMPARE(designOf(first, 1).windowRules[0].ratio, 0.6);
    QVERIFY(sameProject(withOption(first, 1), p) || withOption(first, 1).windowRules == p.windowRules);
    QVERIFY(first.elements[0] == designOf(first, 1).elements[0]); // the same is shared
    const auto told = optionDifferences(p, 0, 1);
    QCOMPARE(told.size(), std::size_t(2));
    QCOMPARE(QString::fromStdString(told[0]), QString("window-rules · Window · ratio: 0.35 → 0.6"));
    const Project alone = withoutOption(p, 0);
    QVERIFY(alone.options.empty());
    QCOMPARE(alone.windowRules[0].ratio, 0.6);
    QCOMPARE(withoutOption(p, 1).windowRules[0].ratio, 0.35);
  }

  void theFileStatesWhatAnOptionChanges() {
    Project p = twoHouses();
    p.site.weatherFile = "brevholm.epw";
    const std::string text = projectText(p, "x.files");
    const Json j = Json::parse(text);
    QCOMPARE(j["options"].size(), std::size_t(2));
    QVERIFY(!j["options"][0].contains("changes"));
    QCOMPARE(j["options"][1]["changes"].size(), std::size_t(2));
    QCOMPARE(j["window-rules"][0]["ratio"], Json(0.35)); // the first is written out
    const auto back = parseProject(text, "x", SOURCE_TREE "/demo");
    QVERIFY2(back.has_value(), back ? "" : back.error().text().c_str());
    QCOMPARE(back->project.option, std::size_t(1));
    QCOMPARE(back->project.windowRules[0].ratio, 0.6);
    QCOMPARE(projectText(back->project, "x.files"), text);
    // A hand may write an option by names.
    Json hand = j;
    hand["options"][1] = Json::parse(R"({"name":"By hand","changes":[{"at":["rooms","Hall","height"],"to":2.6}]})");
    hand["option"] = "By hand";
    const auto own = parseProject(hand.dump(), "x", SOURCE_TREE "/demo");
    QVERIFY2(own.has_value(), own ? "" : own.error().text().c_str());
    QCOMPARE(own->project.rooms[0].height, 2.6);
    QCOMPARE(withOption(own->project, 0).rooms[0].height, 3.0);
    // Faults name their place.
    for (const char* bad :
         {R"([{"name":"A","changes":[{"at":["rooms"],"to":1}]}])",
          R"([{"name":"A"},{"name":"B","changes":[{"to":1}]}])",
          R"([{"name":"A"},{"name":"B","changes":[{"at":["rooms","Hall","height"],"to":"high"}]}])"}) {
      hand["options"] = Json::parse(bad);
      const auto faulty = parseProject(hand.dump(), "x", SOURCE_TREE "/demo");
      QVERIFY(!faulty.has_value());
      QVERIFY2(QString::fromStdString(faulty.error().text()).contains("options["), faulty.error().text().c_str());
    }
  }

  void anEditOfTheFirstReachesTheOthers() {
    const Project before = withOption(twoHouses(), 0);
    Project p = before;
    p.rooms[0].name = "Great hall";
    p.windowRules[0].sill = 0.5;
    p = withOthersRebased(std::move(p), before);
    const Design& other = designOf(p, 1);
    QCOMPARE(other.rooms[0].name, std::string("Great hall"));
    QCOMPARE(other.windowRules[0].sill, 0.5);
    QCOMPARE(other.windowRules[0].ratio, 0.6); // its own stays
    QVERIFY(p.options[1].orphans.empty());
    // What the first loses, the other's change can no longer find: a finding, forgotten by a mend.
    Project q = p;
    q.windowRules.clear();
    q = withOthersRebased(std::move(q), p);
    QCOMPARE(q.options[1].orphans.size(), std::size_t(1));
    const Findings found = checkProject(q);
    const auto orphan =
        std::find_if(found.begin(), found.end(), [](const Finding& f) { return f.code == "option.orphan"; });
    QVERIFY(orphan != found.end());
    const auto mended = mendProject(q, *orphan);
    QVERIFY(mended.has_value() && mended->options[1].orphans.empty());
    // An edit of another option stays its own.
    Project r = withOption(p, 1);
    const Project was = r;
    r.rooms[0].height = 2.4;
    QCOMPARE(designOf(withOthersRebased(std::move(r), was), 0).rooms[0].height, 3.0);
  }
};

QTEST_GUILESS_MAIN(TestOptions)
#include "tst_options.moc"
