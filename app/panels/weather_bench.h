#pragma once
// The weather bench: a year from the columns of a station or logger, or one by its address. What was found in the files
// is shown and can be changed; what was invented is shown hour by hour. A file that grows is read again.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/panels/origin_picture.h"
#include "app/panels/panels.h"
#include "app/state/writer.h"
#include "core/files/station/station_weather.h"
#include <QFileSystemWatcher>
#include <QTimer>
#endif

class QTableWidget;

namespace noonward {

struct FetchedWeather;
class ColumnChart;

class WeatherBench : public Panel {
  Q_OBJECT
public:
  WeatherBench(Document& document, QWidget* parent);
  void open();
  void addFile(const QString& path);
  void saveTo(const QString& path); ///< .epw or .csv
  std::shared_ptr<const StationWeather> made() const { return made_; }
  Writer& writer() { return writer_; }

signals:
  void fileWanted(const QString& kind); ///< "in", "out"
  void yearMade();                      ///< it is there, or why there is none

private:
  void look();                                          ///< reads the heads of the files in the background
  void take(std::vector<Expected<StationGuess>> found); ///< shows what was found in them
  void make();                                          ///< in the background
  void fetch();                                         ///< likewise
  void takeWeather(const Weather& weather, const QString& name);
  void fillColumns();
  void fillResult();
  void showPicture();
  void say(const QString& text, bool fault = false);
  std::optional<StationMap> map();
  Document& document_;
  Writer writer_;
  QTimer asking_;
  QFileSystemWatcher watch_;
  std::vector<std::filesystem::path> files_;
  std::vector<StationColumn> columns_; ///< as the table has them; kept where the user changed them
  std::optional<StationGuess> guess_;  ///< of the first file
  std::shared_ptr<const StationWeather> made_;
  std::shared_ptr<const FetchedWeather> fetched_;
  std::shared_ptr<RunControl> control_;
  bool busy_ = false, again_ = false, filling_ = false;
  QLabel *filesText_, *read_, *result_, *state_;
  QLineEdit *address_, *slip_, *straight_, *days_;
  QComboBox *clock_, *stamps_, *split_;
  QTableWidget* table_;
  QListWidget* findings_;
  OriginPicture* origin_;
  ColumnChart* chart_;
  QComboBox* shown_;
  QPushButton *mend_, *take_, *save_, *stop_;
};

} // namespace noonward
