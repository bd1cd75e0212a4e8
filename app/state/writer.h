#pragma once
// Long writing behind the window, one thing at a time: told how far it is, stopped by a word.

#ifndef Q_MOC_RUN // moc 6.4 stumbles over the concepts of the standard library
#include "core/base/error.h"
#include "core/base/run_control.h"
#include <QObject>
#include <functional>
#include <memory>
#include <thread>
#endif

namespace noonward {

class Writer : public QObject {
  Q_OBJECT
public:
  using QObject::QObject;
  ~Writer() override; ///< stops what is being written
  bool busy() const { return control_ != nullptr; }
  /// False where something is being written. `done` is called in the window's thread.
  bool start(std::function<Outcome(RunControl&)> work, std::function<void(const Outcome&)> done);
  void stop();

signals:
  void progressed(double share); ///< 0…1
  void changed();                ///< begun or ended

private:
  std::shared_ptr<RunControl> control_;
  std::thread worker_;
};

} // namespace noonward
