#include "cli/bench.h"
#include "cli/commands.h"
#include "core/files/save_file.h"
#include "core/model/form/edit.h"
#include <algorithm>
#include <chrono>
#include <fmt/format.h>
#include <fstream>
#include <malloc.h>
#include <random>
#include <sstream>

namespace noonward::cli {

Project benchTown(std::size_t triangles) {
  Project p;
  p.site.place = {radians(55.6), radians(12.5), 0};
  p.site.zone = "Europe/Copenhagen";
  std::mt19937 random(7);
  const auto unit = [&] { return random() / 4294967296.0; };
  const std::size_t boxes = std::max<std::size_t>(1, triangles / 12);
  const int side = int(std::ceil(std::sqrt(double(boxes))));
  const double pitch = 1000.0 / side;
  Mesh all;
  for (std::size_t k = 0; k < boxes; ++k) {
    const double x = (double(k % std::size_t(side)) + 0.15 + 0.3 * unit()) * pitch - 500,
                 y = (double(k / std::size_t(side)) + 0.15 + 0.3 * unit()) * pitch - 500;
    const double w = pitch * (0.25 + 0.25 * unit()), d = pitch * (0.25 + 0.25 * unit()), h = 4 + 22 * unit() * unit();
    const auto box = extrude(rectangle(x, y, x + w, y + d), 0, h);
    const auto base = std::uint32_t(all.points.size());
    all.points.insert(all.points.end(), box->points.begin(), box->points.end());
    for (const Triangle& t : box->triangles) all.triangles.push_back({t[0] + base, t[1] + base, t[2] + base});
    const auto faces = std::uint32_t(6 * k);
    for (std::uint32_t f : box->face) all.face.push_back(f + faces);
  }
  Element e;
  e.id = {1};
  e.name = "Town";
  e.role = Role::Neighbour;
  auto mesh = std::make_shared<const Mesh>(std::move(all));
  e.shape = Imported{mesh, digestOf(*mesh), {}, 0, 1};
  return withElement(std::move(p), std::move(e));
}

double memoryPeakMb() {
  std::ifstream status("/proc/self/status");
  for (std::string line; std::getline(status, line);)
    if (line.starts_with("VmHWM:")) return std::stod(line.substr(6)) / 1024;
  return 0;
}

void resetMemoryPeak() {
  ::malloc_trim(0); // what earlier work left free must not serve the next for nothing
  std::ofstream("/proc/self/clear_refs") << "5";
}

double seconds(const std::function<void()>& work) {
  const auto start = std::chrono::steady_clock::now();
  work();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

double median(std::vector<double> v) {
  std::sort(v.begin(), v.end());
  return v.empty() ? 0 : v[v.size() / 2];
}

void writeIfc(const std::filesystem::path& file, std::size_t bytes) {
  std::string text = "ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION(('ViewDefinition "
                     "[CoordinationView]'),'2;1');\nFILE_NAME('tower.ifc','2026-01-01T00:00:00',(''),(''),'bench','"
                     "bench','');\nFILE_SCHEMA(('IFC4'));\nENDSEC;\nDATA;\n";
  int last = 0;
  const auto put = [&](const std::string& entity) {
    text += fmt::format("#{}={};\n", ++last, entity);
    return fmt::format("#{}", last);
  };
  int guids = 0;
  const auto guid = [&] { return fmt::format("'{:022d}'", ++guids); };
  const std::string units = put("IFCUNITASSIGNMENT((" + put("IFCSIUNIT(*,.LENGTHUNIT.,.MILLI.,.METRE.)") + "))");
  const std::string zero = put("IFCCARTESIANPOINT((0.,0.,0.))"), up = put("IFCDIRECTION((0.,0.,1.))"),
                    axes = put("IFCAXIS2PLACEMENT3D(" + zero + ",$,$)");
  const std::string context = put("IFCGEOMETRICREPRESENTATIONCONTEXT($,'Model',3,1.E-5," + axes + ",$)");
  const std::string project = put(fmt::format("IFCPROJECT({},$,'Tower',$,$,$,$,({}),{})", guid(), context, units));
  const auto placed = [&](const std::string& in, double x, double y, double z) {
    return put(fmt::format("IFCLOCALPLACEMENT({},{})", in,
                           put(fmt::format("IFCAXIS2PLACEMENT3D({},$,$)",
                                           put(fmt::format("IFCCARTESIANPOINT(({:.1f},{:.1f},{:.1f}))", x, y, z))))));
  };
  const auto box = [&](double w, double d, double h) {
    const std::string profile =
        put(fmt::format("IFCRECTANGLEPROFILEDEF(.AREA.,$,{},{:.1f},{:.1f})",
                        put(fmt::format("IFCAXIS2PLACEMENT2D({},$)",
                                        put(fmt::format("IFCCARTESIANPOINT(({:.1f},{:.1f}))", w / 2, d / 2)))),
                        w, d));
    const std::string solid = put(fmt::format("IFCEXTRUDEDAREASOLID({},{},{},{:.1f})", profile, axes, up, h));
    return put(fmt::format("IFCPRODUCTDEFINITIONSHAPE($,$,({}))",
                           put(fmt::format("IFCSHAPEREPRESENTATION({},'Body','SweptSolid',({}))", context, solid))));
  };
  const std::string ground = placed("$", 0, 0, 0),
                    building = put(fmt::format("IFCBUILDING({},$,'Tower',$,$,{},$,$,.ELEMENT.,$,$,$)", guid(), ground));
  put(fmt::format("IFCRELAGGREGATES({},$,$,$,{},({}))", guid(), project, building));
  std::string storeys;
  for (int level = 0; text.size() < bytes; ++level) {
    const std::string at = placed(ground, 0, 0, 3300.0 * level),
                      storey = put(fmt::format("IFCBUILDINGSTOREY({},$,'Level {}',$,$,{},$,$,.ELEMENT.,{:.1f})", guid(),
                                               level, at, 3300.0 * level));
    storeys += (storeys.empty() ? "" : ",") + storey;
    std::string parts;
    for (int k = 0; k < 4; ++k) { // walls, each with an opening cut and a window in it
      const std::string here = placed(at, k % 2 ? 0 : 0, 6000.0 * k, 0);
      const std::string wall =
          put(fmt::format("IFCWALL({},$,'Wall {}.{}',$,$,{},{},$,$)", guid(), level, k, here, box(10000, 300, 3000)));
      const std::string hole = placed(here, 1500, -10, 900),
                        opening = put(fmt::format("IFCOPENINGELEMENT({},$,'Opening',$,$,{},{},$,.OPENING.)", guid(),
                                                  hole, box(1800, 320, 1400)));
      put(fmt::format("IFCRELVOIDSELEMENT({},$,$,$,{},{})", guid(), wall, opening));
      const std::string window = put(fmt::format("IFCWINDOW({},$,'Window {}.{}',$,$,{},{},$,1400.,1800.,$,$,$)", guid(),
                                                 level, k, placed(hole, 0, 110, 0), box(1800, 24, 1400)));
      put(fmt::format("IFCRELFILLSELEMENT({},$,$,$,{},{})", guid(), opening, window));
      parts += (parts.empty() ? "" : ",") + wall + "," + window;
    }
    const std::string slab = put(fmt::format("IFCSLAB({},$,'Floor {}',$,$,{},{},$,.FLOOR.)", guid(), level,
                                             placed(at, 0, 0, -300), box(10000, 18300, 300)));
    put(fmt::format("IFCRELCONTAINEDINSPATIALSTRUCTURE({},$,$,$,({},{}),{})", guid(), parts, slab, storey));
  }
  put(fmt::format("IFCRELAGGREGATES({},$,$,$,{},({}))", guid(), building, storeys));
  if (const Outcome o = saveFile(file, text + "ENDSEC;\nEND-ISO-10303-21;\n"); !o) complain(o.error().text());
}

} // namespace noonward::cli
