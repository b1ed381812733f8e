// Shoots the rays of a file at the triangles of a file with Embree, single rays, one thread, and prints the
// build time in seconds and for each set of rays how many million it does a second, the fastest of several
// rounds. The file, little endian: counts of vertices and triangles as uint32, float32 positions, uint32
// indices, then three sets (camera, bounce, shadow), each a uint32 count and 6 float32 a ray. It prints the
// number of hits of each set too, and the sum of their distances, so that both sides can be compared.
#include <embree3/rtcore.h>
#include <chrono>
#include <cmath>
#include <cstdint>
#include <cstdio>
#include <cstring>
#include <limits>
#include <vector>

using Clock = std::chrono::steady_clock;
static double since(Clock::time_point t) { return std::chrono::duration<double>(Clock::now() - t).count(); }

int main(int, char** argv) {
  FILE* f = fopen(argv[1], "rb");
  uint32_t n[2];
  if (!f || fread(n, 4, 2, f) != 2) return 1;
  std::vector<float> pos(3 * n[0]);
  std::vector<uint32_t> idx(3 * n[1]);
  if (fread(pos.data(), 4, pos.size(), f) != pos.size() || fread(idx.data(), 4, idx.size(), f) != idx.size()) return 1;
  double best = 1e9;
  RTCDevice device = rtcNewDevice("threads=0");
  RTCScene scene = nullptr;
  for (int round = 0; round < 3; round++) {
    if (scene) rtcReleaseScene(scene);
    auto t = Clock::now();
    scene = rtcNewScene(device);
    rtcSetSceneFlags(scene, RTC_SCENE_FLAG_ROBUST);
    RTCGeometry g = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_TRIANGLE);
    float* v = (float*)rtcSetNewGeometryBuffer(g, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 12, n[0]);
    memcpy(v, pos.data(), 4 * pos.size());
    uint32_t* i = (uint32_t*)rtcSetNewGeometryBuffer(g, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 12, n[1]);
    memcpy(i, idx.data(), 4 * idx.size());
    rtcCommitGeometry(g);
    rtcAttachGeometry(scene, g);
    rtcReleaseGeometry(g);
    rtcCommitScene(scene);
    best = std::fmin(best, since(t));
  }
  printf("build %.6f\n", best);
  const char* names[3] = {"camera", "bounce", "shadow"};
  for (int set = 0; set < 3; set++) {
    uint32_t count;
    if (fread(&count, 4, 1, f) != 1) return 1;
    std::vector<float> rays(6 * count);
    if (fread(rays.data(), 4, rays.size(), f) != rays.size()) return 1;
    double fastest = 1e9, sum = 0;
    long hits = 0;
    for (int round = 0; round < 5; round++) {
      hits = 0, sum = 0;
      auto t = Clock::now();
      for (uint32_t k = 0; k < count; k++) {
        const float* r = &rays[6 * k];
        RTCIntersectContext c;
        rtcInitIntersectContext(&c);
        if (set == 2) {
          RTCRay ray{};
          ray.org_x = r[0], ray.org_y = r[1], ray.org_z = r[2];
          ray.dir_x = r[3], ray.dir_y = r[4], ray.dir_z = r[5];
          ray.tfar = std::numeric_limits<float>::infinity();
          ray.mask = ~0u;
          rtcOccluded1(scene, &c, &ray);
          hits += ray.tfar < 0;
          continue;
        }
        RTCRayHit h{};
        h.ray.org_x = r[0], h.ray.org_y = r[1], h.ray.org_z = r[2];
        h.ray.dir_x = r[3], h.ray.dir_y = r[4], h.ray.dir_z = r[5];
        h.ray.tfar = std::numeric_limits<float>::infinity();
        h.ray.mask = ~0u;
        h.hit.geomID = RTC_INVALID_GEOMETRY_ID;
        rtcIntersect1(scene, &c, &h);
        if (h.hit.geomID != RTC_INVALID_GEOMETRY_ID) hits++, sum += h.ray.tfar;
      }
      fastest = std::fmin(fastest, since(t));
    }
    printf("%s %.6f %ld %.6f\n", names[set], count / fastest / 1e6, hits, sum);
  }
  return 0;
}
