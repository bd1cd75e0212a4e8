// The project's file in the window: opened, taken up again, saved, left.

#include "app/shell/main_window.h"
#include "core/base/hash.h"
#include <QCloseEvent>
#include <QDir>
#include <QFileInfo>
#include <QMessageBox>
#include <QPushButton>
#include <QSettings>
#include <fstream>

namespace noonward {

bool MainWindow::openProject(const std::filesystem::path& path) {
  if (Document::hasRecovery(path)) {
    offerRecovery(path);
    return true;
  }
  if (const Outcome o = document_.open(path); !o) {
    say("The project was not opened. " + QString::fromStdString(o.error().text()), true);
    return false;
  }
  first_->hide();
  remember(path);
  return true;
}

void MainWindow::offerRecovery(const std::filesystem::path& path) {
  // Not a question with a wrong answer: the work that was not saved is taken up, and the saved state is one step away.
  const auto saved = document_.open(path);
  if (const Outcome o = document_.recover(path); o) {
    first_->hide();
    remember(path);
    say("Work that was not saved before the program ended has been taken up. Save to keep it; opening the file again "
        "after saving elsewhere brings the old state.",
        false);
  } else {
    say("The autosave could not be read; the saved project is shown. " + QString::fromStdString(o.error().text()),
        true);
    if (saved) first_->hide();
  }
}

void MainWindow::openDemo(const char* file) {
  // A copy in the user's own folder, so that the shipped one stays as it is.
  const std::filesystem::path shipped = document_.resources().parent_path() / "demo";
  std::error_code e;
  std::ifstream project(shipped / file, std::ios::binary);
  const std::string text{std::istreambuf_iterator<char>(project), {}};
  // Named by content: a demo that ships anew is not hidden by an older copy.
  const std::filesystem::path own =
      unsavedPath().parent_path() / ("demo-" + Hasher().add(text).digest().hex().substr(0, 8));
  std::filesystem::create_directories(own, e);
  for (const auto& entry : std::filesystem::directory_iterator(shipped, e))
    if (const auto kind = entry.path().extension();
        kind == ".noonward" || kind == ".epw" || kind == ".json" || kind == ".files")
      std::filesystem::copy(entry.path(), own / entry.path().filename(),
                            std::filesystem::copy_options::skip_existing | std::filesystem::copy_options::recursive, e);
  const std::filesystem::path path = std::filesystem::exists(own / file) ? own / file : shipped / file;
  if (openProject(path)) document_.look([](Looking& l) { l.step = Step::Studies; });
}

void MainWindow::saveProject(bool as) {
  const auto save = [this](const QString& f) {
    if (document_.path() == std::filesystem::path(f.toStdString()) && document_.savedElsewhere()) return offerBoth();
    if (const Outcome o = document_.save(f.toStdString()); !o)
      say(QString::fromStdString(o.error().text()), true);
    else {
      remember(document_.path());
      const QString picture =
          recentPicture(QString::fromStdString(std::filesystem::absolute(document_.path()).string()));
      QDir().mkpath(QFileInfo(picture).path());
      stage_->frame(false)
          .scaled(144, 90, Qt::KeepAspectRatioByExpanding, Qt::SmoothTransformation)
          .copy(0, 0, 144, 90)
          .save(picture);
      say("Saved.", false);
    }
  };
  if (as || document_.path().empty())
    pickFile("Save the project", "Noonward projects (*.noonward)", save, "noonward");
  else
    save(QString::fromStdString(document_.path().string()));
}

void MainWindow::remember(const std::filesystem::path& path) {
  QSettings settings;
  QStringList recent = settings.value("recent").toStringList();
  const QString f = QString::fromStdString(std::filesystem::absolute(path).string());
  recent.removeAll(f);
  recent.prepend(f);
  settings.setValue("recent", recent.mid(0, 10));
}

/// The file was saved by another program meanwhile: neither side's work goes without a word.
void MainWindow::offerBoth() {
  QMessageBox box(QMessageBox::NoIcon, "Noonward",
                  "Another program has saved this project since it was opened here. Both can be kept.",
                  QMessageBox::NoButton, this);
  box.setObjectName("Saved elsewhere");
  QPushButton* beside = box.addButton("Save mine under another name", QMessageBox::AcceptRole);
  QPushButton* theirs = box.addButton("Open theirs", QMessageBox::DestructiveRole);
  QPushButton* over = box.addButton("Replace theirs", QMessageBox::DestructiveRole);
  box.addButton(QMessageBox::Cancel);
  box.setDefaultButton(beside);
  box.exec();
  if (box.clickedButton() == beside) return saveProject(true);
  if (box.clickedButton() == theirs) {
    document_.discardRecovery();
    openProject(document_.path());
  }
  if (box.clickedButton() != over) return;
  const Outcome o = document_.save({}, true);
  say(o ? "Saved over the other program's." : QString::fromStdString(o.error().text()), !o);
}

bool MainWindow::mayLeave() {
  if (!document_.modified()) return true;
  QMessageBox box(QMessageBox::NoIcon, "Noonward",
                  "Save the changes to " + QString::fromStdString(document_.project().name) + "?",
                  QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, this);
  box.setObjectName("Save first");
  const int answer = box.exec();
  if (answer == QMessageBox::Cancel) return false;
  if (answer == QMessageBox::Save) {
    if (document_.path().empty()) {
      saveProject(true);
      return false;
    }
    if (document_.savedElsewhere()) {
      offerBoth();
      return false;
    }
    const Outcome o = document_.save();
    if (!o) say(QString::fromStdString(o.error().text()), true);
    return o.has_value();
  }
  document_.discardRecovery();
  return true;
}

void MainWindow::closeEvent(QCloseEvent* e) {
  e->setAccepted(mayLeave());
}

} // namespace noonward
