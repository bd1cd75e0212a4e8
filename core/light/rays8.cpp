#include "core/light/rays8.h"
#include <embree3/rtcore.h>
#include <limits>

namespace noonward {

void occlude8(RTCSceneTy* scene, Vec3 o, float from, Rays8& rays) {
  alignas(32) int open[8];
  for (int i = 0; i < 8; ++i) open[i] = rays.hidden[i] ? 0 : rays.active[i];
  RTCIntersectContext context;
  rtcInitIntersectContext(&context);
  context.flags = RTC_INTERSECT_CONTEXT_FLAG_COHERENT;
  RTCRay8 ray;
  for (int i = 0; i < 8; ++i) {
    ray.org_x[i] = float(o.x);
    ray.org_y[i] = float(o.y);
    ray.org_z[i] = float(o.z);
    ray.dir_x[i] = rays.x[i];
    ray.dir_y[i] = rays.y[i];
    ray.dir_z[i] = rays.z[i];
    ray.tnear[i] = from;
    ray.tfar[i] = std::numeric_limits<float>::infinity();
    ray.time[i] = 0;
    ray.mask[i] = ~0u;
    ray.id[i] = 0;
    ray.flags[i] = 0;
  }
  rtcOccluded8(open, scene, &context, &ray);
  for (int i = 0; i < 8; ++i)
    if (open[i] && ray.tfar[i] < 0) rays.hidden[i] = 1;
}

} // namespace noonward
