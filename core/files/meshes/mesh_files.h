#pragma once
// Other people's models in: OBJ, STL, PLY, DXF, CityJSON, GeoJSON and height grids by readers of our own in double
// precision, glTF and the like through Assimp, IFC through IFC++, both in child processes. A model keeps the file's own
// units and axes until it is placed.

#include "core/base/finding.h"
#include "core/base/run_control.h"
#include "core/files/save_file.h"
#include "core/geometry/mesh.h"
#include "core/model/project.h"
#include <map>

namespace noonward {

struct ModelPart {
  std::string name;              ///< group or object of the file; no two alike
  Mesh mesh;                     ///< file units, file axes
  std::string layer;             ///< layer or class of the file; empty: the name
  std::optional<Role> role = {}; ///< where the format itself says it
  double transparency = 0;       ///< 0…1, of its material
  std::string material = {};     ///< its name, if any
};

/// A closed outline seen from above: a footprint, or a line on a plan.
struct ModelOutline {
  std::string name, layer;
  Outline outline;   ///< file units
  double base = 0;   ///< file units
  double height = 0; ///< file units; 0: the file gives none
  std::optional<Role> role = {};
  std::string use = {}; ///< of a space, where the file states one: a name among Model::heat's uses
};

/// Where on Earth a file says it stands.
struct Georeference {
  std::string system;               ///< "EPSG:25832", as the file has it
  std::optional<Place> place;       ///< of the file's zero
  std::optional<double> northAngle; ///< rad, true azimuth of the file's +y
};

struct Model {
  std::string file;
  std::vector<ModelPart> parts;
  std::vector<ModelOutline> outlines;
  std::vector<std::string> notes;       ///< dropped faces, negative sizes, …
  std::optional<LengthUnit> statedUnit; ///< where the format or the file says it
  bool statedYUp = false, statedZUp = false;
  std::vector<Glazing> glazings; ///< that the file states a transmittance for; parts name them as their material
  HeatDesign heat; ///< constructions that the file states, and what its walls, roofs and floors mostly are
  Georeference geo;
  std::string path;                ///< it was read from
  Digest content;                  ///< of that file's bytes
  std::vector<std::string> levels; ///< of detail, where the file has several, coarse to fine
  std::string level;               ///< the one taken; empty for the finest of every object
  bool empty() const { return parts.empty() && outlines.empty(); }
  Box3 box() const;
  std::size_t triangleCount() const;
};

/// What of a file is wanted.
struct ReadWish {
  std::string level; ///< of detail, as Model::levels names them; empty: the finest of every object
};
/// `control`: progress and stop of the readers that run apart; the others take a second or two for a million faces.
Expected<Model> readModel(const std::filesystem::path& path, RunControl* control = nullptr, const ReadWish& wish = {});
Expected<Model> parseObj(std::string_view text, const std::string& file);
/// How transparent the materials of an OBJ are, from the text of its MTL file. What can't be read is passed over.
void readMtl(std::string_view text, Model& model);
Expected<Model> parseStl(std::string_view bytes, const std::string& file);
Expected<Model> parsePly(std::string_view bytes, const std::string& file);
/// 3DFACE, polyface and polygon meshes, closed polylines with elevation and thickness, blocks with inserts; units from
/// the header.
Expected<Model> parseDxf(std::string_view text, const std::string& file);
/// CityJSON 1.0 to 2.0: every object by its finest geometry, windows and doors apart, kinds as roles.
Expected<Model> parseCityJson(std::string_view text, const std::string& file, const ReadWish& wish = {});
/// Footprints with a height property; degrees are laid on a plane that touches the Earth in their middle.
Expected<Model> parseGeoJson(std::string_view text, const std::string& file);
/// CityGML 2 and 3: buildings, their parts and installations, bridges and relief by their finest faces; kinds of
/// surfaces as roles, windows and doors apart. `wish.level`: "1", "2", …
Expected<Model> parseCityGml(std::string_view text, const std::string& file, const ReadWish& wish = {});
/// gbXML: surfaces with their kinds as roles and their openings cut out, glass and shading apart; place, north and
/// units.
Expected<Model> parseGbXml(std::string_view text, const std::string& file);
/// Terrain as a grid of heights (ESRI ASCII), as a mesh through the middles of its cells.
Expected<Model> parseHeightGrid(std::string_view text, const std::string& file);
/// glTF, Collada and 3DS (`kind`: the ending, lower case, with its dot), by a program of its own that stands beside
/// this one (foreign/), so that a crash there is a message here.
Expected<Model> readForeign(const std::filesystem::path& path, const std::string& kind, RunControl* control = nullptr);
/// IFC2x3 and IFC4: products by their kinds as roles, glass apart from frames, spaces as outlines with their names,
/// place and true north; read by a program of its own that stands beside this one (ifc/).
Expected<Model> readIfc(const std::filesystem::path& path, RunControl* control = nullptr);

struct Placement {
  LengthUnit unit = LengthUnit::Metre;
  bool yUp = false;
  Vec3 origin;      ///< m, taken off
  double scale = 1; ///< of everything, beside the unit: a check distance set to its true length
  std::optional<double> northAngle =
      {}; ///< rad, true azimuth of the file's +y, where the user says it; goes before the file's
};
struct PlacementGuess {
  Placement placement;
  Vec3 size;          ///< m, as guessed
  std::string reason; ///< "largest side 24 000: millimetres, since 24 km is no building site"
  bool suspicious = false;
};
/// `projectOrigin`: of a project that has elements already; else an origin is proposed for far coordinates.
PlacementGuess guessPlacement(const Model& model, const std::optional<Vec3>& projectOrigin);

/// How the file of this name was taken when it was brought in before; nothing where it never was.
std::optional<Placement> placementAsBefore(const Project& project, const Model& model);
/// A source file that is no longer what was brought in.
struct SourceChange {
  std::string name, path;
  bool gone = false; ///< it isn't there
};
/// What was read of files so far, so that none is read twice while it stays as it is.
struct SourceWatch {
  std::map<std::string, std::pair<std::int64_t, Digest>> seen; ///< path -> time of change, content
};
/// Compares the sources of a project with their files; reads those whose time has changed. Files that are gone are told
/// too.
std::vector<SourceChange> changedSources(const Project& project, SourceWatch& watch);

/// Elements in local metres; ids follow from file and part name, so that bringing it again finds them. `role`: of parts
/// that nothing else says anything about; `guess`: names, material and shape may say it (core/model/form/role_guess.h).
/// `source`: the file's name as the project has it (sourceNameOf), where that is another than the model's own.
std::vector<Element> placedElements(const Model& model, const Placement& placement, Role role, bool guess = false,
                                    const std::string& source = {});
/// What a project calls the file of a model: its name; with its folder where another file of that name was brought in
/// and is still there.
std::string sourceNameOf(const Project& project, const Model& model);
/// The zone whose clock a place keeps: that of the nearest city that ships, within 150 km, else the whole hour by its
/// longitude. Says which.
struct ZoneOfPlace {
  std::string zone, how;
};
ZoneOfPlace zoneOfPlace(const Place& place);

/// What a model does to a project that is brought in: new, renewed, and what the file no longer has.
struct ImportOutcome {
  Project project;
  std::vector<ElementId> fresh, renewed, gone,
      moved;          ///< moved: of the renewed, those that stand elsewhere or have another size
  std::string remark; ///< where the file's place on Earth could not be followed
};
/// Renewed elements keep role, name, finish, proposal and whether they count. What is gone stays in the project and is
/// listed. An empty project takes the model's place on Earth, its north and the origin taken off; a project with a
/// place takes a georeferenced model in relation to it. `byLayer`: what the user said of layers; it goes before what
/// was given earlier.
ImportOutcome broughtIn(Project project, const Model& model, Placement placement, Role role, bool guess,
                        std::optional<bool> proposed = {}, const std::map<std::string, Role>& byLayer = {});

/// What it did in words: "3 new, 12 renewed, 2 of them moved. No longer in the file, and kept: Shed." And that a light
/// model is older.
std::string outcomeText(const Project& before, const ImportOutcome& outcome);
/// `now` with what an import made of the project it began with, everything else as it is.
Project takenOver(Project now, const Project& before, const ImportOutcome& outcome);
/// A file brought in before, as it was taken then. Errors: never brought in, gone, can't be read.
Expected<ImportOutcome> broughtInAgain(const Project& project, const std::string& name, RunControl* control = nullptr);
/// "source.changed" and "source.gone", with the mend "source.again:NAME", which mendSourceFile() carries out.
Findings checkSourceFiles(const Project& project, SourceWatch& watch);
/// Nothing where the mend is another.
std::optional<Expected<ImportOutcome>> mendSourceFile(const Project& project, const Finding& finding);

/// The parts and outlines of a model by layer, the heaviest first, with the role each would get.
struct ModelLayer {
  std::string name;
  std::size_t parts = 0, triangles = 0, outlines = 0;
  Role role = Role::Neighbour;
  double sure = 0;
  std::string why; ///< of its first part; "several" where its parts differ
};
std::vector<ModelLayer> modelLayers(const Model& model, const Placement& placement, Role role, bool guess);

/// Binary PLY with doubles and a face number per triangle: how the project keeps imported meshes.
std::string plyBytes(const Mesh& mesh);

} // namespace noonward
