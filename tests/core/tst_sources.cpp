// Files of other people that change, and what is wrong in them: watched, brought in again with their mends, each mend seen before it
// is done; gaps, holes, doubled panes; a reader that dies.

#include "core/files/mesh_files.h"
#include "core/files/model_export.h"
#include "core/files/project_file.h"
#include "core/model/check.h"
#include "core/model/edit.h"
#include "core/model/mend_preview.h"
#include "core/model/panes.h"
#include "tests/core/formats_data.h"
#include <QTemporaryDir>
#include <QtTest>
#include <csignal>
#include <fmt/format.h>
#include <fstream>
#include <thread>

using namespace noonward;
using namespace noonward::test;

namespace {

void append(Mesh& into, const Mesh& m) {
  const auto from = std::uint32_t(into.points.size());
  const auto face = std::uint32_t(into.triangles.size());
  into.points.insert(into.points.end(), m.points.begin(), m.points.end());
  for (std::size_t t = 0; t < m.triangles.size(); ++t) {
    into.triangles.push_back({m.triangles[t][0] + from, m.triangles[t][1] + from, m.triangles[t][2] + from});
    into.face.push_back(face + m.faceOf(t));
  }
}
Mesh box(double x0, double y0, double x1, double y1, double z0, double z1) { return *extrude(rectangle(x0, y0, x1, y1), z0, z1 - z0); }
Mesh quad(Vec3 a, Vec3 b, Vec3 c, Vec3 d) { return *flatPlate({a, b, c, d}); }
Element part(const std::string& name, Role role, Mesh m) {
  Element e;
  e.id = {derivedId(name)};
  e.name = name;
  e.role = role;
  auto mesh = std::make_shared<const Mesh>(std::move(m));
  const Digest content = digestOf(*mesh);
  e.shape = Imported{std::move(mesh), content, {}, 0, 1};
  return e;
}
std::optional<Finding> found(const Project& p, const char* code) {
  const Findings all = checkProject(p);
  const auto at = std::find_if(all.begin(), all.end(), [&](const Finding& f) { return f.code == code; });
  return at == all.end() ? std::nullopt : std::optional(*at);
}
const Mesh& meshOf(const Project& p, const char* name) {
  const ElementPtr e = p.element({derivedId(name)});
  return *e->imported()->mesh;
}
/// A closed box of 6 × 4 × 3 m with a square hole of `side` in its roof: the roof as a ring of four quads.
Mesh holed(double side) {
  Mesh m;
  const Mesh whole = box(0, 0, 6, 4, 0, 3);
  for (std::size_t t = 0; t < whole.triangles.size(); ++t)
    if (whole.faceOf(t) != roofFace) m.triangles.push_back(whole.triangles[t]), m.face.push_back(whole.faceOf(t));
  m.points = whole.points;
  const double x0 = 2, y0 = 1, x1 = 2 + side, y1 = 1 + side, z = 3;
  append(m, quad({0, 0, z}, {6, 0, z}, {x1, y0, z}, {x0, y0, z}));
  append(m, quad({6, 0, z}, {6, 4, z}, {x1, y1, z}, {x1, y0, z}));
  append(m, quad({6, 4, z}, {0, 4, z}, {x0, y1, z}, {x1, y1, z}));
  append(m, quad({0, 4, z}, {0, 0, z}, {x0, y0, z}, {x0, y1, z}));
  return m;
}
/// An OBJ of closed boxes, each an object; `shift` moves the second.
std::string boxesObj(const std::vector<std::string>& names, double shift = 0, bool flipped = false) {
  std::string out;
  int base = 1, k = 0;
  for (const std::string& name : names) {
    const double x = 10 * k + (k == 1 ? shift : 0);
    out += "o " + name + "\n";
    for (double z : {0.0, 5.0})
      for (const auto& [u, v] : {std::pair{0.0, 0.0}, {6.0, 0.0}, {6.0, 4.0}, {0.0, 4.0}}) out += fmt::format("v {} {} {}\n", x + u, v, z);
    const std::vector<std::vector<int>> faces{{1, 4, 3, 2}, {5, 6, 7, 8}, {1, 2, 6, 5}, {2, 3, 7, 6}, {3, 4, 8, 7}, {4, 1, 5, 8}};
    int n = 0;
    for (const auto& f : faces) {
      const bool turn = flipped && n++ == 2;
      out += fmt::format("f {} {} {} {}\n", base + f[turn ? 3 : 0] - 1, base + f[turn ? 2 : 1] - 1, base + f[turn ? 1 : 2] - 1, base + f[turn ? 0 : 3] - 1);
    }
    base += 8, ++k;
  }
  return out;
}

} // namespace

