// Files of other people that change, and what is wrong in them: watched, brought in again with their mends, each mend
// seen before it is done; gaps, holes, doubled panes; a reader that dies.

#include "core/files/cities/reference_system.h"
#include "core/files/meshes/mesh_files.h"
#include "core/files/meshes/model_export.h"
#include "core/files/project/project_file.h"
#include "core/geometry/mesh_build.h"
#include "core/geometry/skins.h"
#include "core/model/form/edit.h"
#include "core/model/mending/check.h"
#include "core/model/mending/closed_glass.h"
#include "core/model/mending/mend_preview.h"
#include "core/model/mending/panes.h"
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
Mesh box(double x0, double y0, double x1, double y1, double z0, double z1) {
  return *extrude(rectangle(x0, y0, x1, y1), z0, z1 - z0);
}
Mesh quad(Vec3 a, Vec3 b, Vec3 c, Vec3 d) {
  return *flatPlate({a, b, c, d});
}
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
      for (const auto& [u, v] : {std::pair{0.0, 0.0}, {6.0, 0.0}, {6.0, 4.0}, {0.0, 4.0}})
        out += fmt::format("v {} {} {}\n", x + u, v, z);
    const std::vector<std::vector<int>> faces{{1, 4, 3, 2}, {5, 6, 7, 8}, {1, 2, 6, 5},
                                              {2, 3, 7, 6}, {3, 4, 8, 7}, {4, 1, 5, 8}};
    int n = 0;
    for (const auto& f : faces) {
      const bool turn = flipped && n++ == 2;
      out += fmt::format("f {} {} {} {}\n", base + f[turn ? 3 : 0] - 1, base + f[turn ? 2 : 1] - 1,
                         base + f[turn ? 1 : 2] - 1, base + f[turn ? 0 : 3] - 1);
    }
    base += 8;
    ++k;
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
    std::erase_if(bay.triangles,
                  [&, t = std::size_t(0)](const Triangle&) mutable { return bay.faceOf(t++) == firstWallFace; });
    bay.face.clear();
    QCOMPARE(examine(bay).openEdges, std::size_t(4));
    QVERIFY(holesOf(bay, 100).empty() == (18.0 / (108 - 18) > 0.2) && holesOf(bay).empty());
    QVERIFY(holesOf(quad({0, 0, 0}, {4, 0, 0}, {4, 4, 0}, {0, 4, 0})).empty());
    QVERIFY(holesOf(box(0, 0, 6, 4, 0, 3)).empty());
    // As a finding: offered, never among all.
    Project p = withElement({}, part("shed", Role::Building, m));
    const auto f = found(p, "mesh.holes");
    QVERIFY(f && neverOfAll(*f) && f->at && std::abs(f->at->z - 3) < 1e-9);
    Findings carried;
    const auto all = mendAll(
        p, [](const Finding& x) { return !neverOfAll(x); }, carried);
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
    QVERIFY(f && !neverOfAll(*f));
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

  void thickWallsBecomeOneSkin() {
    // A wall of 6 × 3 m, 0.4 m thick, turned by 30°, with a window of 2 × 1.2 m through it.
    Mesh wall;
    const std::vector<Vec2> hole{{2, 1}, {4, 1}, {4, 2.2}, {2, 2.2}};
    for (double y : {0.0, 0.4}) {
      std::vector<std::vector<Vec3>> rings{{{0, y, 0}, {6, y, 0}, {6, y, 3}, {0, y, 3}}, {}};
      for (Vec2 p : hole) rings[1].push_back({p.x, y, p.y});
      QVERIFY(addPolygon(wall, rings, std::uint32_t(y > 0)));
    }
    const auto strip = [&](Vec3 a, Vec3 b) { append(wall, quad(a, b, b + Vec3{0, 0.4, 0}, a + Vec3{0, 0.4, 0})); };
    const std::vector<Vec2> outer{{0, 0}, {6, 0}, {6, 3}, {0, 3}};
    for (const auto* ring : {&outer, &hole})
      for (std::size_t k = 0; k < 4; ++k)
        strip({(*ring)[k].x, 0, (*ring)[k].y}, {(*ring)[(k + 1) % 4].x, 0, (*ring)[(k + 1) % 4].y});
    for (Vec3& p : wall.points)
      p = {p.x * std::cos(radians(30)) - p.y * std::sin(radians(30)) + 7,
           p.x * std::sin(radians(30)) + p.y * std::cos(radians(30)) - 2, p.z + 5};
    QCOMPARE(examine(wall).openEdges, std::size_t(0));
    append(wall, box(20, 0, 23, 3, 0, 3));   // a solid block is no slab
    append(wall, box(30, 0, 36, 5, 0, 0.3)); // nor is a floor
    QCOMPARE(slabsIn(wall), std::size_t(1));
    std::size_t made = 0;
    const Mesh single = withSingleSkins(wall, made);
    QCOMPARE(made, std::size_t(1));
    // By hand: the wall's face less its window, once; the rest as before.
    const double rest = surfaceArea(box(20, 0, 23, 3, 0, 3)) + surfaceArea(box(30, 0, 36, 5, 0, 0.3));
    QVERIFY2(std::abs(surfaceArea(single) - rest - (18 - 2.4)) < 1e-6,
             qPrintable(QString::number(surfaceArea(single) - rest)));
    double off = 0;
    for (std::size_t t = 0; t < single.triangles.size(); ++t)
      for (std::uint32_t v : single.triangles[t])
        if (const Vec3 p = single.points[v]; p.x < 15)
          off = std::max(off, std::abs((p.x - 7) * -std::sin(radians(30)) + (p.y + 2) * std::cos(radians(30)) - 0.2));
    QVERIFY2(off < 1e-6, qPrintable(QString::number(off))); // in the middle
    // Offered alone; what was collapsed is remembered.
    Project p = withElement({}, part("walls", Role::Wall, wall));
    const auto f = found(p, "walls.skins");
    QVERIFY(f && neverOfAll(*f) && f->text.starts_with("1 wall has both skins"));
    const auto mended = mendProject(p, *f);
    QVERIFY(mended && !found(*mended, "walls.skins"));
    QCOMPARE(mended->elements[0]->mends, std::vector<std::string>{"walls.skins"});
    QVERIFY(previewOf(p, *mended).facesGoing > 0 && previewOf(p, *mended).facesComing > 0);
    QVERIFY(!found(withElement({}, part("house", Role::Neighbour, wall)), "walls.skins"));
  }

  void wallsAreCutOpenBehindTheirPanes() {
    // A solid wall 0.3 m thick with a pane stuck on its outer face, another 1 cm before it; a third in an opening of
    // its own.
    Project p = withElement({}, part("wall", Role::Wall, box(0, 0, 10, 0.3, 0, 3)));
    Mesh glass = quad({1, 0, 1}, {3, 0, 1}, {3, 0, 2.5}, {1, 0, 2.5});
    append(glass, quad({5, -0.01, 1}, {6, -0.01, 1}, {6, -0.01, 2}, {5, -0.01, 2}));
    append(glass, quad({12, 0.1, 1}, {13, 0.1, 1}, {13, 0.1, 2}, {12, 0.1, 2}));
    p = withElement(std::move(p), part("glass", Role::Glazing, glass));
    const auto f = found(p, "glass.closed");
    QVERIFY(f && f->count == 2 && f->rank == Rank::BendsResult && !neverOfAll(*f));
    const auto mended = mendProject(p, *f);
    QVERIFY(mended && !found(*mended, "glass.closed"));
    const Mesh& wall = meshOf(*mended, "wall");
    // By hand: both faces less both openings, four reveals of 0.3 m and four of 0.31 m.
    const double was = surfaceArea(box(0, 0, 10, 0.3, 0, 3));
    QVERIFY2(std::abs(surfaceArea(wall) - (was - 2 * (3 + 1) + 0.3 * 7 + 0.31 * 4)) < 1e-6,
             qPrintable(QString::number(surfaceArea(wall) - was)));
    // Along the normal through each pane nothing is left, beside it everything.
    const auto through = [&](double x, double z) {
      int n = 0;
      for (std::size_t t = 0; t < wall.triangles.size(); ++t) {
        if (std::abs(normalized(wall.areaVector(t)).y) < 0.5) continue;
        Ring r;
        for (std::uint32_t v : wall.triangles[t]) r.push_back({wall.points[v].x, wall.points[v].z});
        n += contains(r, {x, z});
      }
      return n;
    };
    for (const auto& [x, z] : {std::pair{2.03, 1.7}, {1.05, 2.43}, {5.52, 1.51}}) QCOMPARE(through(x, z), 0);
    for (const auto& [x, z] : {std::pair{0.53, 1.7}, {2.03, 0.91}, {6.12, 1.51}}) QCOMPARE(through(x, z), 2);
    // A drawn block can't be cut by a mend: told, and nothing is lost.
    Element block = part("block", Role::Building, {});
    block.shape = Mass{rectangle(0, 0, 10, 6), 0, 3, 1};
    const Project drawn = withElement(withElement({}, block), part("glass", Role::Glazing, glass));
    const auto told = found(drawn, "glass.closed");
    QVERIFY(told && told->mend.empty());
    // A shaped pane is counted and left.
    const Project shaped = withElement(withElement({}, part("wall", Role::Wall, box(0, 0, 10, 0.3, 0, 3))),
                                       part("glass", Role::Glazing, *flatPlate({{1, 0, 1}, {3, 0, 1}, {2, 0, 2.5}})));
    std::size_t cut = 0, left = 0;
    const Project same = withOpeningsCut(shaped, cut, left);
    QVERIFY(cut == 0 && left == 1 && same.elements == shaped.elements &&
            !mendProject(shaped, *found(shaped, "glass.closed")));
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
    QVERIFY(o.fresh.size() == 1 && o.renewed.size() == 2 && o.gone.size() == 1 &&
            o.moved == std::vector<ElementId>{shed});
    const std::string text = outcomeText(p, o);
    QVERIFY2(text.find("1 new, 2 renewed, 1 of them moved") != std::string::npos &&
                 text.find("barn") != std::string::npos,
             text.c_str());
    const ElementPtr kept = o.project.element(shed);
    QVERIFY(kept->role == Role::Building && kept->name == "Tool shed" &&
            std::abs(boxOf(*kept).low.x - 26) < 1e-9);                  // scaled as before
    QCOMPARE(examine(*kept->imported()->mesh).flipped, std::size_t(0)); // mended as before
    QVERIFY(examine(*o.project.element({derivedId("import/town.obj/mill")})->imported()->mesh).flipped >
            0); // new, and a finding of its own
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

  void whatWasDoneIsListed() {
    QTemporaryDir d;
    const std::filesystem::path file = std::filesystem::path(d.path().toStdString()) / "town, old.obj";
    QVERIFY(saveFile(file, boxesObj({"kiln", "shed"}, 0, true)));
    Project p = broughtIn(Project{}, *readModel(file), {}, Role::Neighbour, true).project;
    QCOMPARE(changesCsv(p), std::string("file,part,layer,role,done\n"));
    p = std::move(*mendProject(p, *found(p, "mesh.flipped")));
    p = withEdited(std::move(p), {{derivedId("import/town, old.obj/shed")}}, [](Element& e) { e.counted = false; });
    p = withElement(std::move(p), part("mine", Role::Wall, box(0, 0, 1, 1, 0, 1))); // not from a file
    const std::string list = changesCsv(p);
    QVERIFY2(list.find("\"town, old.obj\",kiln,") != std::string::npos &&
                 list.find(",neighbour,faces turned outward\n") != std::string::npos,
             list.c_str());
    QVERIFY(list.find("shed") != std::string::npos && list.find("left out of studies") != std::string::npos &&
            list.find("mine") == std::string::npos);
    QCOMPARE(std::count(list.begin(), list.end(), '\n'), std::ptrdiff_t(4));
  }

  void panesMendedBeforeAreMendedAgain() {
    QTemporaryDir d;
    const std::filesystem::path file = std::filesystem::path(d.path().toStdString()) / "house.obj";
    const auto obj = [](double y) {
      return fmt::format("o glazing\nv 0 {0} 0\nv 2 {0} 0\nv 2 {0} 1\nv 0 {0} 1\nv 0 {1} 0\nv 2 {1} 0\nv 2 {1} 1\nv 0 "
                         "{1} 1\nf 1 2 3 4\nf 5 6 7 8\n",
                         y, y + 0.02);
    };
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
    QVERIFY(std::any_of(fine->notes.begin(), fine->notes.end(),
                        [](const std::string& n) { return n.find("no geometry of that level") != std::string::npos; }));
    const auto none = parseCityJson(town, "town.json", {"3"});
    QVERIFY(!none && none.error().message.find("1, 2.2") != std::string::npos);
  }

  void polygonsInCollectionsAreRead() {
    const char* ring = "[[[12.5,55.6],[12.501,55.6],[12.501,55.6005],[12.5,55.6]]]";
    const auto collected =
        parseGeoJson(std::string(collectionHead) + ring + collectionMiddle + ring + "]}]}]}}", "a.geojson");
    QVERIFY2(collected, collected ? "" : collected.error().text().c_str());
    QCOMPARE(collected->outlines.size(), std::size_t(2));
    QVERIFY(collected->outlines[1].height == 9);
    const auto point = parseGeoJson(onePoint, "p.geojson");
    QVERIFY(!point && point.error().message.find("no polygon") != std::string::npos);
  }

  void projectedCoordinatesFindTheirPlace() {
    QCOMPARE(epsgNumber("EPSG:25832"), 25832);
    QCOMPARE(epsgNumber("urn:ogc:def:crs:EPSG::7415"), 7415);
    QCOMPARE(epsgNumber("https://www.opengis.net/def/crs/EPSG/0/25832"), 25832);
    QCOMPARE(epsgNumber("local grid 12"), 0);
    // Transverse Mercator by its own series (Krüger, to the fourth order in n), zone 32: an independent way to the same
    // point.
    const auto mercator = [](double latitude, double longitude) {
      const double f = 1 / 298.257222101, n = f / (2 - f), a = 6378137 / (1 + n) * (1 + n * n / 4 + n * n * n * n / 64);
      const double k[] = {n / 2 - 2 * n * n / 3 + 5 * n * n * n / 16 + 41 * n * n * n * n / 180,
                          13 * n * n / 48 - 3 * n * n * n / 5 + 557 * n * n * n * n / 1440,
                          61 * n * n * n / 240 - 103 * n * n * n * n / 140, 49561 * n * n * n * n / 161280};
      const double e = 2 * std::sqrt(n) / (1 + n), s = std::sin(latitude),
                   t = std::sinh(std::atanh(s) - e * std::atanh(e * s)), l = longitude - radians(9);
      const double xi = std::atan2(t, std::cos(l)), eta = std::atanh(std::sin(l) / std::sqrt(1 + t * t));
      double x = eta, y = xi;
      for (int j = 1; j <= 4; ++j)
        x += k[j - 1] * std::cos(2 * j * xi) * std::sinh(2 * j * eta),
            y += k[j - 1] * std::sin(2 * j * xi) * std::cosh(2 * j * eta);
      return Vec2{500000 + 0.9996 * a * x, 0.9996 * a * y};
    };
    const double latitude = radians(55.6), longitude = radians(12.5);
    const Vec2 at = mercator(latitude, longitude);
    const auto found = locate("EPSG:25832", at.x, at.y);
    QVERIFY2(found, found ? "" : found.error().message.c_str());
    QVERIFY(std::abs(found->place.latitude - latitude) * 6.37e6 < 0.01 &&
            std::abs(found->place.longitude - longitude) * 3.6e6 < 0.01);
    // Grid north against true north: to the east of the middle meridian +y points east of north, by (λ - λ₀) sin φ.
    QVERIFY2(std::abs(found->northAngle - (longitude - radians(9)) * std::sin(latitude)) < 2e-4,
             qPrintable(QString::number(degrees(found->northAngle))));
    QVERIFY(std::abs(found->metresPerUnit - 1) < 0.001);
    QVERIFY(!locate("EPSG:4326", 12, 55) && !locate("EPSG:99999", 0, 0) && !locate("nothing", 0, 0));
    // A city model in zone 32 beside footprints in degrees: the same corner lands on the same spot.
    const auto footprint = parseGeoJson(footprintInDegrees, "plan.geojson");
    QVERIFY(footprint);
    std::string vertices;
    for (double z : {0.0, 8.0})
      for (const auto& [lon, lat] : {std::pair{12.5, 55.6}, {12.5004, 55.6}, {12.5004, 55.6003}, {12.5, 55.6003}}) {
        const Vec2 v = mercator(radians(lat), radians(lon));
        vertices +=
            fmt::format("{}[{:.0f},{:.0f},{:.0f}]", vertices.empty() ? "" : ",", v.x * 1000, v.y * 1000, z * 1000);
      }
    const auto city = parseCityJson(cityInZone32 + vertices + "]}", "city.json");
    QVERIFY2(city, city ? "" : city.error().text().c_str());
    const auto into = [&](Project p, const Model& m) {
      const auto guess = guessPlacement(m, p.elements.empty() ? std::nullopt : std::optional(p.site.origin));
      const ImportOutcome o = broughtIn(std::move(p), m, guess.placement, Role::Neighbour, true);
      if (!o.remark.empty()) qWarning("%s", o.remark.c_str());
      return o.project;
    };
    for (bool cityFirst : {false, true}) {
      Project p = into(into({}, cityFirst ? *city : *footprint), cityFirst ? *footprint : *city);
      QCOMPARE(p.elements.size(), std::size_t(2));
      QVERIFY(std::abs(p.site.place.latitude - latitude) < 1e-4 && std::abs(p.site.place.longitude - longitude) < 1e-4);
      const Vec3 a = boxOf(*p.elements[0]).center(), b = boxOf(*p.elements[1]).center();
      QVERIFY2(length(a - b) < 0.1, qPrintable(QString("%1 m apart").arg(length(a - b))));
      const Vec3 s = boxOf(*p.elements[0]).size() - boxOf(*p.elements[1]).size(); // turned alike
      QVERIFY2(length(s) < 0.1, qPrintable(QString("%1 m in size").arg(length(s))));
      QVERIFY(!cityFirst || std::abs(degrees(p.site.northAngle) - 2.888) < 0.01); // the grid's own north is kept
    }
  }

  void textInSixteenBitsIsRead() {
    QTemporaryDir d;
    const std::filesystem::path folder = d.path().toStdString();
    const std::string obj = boxesObj({"kiln"});
    std::string wide = "\xff\xfe";
    for (char c : obj) {
      wide += c;
      wide += '\0';
    }
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
          if (line.find("noonward-ifc") == std::string::npos || line.find(file.toStdString()) == std::string::npos)
            continue;
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
