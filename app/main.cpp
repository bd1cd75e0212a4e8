#include "app/shell/measure.h"
#include "app/theme/style.h"
#include <QApplication>
#include <QCommandLineParser>
#include <QScreen>
#include <QSettings>
#include <QTimer>
#include <chrono>
#include <cstdio>

namespace {
/// The border of every event handler: what is thrown there becomes a finding, and the window goes on.
class Application : public QApplication {
public:
  using QApplication::QApplication;
  noonward::Document* document = nullptr;
  bool notify(QObject* receiver, QEvent* event) override {
    try {
      return QApplication::notify(receiver, event);
    } catch (const std::exception& e) {
      const QString what(e.what());
      if (document)
        QTimer::singleShot(0, document, [d = document, what] { d->tellBroken(what); });
      else
        std::fprintf(stderr, "noonward: %s\n", e.what());
      return false;
    }
  }
};
} // namespace

namespace {
/// Where it was left; at first a large part of a large screen, all of a small one.
void takeItsPlace(noonward::MainWindow& window) {
  if (window.restoreGeometry(QSettings().value("layout/window").toByteArray())) return;
  const QRect room = window.screen()->availableGeometry();
  if (room.width() < 1500 || room.height() < 900) return;
  window.resize(std::min(room.width() * 17 / 20, 2200), std::min(room.height() * 17 / 20, 1350));
  window.move(room.center() - window.rect().center());
}
} // namespace

int main(int argc, char** argv) {
  using namespace noonward;
  const auto start = std::chrono::steady_clock::now();
  QCoreApplication::setOrganizationName("noonward");
  QCoreApplication::setApplicationName("noonward");
  QCoreApplication::setApplicationVersion(NOONWARD_VERSION);
  Application app(argc, argv);
  QLocale::setDefault(QLocale::c());
  QCommandLineParser parser;
  parser.setApplicationDescription("Noonward: how sun and daylight reach a place");
  parser.addHelpOption();
  parser.addVersionOption();
  parser.addPositionalArgument("project", "project file to open");
  parser.addPositionalArgument("model", "model to bring into it", "[model]");
  const QCommandLineOption demo("demo", "open the demo"), dark("dark", "dark theme"), light("light", "light theme"),
      step("step", "begin at this step", "name"),
      measure("measure", "print measurements: demo, or a model file", "what");
  parser.addOptions({demo, dark, light, step, measure});
  parser.process(app);
  std::error_code ignored;
  const auto resources = resourcesFolder(std::filesystem::read_symlink("/proc/self/exe", ignored));
  if (resources.empty()) {
    std::fputs("noonward: the resources folder was not found beside the program; set NOONWARD_RESOURCES\n", stderr);
    return 1;
  }
  if (!loadFonts(QString::fromStdString(resources.string())))
    std::fputs("noonward: some fonts are missing from resources/fonts\n", stderr);
  const bool isDark = parser.isSet(dark) || (!parser.isSet(light) && QSettings().value("dark").toBool());
  applyTheme(app, isDark ? Theme::darkTheme() : Theme::light(), QString::fromStdString(resources.string()));
  MainWindow window(resources);
  app.document = &window.document();
  if (!parser.isSet(measure)) takeItsPlace(window);
  window.show();
  const QStringList files = parser.positionalArguments();
  if (parser.isSet(demo))
    window.openDemo("ropewalk-quay.noonward");
  else if (!files.isEmpty())
    window.openProject(files.first().toStdString());
  else if (Document::hasRecovery(unsavedPath()))
    window.openProject(unsavedPath());
  if (files.size() > 1) {
    static const QStringList pictures{"png", "jpg", "jpeg", "tif", "tiff", "webp", "bmp", "gif"};
    pictures.contains(files[1].section('.', -1).toLower()) ? window.layPicture(files[1]) : window.loadModel(files[1]);
  }
  for (Step s : allSteps)
    if (parser.value(step) == stepName(s)) window.document().look([&](Looking& l) { l.step = s; });
  if (parser.isSet(measure))
    QTimer::singleShot(0, &window, [&] {
      while (window.stage().lastFrameSeconds() == 0) QApplication::processEvents(QEventLoop::WaitForMoreEvents);
      measureWindow(window, parser.value(measure),
                    std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count());
    });
  const int done = app.exec();
  if (!parser.isSet(measure)) QSettings().setValue("layout/window", window.saveGeometry());
  app.document = nullptr;
  return done;
}