class TestSources : public QObject {
  Q_OBJECT
private slots:
  void holesAreFoundAndPatched() {
    const Mesh m = holed(0.7);
    const auto holes = holesOf(m);
    QCOMPARE(holes.size(), std::size_t(1));
    QVERIFY(std::abs(holes[0].area - 0.49) < 1e-9);
    std::size_t added = 0;
    const Mesh closed = patched(m, added);
    QCOMPARE(added, std::size_t(1));
    QVERIFY(examine(closed).closed() && examine(closed).flipped == 0); // the patch looks the way its neighbours do
    QVERIFY(std::abs(volume(closed) - 72) < 1e-9 && std::abs(surfaceArea(closed) - 108) < 1e-9);
    // Larger than a patch is meant: a courtyard, a missing wall. A sheet alone has no hole in this sense.
    QVERIFY(holesOf(holed(2.4)).empty() && holesOf(holed(2.4), 10).size() == 1);
    Mesh bay = box(0, 0, 6, 4, 0, 3); // a whole side is never one, however large patches may be
    std::erase_if(bay.triangles, [&, t = std::size_t(0)](const Triangle&) mutable { return bay.faceOf(t++) == firstWallFace; });
    bay.face.clear();
    QCOMPARE(examine(bay).openEdges, std::size_t(4));
    QVERIFY(holesOf(bay, 100).empty() == (18.0 / (108 - 18) > 0.2) && holesOf(bay).empty());
    QVERIFY(holesOf(quad({0, 0, 0}, {4, 0, 0}, {4, 4, 0}, {0, 4, 0})).empty());
    QVERIFY(holesOf(box(0, 0, 6, 4, 0, 3)).empty());
    // As a finding: offered, never among all.
    Project p = withElement({}, part("shed", Role::Building, m));
    const auto f = found(p, "mesh.holes");
    QVERIFY(f && mayBeOnPurpose(*f) && f->at && std::abs(f->at->z - 3) < 1e-9);
    Findings carried;
    const auto all = mendAll(p, [](const Finding& x) { return !mayBeOnPurpose(x); }, carried);
    QVERIFY(all && found(*all, "mesh.holes"));
    const auto mended = mendProject(p, *f);
    QVERIFY(mended && !found(*mended, "mesh.holes"));
    QCOMPARE(mended->element({derivedId("shed")})->mends, std::vector<std::string>{"mesh.holes"});
    QVERIFY(!found(withElement({}, part("pane", Role::Glazing, m)), "mesh.holes"));
  }

  void gapsAreFoundAndWelded() {
    // A roof that misses its walls by 3 mm.
    Mesh m;
    const Mesh whole = box(0, 0, 6, 4, 0, 3);
    m.points = whole.points;
    for (std::size_t t = 0; t < whole.triangles.size(); ++t)
      if (whole.faceOf(t) != roofFace) m.triangles.push_back(whole.triangles[t]), m.face.push_back(whole.faceOf(t));
    append(m, quad({0, 0, 3.003}, {6, 0, 3.003}, {6, 4, 3.003}, {0, 4, 3.003}));
    const MeshHealth h = examine(m);
    QCOMPARE(h.openEdges, std::size_t(8));
    QCOMPARE(h.gaps, std::size_t(8));
    Project p = withElement({}, part("shed", Role::Building, m));
    const auto f = found(p, "mesh.gaps");
    QVERIFY(f && !mayBeOnPurpose(*f));
    const auto mended = mendProject(p, *f);
    QVERIFY(mended && !found(*mended, "mesh.gaps") && examine(meshOf(*mended, "shed")).closed());
    Mesh far = m;
    for (std::size_t k = whole.points.size(); k < far.points.size(); ++k) far.points[k].z += 0.05;
    QCOMPARE(examine(far).gaps, std::size_t(0));
  }

