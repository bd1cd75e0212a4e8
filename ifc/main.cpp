// noonward-ifc FILE: the products of an IFC2x3 or IFC4 file as records on standard output
// (core/files/meshes/part_stream.h). Lengths in metres. Exit codes: 0 whole, 2 the file can't be read (a record says
// why), anything else: broken.

#include "core/files/meshes/part_stream.h"
#include <cmath>
#include <codecvt>
#include <fstream>
#include <ifcpp/IFC4/include/IfcBeam.h>
#include <ifcpp/IFC4/include/IfcBoolean.h>
#include <ifcpp/IFC4/include/IfcBuildingElementProxy.h>
#include <ifcpp/IFC4/include/IfcBuildingStorey.h>
#include <ifcpp/IFC4/include/IfcColumn.h>
#include <ifcpp/IFC4/include/IfcCompoundPlaneAngleMeasure.h>
#include <ifcpp/IFC4/include/IfcCovering.h>
#include <ifcpp/IFC4/include/IfcCoveringTypeEnum.h>
#include <ifcpp/IFC4/include/IfcDirection.h>
#include <ifcpp/IFC4/include/IfcDistributionElement.h>
#include <ifcpp/IFC4/include/IfcDoor.h>
#include <ifcpp/IFC4/include/IfcFurnishingElement.h>
#include <ifcpp/IFC4/include/IfcGeographicElement.h>
#include <ifcpp/IFC4/include/IfcGeometricRepresentationContext.h>
#include <ifcpp/IFC4/include/IfcGloballyUniqueId.h>
#include <ifcpp/IFC4/include/IfcIdentifier.h>
#include <ifcpp/IFC4/include/IfcLabel.h>
#include <ifcpp/IFC4/include/IfcLengthMeasure.h>
#include <ifcpp/IFC4/include/IfcMember.h>
#include <ifcpp/IFC4/include/IfcPlate.h>
#include <ifcpp/IFC4/include/IfcProjectedCRS.h>
#include <ifcpp/IFC4/include/IfcPropertySet.h>
#include <ifcpp/IFC4/include/IfcPropertySingleValue.h>
#include <ifcpp/IFC4/include/IfcRailing.h>
#include <ifcpp/IFC4/include/IfcRatioMeasure.h>
#include <ifcpp/IFC4/include/IfcReal.h>
#include <ifcpp/IFC4/include/IfcRelDefinesByType.h>
#include <ifcpp/IFC4/include/IfcRoof.h>
#include <ifcpp/IFC4/include/IfcShadingDevice.h>
#include <ifcpp/IFC4/include/IfcSite.h>
#include <ifcpp/IFC4/include/IfcSlab.h>
#include <ifcpp/IFC4/include/IfcSlabTypeEnum.h>
#include <ifcpp/IFC4/include/IfcSpace.h>
#include <ifcpp/IFC4/include/IfcStair.h>
#include <ifcpp/IFC4/include/IfcStairFlight.h>
#include <ifcpp/IFC4/include/IfcText.h>
#include <ifcpp/IFC4/include/IfcTypeObject.h>
#include <ifcpp/IFC4/include/IfcUnitAssignment.h>
#include <ifcpp/IFC4/include/IfcValue.h>
#include <ifcpp/IFC4/include/IfcWall.h>
#include <ifcpp/IFC4/include/IfcWindow.h>
#include <ifcpp/geometry/Carve/GeometryConverter.h>
#include <ifcpp/model/BuildingModel.h>
#include <ifcpp/reader/ReaderSTEP.h>
#include <iostream>
#include <locale>
#include <map>
#include <set>
#include <sstream>
#include <sys/resource.h>

