#include "picture/film.h"
#include "core/base/parallel.h"
#include "core/files/save_file.h"
#include "picture/saved_view.h"
#include <QBuffer>
#include <QPainter>
#include <QProcess>
#include <QStandardPaths>
#include <cmath>
#include <fmt/format.h>

namespace noonward {

std::vector<FilmFrame> dayFrames(const Zone& zone, Date date, double from, double to, double step) {
  std::vector<FilmFrame> out;
  if (!(step > 0) || !(to >= from)) return out;
  for (double m = from; m <= to + 1e-9 && out.size() < 20000; m += step)
    out.push_back({zone.instant({date, std::min(m, 1439.999) * 60}), {}});
  return out;
}

std::vector<FilmFrame> yearFrames(const Zone& zone, int year, double minute, int every) {
  std::vector<FilmFrame> out;
  for (Date d{year, 1, 1}; every > 0 && d.year == year; d = plusDays(d, every))
    out.push_back({zone.instant({d, minute * 60}), {}});
  return out;
}

Expected<std::vector<FilmFrame>> viewFrames(const Project& p, const std::vector<std::string>& names, int each,
                                            Instant moment) {
  std::vector<std::pair<Camera, std::optional<Instant>>> stops;
  const auto take = [&](const SavedView& v) -> Outcome {
    const auto camera = cameraFromJson(v.camera);
    if (!camera) return fail(fmt::format("The saved view \"{}\": {}", v.name, camera.error().text()));
    stops.emplace_back(*camera, momentOf(v, p.zone()));
    return {};
  };
  if (names.empty())
    for (const SavedView& v : p.views)
      if (Outcome o = take(v); !o) return tl::unexpected(o.error());
  for (const std::string& name : names) {
    const auto v = std::find_if(p.views.begin(), p.views.end(),
                                [&](const SavedView& x) { return x.name == name || x.id.text() == name; });
    if (v == p.views.end()) return fail(fmt::format("The project has no saved view \"{}\".", name));
    if (Outcome o = take(*v); !o) return tl::unexpected(o.error());
  }
  if (stops.size() < 2) return fail("A way needs two saved views or more.");
  std::vector<FilmFrame> out;
  each = std::clamp(each, 1, 5000);
  for (std::size_t k = 0; k + 1 < stops.size(); ++k)
    for (int i = 0; i < each + (k + 2 == stops.size()); ++i) {
      const double t = double(i) / each;
      const Instant a = stops[k].second.value_or(moment), b = stops[k + 1].second.value_or(moment);
      out.push_back({a + (b - a) * t, between(stops[k].first, stops[k + 1].first, t)});
    }
  return out;
}

namespace {

QImage frameImage(const FurnishedPicture& picture, const FilmRequest& r, const Theme& theme) {
  QImage image(r.picture.width, r.picture.height, QImage::Format_RGB888);
  image.fill(theme.paper);
  QPainter p(&image);
  picture.paintTitled(p, QRectF(0, 0, image.width(), image.height()), theme);
  p.end();
  return image;
}

/// Where frames go: into a program's mouth, or into files.
class Reel {
public:
  virtual ~Reel() = default;
  virtual Outcome frame(const QImage& image) = 0;
  virtual Outcome finish() = 0;
};

class PngSeries : public Reel {
public:
  explicit PngSeries(std::filesystem::path folder) : folder_(std::move(folder)) {}
  Outcome frame(const QImage& image) override {
    QByteArray bytes;
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    if (!image.save(&buffer, "PNG", 75)) return fail("A frame could not be encoded."); // fast, a little larger
    std::error_code failed;
    std::filesystem::create_directories(folder_, failed);
    return saveFile(folder_ / fmt::format("frame-{:04}.png", ++count_),
                    std::string_view(bytes.constData(), std::size_t(bytes.size())));
  }
  Outcome finish() override { return {}; }

private:
  std::filesystem::path folder_;
  int count_ = 0;
};

class Encoder : public Reel {
public:
  Encoder(const FilmRequest& r, std::filesystem::path file) : file_(std::move(file)) {
    part_ = file_;
    part_.replace_filename(file_.stem().string() + ".part" + file_.extension().string());
    QStringList args{"-y",
                     "-loglevel",
                     "error",
                     "-f",
                     "rawvideo",
                     "-pix_fmt",
                     "rgb24",
                     "-s",
                     QString("%1x%2").arg(r.picture.width).arg(r.picture.height),
                     "-r",
                     QString::number(r.perSecond),
                     "-i",
                     "-",
                     "-an",
                     "-pix_fmt",
                     "yuv420p"};
    if (file_.extension() == ".webm")
      args << "-c:v"
           << "libvpx-vp9"
           << "-deadline"
           << "realtime"
           << "-cpu-used"
           << "6"
           << "-crf"
           << "28"
           << "-b:v"
           << "0";
    else
      args << "-c:v"
           << "libx264"
           << "-preset"
           << "veryfast"
           << "-crf"
           << "18"
           << "-movflags"
           << "+faststart";
    args << QString::fromStdString(part_.string());
    program_.setProcessChannelMode(QProcess::MergedChannels);
    program_.start("ffmpeg", args);
  }
  ~Encoder() override {
    if (program_.state() != QProcess::NotRunning) {
      program_.kill();
      program_.waitForFinished(5000);
    }
    std::error_code ignored;
    std::filesystem::remove(part_, ignored);
  }
  Outcome frame(const QImage& image) override {
    if (!program_.waitForStarted(10000)) return fail("ffmpeg does not start.", file_.string());
    for (int y = 0; y < image.height(); ++y) // lines of the image are padded
      program_.write(reinterpret_cast<const char*>(image.constScanLine(y)), qint64(image.width()) * 3);
    while (program_.bytesToWrite() > 0)
      if (!program_.waitForBytesWritten(60000)) return broken();
    return {};
  }
  Outcome finish() override {
    program_.closeWriteChannel();
    if (!program_.waitForFinished(120000) || program_.exitStatus() != QProcess::NormalExit || program_.exitCode() != 0)
      return broken();
    std::error_code failed;
    std::filesystem::rename(part_, file_, failed);
    if (failed) return fail("The film can't be put in its place: " + failed.message() + ".", file_.string());
    return {};
  }

private:
  Outcome broken() {
    program_.waitForReadyRead(200);
    const QString said = QString::fromUtf8(program_.readAll()).trimmed().left(300);
    return fail("ffmpeg could not make the film" + (said.isEmpty() ? std::string(".") : ": " + said.toStdString()),
                file_.string());
  }
  std::filesystem::path file_, part_;
  QProcess program_;
};

} // namespace

Outcome writeFilm(const Project& project, const FilmRequest& r, const std::filesystem::path& file, RunControl& control,
                  ResultStore* store) {
  if (r.frames.empty()) return fail("A film needs a frame at least: look at its times and steps.");
  if (r.frames.size() > 20000) return fail("A film has at most 20 000 frames.");
  if (r.picture.width < 64 || r.picture.height < 64 || r.picture.width > 7680 || r.picture.height > 4320)
    return fail("A film's frames are 64 to 7680 pixels wide and 64 to 4320 high.");
  if (!(r.perSecond >= 1) || r.perSecond > 60) return fail("A film runs at 1 to 60 frames a second.");
  const bool film = file.extension() == ".mp4" || file.extension() == ".webm";
  if (!film && !file.extension().empty() && file.extension() != ".pictures")
    return fail("A film is written as .mp4 or .webm, or into a folder as PNG.", file.string());
  if (film && (r.picture.width % 2 || r.picture.height % 2))
    return fail("Width and height of a film are even numbers.");
  if (film && QStandardPaths::findExecutable("ffmpeg").isEmpty())
    return fail(
        "The program ffmpeg, which makes films, is not installed: install it (\"apt install ffmpeg\"), or write "
        "the pictures into a folder and make the film elsewhere.",
        file.string());
  const PaintingWithoutWindow application;
  const Theme theme = paperTheme(r.picture.whitePaper);
  std::unique_ptr<Reel> reel;
  if (film)
    reel = std::make_unique<Encoder>(r, file);
  else
    reel = std::make_unique<PngSeries>(file);
  PictureRequest like = r.picture;
  like.samples = std::min(like.samples, 2);
  constexpr std::size_t together = 4; // so many frames are traced at once; they are painted and written in order
  for (std::size_t first = 0; first < r.frames.size();) {
    const std::size_t count = like.scenes ? std::min(together, r.frames.size() - first) : 1;
    std::vector<std::optional<Expected<FurnishedPicture>>> pictures(count);
    forChunks(count, 1, {}, [&](std::size_t a, std::size_t) {
      PictureRequest frame = like;
      frame.moment = r.frames[first + a].moment;
      if (r.frames[first + a].camera) frame.camera = r.frames[first + a].camera;
      RunControl quiet;
      quiet.wish = control.wish.load();
      pictures[a] = FurnishedPicture::prepare(project, frame, frame.width, titledHeight(frame), quiet, store, theme);
    });
    if (!control.goesOn()) return fail("The film was stopped.");
    for (std::size_t k = 0; k < count; ++k) {
      const Expected<FurnishedPicture>& picture = *pictures[k];
      if (!picture) return tl::unexpected(picture.error());
      if (!like.known) like.known = picture->painted();
      if (!like.scenes) like.scenes = picture->scenes();
      if (Outcome o = reel->frame(frameImage(*picture, r, theme)); !o) return o;
      if (control.progress) control.progress(double(first + k + 1) / double(r.frames.size()));
    }
    first += count;
  }
  return reel->finish();
}

} // namespace noonward