  void aMendIsSeenBeforeItIsDone() {
    Mesh m = box(0, 0, 2, 2, 0, 2);
    const std::size_t sound = m.triangles.size();
    m.triangles.push_back(m.triangles[0]), m.face.push_back(m.face[0]);
    m.triangles.push_back(m.triangles[1]), m.face.push_back(m.face[1]);
    std::swap(m.triangles[5][1], m.triangles[5][2]);
    Project p = withElement({}, part("box", Role::Building, m));
    const auto seen = [&](const char* code) {
      const auto f = found(p, code);
      return f ? previewOf(p, *mendProject(p, *f)) : MendPreview{};
    };
    const MendPreview twice = seen("mesh.duplicates");
    QCOMPARE(twice.facesGoing, std::size_t(2));
    QVERIFY(twice.facesComing == 0 && twice.facesTurned == 0 && twice.going.size() == 2);
    QCOMPARE(twice.text(), std::string("2 faces go."));
    const MendPreview turned = seen("mesh.flipped");
    QCOMPARE(turned.facesTurned, std::size_t(1));
    QVERIFY(turned.facesGoing == 0 && turned.facesComing == 0);
    QVERIFY(previewOf(p, p).empty());
    // A part left out goes as a whole; another comes.
    Project q = withEdited(p, {{derivedId("box")}}, [](Element& e) { e.counted = false; });
    const MendPreview out = previewOf(p, q);
    QVERIFY(out.partsOut == 1 && out.facesGoing == sound + 2);
    QCOMPARE(previewOf(q, p).partsBack, std::size_t(1));
    q = withElement(p, part("new", Role::Wall, box(5, 5, 6, 6, 0, 1)));
    QCOMPARE(previewOf(p, q).facesComing, std::size_t(12));
    QVERIFY(std::abs(previewOf(p, q).box().low.x - 5) < 1e-9);
    // A hole that is patched: two faces come and nothing else.
    const Project shed = withElement({}, part("shed", Role::Building, holed(0.7)));
    const MendPreview patch = previewOf(shed, *mendProject(shed, *found(shed, "mesh.holes")));
    QVERIFY(patch.facesComing == 2 && patch.facesGoing == 0);
  }

  void theOuterOrTheInnerPaneIsKept() {
    // A room under a roof with a double window to the south: sheets at y = 0 (outer) and y = 0.06 (inner).
    Project p = withElement({}, part("walls", Role::Wall, [] {
      Mesh m = box(-0.3, 0.06, 0, 5, 0, 3);
      append(m, box(4, 0.06, 4.3, 5, 0, 3));
      append(m, box(-0.3, 0, 4.3, 5, 3, 3.3)); // the roof
      return m;
    }()));
    Mesh glass = quad({1, 0, 1}, {3, 0, 1}, {3, 0, 2.5}, {1, 0, 2.5});
    append(glass, quad({1, 0.06, 1}, {1, 0.06, 2.5}, {3, 0.06, 2.5}, {3, 0.06, 1})); // turned the other way
    p = withElement(std::move(p), part("glass", Role::Glazing, glass));
    const auto f = found(p, "glass.doubled");
    QVERIFY(f && f->ways.size() == 2);
    const auto left = [&](const std::string& way) {
      Finding other = *f;
      other.mend = way;
      const auto mended = mendProject(p, other);
      const auto panes = panesOf(*mended->element({derivedId("glass")}), meshOf(*mended, "glass"));
      return panes.size() == 1 ? panes[0].middle.y : 99;
    };
    QVERIFY(std::abs(left("glass.doubled:outer") - 0) < 1e-9);
    QVERIFY(std::abs(left("glass.doubled:inner") - 0.06) < 1e-9);
    QVERIFY(left("glass.doubled") < 1);
  }

