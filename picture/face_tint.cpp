#include "picture/face_tint.h"

namespace noonward {

FaceTint withOwnColour(FaceTint tint, const std::string& own) {
  if (own.empty()) return tint;
  const QColor c(QString::fromStdString(own));
  return {mixed(tint.lit, c, 0.55), mixed(tint.shade, c, 0.55)};
}

FaceTint facingTint(const Theme& t, Facing facing) {
  const QColor c(facing == Facing::North   ? "#5B6C8F"
                 : facing == Facing::East  ? "#D9B65A"
                 : facing == Facing::South ? "#C9791B"
                                           : "#8C5A66");
  return {mixed(t.faceLit, c, 0.55), mixed(t.faceShade, c, 0.55)};
}

FaceTint faceTint(const Theme& t, Role role, bool proposed, bool counted) {
  if (!counted || role == Role::Ignore) return {t.leftOut, t.leftOut};
  FaceTint out{proposed ? t.proposedLit : t.faceLit, proposed ? t.proposedShade : t.faceShade};
  const auto toward = [&](const QColor& c, double share) {
    out = {mixed(out.lit, c, share), mixed(out.shade, c, share)};
  };
  switch (role) {
  case Role::Planting:
    toward(t.meets, 0.18);
    break;
  case Role::Glazing:
    toward(t.meets, 0.45);
    break;
  case Role::Shading:
    toward(t.noon, 0.14);
    break;
  case Role::Roof:
    toward(t.ink, 0.1);
    break;
  case Role::Partition:
    toward(t.paper, 0.4);
    break;
  case Role::Ground:
  case Role::Floor:
    out.lit = mixed(out.lit, t.stage, 0.6);
    break;
  case Role::Building:
  case Role::Neighbour:
  case Role::Wall:
  case Role::Ceiling:
  case Role::Ignore:
    break;
  }
  return out;
}

} // namespace noonward
