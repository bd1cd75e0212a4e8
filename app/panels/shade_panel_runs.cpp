// What the panel of shading asks behind the window: the least size that does, and the hours of a study.

#include "app/panels/shade_panel.h"
#include "app/theme/style.h"
#include "core/runs/wish_hours.h"
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <cmath>

namespace noonward {

void ShadePanel::size(ShadeSizing::What what) {
  const ShadeRule* s = rule();
  if (!s || sizing_) return;
  QString text = goal_->text();
  text.remove('%');
  const auto goal = numberFromText(text.trimmed().toStdString());
  goal_->setStyleSheet({});
  if (!goal || *goal <= 0 || *goal > 100 || (*goal < 1 && !goal_->text().contains('%'))) {
    goal_->setStyleSheet(QString("border: 1px solid %1;").arg(theme().short_.name()));
    sized_->setText("Expected here: a share over 0 and up to 100 %, such as 90 %.");
    return;
  }
  sizing_ = std::make_shared<RunControl>();
  sized_->setText("Sizing …");
  fill();
  ShadeSizing wish{.rule = rule_, .what = what, .goal = *goal / 100};
  document_.inBackground([this, project = document_.project(), wish, control = sizing_, opened = opened_,
                          revision = document_.revision(), name = s->name]() -> std::function<void(Document&)> {
    auto done = std::make_shared<const Expected<SizedShade>>(sizeShade(project, wish, {}, control.get()));
    return [this, done, wish, opened, revision, name](Document&) {
      if (opened != opened_) return;
      sizing_.reset();
      fill();
      if (!*done) return sized_->setText(QString::fromStdString(done->error().message));
      if (revision != document_.revision()) return sized_->setText("The model changed meanwhile: ask again.");
      const SizedShade& x = **done;
      const auto length = [&](double v) {
        return QString::fromStdString(lengthText(v, document_.project().units.length));
      };
      const auto percent = [](double v) { return QString("%1 %").arg(100 * v, 0, 'f', 1); };
      const QString what1 = wish.what == ShadeSizing::What::Depth ? "deep" : "apart";
      if (!x.reached)
        return sized_->setText(
            QString("%1 is out of reach up to %2: at %3 %4 it keeps out %5.")
                .arg(percent(wish.goal), length(wish.most), length(x.value), what1, percent(x.after.keepOut.taken())));
      const QString says =
          QString("%1 %2: keeps out %3 at %4, takes %5 of the wanted sun; sky left %6, view left %7.")
              .arg(length(x.value), what1, percent(x.after.keepOut.taken()), countText(x.windows, "window"),
                   percent(x.after.letIn.taken()), percent(x.after.sky), percent(x.after.view));
      Project next = document_.project();
      next.shadeRules = x.project.shadeRules;
      document_.change(std::move(next), "Size shade");
      sized_->setText(says);
    };
  });
}

void ShadePanel::takeHoursOf(const Study& study) {
  if (sizing_) return;
  sizing_ = std::make_shared<RunControl>();
  sized_->setText(QString("Taking the hours of %1 …").arg(QString::fromStdString(study.name)));
  fill();
  document_.inBackground([this, project = document_.project(), study, control = sizing_, opened = opened_,
                          revision = document_.revision(),
                          store = document_.store()]() -> std::function<void(Document&)> {
    StudyRunner runner(store.get());
    auto done = std::make_shared<const Expected<Project>>(withHoursOfStudy(project, study, runner, *control));
    return [this, done, opened, revision](Document&) {
      if (opened != opened_) return;
      sizing_.reset();
      const bool moved = revision != document_.revision();
      sized_->setText(!*done  ? QString::fromStdString(done->error().text())
                      : moved ? QString("The model changed meanwhile: ask again.")
                              : QString());
      if (*done && !moved)
        editWishes("Hours of a study", [&](SunWishes& w) {
          w.keepOutHours = (*done)->sunWishes.keepOutHours;
          w.keepOutHoursOf = (*done)->sunWishes.keepOutHoursOf;
        });
      else
        fill();
    };
  });
}

} // namespace noonward