  void aFileThatChangesIsToldAndBroughtInAgain() {
    QTemporaryDir d;
    const std::filesystem::path folder = d.path().toStdString(), file = folder / "town.obj";
    QVERIFY(saveFile(file, boxesObj({"kiln", "shed", "barn"}, 0, true)));
    const auto model = readModel(file);
    QVERIFY(model && model->path == std::filesystem::absolute(file).string() && !(model->content == Digest{}));
    Placement placement;
    placement.scale = 2; // a check distance said so
    Project p = broughtIn(Project{}, *model, placement, Role::Neighbour, true).project;
    QCOMPARE(p.sources.size(), std::size_t(1));
    SourceWatch watch;
    QVERIFY(checkSourceFiles(p, watch).empty());
    QCOMPARE(watch.seen.size(), std::size_t(1));
    // Mended, given a role and a name.
    const auto flipped = found(p, "mesh.flipped");
    QVERIFY(flipped);
    p = std::move(*mendProject(p, *flipped));
    const ElementId shed{derivedId("import/town.obj/shed")};
    p = withEdited(std::move(p), {shed}, [](Element& e) { e.role = Role::Building, e.name = "Tool shed"; });
    // Through the project file, which names the source from its own folder.
    QVERIFY(writeProject(p, folder / "p.noonward"));
    QVERIFY(loadFile(folder / "p.noonward")->find("\"path\": \"town.obj\"") != std::string::npos);
    auto again = readProject(folder / "p.noonward");
    QVERIFY2(again, again ? "" : again.error().text().c_str());
    QVERIFY(again->project.sources == p.sources);
    p = std::move(again->project);
    // The barn is gone, a mill is new, the shed has moved; one face is still the wrong way round.
    QVERIFY(saveFile(file, boxesObj({"kiln", "shed", "mill"}, 3, true)));
    std::filesystem::last_write_time(file, std::filesystem::last_write_time(file) + std::chrono::seconds(5));
    const Findings told = checkSourceFiles(p, watch);
    QCOMPARE(told.size(), std::size_t(1));
    QCOMPARE(told[0].code, std::string("source.changed"));
    QCOMPARE(told[0].elements.size(), std::size_t(3));
    const auto mended = mendSourceFile(p, told[0]);
    QVERIFY(mended && *mended);
    const ImportOutcome& o = **mended;
    QVERIFY(o.fresh.size() == 1 && o.renewed.size() == 2 && o.gone.size() == 1 && o.moved == std::vector<ElementId>{shed});
    const std::string text = outcomeText(p, o);
    QVERIFY2(text.find("1 new, 2 renewed, 1 of them moved") != std::string::npos && text.find("barn") != std::string::npos, text.c_str());
    const ElementPtr kept = o.project.element(shed);
    QVERIFY(kept->role == Role::Building && kept->name == "Tool shed" && std::abs(boxOf(*kept).low.x - 26) < 1e-9); // scaled as before
    QCOMPARE(examine(*kept->imported()->mesh).flipped, std::size_t(0)); // mended as before
    QVERIFY(examine(*o.project.element({derivedId("import/town.obj/mill")})->imported()->mesh).flipped > 0); // new, and a finding of its own
    QVERIFY(checkSourceFiles(o.project, watch).empty());
    // What the user did meanwhile stays.
    Project now = p;
    now.name = "Renamed";
    QVERIFY(takenOver(now, p, o).name == "Renamed" && takenOver(now, p, o).elements.size() == 4);
    // Gone, then nothing left of it.
    std::filesystem::remove(file);
    const Findings lost = checkSourceFiles(o.project, watch);
    QVERIFY(lost.size() == 1 && lost[0].code == "source.gone" && lost[0].mend.empty());
    QVERIFY(checkSourceFiles(accepted(o.project, "source.gone"), watch).empty());
    QVERIFY(!broughtInAgain(o.project, "town.obj") && !broughtInAgain(o.project, "never.obj"));
    Finding other;
    other.mend = "mesh.flipped";
    QVERIFY(!mendSourceFile(o.project, other));
  }

