#pragma once
#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/stage/stage.h"
#include "app/steps/sheet.h"
#include "picture/picture_export.h"
#endif

namespace noonward {

class RecordPlanRows;
class RemarkRows;

/// What leaves the program: picture, table, page.
class RecordSheet : public Sheet {
  Q_OBJECT
public:
  RecordSheet(Document& document, Studies& studies, Stage& stage, QWidget* parent = nullptr);
  ~RecordSheet() override;
  void refresh() override;
  /// Kinds: "png", "svg", "pdf", "csv", "verdict", "record" (a folder), "verify" (a record.json to check), "since" (a
  /// record.json that the next record is compared with). Done in the background; notice() tells.
  void exportTo(const QString& kind, const QString& path);

  /// What the stage shows now, as a picture.
  PictureRequest picture() const;
  /// Stops what is being written or checked; what is whole stays.
  void stop();

signals:
  void fileWanted(const QString& kind); ///< ask for a name, then exportTo()
  void picturesWanted();
  void exported(const QString& path, bool done);

private:
  Studies& studies_;
  Stage& stage_;
  QWidget *whole_, *picture_;
  QPushButton *toStudies_, *checkAlone_;
  QLineEdit *assessor_, *owner_, *width_, *height_;
  QLabel *ready_, *checked_, *since_;
  QPushButton* forget_;
  RecordPlanRows* plan_;
  RemarkRows* remarked_;
  std::filesystem::path earlier_; ///< record that the next one is compared with; empty: none
  QComboBox* page_;
  QPushButton* stop_;
  QBoxLayout *remarks_, *words_;
  QWidget *remarkRows_, *wordRows_;
  QString remarksKey_, wordsKey_;
  void showRemarks();
  void showWords();
  /// A name, and a line in which its remark is written.
  QLineEdit* remarkRow(QBoxLayout* into, const QString& name, const QString& text,
                       const std::function<void(const QString&)>& done);
  std::shared_ptr<RunControl> control_; ///< of what is being written; null where nothing is
  std::thread worker_;
};

} // namespace noonward