namespace {

std::string utf8(const std::wstring& s) {
  std::wstring_convert<std::codecvt_utf8<wchar_t>> convert("?");
  try {
    return convert.to_bytes(s);
  } catch (...) {
    return "?";
  }
}

[[noreturn]] void cannot(const std::string& why) {
  noonward::PartStream(3).cannot(why);
  _exit(2);
}

template <class T> bool is(const shared_ptr<IfcObjectDefinition>& o) {
  return bool(dynamic_pointer_cast<T>(o));
}

/// What properties say: of the object, else of its type.
struct Said {
  int external = -1;         ///< 0 no, 1 yes
  double transmittance = -1; ///< of visible light
};
void look(const shared_ptr<IfcPropertySetDefinition>& definition, Said& said) {
  const auto set = dynamic_pointer_cast<IfcPropertySet>(definition);
  if (!set) return;
  for (const auto& property : set->m_HasProperties) {
    const auto single = dynamic_pointer_cast<IfcPropertySingleValue>(property);
    if (!single || !single->m_Name || !single->m_NominalValue) continue;
    const std::wstring& name = single->m_Name->m_value;
    if (name == L"IsExternal")
      if (const auto v = dynamic_pointer_cast<IfcBoolean>(single->m_NominalValue); v && said.external < 0)
        said.external = v->m_value;
    if (name == L"VisibleLightTransmittance" && said.transmittance < 0) {
      double t = 0;
      if (const auto v = dynamic_pointer_cast<IfcReal>(single->m_NominalValue)) t = v->m_value;
      if (const auto v = dynamic_pointer_cast<IfcRatioMeasure>(single->m_NominalValue))
        t = v->m_value; // its positive and normalised kinds too
      if (t > 0 && t <= 1) said.transmittance = t;
    }
  }
}
Said saidOf(const shared_ptr<IfcObject>& object) {
  Said said;
  if (!object) return said;
  for (const auto& weak : object->m_IsDefinedBy_inverse)
    if (const auto rel = weak.lock(); rel && rel->m_RelatingPropertyDefinition)
      look(dynamic_pointer_cast<IfcPropertySetDefinition>(rel->m_RelatingPropertyDefinition), said);
  for (const auto& weak : object->m_IsTypedBy_inverse)
    if (const auto rel = weak.lock(); rel && rel->m_RelatingType)
      for (const auto& set : rel->m_RelatingType->m_HasPropertySets) look(set, said);
  return said;
}

struct Soup {
  std::vector<double> points;
  std::vector<std::uint32_t> triangles;
};

void add(Soup& out, const shared_ptr<carve::mesh::MeshSet<3>>& set, const carve::math::Matrix& m) {
  if (!set) return;
  for (const auto* mesh : set->meshes)
    for (auto* face : mesh->faces) {
      std::vector<carve::mesh::Vertex<3>*> corners;
      face->getVertices(corners);
      if (corners.size() < 3) continue;
      const auto first = std::uint32_t(out.points.size() / 3);
      bool sound = true;
      for (const auto* v : corners) {
        const vec3 p = m * v->v;
        sound &= std::isfinite(p.x) && std::isfinite(p.y) && std::isfinite(p.z);
        out.points.insert(out.points.end(), {p.x, p.y, p.z});
      }
      std::vector<carve::triangulate::tri_idx> cut;
      if (corners.size() == 3) {
        cut.emplace_back(0, 1, 2);
      } else {
        std::vector<carve::geom2d::P2> flat;
        face->getProjectedVertices(flat);
        try {
          carve::triangulate::triangulate(flat, cut);
        } catch (...) {
          cut.clear();
        }
        if (cut.empty())
          for (unsigned k = 1; k + 1 < corners.size(); ++k) cut.emplace_back(0, k, k + 1);
      }
      if (!sound) {
        out.points.resize(3 * first);
        continue;
      }
      for (const auto& t : cut) out.triangles.insert(out.triangles.end(), {first + t.a, first + t.b, first + t.c});
    }
}

/// Opaque and see-through bodies of a product.
struct Bodies {
  Soup solid, clear;
  bool known = false; ///< the file says of some which it is
};

double clearness(const std::vector<shared_ptr<AppearanceData>>& list) {
  double out = -1;
  for (const auto& a : list)
    if (a && a->m_complete) out = std::max(out, a->m_set_transparent ? 1 - a->m_transparency : 0.0);
  return out;
}

void collect(const shared_ptr<ProductShapeData>& shape, Bodies& out) {
  if (!shape) return;
  bool body = false; // axes, boxes and footprints only where there is nothing else
  for (const auto& r : shape->m_vec_representations)
    body |= r && (r->m_representation_identifier == L"Body" || r->m_representation_identifier == L"Facetation");
  const carve::math::Matrix m = shape->getTransform();
  for (const auto& r : shape->m_vec_representations) {
    if (!r) continue;
    const std::wstring& name = r->m_representation_identifier;
    if (body ? name != L"Body" && name != L"Facetation"
             : name == L"Axis" || name == L"Box" || name == L"FootPrint" || name == L"CoG" || name == L"Annotation" ||
                   name == L"Clearance")
      continue;
    const double whole = std::max(clearness(r->m_vec_representation_appearances), clearness(shape->getAppearances()));
    for (const auto& item : r->m_vec_item_data) {
      if (!item) continue;
      double c = clearness(item->m_vec_item_appearances);
      if (c < 0) c = whole;
      out.known |= c > 0.1;
      Soup& into = c > 0.1 ? out.clear : out.solid;
      for (const auto& set : item->m_meshsets) add(into, set, m);
      for (const auto& set : item->m_meshsets_open) add(into, set, m);
    }
  }
}

struct Kind {
  const char *layer, *role;
  bool glass = false; ///< where nothing is known to be clear, all of it is
};
Kind kindOf(const shared_ptr<IfcObjectDefinition>& o, const Said& said) {
  if (is<IfcWindow>(o)) return {"Windows", "wall", true};
  if (is<IfcWall>(o)) return said.external == 0 ? Kind{"Inner walls", "partition"} : Kind{"Walls", "wall"};
  if (const auto slab = dynamic_pointer_cast<IfcSlab>(o))
    return slab->m_PredefinedType && slab->m_PredefinedType->m_enum == IfcSlabTypeEnum::ENUM_ROOF
               ? Kind{"Roofs", "roof"}
               : Kind{"Slabs", "floor"};
  if (is<IfcRoof>(o)) return {"Roofs", "roof"};
  if (const auto c = dynamic_pointer_cast<IfcCovering>(o))
    return c->m_PredefinedType && c->m_PredefinedType->m_enum == IfcCoveringTypeEnum::ENUM_CEILING
               ? Kind{"Ceilings", "ceiling"}
               : Kind{"Coverings", ""};
  if (is<IfcDoor>(o)) return {"Doors", "wall"};
  if (is<IfcCurtainWall>(o)) return {"Curtain walls", "wall", true};
  if (is<IfcPlate>(o)) return {"Panels", "wall", true};
  if (is<IfcMember>(o)) return {"Members", "shading"};
  if (is<IfcColumn>(o)) return {"Columns", "wall"};
  if (is<IfcBeam>(o)) return {"Beams", "shading"};
  if (is<IfcShadingDevice>(o)) return {"Sun shading", "shading"};
  if (is<IfcRailing>(o)) return {"Railings", "shading"};
  if (is<IfcStair>(o) || is<IfcStairFlight>(o)) return {"Stairs", "shading"};
  if (is<IfcFurnishingElement>(o)) return {"Furniture", "ignore"};
  if (is<IfcDistributionElement>(o)) return {"Services", "ignore"};
  if (is<IfcSite>(o) || is<IfcGeographicElement>(o)) return {"Site", "ground"};
  return {"Other", ""};
}

double angle(const shared_ptr<IfcCompoundPlaneAngleMeasure>& a) {
  double out = 0, part = 1;
  for (std::size_t k = 0; k < a->m_vec.size() && k < 4; ++k) {
    out += a->m_vec[k] / part;
    part *= k == 2 ? 1e6 : 60;
  }
  return out * M_PI / 180;
}

} // namespace

