#pragma once
// Pictures that leave the program: PNG and SVG of a view with title, place, moment or period, legend, north, scale and
// fingerprint; and the one-page record (PDF) with picture, inputs, verdicts and warnings. Window and command line make
// the same file.

#include "core/files/library.h"
#include "core/runs/runner.h"
#include "core/studies/change.h"
#include "picture/ray_picture.h"
#include "picture/section.h"
#include <QByteArray>
#include <QGuiApplication>

namespace noonward {

/// What the eye sees and what casts shade, kept from one picture to the next of the same model seen the same way.
struct PictureScenes {
  Project seen;
  Scene shown, casters;
};

struct PictureRequest {
  ViewKind view = ViewKind::Solid;
  std::optional<Camera> camera;                   ///< as the stage shows it; fitted to the model where absent
  std::optional<Instant> moment;                  ///< for shadows; where absent there are none
  std::string study;                              ///< name or id; empty: the first; "-": none
  int width = 1600, height = 1000;                ///< px (PNG, SVG)
  double threshold = 0;                           ///< in the study's unit (SI); 0: the usual one of its kind
  std::optional<std::pair<double, double>> range; ///< of the strip; by the result where absent
  std::shared_ptr<const SensorField> known;       ///< of the study, where it is there already
  YearMetric metric = YearMetric::Autonomy;       ///< of a daylight year
  DesignState state = DesignState::Proposed;      ///< with the proposal, before it, or what it changes; not of a year
  std::optional<double> storey;                   ///< m, of rooms looked into; the lowest where absent
  bool values = false;                            ///< figures at the sensors
  double foot = 0;                                ///< px kept free below rooms looked into: for the legend
  double margin = 0.12;                           ///< around rooms looked into, share of the picture
  std::optional<Facing> side;                     ///< of a facade: the one that faces so; the sunny one where absent
  std::optional<Role> onlyRole;                   ///< this role alone
  std::string onlyGlazing;                        ///< panes of this glazing alone
  std::optional<SectionLine> section;             ///< a cut along this line instead of a view
  bool whitePaper = true;
  int samples = 3;                             ///< squared: rays a pixel at edges
  std::shared_ptr<const PictureScenes> scenes; ///< of an earlier picture that differs in moment and camera alone
};
std::optional<ViewKind> viewFromKey(std::string_view key);

/// A view made ready: painted as often as wanted, into pixels or onto paper.
class FurnishedPicture {
public:
  static Expected<FurnishedPicture> prepare(const Project& project, const PictureRequest& request, int width,
                                            int height, RunControl& control, ResultStore* store, const Theme& theme);
  /// With legend, north and scale; k the size of the furniture.
  void paint(QPainter& painter, QRectF area, const Theme& theme, double k) const;
  /// The whole picture as it is exported, with its head.
  void paintTitled(QPainter& painter, QRectF area, const Theme& theme) const;
  /// What it paints on surfaces; null for nothing.
  std::shared_ptr<const SensorField> painted() const;
  std::shared_ptr<const PictureScenes> scenes() const;
  void paintBare(QPainter& painter, QRectF area) const; ///< the model alone, without legend and head
  const std::string& title() const;
  const std::string& line() const;
  double aspect() const; ///< height over width

private:
  friend QByteArray pngBytes(const FurnishedPicture&, int, int, const Theme&);
  friend QByteArray svgBytes(const FurnishedPicture&, int, int, const Theme&);
  std::shared_ptr<const struct Prepared> prepared_;
  std::shared_ptr<const Project> project_;
};
/// Text needs an application and the fonts that ship; programs without a window get one while this lives.
class PaintingWithoutWindow {
public:
  PaintingWithoutWindow();
  ~PaintingWithoutWindow();

private:
  std::unique_ptr<QGuiApplication> gui_;
};
/// px of a picture below its head.
int titledHeight(const PictureRequest& request);
/// White paper for what leaves the program.
Theme paperTheme(bool white = true);
/// One picture with its head, as PNG and as SVG bytes.
QByteArray pngBytes(const FurnishedPicture& picture, int width, int height, const Theme& theme);
QByteArray svgBytes(const FurnishedPicture& picture, int width, int height, const Theme& theme);

/// By the file's ending: .png, .svg or .pdf.
Outcome exportPicture(const Project& project, const PictureRequest& request, const std::filesystem::path& file,
                      RunControl& control, ResultStore* store = nullptr, const YardstickShelf* shelf = nullptr);

/// "21 Mar 11:30 (UTC+01:00)"
std::string momentText(const Project& project, Instant t);
std::string placeText(const Place& place); ///< "55.60° N, 12.50° E"
/// The camera that fits a project for a view.
Camera fittedCamera(const Project& project, ViewKind view, double width, double height,
                    const std::optional<Vec3>& sun = {});
/// Boxes of everything shown: elements and ground areas; a stand-in where there is nothing yet.
std::vector<Box3> sceneBoxes(const Project& project);
/// What a first view frames: all of it; in a model far larger than what is proposed, that with what stands around it.
std::vector<Box3> framedBoxes(const Project& project);
Box3 sceneBox(const Project& project);
/// Unit vector to the sun in the drawing's axes.
Vec3 sunDirection(const Project& project, Instant t);

} // namespace noonward
