#include "app/state/writer.h"
#include <QMetaObject>

namespace noonward {

Writer::~Writer() {
  stop();
  if (worker_.joinable()) worker_.join();
}

bool Writer::start(std::function<Outcome(RunControl&)> work, std::function<void(const Outcome&)> done) {
  if (busy()) return false;
  if (worker_.joinable()) worker_.join(); // it has said that it is done
  control_ = std::make_shared<RunControl>();
  control_->progress = [this](double share) {
    QMetaObject::invokeMethod(
        this, [this, share] { emit progressed(share); }, Qt::QueuedConnection);
  };
  emit changed();
  worker_ = std::thread([this, work = std::move(work), done = std::move(done), control = control_] {
    Outcome outcome;
    try { // an exception never leaves a thread
      outcome = work(*control);
    } catch (const std::exception& e) {
      outcome = fail(std::string("Something broke inside the program: ") + e.what());
    }
    QMetaObject::invokeMethod(
        this,
        [this, outcome, done] {
          control_.reset();
          emit changed();
          done(outcome);
        },
        Qt::QueuedConnection);
  });
  return true;
}

void Writer::stop() {
  if (control_) control_->wish = Wish::Drop;
}

} // namespace noonward