int main(int argc, char** argv) {
  if (argc != 2) return 1;
  const rlimit memory{std::size_t{8} << 30, std::size_t{8} << 30};
  ::setrlimit(RLIMIT_AS, &memory);
  const rlimit time{600, 600};
  ::setrlimit(RLIMIT_CPU, &time);
  // Records go to where standard output was; whatever the library prints goes nowhere.
  if (::dup2(1, 3) < 0 || !::freopen("/dev/null", "w", stdout)) return 3;
  std::ifstream in(argv[1], std::ios::binary);
  if (!in) cannot("There is no such file.");
  std::stringstream all;
  all << in.rdbuf();
  std::string content = all.str();
  if (content.find("ISO-10303-21") == std::string::npos) cannot("This is no IFC file: its first words are missing.");
  noonward::PartStream out(3);
  const bool whole =
      content.find("END-ISO-10303-21", content.size() > 4096 ? content.size() - 4096 : 0) != std::string::npos;
  if (!whole) out.note("The file ends before its end mark: what could be read is here.");
  const bool unit = content.find("LENGTHUNIT") != std::string::npos;
  shared_ptr<BuildingModel> model(new BuildingModel());
  try {
    ReaderSTEP reader;
    reader.loadModelFromString(content, model);
  } catch (std::exception& e) {
    cannot(std::string("It can't be read: ") + e.what());
  } catch (...) {
    cannot("It can't be read.");
  }
  content.clear();
  content.shrink_to_fit();
  if (model->getMapIfcEntities().empty()) cannot("There is nothing in the file that is known.");
  out.progress(0.3);
  const auto project = model->getIfcProject();
  if (unit && project && project->m_UnitsInContext && !project->m_UnitsInContext->m_Units.empty())
    out.metres();
  else
    out.note("The file states no unit of length: it is guessed.");
  GeometryConverter converter(model);
  converter.getGeomSettings()->setNumVerticesPerCircle(24);
  try {
    converter.convertGeometry();
  } catch (std::exception& e) {
    out.note(std::string("Not everything could be given a shape: ") + e.what());
  } catch (...) {
    out.note("Not everything could be given a shape.");
  }
  out.progress(0.8);
  for (const auto& [id, entity] : model->getMapIfcEntities()) {
    if (const auto context = dynamic_pointer_cast<IfcGeometricRepresentationContext>(entity);
        context && context->m_TrueNorth && context->m_TrueNorth->m_DirectionRatios.size() >= 2) {
      const auto &x = context->m_TrueNorth->m_DirectionRatios[0], &y = context->m_TrueNorth->m_DirectionRatios[1];
      if (x && y && std::hypot(x->m_value, y->m_value) > 0) out.north(std::atan2(y->m_value, x->m_value) - M_PI / 2);
    }
    if (const auto site = dynamic_pointer_cast<IfcSite>(entity);
        site && site->m_RefLatitude && site->m_RefLongitude && site->m_RefLatitude->m_vec.size() >= 3) {
      const double latitude = angle(site->m_RefLatitude), longitude = angle(site->m_RefLongitude);
      if (std::abs(latitude) <= M_PI / 2 && std::abs(longitude) <= M_PI && (latitude != 0 || longitude != 0))
        out.place(latitude, longitude,
                  site->m_RefElevation
                      ? site->m_RefElevation->m_value * model->getUnitConverter()->getLengthInMeterFactor()
                      : 0);
    }
    if (const auto crs = dynamic_pointer_cast<IfcProjectedCRS>(entity); crs && crs->m_Name)
      out.system(utf8(crs->m_Name->m_value));
  }
  std::set<std::string> taken, glazings;
  std::size_t empty = 0;
  std::map<std::string, std::size_t> emptyKinds;
  for (const auto& [id, shape] : converter.getShapeInputData()) {
    if (!shape || shape->m_ifc_object_definition.expired()) continue;
    const shared_ptr<IfcObjectDefinition> object(shape->m_ifc_object_definition);
    const auto product = dynamic_pointer_cast<IfcProduct>(object);
    if (!product || !product->m_Representation) continue;
    Bodies bodies;
    try {
      collect(shape, bodies);
    } catch (...) {
    }
    if (bodies.solid.triangles.empty() && bodies.clear.triangles.empty()) {
      ++empty;
      ++emptyKinds[kindOf(object, saidOf(dynamic_pointer_cast<IfcObject>(object))).layer];
      continue;
    }
    const Said said = saidOf(dynamic_pointer_cast<IfcObject>(object));
    const Kind kind = kindOf(object, said);
    std::string name = object->m_Name ? utf8(object->m_Name->m_value) : "";
    const std::string guid = object->m_GlobalId ? utf8(object->m_GlobalId->m_value) : std::to_string(id);
    if (const auto space = dynamic_pointer_cast<IfcSpace>(object)) {
      const std::string words = space->m_LongName ? utf8(space->m_LongName->m_value) : "";
      Soup& s = bodies.solid.triangles.empty() ? bodies.clear : bodies.solid;
      out.space(words.empty() ? name.empty() ? guid : name : words, s.points, s.triangles);
      continue;
    }
    if (name.empty()) name = kind.layer;
    if (taken.contains(name)) name += " " + guid; // stays with the product, whatever comes before it
    taken.insert(name);
    std::string material;
    if (said.transmittance > 0) {
      char text[64];
      std::snprintf(text, sizeof text, "Glass of %.0f %%", 100 * said.transmittance);
      material = text;
      if (glazings.insert(material).second) out.glazing(material, said.transmittance);
    }
    if (kind.glass && bodies.clear.triangles.empty()) {
      out.part(name, kind.layer, "glazing", material, 0, bodies.solid.points, bodies.solid.triangles);
      continue;
    }
    if (!bodies.clear.triangles.empty())
      out.part(name + (bodies.solid.triangles.empty() ? "" : ": glass"), "Glass of " + std::string(kind.layer),
               "glazing", material, 0, bodies.clear.points, bodies.clear.triangles);
    if (!bodies.solid.triangles.empty())
      out.part(name, kind.layer, kind.role, "", 0, bodies.solid.points, bodies.solid.triangles);
  }
  if (empty > 0) {
    std::string kinds;
    for (const auto& [kind, n] : emptyKinds) kinds += (kinds.empty() ? "" : ", ") + std::to_string(n) + " of " + kind;
    out.note(std::to_string(empty) + (empty == 1 ? " product has" : " products have") +
             " no shape that could be made: " + kinds + ".");
  }
  out.end();
  _exit(out.good() ? 0 : 3); // its destructors take longer than its work
}
