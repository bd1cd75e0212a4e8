#pragma once
// Saved views, facade sheets and films.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "app/panels/panels.h"
#include "app/state/writer.h"
#include "picture/facade_sheet.h"
#include "picture/film.h"
#endif

namespace noonward {

class PicturesPanel : public Panel {
  Q_OBJECT
public:
  /// `picture`: what the stage shows now, as a picture would be asked for.
  PicturesPanel(Document& document, std::function<PictureRequest()> picture, QWidget* parent);
  void open();
  void saveView();
  /// The n-th saved view, from 0 on; nothing where there is none.
  void go(std::size_t n);
  /// "sheet" (.pdf, .png, .svg), "film" (.mp4, .webm); "sheet-pictures", "film-pictures" (a folder).
  void exportTo(const QString& kind, const QString& path);
  Writer& writer() { return writer_; }

signals:
  void viewWanted(const SavedView& view);
  void fileWanted(const QString& kind);

private:
  void fill();
  void drawSmall();
  std::optional<SheetRequest> sheet();
  std::optional<FilmRequest> film();
  bool fault(QLineEdit* field, const QString& expected);
  Document& document_;
  std::function<PictureRequest()> picture_;
  Writer writer_;
  QListWidget* views_;
  QComboBox *sides_, *beside_, *what_;
  QLineEdit *days_, *hours_, *step_, *perSecond_, *width_, *height_;
  QLabel *state_, *stepLabel_;
  QPushButton* stop_;
  std::map<std::string, QPixmap> small_; ///< by what they show
  bool filling_ = false, drawing_ = false;
};

} // namespace noonward
