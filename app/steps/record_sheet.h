#pragma once
#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/stage/stage.h"
#include "app/steps/sheet.h"
#endif

namespace noonward {

/// What leaves the program: picture, table, page.
class RecordSheet : public Sheet {
  Q_OBJECT
public:
  RecordSheet(Document& document, Studies& studies, Stage& stage, QWidget* parent = nullptr);
  ~RecordSheet() override;
  void refresh() override;
  /// Kinds: "png", "svg", "pdf", "csv", "verdict". The file is written in the background; notice() tells.
  void exportTo(const QString& kind, const QString& path);

signals:
  void fileWanted(const QString& kind); ///< ask for a name, then exportTo()
  void exported(const QString& path, bool done);

private:
  Studies& studies_;
  Stage& stage_;
  QLineEdit *assessor_, *owner_, *width_, *height_;
  QLabel* ready_;
  std::shared_ptr<RunControl> control_;
  std::thread worker_;
};

/// A step whose work has not been built yet says so, and what can be done meanwhile.
class ComingSheet : public Sheet {
  Q_OBJECT
public:
  ComingSheet(const QString& title, const QString& text, Document& document) : Sheet(title, document) {
    addNote(text);
    body()->addStretch();
  }
  void refresh() override {}
};

} // namespace noonward