  void panesMendedBeforeAreMendedAgain() {
    QTemporaryDir d;
    const std::filesystem::path file = std::filesystem::path(d.path().toStdString()) / "house.obj";
    const auto obj = [](double y) { return fmt::format("o glazing\nv 0 {0} 0\nv 2 {0} 0\nv 2 {0} 1\nv 0 {0} 1\nv 0 {1} 0\nv 2 {1} 0\nv 2 {1} 1\nv 0 {1} 1\nf 1 2 3 4\nf 5 6 7 8\n", y, y + 0.02); };
    QVERIFY(saveFile(file, obj(0)));
    Project p = broughtIn(Project{}, *readModel(file), {}, Role::Glazing, true).project;
    const auto f = found(p, "glass.doubled");
    QVERIFY(f);
    p = std::move(*mendProject(p, *f));
    QCOMPARE(p.elements[0]->imported()->mesh->triangles.size(), std::size_t(2));
    QVERIFY(saveFile(file, obj(1)));
    const auto o = broughtInAgain(p, "house.obj");
    QVERIFY(o);
    QCOMPARE(o->project.elements[0]->imported()->mesh->triangles.size(), std::size_t(2));
    QVERIFY(!found(o->project, "glass.doubled"));
  }

  void levelsOfDetailAreChosen() {
    const auto finest = parseCityJson(town, "town.json");
    QVERIFY(finest);
    QCOMPARE(finest->levels, (std::vector<std::string>{"1", "2.2"}));
    QVERIFY(finest->level.empty());
    const auto coarse = parseCityJson(town, "town.json", {"1"});
    QVERIFY(coarse && coarse->level == "1" && coarse->triangleCount() < finest->triangleCount());
    const auto fine = parseCityJson(town, "town.json", {"2.2"}); // what has none of it keeps its own
    QVERIFY(fine && fine->triangleCount() == finest->triangleCount());
    QVERIFY(std::any_of(fine->notes.begin(), fine->notes.end(), [](const std::string& n) { return n.find("no geometry of that level") != std::string::npos; }));
    const auto none = parseCityJson(town, "town.json", {"3"});
    QVERIFY(!none && none.error().message.find("1, 2.2") != std::string::npos);
  }

  void textInSixteenBitsIsRead() {
    QTemporaryDir d;
    const std::filesystem::path folder = d.path().toStdString();
    const std::string obj = boxesObj({"kiln"});
    std::string wide = "\xff\xfe";
    for (char c : obj) wide += c, wide += '\0';
    QVERIFY(saveFile(folder / "wide.obj", wide));
    const auto model = readModel(folder / "wide.obj");
    QVERIFY2(model, model ? "" : model.error().text().c_str());
    QCOMPARE(model->triangleCount(), std::size_t(12));
    QCOMPARE(model->parts[0].name, std::string("kiln"));
  }

  void aReaderThatDiesIsAMessage() {
    // A large IFC; the program that reads it is killed in the middle, as a crash would end it.
    QTemporaryDir d;
    const QString file = d.filePath("tower.ifc");
    std::string text = *loadFile(TEST_DATA "/house-4.ifc");
    const std::size_t end = text.rfind("ENDSEC;");
    QVERIFY(end != std::string::npos);
    std::string more;
    for (int k = 0; k < 400'000; ++k) more += fmt::format("#{}=IFCCARTESIANPOINT(({}.,0.,0.));\n", 1'000'000 + k, k);
    text.insert(end, more);
    QVERIFY(saveFile(file.toStdString(), text));
    std::atomic<bool> done = false;
    int killed = 0;
    std::thread hunter([&] {
      while (!done && killed == 0) {
        for (const auto& entry : std::filesystem::directory_iterator("/proc")) {
          const int pid = std::atoi(entry.path().filename().c_str());
          if (pid <= 0) continue;
          std::ifstream in(entry.path() / "cmdline", std::ios::binary); // files of the kernel have no size
          const std::string line{std::istreambuf_iterator<char>(in), {}};
          if (line.find("noonward-ifc") == std::string::npos || line.find(file.toStdString()) == std::string::npos) continue;
          if (::kill(pid, SIGSEGV) == 0) killed = pid;
        }
        std::this_thread::sleep_for(std::chrono::milliseconds(3));
      }
    });
    const auto model = readModel(file.toStdString());
    done = true;
    hunter.join();
    QVERIFY2(killed > 0, "the reader was never met");
    QVERIFY(!model);
    QVERIFY2(model.error().message.find("broke down") != std::string::npos, model.error().text().c_str());
    QVERIFY(readModel(TEST_DATA "/house-4.ifc")); // and the next one is read
  }
};

QTEST_GUILESS_MAIN(TestSources)
#include "tst_sources.moc"
